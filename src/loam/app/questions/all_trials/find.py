"""All trials as one, as drawn and in words."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from loam.app.questions.all_trials.judging import PoolJudged
from loam.app.questions.ranking.find import ranking_table
from loam.app.questions.ranking.picture import RankingPicture, Strip, draw_up
from loam.core.judging import ClassJudgement, TrialJudgement
from loam.core.pool import TOGETHER, Disagreement
from loam.core.readings.kind import ReadingKind
from loam.core.text import listed, some
from loam.core.trial import Combination
from loam.core.units import percent
from loam.core.verdicts import OPEN
from loam.core.words.verdict import counted, unit_of

LESS = 0.05
"""So much less likely to be best is said."""


@dataclass(frozen=True)
class PooledPicture:
    """All trials as one.

    Attributes
    ----------
    apart : tuple of str
        Where trials disagree, a sentence each.
    where : mapping of str to str
        In which trials a combination is, in words.
    letters : mapping of str to tuple of (str, str)
        The same as trial and letter.
    lead : str
        Who leads, and with whom it is too close to call.
    small : str
        What holds the trials together, what is not among them, and what is assumed.
    taken, others : tuple of str
        Trials that are pooled, and those that could be.
    """

    ranking: RankingPicture
    combinations: dict[str, Combination]
    lead: str
    apart: tuple[str, ...]
    where: dict[str, str]
    small: str
    letters: Mapping[str, tuple[tuple[str, str], ...]]
    taken: tuple[str, ...] = ()
    others: tuple[str, ...] = ()

    @property
    def origins(self) -> dict[str, str]:
        """Where a combination comes from, in few words: its trial, or in how many it stands."""
        return {
            code: letters[0][0] if len(letters) == 1 else f"in {counted(len(letters))} trials"
            for code, letters in self.letters.items()
        }

    @property
    def numbers(self) -> dict[str, str]:
        """The number that a trial's letters carry, where several trials share a letter."""
        return _numbers(self.letters)

    def table(self) -> list[list[str]]:
        """Return the ranking as a table, with the trials of each combination."""
        head, *rows = ranking_table(self.ranking)
        return [[*head, "trials"], *([*r, self.where.get(r[1], "")] for r in rows)]


def pooled_picture(
    found: PoolJudged, kind: ReadingKind, here: str = "", alone: TrialJudgement | None = None
) -> PooledPicture:
    """Turn a pool into what is drawn.

    Parameters
    ----------
    here : str
        The trial at hand, as the pool calls it; ``alone`` what is said of it by itself.
    """
    names = {c.code: c.name for c in found.combinations if c.name}
    ranking = draw_up(found.judgement, kind, names)
    pooled = found.pooled
    trials = f"{counted(pooled.trials)} trial{'s' if pooled.trials != 1 else ''}"
    if pooled.workshops > 1:
        trials += f" of {counted(pooled.workshops)} workshops"
    where = {
        code: some([f"{letter} in {trial}" for trial, letter in letters])
        for code, letters in pooled.letters.items()
    }
    common = [c for c, letters in pooled.letters.items() if len(letters) > 1]
    lead = f"{kind.label.capitalize()}, {trials} as one. "
    lead += " ".join(_leads(s) for s in ranking.strips)
    apart = tuple(_apart_words(d, kind, ratio=found.judgement.scale.ratio) for d in found.apart)
    if alone is not None:
        apart = (*_less_sure(found, kind, here, alone), *apart)
    return PooledPicture(
        ranking,
        {c.code: c for c in found.combinations},
        lead,
        apart,
        where,
        " ".join(
            (
                _links(common, pooled.trials),
                *_called(_numbers(pooled.letters)),
                *_left(found),
                *ranking.notes,
            )
        ),
        pooled.letters,
        found.taken,
        (*found.unrelated, *found.left),
    )


def _leads(strip: Strip) -> str:
    """Say who leads, and with whom it is too close to call."""
    rivals = [s.combination for s in strip.swatches if s.relation == OPEN]
    close = f", too close to call with {some(rivals, 3)}" if rivals else ""
    return f"{strip.hardness.capitalize()}: {strip.lead[0]}{close}."


def _less_sure(found: PoolJudged, kind: ReadingKind, here: str, alone: TrialJudgement) -> list[str]:
    """Say why more trials make a leader less sure than its own trial did."""
    said = []
    told: set[str] = set()
    for own in alone.classes:
        pooled = found.judgement.on(own.hardness)
        codes = {
            letter: code
            for code, letters in found.pooled.letters.items()
            for trial, letter in letters
            if trial == here
        }
        code = codes.get(own.leader.combination)
        standing = pooled.standing(code) if pooled is not None and code else None
        if pooled is None or standing is None or len(own.standings) < 2:
            continue
        before, now = own.leader.p_best, standing.p_best
        if now > before - LESS:
            continue
        letter = own.leader.combination
        called = f" (as {code})" if code != letter else ""
        whole = _why(found, kind, pooled, code or "", set(codes.values()), before)
        new = [w for w in whole if w not in told]  # a reason is given once
        told.update(new)
        why = ", and ".join(new)
        said.append(
            f"On {own.hardness} {own.leader.combination} is best with {percent(before)} in this"
            f" trial alone and with {percent(now)} here{called}."
            + (f" {why[:1].upper()}{why[1:]}." if why else "")
        )
    return said


def _why(
    found: PoolJudged,
    kind: ReadingKind,
    pooled: ClassJudgement,
    code: str,
    own: set[str],
    before: float,
) -> list[str]:
    """Say what makes a leader less sure: more rivals, trials that disagree, or how trials vary."""
    merit = pooled.sign * pooled.draws
    rivals = [c for c in pooled.columns if c in own]
    columns = [pooled.columns[c] for c in rivals]
    among = float((merit[:, columns].argmax(axis=1) == rivals.index(code)).mean())
    standing = pooled.standing(code)
    now = standing.p_best if standing is not None else among
    said = []
    if among - now >= min(LESS, 0.5 * (before - now)):
        others = sorted(
            (s for s in pooled.standings if s.combination not in own), key=lambda s: -s.p_best
        )
        verb = "is" if len(others) == 1 else "are"
        names = some([s.combination for s in others], 3)
        said.append(f"{names} of other trials {verb} compared with it too")
    if before - among >= min(LESS, 0.5 * (before - now)):
        said.append(_varies(found, kind, pooled, own))
    return said


def _varies(found: PoolJudged, kind: ReadingKind, pooled: ClassJudgement, own: set[str]) -> str:
    """Say how trials differ in what is compared here."""
    apart = [d for d in found.apart if d.hardness == pooled.hardness and d.combination in own]
    if apart:
        return f"{apart[0].combination} reads otherwise in {apart[0].where}"
    judged = found.judgement
    amount = ""
    if not judged.scale.ratio:
        amount = f" by {kind.write_span(judged.sd.get(TOGETHER, 0.0), 1)} {unit_of(kind)}"
    rests = "is assumed to" if TOGETHER in judged.assumed else "may"
    return f"a combination {rests} do otherwise{amount} from trial to trial, which one cannot show"


def _numbers(letters: Mapping[str, tuple[tuple[str, str], ...]]) -> dict[str, str]:
    """Return the number that a trial's letters carry, where several trials share a letter."""
    found = {}
    for code, places in letters.items():
        trial, letter = places[0]  # the first trial that has it numbers it
        if code != letter and code.startswith(letter):
            found[trial] = code[len(letter) :]
    return dict(sorted(found.items(), key=lambda item: int(item[1])))


def _called(numbers: Mapping[str, str]) -> list[str]:
    """Say what the numbers mean."""
    if not numbers:
        return []
    each = [f"{number} {trial}" for trial, number in numbers.items()]
    return [f"The number behind a letter is its trial's: {some(each, 6)}."]


def _links(common: Sequence[str], trials: int) -> str:
    """Say what holds the trials together."""
    if trials < 2:
        return "Only one trial reads it: this is its ranking."
    if not common:
        return (
            "No combination is in two trials: what is said across trials rests on how trials are"
            " assumed to vary."
        )
    verb, hold = ("is", "holds") if len(common) == 1 else ("are", "hold")
    return f"{some(common)} {verb} in several trials and {hold} them together."


def _left(found: PoolJudged) -> list[str]:
    said = []
    if found.pooled.left_out:
        said.append(f"Left out, on another scale: {listed(found.pooled.left_out)}.")
    if found.left:
        said.append(f"Taken out by hand: {some(found.left)}.")
    if found.unrelated:
        verb = "shares" if len(found.unrelated) == 1 else "share"
        said.append(
            f"Not taken, since it {verb} no combination: {found.unrelated[0]}."
            if len(found.unrelated) == 1
            else f"Not taken, since they {verb} no combination: {counted(len(found.unrelated))}"
            " trials."
        )
    if found.nothing:
        said.append(f"Nothing read yet in {some(found.nothing, 2)}.")
    return said


def _apart_words(d: Disagreement, kind: ReadingKind, *, ratio: bool) -> str:
    """Say where a combination does otherwise than elsewhere."""
    more = "higher" if d.by > 0 else "lower"
    amount = ""
    if not ratio:
        amount = f"{kind.write_span(abs(d.by), 0)} {unit_of(kind)} "
    return (
        f"On {d.hardness}, {d.combination} reads {amount}{more} in {d.where} than elsewhere, beside"
        " the same others."
    )
