"""What to use on a hardness, as sure as that is: one line of advice, why, at which price.

Everything is taken from what the ranking and the priorities say: the chance is theirs, the
comparison is that of the two foremost, and what is hardly known is named. A sentence has 25 words
at most.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from loam.core.judging import ClassJudgement, TrialJudgement
from loam.core.readings import REMOVED, ReadingKind
from loam.core.text import listed
from loam.core.units import fixed, percent
from loam.core.verdicts import EQUAL, OPEN, SURE
from loam.core.words.verdict import MOST_CELLS, about, counted, scope_words, unit_of

CLOSE = 0.75
"""Below this chance a leader that another may still beat is too close to call."""
MOST_NAMES = 3
_MANY_NAME = 40


@dataclass(frozen=True)
class Chance:
    """How surely a combination is the best for what is wanted."""

    combination: str
    p: float


@dataclass(frozen=True)
class Wanted:
    """What is wanted, and who serves it on a hardness.

    Attributes
    ----------
    words : str
        "for daily work", or "for gloss 20°" where a single measurement decides.
    chances : tuple of Chance
        The best first.
    """

    words: str
    chances: tuple[Chance, ...]


@dataclass(frozen=True)
class Gap:
    """One measurement of the one that is advised against another.

    Attributes
    ----------
    measurand : str
    better : bool
        Whether the advised one is the better.
    verdict : str
        ``equal``, ``open``, or a lead.
    more : str
        What the higher one does: "shines 0.7 GU more".
    less : str
        The same of the lower one.
    advised_higher : bool
    rests : tuple of str
        What the lead rests on that the trial hardly knows.
    weight : float
        How many times what matters it is.
    """

    measurand: str
    better: bool
    verdict: str
    more: str
    less: str
    advised_higher: bool
    rests: tuple[str, ...]
    weight: float

    def of_advised(self) -> str:
        """Say it of the advised one."""
        return self.more if self.advised_higher else self.less

    def of_other(self) -> str:
        """Say it of the other."""
        return self.less if self.advised_higher else self.more


@dataclass(frozen=True)
class Advice:
    """The advice for one hardness.

    Attributes
    ----------
    use : str
        The combination that is advised; it is the first of ``among``.
    among : tuple of str
        Those that are too close to call, or the one.
    headline : str
        "Use D, medium cut and polish.", or who cannot be told apart.
    surely : str
        "96 % sure for daily work."
    because, price, change : str
        Why; what it takes; what would change it. Each may be "".
    paid : str
        The price where there is little room: "1.8 µm, 2 min a cell".
    wanted : str
        What it is for: "for daily work".
    """

    hardness: str
    use: str
    among: tuple[str, ...]
    headline: str
    surely: str
    because: str
    price: str
    change: str
    paid: str = ""
    wanted: str = ""

    def said(self) -> str:
        """Return it as one line for paper and for those who listen."""
        parts = (self.headline, self.surely, self.because, self.price, self.change)
        return f"{self.hardness.capitalize()}: {' '.join(p for p in parts if p)}"


def gaps(
    judged: Mapping[str, TrialJudgement],
    kinds: Mapping[str, ReadingKind],
    hardness: str,
    advised: str,
    other: str,
) -> list[Gap]:
    """Compare two combinations in all that was judged, what weighs most first."""
    found = []
    for measurand, judgement in judged.items():
        own = judgement.on(hardness)
        if own is None or not {advised, other} <= set(own.columns):
            continue
        found.append(_gap(judgement, own, kinds[measurand], advised, other))
    return sorted(found, key=lambda g: -g.weight)


def _gap(
    judgement: TrialJudgement, own: ClassJudgement, kind: ReadingKind, advised: str, other: str
) -> Gap:
    compared = own.compare(advised, other)
    a, b = (s.figures for n in (advised, other) if (s := own.standing(n)) is not None)
    half = max(0.5 * (f.own_high - f.own_low) for f in (a, b))
    span = abs(a.estimate - b.estimate)
    amount = f"{about(kind.span(span), kind.span(half), kind.decimals)} {unit_of(kind)}".rstrip()
    more, less = (said.format(amount) for said in kind.said_more)
    matters = max(judgement.matters.on_scale, 1e-9)
    return Gap(
        judgement.measurand,
        compared.estimate * own.sign > 0.0,
        compared.verdict,
        more,
        less,
        a.estimate > b.estimate,
        compared.rests,
        abs(compared.estimate) / matters,
    )


def advise(
    hardness: str,
    wanted: Wanted,
    judged: Mapping[str, TrialJudgement],
    kinds: Mapping[str, ReadingKind],
    names: Mapping[str, str],
    elsewhere: Sequence[Wanted] = (),
    minutes: float | None = None,
    unclean: Mapping[str, str] | None = None,
) -> Advice:
    """Advise on one hardness.

    Parameters
    ----------
    wanted : Wanted
        What is wanted, with every combination's chance; the best first.
    judged : mapping of str to TrialJudgement
        By measurand.
    kinds : mapping of str to ReadingKind
        In the units that are shown.
    names : mapping of str to str
        Names of combinations, where they have one.
    elsewhere : sequence of Wanted
        What else may be wanted: who is best for that is said where it is another.
    minutes : float, optional
        That a cell takes.
    unclean : mapping of str to str, optional
        Combinations that were read with filler on: how much, and after which wipe.
    """
    lead = wanted.chances[0]
    if len(wanted.chances) == 1:
        return Advice(
            hardness,
            lead.combination,
            (lead.combination,),
            f"Only {_called(lead.combination, names)} was tested.",
            "",
            "There is nothing to compare it with.",
            *_price(judged, kinds, hardness, lead.combination, minutes, ""),
            wanted=wanted.words,
        )
    close = [c for c in wanted.chances[1:] if c.p >= 1.0 - SURE]
    among: tuple[str, ...] = (lead.combination,)
    if close and lead.p < CLOSE:
        among += tuple(c.combination for c in close)
    compared = gaps(judged, kinds, hardness, lead.combination, wanted.chances[1].combination)
    filler = (unclean or {}).get(lead.combination, "")
    if filler:
        return Advice(
            hardness,
            lead.combination,
            (lead.combination,),
            f"Wipe {lead.combination} again before you choose.",
            f"It leads ({percent(lead.p)} {wanted.words}) with filler on it.",
            filler,
            *_price(
                judged,
                kinds,
                hardness,
                lead.combination,
                minutes,
                "Read again after a wipe that takes it off.",
            ),
            wanted=wanted.words,
        )
    return Advice(
        hardness,
        lead.combination,
        among,
        _headline(among, names),
        _surely(wanted, among),
        _because(lead.combination, wanted.chances[1].combination, compared),
        *_price(
            judged,
            kinds,
            hardness,
            lead.combination,
            minutes,
            _change(hardness, wanted, compared, judged, elsewhere),
        ),
        wanted=wanted.words,
    )


def _called(code: str, names: Mapping[str, str]) -> str:
    name = names.get(code, "")
    known = name and name.casefold() != code.casefold() and len(name) <= _MANY_NAME
    return f"{code}, {name}" if known else code


def _either(codes: Sequence[str]) -> str:
    shown = list(codes[:MOST_NAMES])
    if len(codes) > MOST_NAMES:
        return f"{', '.join(shown)} or {counted(len(codes) - MOST_NAMES)} more"
    return f"{', '.join(shown[:-1])} or {shown[-1]}"


def _headline(among: Sequence[str], names: Mapping[str, str]) -> str:
    if len(among) > 1:
        return f"{_either(among)}: too close to call."
    return f"Use {_called(among[0], names)}."


def _surely(wanted: Wanted, among: Sequence[str]) -> str:
    if len(among) == 1:
        return f"{_capital(percent(wanted.chances[0].p))} sure {wanted.words}."
    own = [f"{c.combination} {percent(c.p)}" for c in wanted.chances[: min(len(among), MOST_NAMES)]]
    return f"{listed(own)} {wanted.words}."


def _unsure(gap: Gap) -> str:
    return ", which is not sure," if gap.verdict == OPEN else ""


def _because(advised: str, other: str, compared: Sequence[Gap]) -> str:
    """Say why in one sentence, of the two foremost: what each does better, the weightiest first."""
    if not compared:
        return ""
    for_it = [g for g in compared if g.better and g.verdict != EQUAL]
    against = [g for g in compared if not g.better and g.verdict != EQUAL]
    if for_it and against and for_it[0].verdict == against[0].verdict == OPEN:
        both = f"{other} {against[0].of_other()} but {for_it[0].of_other()}"
        return f"{both}; neither is sure."
    if for_it and against:
        said = f"{other} {against[0].of_other()}{_unsure(against[0])}"
        return f"{said} but {for_it[0].of_other()}{_unsure(for_it[0])}".rstrip(",") + "."
    if for_it:
        said = f"It {for_it[0].of_advised()} than {other}{_unsure(for_it[0])}"
        if len(for_it) > 1:
            said += f" and {for_it[1].of_advised()}{_unsure(for_it[1])}"
        return said.rstrip(",") + "."
    if against:
        return f"{other} {against[0].of_other()}{_unsure(against[0])}".rstrip(",") + "."
    return f"{other} is as good in all that was read, for what matters."


def _price(
    judged: Mapping[str, TrialJudgement],
    kinds: Mapping[str, ReadingKind],
    hardness: str,
    code: str,
    minutes: float | None,
    change: str,
) -> tuple[str, str, str]:
    """Return what it takes in a sentence, ``change`` as it is, and the price in short."""
    said, paid = [], []
    own = judged[REMOVED.key].on(hardness) if REMOVED.key in judged else None
    standing = own.standing(code) if own is not None else None
    if own is not None and standing is not None:
        kind = kinds[REMOVED.key]
        much = f"{kind.write(standing.figures.estimate)} {kind.unit}"
        said.append(f"{much} of {own.coat}")
        paid.append(much)
    if minutes is not None:
        said.append(f"about {fixed(minutes, 0)} min a cell")
        paid.append(f"{fixed(minutes, 0)} min a cell")
    return f"Takes {listed(said)}." if said else "", change, ", ".join(paid)


def _change(
    hardness: str,
    wanted: Wanted,
    compared: Sequence[Gap],
    judged: Mapping[str, TrialJudgement],
    elsewhere: Sequence[Wanted],
) -> str:
    """Say what would change the advice, in one sentence; "" where nothing is known to."""
    lead = wanted.chances[0]
    rests = tuple(dict.fromkeys(t for g in compared for t in g.rests))
    if rests:
        return f"Seen {scope_words(rests)} only: others would tell."
    if lead.p < SURE:
        more = _cells(hardness, compared, judged, wanted)
        if more:
            return more
    other = next(
        (w for w in elsewhere if w.chances and w.chances[0].combination != lead.combination), None
    )
    if other is not None:
        first = other.chances[0]
        how = "rather " if first.p < SURE else ""
        return f"{_capital(other.words)} {how}{first.combination} ({percent(first.p)})."
    if elsewhere:
        return "Every other aim chooses it too."
    return ""


def _cells(
    hardness: str, compared: Sequence[Gap], judged: Mapping[str, TrialJudgement], wanted: Wanted
) -> str:
    """Say how many cells would settle what is open between the two foremost."""
    pair = {c.combination for c in wanted.chances[:2]}
    for gap in compared:
        own = judged[gap.measurand].on(hardness)
        if gap.verdict != OPEN or own is None or own.leader.combination not in pair:
            continue
        other = next(iter(pair - {own.leader.combination}))
        if own.open_pair != (own.leader.combination, other):
            continue
        count, label = own.cells_for(other), judged[gap.measurand].kind.short
        if count > MOST_CELLS:
            return f"It takes over {counted(MOST_CELLS)} more cells each to settle their {label}."
        each = "cell" if count == 1 else "cells"
        return f"About {counted(count)} more {each} each would settle their {label}."
    return ""


def _capital(text: str) -> str:
    return text[:1].upper() + text[1:]


def of_measurement(judgement: TrialJudgement, own: ClassJudgement, label: str) -> Wanted:
    """Return who is best for one measurement, as the ranking says it."""
    order = sorted(own.standings, key=lambda s: -s.p_best)
    lead = own.leader
    rest = [s for s in order if s.combination != lead.combination]
    found = tuple(Chance(s.combination, s.p_best) for s in (lead, *rest))
    return Wanted(f"for {label}", found)


def of_worth(words: str, names: Sequence[str], value: np.ndarray) -> Wanted:
    """Return who is best for an aim: shares of draws in which each is first.

    Parameters
    ----------
    value : (D, K)
        Draws of what each is worth.
    """
    best = value == value.max(axis=1, keepdims=True)
    p = (best / best.sum(axis=1, keepdims=True)).mean(axis=0)
    mean = value.mean(axis=0)
    order = sorted(range(len(names)), key=lambda k: (-p[k], -mean[k]))
    return Wanted(words, tuple(Chance(names[k], float(p[k])) for k in order))
