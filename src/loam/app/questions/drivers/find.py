"""What drives a result, as drawn and in words, and combinations that were not tried."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from loam.app.questions.question import Asked, Tell
from loam.core.drivers import NOISE, TOGETHER, Drivers, Factor, take_apart
from loam.core.errors import NotEnough
from loam.core.judging import ClassJudgement, TrialJudgement
from loam.core.stats.reduce import FloatArray
from loam.core.trial import Combination, Stage
from loam.core.units import fixed, percent
from loam.core.verdicts import SURE
from loam.core.words.verdict import about, listed, unit_of

MOST_TRIED, SHOWN, LIKELY = 1500, 3, 0.15
MOST_OFFERS = 9
FIRST = 0.8
"""From this chance on one part is said to make most of the difference."""
DRAWN, MOST_TOGETHER = 0.5, 4
"""From this chance on that it matters, what levels do only together is drawn, so many of them."""
THEN = "what follows"
_SETTINGS = ("force_n", "arm_mm_s", "overlap", "line_shift", "tilt_deg", "burst_s")


@dataclass(frozen=True)
class Level:
    """One level of a part: what the usual combination with it reads, as a place on the scale.

    Attributes
    ----------
    codes : tuple of str
        The combinations that have it.
    alone : float or None
        Of two levels together: where each by itself would put them.
    """

    words: str
    place: float
    low: float
    high: float
    codes: tuple[str, ...] = ()
    alone: float | None = None


@dataclass(frozen=True)
class Lever:
    """One part: a factor, or what factors do only together.

    Attributes
    ----------
    share, low, high : float
        Of the variance between combinations, with its 90 % interval.
    noise : bool
        Whether it may be no more than noise.
    first : float
        Chance to make the most difference.
    matters : float
        Chance that it makes more difference than what matters.
    together : bool
        What factors do only together; its levels are drawn only when it matters.
    """

    label: str
    share: float
    first: float
    matters: float
    levels: tuple[Level, ...]
    together: bool
    low: float = 0.0
    high: float = 1.0
    noise: bool = False

    @property
    def amount(self) -> str:
        """Its share in words, with its interval; what may be noise is not given a figure."""
        if self.noise:
            return f"no more than noise (up to {percent(self.high)})"
        return f"{percent(self.share)} ({percent(self.low)} to {percent(self.high)})"

    @property
    def briefly(self) -> str:
        """The same where there is little room."""
        return "noise" if self.noise else percent(self.share)


@dataclass(frozen=True)
class Untried:
    """A combination that was not tried, predicted. Places on the scale.

    Attributes
    ----------
    p_ahead : float
        Chance to be better than the leader.
    short : str
        As the tried combination that is most like it, with what is changed.
    """

    combination: Combination
    place: float
    low: float
    high: float
    p_ahead: float
    short: str


@dataclass(frozen=True)
class DriversOf:
    """One hardness class.

    Attributes
    ----------
    leader : (str, float)
        Who leads, and its place.
    cares : tuple of str
        What these combinations cannot tell apart.
    """

    hardness: str
    ground: str
    levers: tuple[Lever, ...]
    untried: tuple[Untried, ...]
    leader: tuple[str, float]
    sentence: str
    cares: tuple[str, ...]


@dataclass(frozen=True)
class DriversPicture:
    """What drives one measurand.

    Attributes
    ----------
    refused : mapping of str to str
        Why a hardness is not taken apart.
    """

    judgement: TrialJudgement
    classes: tuple[DriversOf, ...]
    refused: Mapping[str, str]

    @property
    def offers(self) -> tuple[tuple[DriversOf, Untried], ...]:
        """What was not tried and could be, likeliest first: as many as there are numbers."""
        every = [(own, u) for own in self.classes for u in own.untried]
        return tuple(sorted(every, key=lambda pair: -pair[1].p_ahead)[:MOST_OFFERS])

    def number_of(self, hardness: str, untried: Untried) -> int:
        """Return the number that tries a combination on a hardness; 0 where there is none."""
        return next(
            (i for i, (own, u) in enumerate(self.offers, 1)
             if own.hardness == hardness and u is untried), 0,
        )  # fmt: skip

    def said(self) -> tuple[str, ...]:
        """Return what is said of each hardness, or what it takes to say it."""
        told = {c.hardness: c.sentence for c in self.classes} | dict(self.refused)
        order = [c.hardness for c in self.judgement.classes]
        return tuple(f"{h.capitalize()}: {told[h]}" for h in order if h in told)

    def table(self) -> list[list[str]]:
        """Return it as a table, its heading first."""
        kind, scale = self.judgement.kind, self.judgement.scale
        rows = [["hardness", "part", "level", f"{kind.label}, {kind.unit}", "low", "high",
                 "share of the difference"]]  # fmt: skip
        for own in self.classes:
            for lever in own.levers:
                rows.append([own.hardness, lever.label, "", "", "", "", lever.amount])
                for level in lever.levels:
                    told = [kind.write(float(v), 1) for v in scale.back(
                        np.array([level.place, level.low, level.high]))]  # fmt: skip
                    rows.append([own.hardness, lever.label, level.words, *told, ""])
            for u in own.untried:
                told = [kind.write(float(v), 1) for v in scale.back(
                    np.array([u.place, u.low, u.high]))]  # fmt: skip
                rows.append([own.hardness, "not tried, predicted", u.combination.words(), *told,
                             ""])  # fmt: skip
        return rows


def recipe_columns(combinations: Sequence[Combination]) -> dict[str, list[str]]:
    """Return the factors of combinations that have stages: what their first stage is, and the rest.

    A level is what is said of it; settings that nobody changed are no level.
    """
    first = [c.stages[0] for c in combinations]
    sizes = len({s.pad_mm for s in first}) > 1
    columns = {
        "pad": [f"{s.pad} {s.pad_mm:g} mm" if sizes and s.pad_mm else s.pad or "?" for s in first],
        "compound": [s.compound or "none" for s in first],
        "machine": [f"{s.machine}, dial {s.dial}" if s.dial else s.machine or "?" for s in first],
        "passes": [str(s.passes) for s in first],
        "settings": [_settings(s, first) for s in first],
        "disc": [s.disc for s in first],
        THEN: [_then(c) for c in combinations],
    }
    return columns


def _settings(stage: Stage, all_of: Sequence[Stage]) -> str:
    own = []
    for name in _SETTINGS:
        value = getattr(stage, name)
        if len({getattr(s, name) for s in all_of}) > 1:
            own.append(f"{name.split('_')[0]} {'?' if value is None else format(value, 'g')}")
    return ", ".join(own)


def _then(combination: Combination) -> str:
    return ", then ".join(s.words() for s in combination.stages[1:]) or "nothing more"


def find_drivers(
    judgement: TrialJudgement, combinations: Sequence[Combination], seed: int,
    told: Callable[[float], None] | None = None,
) -> DriversPicture:  # fmt: skip
    """Take every hardness apart; made for a worker."""
    by_code = {c.code: c for c in combinations if c.stages}
    classes, refused = [], {}
    count = max(len(judgement.classes), 1)
    for h, found in enumerate(judgement.classes):
        own = [by_code[n] for n in found.columns if n in by_code]
        rng = np.random.default_rng([seed, h, 10])
        try:
            drawn = found.plain[:, [found.columns[c.code] for c in own]]
            drivers = take_apart(
                recipe_columns(own) if own else {}, drawn, rng,
                _part(told, h, count),
            )  # fmt: skip
        except NotEnough as error:
            refused[found.hardness] = f"{error.what} {error.todo}".strip()
            continue
        classes.append(_one(judgement, found, own, drivers, rng))
    return DriversPicture(judgement, tuple(classes), refused)


def _part(
    told: Callable[[float], None] | None, at: int, count: int
) -> Callable[[float], None] | None:
    """Return what a part of the work tells its own share to."""
    if told is None:
        return None
    return lambda share: told((at + share) / count)


def _one(
    judgement: TrialJudgement, found: ClassJudgement, own: list[Combination], drivers: Drivers,
    rng: np.random.Generator,
) -> DriversOf:  # fmt: skip
    means = drivers.means
    base = float(means.mean())
    shares, first, told = drivers.shares(), drivers.chance_first(), drivers.told
    low, high = np.quantile(shares, (0.05, 0.95), axis=0)
    share = shares.mean(axis=0)
    delta = judgement.matters.on_scale
    levers = []
    for i, name in enumerate(drivers.labels):
        if not told[i]:
            continue
        levels: tuple[Level, ...] = ()
        if i < len(drivers.found):
            levels = _levels(drivers.found[i], drivers.effects[i], base, found.sign, own)
        # a usual difference of two combinations is the root of two times the spread
        apart = float((np.sqrt(2.0) * drivers.spread[:, i] > delta).mean())
        if i >= len(drivers.found) and apart >= DRAWN:
            levels = _interplay(drivers, i - len(drivers.found), base, own)
        levers.append(Lever(name, float(share[i]), float(first[i]), apart, levels,
                            i >= len(drivers.found), float(low[i]), float(high[i]),
                            bool(low[i] < NOISE and apart < DRAWN)))  # fmt: skip
    tried = [c.code for c in own]
    lead = int((found.sign * means).mean(axis=0).argmax())
    untried = _untried(drivers, own, lead, found.sign, rng)
    ranked = tuple(sorted(levers, key=lambda lever: -lever.share))
    leader = (tried[lead], float(means[:, lead].mean()))
    said = _sentence(judgement, drivers, ranked, found.sign)
    cares = _cares(drivers, len(own))
    return DriversOf(found.hardness, found.ground, ranked, tuple(untried), leader, said, cares)


def _levels(
    factor: Factor, effects: FloatArray, base: float, sign: float, own: Sequence[Combination]
) -> tuple[Level, ...]:
    around = effects - effects[:, factor.at].mean(axis=1, keepdims=True)
    low, high = np.quantile(around, (0.05, 0.95), axis=0)
    middle = around.mean(axis=0)
    order = np.argsort(-sign * middle)
    return tuple(
        Level(factor.levels[k], base + float(middle[k]), base + float(low[k]),
              base + float(high[k]),
              tuple(sorted(c.code for c, at in zip(own, factor.at, strict=True) if at == k)))
        for k in order
    )  # fmt: skip


def _interplay(
    drivers: Drivers, at: int, base: float, own: Sequence[Combination]
) -> tuple[Level, ...]:
    """Return what levels read together, those that are furthest from what each alone would give."""
    effects = [e[:, f.at] for f, e in zip(drivers.found, drivers.effects, strict=True)]
    pair: tuple[int, int] | None = (0, 1) if len(drivers.found) == 2 else None
    if at < len(drivers.pairs):
        pair, effect, level = drivers.pairs[at]
        parts, own_part = [effects[i] for i in pair], effect[:, level]
    else:
        parts = effects + [e[:, level] for _, e, level in drivers.pairs]
        own_part, level = drivers.rest, np.arange(len(own))
    alone = np.sum(parts, axis=0)
    both = alone + own_part
    # the same middle for both: how far they lie apart is the interplay alone
    both = both - alone.mean(axis=1, keepdims=True)
    alone = alone - alone.mean(axis=1, keepdims=True)
    apart = np.abs(own_part.mean(axis=0)) / np.maximum(own_part.std(axis=0), 1e-12)
    found: dict[int, Level] = {}
    for k in np.argsort(-apart):
        if int(level[k]) in found or len(found) == MOST_TOGETHER:
            continue
        mates = [c.code for c, own_level in zip(own, level, strict=True) if own_level == level[k]]
        words = f"{own[k].code}: {own[k].words()}"
        if pair is not None:
            first, second = (drivers.found[i].levels[drivers.found[i].at[k]] for i in pair)
            words = f"{first} with {second}"
        low, high = np.quantile(both[:, k], (0.05, 0.95))
        found[int(level[k])] = Level(
            words, base + float(both[:, k].mean()), base + float(low), base + float(high),
            tuple(sorted(mates)), base + float(alone[:, k].mean()),
        )  # fmt: skip
    return tuple(found.values())


def _untried(
    drivers: Drivers, own: list[Combination], lead: int, sign: float, rng: np.random.Generator
) -> list[Untried]:
    """Predict what was not tried: every crossing of the levels, or one level changed of many."""
    there = {tuple(int(f.at[i]) for f in drivers.found) for i in range(len(own))}
    sizes = [len(f.levels) for f in drivers.found]
    if int(np.prod(sizes)) <= MOST_TRIED:
        all_of = set(itertools.product(*(range(n) for n in sizes)))
    else:
        all_of = {
            (*levels[:i], k, *levels[i + 1 :])
            for levels in there for i, n in enumerate(sizes) for k in range(n)
        }  # fmt: skip
    known = {c.words() for c in own}
    found = []
    for levels in sorted(all_of - there):
        made = _made(drivers.found, levels, own)
        if made is None or made.words() in known:
            continue
        drawn = drivers.predict(levels, rng)
        p = float((sign * (drawn - drivers.means[:, lead]) > 0).mean())
        if p >= LIKELY:
            low, high = np.quantile(drawn, (0.05, 0.95))
            short = _short(drivers.found, levels, own, lead)
            found.append(Untried(made, float(drawn.mean()), float(low), float(high), p, short))
    found.sort(key=lambda u: -u.p_ahead)
    return found[:SHOWN]


def _short(
    found: Sequence[Factor], levels: Sequence[int], own: Sequence[Combination], lead: int
) -> str:
    """Say what is changed of the combination that is most like it, the leader before others."""

    def changed(i: int) -> list[int]:
        return [k for k, factor in enumerate(found) if int(factor.at[i]) != levels[k]]

    like = min(range(len(own)), key=lambda i: (len(changed(i)), i != lead, i))
    parts = []
    for k in changed(like):
        words = found[k].levels[levels[k]]
        parts.append(f"{words} passes" if found[k].names == ("passes",) else words)
    return f"{own[like].code} with {listed(parts)}"


def _made(
    found: Sequence[Factor], levels: Sequence[int], own: Sequence[Combination]
) -> Combination | None:
    """Return the combination that levels make; a setting comes with the machine that had it."""

    def having(name: str) -> Combination | None:
        for factor, level in zip(found, levels, strict=True):
            if name in factor.names:
                return own[int(np.flatnonzero(factor.at == level)[0])]
        return own[0]

    pad, compound, machine = having("pad"), having("compound"), having("machine")
    passes, rest = having("passes"), having(THEN)
    if pad is None or compound is None or machine is None or passes is None or rest is None:
        return None
    m, p, c = machine.stages[0], pad.stages[0], compound.stages[0]
    settings = having("settings")
    shared = {k: getattr((settings or machine).stages[0], k) for k in _SETTINGS}
    first = replace(
        m, pad=p.pad, pad_material=p.pad_material, pad_mm=p.pad_mm, compound=c.compound,
        compound_class=c.compound_class, passes=passes.stages[0].passes, disc=p.disc, **shared,
    )  # fmt: skip
    return Combination(0, "?", "", (first, *rest.stages[1:]))


def _sentence(
    judgement: TrialJudgement, drivers: Drivers, levers: Sequence[Lever], sign: float
) -> str:
    """Say what makes most of the difference, whether levels must suit, and what is not known."""
    top = max(levers, key=lambda lever: lever.first)
    parts = []
    if top.first >= FIRST:
        together = top.label == TOGETHER or top.label not in {f.label for f in drivers.found}
        who = "what they do only together" if together else f"the {top.label}"
        parts.append(f"{who} makes most of the difference, {top.amount}")
        if together and top.levels:
            parts.append(_only_together(judgement, top.levels[0]))
        if not together:
            ahead = _ahead(judgement, drivers, top, sign)
            parts += [ahead] if ahead else []
    else:
        rivals = [lv for lv in sorted(levers, key=lambda lv: -lv.first) if lv.first >= 0.1][:3]
        named = [_called(lv.label) for lv in rivals]
        parts.append(f"not settled between {listed(named)}")
    if top.first >= FIRST and not top.together:
        parts.append(_together(levers, drivers))
    return "; ".join(parts) + "."


def _only_together(judgement: TrialJudgement, level: Level) -> str:
    """Say of which two levels it is, and by how much they read otherwise."""
    kind, alone = judgement.kind, level.alone or 0.0
    values = judgement.scale.back(np.array([level.place, alone, level.low, level.high]))
    both, each, low, high = (float(v) for v in values)
    amount = about(kind.span(abs(both - each)), kind.span(0.5 * abs(high - low)), kind.decimals)
    more = "more" if both > each else "less"
    return f"{level.words} reads about {amount} {unit_of(kind)} {more} than each alone would give"


def _cares(drivers: Drivers, count: int) -> tuple[str, ...]:
    """Say what these combinations cannot tell apart."""
    said = [f"{listed(f.names)} always change together" for f in drivers.found if len(f.names) > 1]
    if not drivers.told.all():
        said.append(
            f"{count} combinations are too few to tell what {len(drivers.found)} parts do only"
            " together; predictions allow for it"
            if len(drivers.found) > 1 else "what they do only together cannot be told"
        )  # fmt: skip
    return tuple(said)


def _together(levers: Sequence[Lever], drivers: Drivers) -> str:
    """Say whether levels must suit each other."""
    rest = next((lv for lv in levers if lv.label == drivers.labels[-1]), None)
    if rest is None:
        return "whether they must suit each other cannot be told"
    own = [lv for lv in levers if lv.together and lv.matters >= SURE]
    if own and (rest not in own or len(drivers.found) == 2):
        return f"{listed([_called(lv.label) for lv in own])} must suit each other"
    if own:
        return "some do well only together"
    if all(lv.matters <= 1.0 - SURE for lv in levers if lv.together):
        return "what they do only together does not matter"
    return "whether they must suit each other is not settled"


def _called(label: str) -> str:
    return "what they do only together" if label == TOGETHER else label


def _ahead(judgement: TrialJudgement, drivers: Drivers, lever: Lever, sign: float) -> str:
    """Say that one level is ahead of the last, where that is sure."""
    i = next(k for k, f in enumerate(drivers.found) if f.label == lever.label)
    levels, effects = drivers.found[i].levels, drivers.effects[i]
    best, last = lever.levels[0].words, lever.levels[-1].words
    apart = sign * (effects[:, levels.index(best)] - effects[:, levels.index(last)])
    if float((apart > 0.0).mean()) < SURE:
        return ""
    kind = judgement.kind
    if judgement.scale.ratio:
        return f"{best} is ahead of {last}"
    half = 1.645 * float(apart.std())
    amount = about(kind.span(float(apart.mean())), kind.span(half), kind.decimals)
    return f"{best} is ahead of {last} by about {amount} {unit_of(kind)}"


def untried_words(own: DriversOf, found: Untried, judgement: TrialJudgement) -> str:
    """Say what a combination that was not tried would read, and how it would do."""
    kind = judgement.kind
    value, low, high = (
        fixed(kind.shown(float(v)), kind.decimals)
        for v in judgement.scale.back(np.array([found.place, found.low, found.high]))
    )
    return (
        f"Not tried on {own.hardness}: {found.combination.words()}. Predicted {value} ({low} to"
        f" {high}) {kind.unit}, ahead of {own.leader[0]} with {percent(found.p_ahead)}."
    )


def head(asked: Asked) -> str:
    """Return what its part of the report is called."""
    return f"What drives {asked.label}"


def answer(asked: Asked, tell: Tell) -> DriversPicture:
    """Take the judgement at hand apart."""
    return find_drivers(asked.ranking.judgement, asked.combinations, asked.trial.seed, tell)
