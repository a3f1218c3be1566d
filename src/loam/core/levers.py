"""The parts of a result and their levels: how much each makes, and what was not tried."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from loam.core.drivers import NOISE, Drivers, Factor
from loam.core.stage_settings import SETTINGS, word_of
from loam.core.stats.reduce import FloatArray
from loam.core.text import listed
from loam.core.trial import Combination, Stage
from loam.core.units import percent
from loam.core.wipes import said

MOST_TRIED, SHOWN, LIKELY = 1500, 3, 0.15
DRAWN, MOST_TOGETHER = 0.5, 4
"""From this chance on that it matters, what levels do only together is drawn, so many of them."""
THEN = "later stages"
_SETTINGS = ("force_n", *(s.key for s in SETTINGS if s.steered))


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
    def briefly(self) -> tuple[str, ...]:
        """The same in a few words, longest first."""
        if self.noise:
            return ("may be nothing", "nothing?")
        share = percent(self.share)
        return (f"{share} of the difference", f"{share} of it", share)


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
        "wipe": [said(c.stages[-1].wipes) or "as all" for c in combinations],
        THEN: [_then(c) for c in combinations],
    }
    return columns


def _settings(stage: Stage, all_of: Sequence[Stage]) -> str:
    own = []
    for name in _SETTINGS:
        value = getattr(stage, name)
        if len({getattr(s, name) for s in all_of}) > 1:
            own.append(f"{name.split('_')[0]} {word_of(name, value)}")
    return ", ".join(own)


def _then(combination: Combination) -> str:
    *between, last = combination.stages
    then = [*between[1:], *([replace(last, wipes=())] if between else [])]
    return ", then ".join(s.words() for s in then) or "nothing more"


def levers_of(
    drivers: Drivers, own: Sequence[Combination], sign: float, delta: float
) -> tuple[Lever, ...]:
    """Return the parts with their levels, the largest first.

    Parameters
    ----------
    own : sequence of Combination
        Those that were taken apart, in their order.
    sign : float
        1 where more is better, -1 otherwise.
    delta : float
        What matters, on the scale.
    """
    base = float(drivers.means.mean())
    shares, first, told = drivers.shares(), drivers.chance_first(), drivers.told
    low, high = np.quantile(shares, (0.05, 0.95), axis=0)
    share = shares.mean(axis=0)
    levers = []
    for i, name in enumerate(drivers.labels):
        if not told[i]:
            continue
        levels: tuple[Level, ...] = ()
        if i < len(drivers.found):
            levels = _levels(drivers.found[i], drivers.effects[i], base, sign, own)
        # a usual difference of two combinations is the root of two times the spread
        apart = float((np.sqrt(2.0) * drivers.spread[:, i] > delta).mean())
        if i >= len(drivers.found) and apart >= DRAWN:
            levels = _interplay(drivers, i - len(drivers.found), base, own)
        levers.append(
            Lever(
                name,
                float(share[i]),
                float(first[i]),
                apart,
                levels,
                i >= len(drivers.found),
                float(low[i]),
                float(high[i]),
                bool(low[i] < NOISE and apart < DRAWN),
            )
        )
    return tuple(sorted(levers, key=lambda lever: -lever.share))


def _levels(
    factor: Factor, effects: FloatArray, base: float, sign: float, own: Sequence[Combination]
) -> tuple[Level, ...]:
    around = effects - effects[:, factor.at].mean(axis=1, keepdims=True)
    low, high = np.quantile(around, (0.05, 0.95), axis=0)
    middle = around.mean(axis=0)
    order = np.argsort(-sign * middle)
    return tuple(
        Level(
            factor.levels[k],
            base + float(middle[k]),
            base + float(low[k]),
            base + float(high[k]),
            tuple(sorted(c.code for c, at in zip(own, factor.at, strict=True) if at == k)),
        )
        for k in order
    )


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
            words,
            base + float(both[:, k].mean()),
            base + float(low),
            base + float(high),
            tuple(sorted(mates)),
            base + float(alone[:, k].mean()),
        )
    return tuple(found.values())


def untried_of(
    drivers: Drivers, own: Sequence[Combination], lead: int, sign: float, rng: np.random.Generator
) -> list[Untried]:
    """Predict what was not tried: every crossing of the levels, or one level changed of many."""
    there = {tuple(int(f.at[i]) for f in drivers.found) for i in range(len(own))}
    sizes = [len(f.levels) for f in drivers.found]
    if int(np.prod(sizes)) <= MOST_TRIED:
        all_of = set(itertools.product(*(range(n) for n in sizes)))
    else:
        all_of = {
            (*levels[:i], k, *levels[i + 1 :])
            for levels in there
            for i, n in enumerate(sizes)
            for k in range(n)
        }
    known = {c.words() for c in own}
    leader = drivers.means[:, lead]
    found = []
    for levels in sorted(all_of - there):
        made = _made(drivers.found, levels, own)
        if made is None or made.words() in known:
            continue
        drawn = drivers.predict(levels, rng)
        p = float((sign * (drawn - leader) > 0).mean())
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
        m,
        pad=p.pad,
        pad_material=p.pad_material,
        pad_mm=p.pad_mm,
        compound=c.compound,
        compound_class=c.compound_class,
        passes=passes.stages[0].passes,
        disc=p.disc,
        **shared,
    )
    wiped = having("wipe")
    made = [first, *rest.stages[1:]]
    if wiped is not None:
        made[-1] = replace(made[-1], wipes=wiped.stages[-1].wipes)
    return Combination(0, "?", "", tuple(made))
