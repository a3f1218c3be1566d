"""All trials as one, as drawn and in words."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from loam.app.presenters.judging import ranking_table
from loam.app.presenters.pool_judging import PoolJudged
from loam.app.presenters.ranking import RankingPicture, caption, draw_up
from loam.core.pool import Disagreement
from loam.core.readings.kind import ReadingKind
from loam.core.text import listed, some
from loam.core.trial import Combination
from loam.core.words.verdict import counted, unit_of

MOST_SHOWN = 14


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
    """

    ranking: RankingPicture
    combinations: dict[str, Combination]
    lead: str
    apart: tuple[str, ...]
    where: dict[str, str]
    small: str
    letters: Mapping[str, tuple[tuple[str, str], ...]]

    def table(self) -> list[list[str]]:
        """Return the ranking as a table, with the trials of each combination."""
        head, *rows = ranking_table(self.ranking)
        return [[*head, "trials"], *([*r, self.where.get(r[1], "")] for r in rows)]


def pooled_picture(found: PoolJudged, kind: ReadingKind) -> PooledPicture:
    """Turn a pool into what is drawn."""
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
    lead = f"{kind.label.capitalize()}, {trials} as one. {ranking.sentence}"
    apart = tuple(_apart_words(d, kind, ratio=found.judgement.scale.ratio) for d in found.apart)
    return PooledPicture(
        ranking, {c.code: c for c in found.combinations}, lead, apart, where,
        " ".join((_links(common, pooled.trials), *_called(ranking, where), *_left(found),
                  *ranking.notes, caption(ranking))),
        pooled.letters,
    )  # fmt: skip


def _called(ranking: RankingPicture, where: Mapping[str, str]) -> list[str]:
    """Say what the numbers mean, and which recipes lead."""
    leaders = dict.fromkeys(found.leader.combination for found in ranking.judgement.classes)
    numbered = [code for code in leaders if code[-1:].isdigit() and where.get(code)]
    if not numbered:
        return []
    each = "; ".join(f"{code} is {where[code]}" for code in numbered)
    return [f"Numbers part recipes that share a letter: {each}."]


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
    if found.unrelated:
        verb = "shares" if len(found.unrelated) == 1 else "share"
        said.append(
            f"Not taken, since it {verb} no combination: {some(found.unrelated)}."
            if len(found.unrelated) == 1
            else f"Not taken, since they {verb} no combination: {some(found.unrelated)}."
        )
    if found.nothing:
        said.append(f"Nothing read yet in {listed(found.nothing)}.")
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
