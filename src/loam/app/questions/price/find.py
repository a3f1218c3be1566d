"""What a result costs in clear or in minutes, as drawn and in words."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from loam.app.presenters.depth import Allowed, budgets
from loam.app.questions.question import Asked, Tell
from loam.core.advice import Advice
from loam.core.design.costs import SET_UP_S, running
from loam.core.errors import NotEnough, ValueRefused
from loam.core.judging import ClassJudgement, TrialJudgement
from loam.core.panel import Taping
from loam.core.price import Priced, price
from loam.core.readings import REMOVED, kind_of
from loam.core.readings.kind import ReadingKind
from loam.core.stats.reduce import FloatArray
from loam.core.text import some
from loam.core.trial import Combination, Stage
from loam.core.units import fixed, percent
from loam.core.verdicts import EQUAL, OPEN
from loam.core.words.verdict import about, listed, unit_of
from loam.store import panels as panel_store
from loam.store.database import reading_apart

CLEAR, MINUTES = "clear", "minutes"


@dataclass(frozen=True)
class PriceOf:
    """One hardness.

    Attributes
    ----------
    priced : tuple of Priced
        The gain on its scale, turned so that more is better; the cost in µm or minutes.
    budget : Allowed or None
        Of clear: the panel of this hardness of which least may go.
    assumed : bool
        What it has is neither on record nor read.
    sentence : str
        Everything; ``advice`` is the step up from what is advised, ``lasts`` how often that may be
        worked (else what gives most), with its caveat.
    used : str
        What is advised, of what is too close to call the cheapest; "" where that is not known.
        ``wanted`` is what for: "for daily work".
    """

    hardness: str
    ground: str
    priced: tuple[Priced, ...]
    budget: Allowed | None
    assumed: bool
    sentence: str
    advice: str = ""
    lasts: str = ""
    used: str = ""
    wanted: str = ""

    def of(self, name: str) -> Priced | None:
        """Return one by its name."""
        return next((p for p in self.priced if p.name == name), None)


@dataclass(frozen=True)
class PricePicture:
    """What one measurand costs.

    Attributes
    ----------
    of : str
        ``clear`` or ``minutes``.
    left_out : tuple of str
        Combinations whose cost is not known.
    """

    judgement: TrialJudgement
    of: str
    classes: tuple[PriceOf, ...]
    left_out: tuple[str, ...]

    @property
    def kind(self) -> ReadingKind:
        """What is gained."""
        return self.judgement.kind

    def measured(self, gain: float) -> float:
        """Turn a gain back into what is read."""
        sign = 1.0 if self.judgement.higher_is_better else -1.0
        return float(self.judgement.scale.back(np.array([sign * gain]))[0])

    def cost_words(self, cost: float) -> str:
        """Write a cost with its unit."""
        if self.of == MINUTES:
            return f"{fixed(cost, 1)} min"
        kind = kind_of(REMOVED.key)
        return f"{kind.write(cost)} {kind.unit}"

    @property
    def coat(self) -> str:
        """What is taken off: clear, or paint where a panel has no clear."""
        return self.judgement.coat

    def said(self) -> tuple[str, ...]:
        """Return what is said of each hardness, or what it takes to say it."""
        if not self.classes:
            return (_TAKES[self.of].format(self.kind.label, self.coat),)
        return tuple(f"{c.hardness.capitalize()}: {c.sentence}" for c in self.classes)

    def table(self) -> list[list[str]]:
        """Return it as a table, its heading first."""
        rows = [
            [
                "hardness",
                "combination",
                self.kind.label,
                f"{self.of} spent",
                "low",
                "high",
                "frontier",
                "beaten by",
            ]
        ]
        for own in self.classes:
            for p in own.priced:
                rows.append(
                    [
                        own.hardness,
                        p.name,
                        self.kind.write(self.measured(p.gain[0])),
                        *(self.cost_words(v) for v in p.cost),
                        "yes" if p.frontier else "",
                        f"{p.beaten_by} ({percent(p.beaten)})" if p.beaten_by else "",
                    ]
                )
        return rows


_TAKES = {
    CLEAR: "What {0} costs in {1} takes two combinations on one hardness, with film read"
    " before and after work.",
    MINUTES: "What {0} costs in minutes takes two combinations on one hardness whose stages say"
    " their machine, pad and passes (F3).",
}


def find_price(
    path: Path,
    trial_id: int,
    judged: TrialJudgement,
    removed: TrialJudgement | None,
    combinations: Sequence[Combination],
    of: str,
    advice: Mapping[str, Advice] | None = None,
) -> PricePicture:
    """Price what a measurand gives; made for a worker.

    Parameters
    ----------
    judged : TrialJudgement
        What is gained.
    removed : TrialJudgement or None
        Of clear removed; needed where ``of`` is clear.
    advice : mapping of str to Advice
        What is advised by hardness: where it is known, a step is counted from there.
    """
    advice = advice or {}
    with reading_apart(path) as db:
        allowed = _least(db, trial_id)
        tapings = {p.hardness: p.taping for p in reversed(panel_store.panels(db, trial_id))}
    stages = {c.code: c for c in combinations}
    classes, left_out = [], set()
    for found in judged.classes:
        names = [n for n in found.columns if n in stages]
        spent = removed.on(found.hardness) if removed is not None else None
        cost: FloatArray | None
        if of == CLEAR:
            names = [n for n in names if spent is not None and n in spent.columns]
            cost = values(removed, spent, names) if removed is not None and spent else None
        else:
            minutes = {n: minutes_of(stages[n].stages, tapings[found.hardness]) for n in names}
            left_out |= {n for n, m in minutes.items() if m is None}
            known = {n: m for n, m in minutes.items() if m is not None}
            names = list(known)
            cost = np.tile(np.array(list(known.values())), (found.draws.shape[0], 1))
        if len(names) < 2 or cost is None:
            continue
        gain = found.sign * values(judged, found, names)
        rows = min(gain.shape[0], cost.shape[0])
        rng = np.random.default_rng([len(names), 5])  # what is read varies independently
        priced = price(names, gain[:rows], cost[rng.permutation(cost.shape[0])[:rows]])
        own = allowed.get(found.hardness) if of == CLEAR else None
        assumed = own is not None and own.assumed
        told = advice.get(found.hardness)
        named = PriceOf(found.hardness, found.ground, tuple(priced), own, assumed, "")
        if told is not None:
            named = replace(named, used=_used(told, priced), wanted=told.wanted)
        classes.append(named)
    picture = PricePicture(judged, of, tuple(classes), tuple(sorted(left_out)))
    said = tuple(_said(picture, c) for c in picture.classes)
    return PricePicture(judged, of, said, picture.left_out)


def _said(picture: PricePicture, own: PriceOf) -> PriceOf:
    """Say it of a hardness; a sentence stands with what it is made of."""
    found = picture.judgement.on(own.hardness)
    assert found is not None
    sentence, advice = _sentence(picture, own, found), _advice(picture, own, found)
    return replace(own, sentence=sentence, advice=advice, lasts=_lasts(own))


def _open(found: ClassJudgement, a: str, b: str) -> bool:
    """Whether the ranking leaves two open, or calls them equal: then neither gives more."""
    return found.compare(a, b).verdict in (OPEN, EQUAL)


def values(judged: TrialJudgement, found: ClassJudgement, names: Sequence[str]) -> FloatArray:
    """Return draws of combinations on the scale (D, K), around their estimates."""
    columns = [found.columns[n] for n in names]
    middle = np.array(
        [
            float(judged.scale.to(np.array([s.figures.estimate]))[0])
            for n in names
            if (s := found.standing(n)) is not None
        ]
    )
    drawn = found.draws[:, columns]
    return np.asarray(middle + drawn - drawn.mean(axis=0), float)


def minutes_of(stages: Sequence[Stage], taping: Taping) -> float | None:
    """Return how long a cell takes: its passes and a minute's set-up a stage; None if unknown."""
    try:
        return (sum(running(stages, taping)) + SET_UP_S * len(stages)) / 60.0
    except ValueRefused:
        return None


def _least(db: sqlite3.Connection, trial_id: int) -> Mapping[str, Allowed]:
    """Return, by hardness, the panel of which least may go."""
    found: dict[str, Allowed] = {}
    for own in budgets(db, trial_id):
        if own.hardness not in found or own.may_go < found[own.hardness].may_go:
            found[own.hardness] = own
    return found


def _sentence(picture: PricePicture, own: PriceOf, found: ClassJudgement) -> str:
    """Say who is worth the price, what the last step costs, and who is beaten."""
    front = [p for p in own.priced if p.frontier]
    names = listed([p.name for p in front])
    if len(front) == 1:
        rivals = _rivals(own, front[0], found)
        gives = f"; whether it gives more than {rivals} is not settled" if rivals else ""
        most = "costs no more than any" if rivals else "gives most and costs no more than any"
        parts = [f"{names} {most}{gives}"]
    else:
        whole = len(front) == len(own.priced)
        parts = [
            f"whoever takes more gives more: {names}"
            if whole and len(front) > 2
            else f"nobody gives more for less than {names}"
        ]
        parts.append(_step(picture, front[-2], front[-1], found))
    beaten = [p for p in own.priced if p.beaten_by]
    if beaten:
        verb = "is" if len(beaten) == 1 else "are"
        by = listed(sorted({p.beaten_by for p in beaten}))
        sure = percent(min(p.beaten for p in beaten))
        parts.append(f"{listed([p.name for p in beaten])} {verb} beaten in both by {by} ({sure})")
    if own.budget is not None:
        parts.append(_left(own, front[-1]))
    return "; ".join(parts) + "."


def _used(advice: Advice, priced: Sequence[Priced]) -> str:
    """Return which of them is advised: of those that are too close to call, the cheapest."""
    return next((p.name for p in priced if p.name in advice.among), "")


def _advice(picture: PricePicture, own: PriceOf, found: ClassJudgement) -> str:
    """Say in one sentence whether the step up from what is advised is worth it, else the last."""
    front = [p for p in own.priced if p.frontier]
    used = own.of(own.used)
    if used is not None and not used.frontier:
        by = used.beaten_by
        who = f"{by} gives" if by else f"{_instead(front, used).name} may give"
        return f"{used.name} leads {own.wanted}; in this alone {who} more for less."
    rivals = _rivals(own, front[-1], found)
    if len(front) == 1:
        name = front[0].name
        if rivals:
            whether = f"whether it gives more than {rivals} is not settled"
            return f"{name} takes no more than any; {whether}."
        return f"Take {name}: it gives most and takes no more than any."
    at = front.index(used) if used in front else len(front) - 2
    cheap, dear = front[at : at + 2] if at + 1 < len(front) else front[-2:]
    if _open(found, dear.name, cheap.name):
        whether = _step(picture, cheap, dear, found)
        return (
            f"Stay with {cheap.name}: {whether}." if dear is not used else f"{_first_up(whether)}."
        )
    spent, amount = _spent(picture, cheap, dear), _gained(picture, cheap, dear)
    if dear is used:
        gives = f"gives {amount}" if rivals else f"gives most: {amount}"
        return f"{dear.name} {gives} than {cheap.name}, for {spent}."
    return f"Go from {cheap.name} to {dear.name} only where {amount} are worth {spent}."


def _rivals(own: PriceOf, most: Priced, found: ClassJudgement) -> str:
    """Name whom the one that gives most does not surely give more than; "" for nobody."""
    others = (p.name for p in own.priced if p is not most)
    return some([name for name in others if _open(found, most.name, name)], 3)


def _instead(front: Sequence[Priced], used: Priced) -> Priced:
    """Return who on the frontier gives as much for less, by the estimates."""
    return next(p for p in front if p.gain[0] >= used.gain[0] and p.cost[0] <= used.cost[0])


def _first_up(said: str) -> str:
    return said[:1].upper() + said[1:]


def _lasts(own: PriceOf) -> str:
    """Say how often what is advised may be worked, else what gives most, and where fewer times."""
    most = own.of(own.used) or [p for p in own.priced if p.frontier][-1]
    if own.budget is None or most.cost[0] <= 0.0:
        return ""
    times = int(own.budget.may_go / most.cost[0])
    if times >= 100:
        return ""
    of = f"an assumed {own.budget.coat}" if own.assumed else own.budget.name
    return (
        f"{most.name} lasts about {times} times on {of}, fewer at edges, seams and where it was"
        " polished."
    )


def _step(picture: PricePicture, cheap: Priced, dear: Priced, found: ClassJudgement) -> str:
    """Say what the last step of the frontier gives for what, where it surely gives something."""
    spent = _spent(picture, cheap, dear)
    if _open(found, dear.name, cheap.name):
        return f"whether {dear.name} gives more than {cheap.name} for its {spent} is not settled"
    return f"{dear.name} reads {_gained(picture, cheap, dear)} than {cheap.name} for {spent}"


def _spent(picture: PricePicture, cheap: Priced, dear: Priced) -> str:
    """Say what a step of the frontier costs."""
    spent = picture.cost_words(dear.cost[0] - cheap.cost[0])
    return spent + (f" of {picture.coat} more" if picture.of == CLEAR else " more")


def _gained(picture: PricePicture, cheap: Priced, dear: Priced) -> str:
    """Say what a step of the frontier gives: 2.0 points more."""
    kind = picture.kind
    a, b = picture.measured(cheap.gain[0]), picture.measured(dear.gain[0])
    low, high = (picture.measured(v) for v in dear.gain[1:])
    amount = about(kind.span(abs(b - a)), kind.span(0.5 * abs(high - low)), kind.decimals)
    return f"{amount} {unit_of(kind)} {'more' if b > a else 'less'}"


def _left(own: PriceOf, dear: Priced) -> str:
    """Say how often the dearest on the frontier may be worked."""
    assert own.budget is not None
    times = own.budget.may_go / max(dear.cost[0], 1e-9)
    where = f"{own.budget.name} has {own.budget.coat}"
    if own.assumed:
        where = f"an assumed {own.budget.coat} of {own.budget.thick:g} µm lasts"
    fewer = "fewer at edges, seams and where it was polished before"
    return f"{where} for {dear.name} about {int(times)} times, {fewer}" if times < 100 else ""


def sets_words(own: PriceOf, priced: Priced) -> str:
    """Say how many times a combination may be worked before the budget is spent."""
    if own.budget is None or priced.cost[0] <= 0.0:
        return ""
    low = int(own.budget.may_go / max(priced.cost[2], 1e-9))
    high = int(own.budget.may_go / max(priced.cost[0], 1e-9))
    many = f"{low}" if low == high else f"{low} to {high}"
    of = f"an assumed {own.budget.coat}" if own.assumed else own.budget.name
    return f"{many} times within what may go of {of}"


GAINS = ("defects", "gloss20", "gloss60", "haze")
"""What is gained where clear itself is at hand, the first that is judged."""


def _gain(asked: Asked) -> TrialJudgement | None:
    wanted = GAINS if asked.measurand == REMOVED.key else (asked.measurand,)
    return next((asked.judged[m] for m in wanted if m in asked.judged), None)


def gain_of(asked: Asked) -> TrialJudgement:
    """Return what is gained: the measurand at hand; for clear itself, defects, gloss or haze.

    Raises
    ------
    NotEnough
        When nothing but film is read.
    """
    found = _gain(asked)
    if found is None:
        raise NotEnough("Nothing but film is read here.", todo="Read gloss or defects too.")
    return found


def spent_of(asked: Asked) -> str:
    """Return what can be counted as spent: clear where film is judged, else minutes."""
    return CLEAR if REMOVED.key in asked.rankings else MINUTES


def head(asked: Asked) -> str:
    """Return what its part of the report is called."""
    spent = spent_of(asked)
    own = _gain(asked) or asked.ranking.judgement
    return f"What {own.kind.label} costs in {own.coat if spent == CLEAR else MINUTES}"


def answer(asked: Asked, tell: Tell, of: str = "") -> PricePicture:
    """Price the judgement at hand, in clear where that is known unless asked otherwise."""
    spent = spent_of(asked)
    of = of if spent == CLEAR and of else spent
    removed = asked.judged.get(REMOVED.key)
    return find_price(
        asked.path, asked.trial.id, gain_of(asked), removed, asked.combinations, of, asked.advice
    )
