"""Lay a trial out: controls, combinations, and the order of work."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from loam.core.design.blocks import Ground, mean_variance
from loam.core.design.plan import DAMAGED, UNTOUCHED, Place, Plan
from loam.core.design.search import Search, Told
from loam.core.stats.reduce import IntArray

STARTS, MANY_CELLS = 6, 2000
"""Of larger layouts one start is dealt: dealing is even, and little is left to find."""
_CONTROLS = (UNTOUCHED, DAMAGED)


@dataclass(frozen=True)
class Placed:
    """What one cell gets, and when it is worked; panel, row and column from 0.

    ``run_order`` counts the worked cells of the trial from 1, panel by panel; controls have none.
    """

    panel: int
    row: int
    column: int
    assigned: str
    run_order: int | None


@dataclass(frozen=True)
class Efficiency:
    """How surely a layout tells combinations of one hardness apart, panels taken out.

    Attributes
    ----------
    value : float or None
        (2 / mean replication) / mean_variance: 1 when nothing is lost to the blocks; 0 when a
        pair cannot be compared; None with one combination.
    mean_variance : float or None
        Mean over pairs of the variance of a difference, for a cell variance of 1.
    """

    hardness: str
    value: float | None
    mean_variance: float | None


@dataclass(frozen=True)
class Layout:
    """A finished layout: every open cell, panel by panel, row by row."""

    plan: Plan
    cells: tuple[Placed, ...]
    efficiency: tuple[Efficiency, ...]


def lay_out(plan: Plan, told: Told | None = None) -> Layout:
    """Choose what every cell gets and the order of work; the same seed gives the same layout.

    Parameters
    ----------
    plan : Plan
    told : callable, optional
        Told the share done (0 to 1); answering False ends the search with the best so far.
    """
    rng = np.random.default_rng(plan.seed)
    assigned: dict[Place, str] = {}
    for h, hardness in enumerate(plan.hardnesses()):
        report = _part(told, h, len(plan.hardnesses()))
        assigned |= _one_hardness(plan, hardness, rng, report)
    run = _run_order(plan, assigned, rng)
    cells = tuple(
        Placed(p, r, c, assigned[p, r, c], run.get((p, r, c)))
        for p, panel in enumerate(plan.panels)
        for r, c in panel.open_cells()
    )
    return Layout(plan, cells, efficiency(plan, assigned))


def efficiency(plan: Plan, assigned: Mapping[Place, str]) -> tuple[Efficiency, ...]:
    """Judge any layout, one laid out by hand too; cells without anything do not count."""
    v = len(plan.combinations)
    found = []
    for hardness in plan.hardnesses():
        label, ground = standing(plan, hardness, assigned)
        if v < 2 or ground is None:
            found.append(Efficiency(hardness, None if v < 2 else 0.0, None))
            continue
        variance = mean_variance(ground.information(label, v))
        if math.isinf(variance):
            found.append(Efficiency(hardness, 0.0, None))
        else:
            found.append(Efficiency(hardness, 2.0 * v / label.size / variance, variance))
    return tuple(found)


def even_deal(plan: Plan) -> dict[Place, str]:
    """Deal evenly at random without a search: near enough to see what a plan would tell."""
    rng = np.random.default_rng(plan.seed)
    assigned: dict[Place, str] = {}
    for hardness in plan.hardnesses():
        controls, places, ground, kept = _ready(plan, hardness, rng)
        label = _dealt(ground, kept, len(plan.combinations), rng, crossed=False)
        assigned |= controls | _named(plan, places, label)
    return assigned


def standing(
    plan: Plan, hardness: str, assigned: Mapping[Place, str]
) -> tuple[IntArray, Ground | None]:
    """Return what the worked cells of a hardness have (n,), coded, and their ground."""
    code = {name: i for i, name in enumerate(plan.combinations)}
    here = {p for p, panel in enumerate(plan.panels) if panel.hardness == hardness}
    places = sorted(p for p, what in assigned.items() if p[0] in here and what in code)
    label = np.array([code[assigned[p]] for p in places], dtype=np.intp)
    return label, _ground(places, plan.trends) if places else None


def _ground(places: list[Place], trends: bool) -> Ground:
    at = np.array(places, dtype=np.intp)
    _, panel = np.unique(at[:, 0], return_inverse=True)
    return Ground(panel.astype(np.intp), at[:, 1], at[:, 2], trends)


def _part(told: Told | None, part: int, parts: int) -> Told | None:
    return None if told is None else lambda share: told((part + share) / parts)


def _one_hardness(
    plan: Plan, hardness: str, rng: np.random.Generator, told: Told | None
) -> dict[Place, str]:
    """Deal the controls at random, then search for the combinations."""
    controls, places, ground, kept = _ready(plan, hardness, rng)
    v = len(plan.combinations)
    count = STARTS if ground.n <= MANY_CELLS else 1
    starts = [_dealt(ground, kept, v, rng, crossed=bool(i % 2), told=told) for i in range(count)]
    search = Search(ground, v, kept < 0, plan.apart, rng, told)
    return controls | _named(plan, places, search.best(starts).label)


def _named(plan: Plan, places: list[Place], label: IntArray) -> dict[Place, str]:
    names = plan.combinations
    return {place: names[i] for place, i in zip(places, label.tolist(), strict=True)}


def _ready(
    plan: Plan, hardness: str, rng: np.random.Generator
) -> tuple[dict[Place, str], list[Place], Ground, IntArray]:
    """Return the controls of a hardness, its worked cells, their ground, and what stays (or -1)."""
    controls: dict[Place, str] = {}
    places: list[Place] = []
    for p, panel in enumerate(plan.panels):
        if panel.hardness == hardness:
            own = _controls(plan, p, rng)
            controls |= own
            places += [(p, r, c) for r, c in panel.open_cells() if (p, r, c) not in own]
    code = {name: i for i, name in enumerate(plan.combinations)}
    kept = np.array([code.get(plan.fixed.get(place, ""), -1) for place in places], dtype=np.intp)
    return controls, places, _ground(places, plan.trends), kept


def _controls(plan: Plan, p: int, rng: np.random.Generator) -> dict[Place, str]:
    """Choose the control cells of a panel at random, those that stay first."""
    panel = plan.panels[p]
    found = {
        place: what for place, what in plan.fixed.items() if place[0] == p and what in _CONTROLS
    }
    free = [(p, r, c) for r, c in panel.open_cells() if (p, r, c) not in plan.fixed]
    order = [free[int(i)] for i in rng.permutation(len(free))]
    for what, wanted in ((UNTOUCHED, plan.untouched), (DAMAGED, plan.damaged)):
        missing = wanted - sum(kept == what for kept in found.values())
        for _ in range(min(max(missing, 0), len(order))):
            found[order.pop()] = what
    return found


def _dealt(
    ground: Ground,
    kept: IntArray,
    v: int,
    rng: np.random.Generator,
    *,
    crossed: bool,
    told: Told | None = None,
) -> IntArray:
    """Deal evenly over every panel and over all; in random places, or in turning rows.

    On a panel, and over the trial, no two combinations differ by more than one cell as far as
    the cells that stay allow.
    """
    label = kept.copy()
    total = np.bincount(kept[kept >= 0], minlength=v).astype(float)
    for p in rng.permutation(len(ground.members)).tolist():
        if told is not None:
            told(0.0)
        own = ground.members[p]
        here = np.bincount(kept[own][kept[own] >= 0], minlength=v).astype(float)
        hand: list[int] = []
        free = own[kept[own] < 0]
        for _ in range(free.size):
            rank = np.lexsort((rng.random(v), here, total))
            chosen = int(rank[0])
            hand.append(chosen)
            here[chosen] += 1
            total[chosen] += 1
        if crossed:
            shift = 1 + int(rng.integers(0, max(v - 1, 1)))
            turn = (ground.column[free] + shift * ground.row[free]) % max(v, 1)
            of = rng.permutation(v)
            label[free[np.argsort(turn, kind="stable")]] = sorted(hand, key=lambda i: of[i])
        else:
            label[free] = rng.permutation(np.array(hand, dtype=np.intp))
    return label


def _run_order(
    plan: Plan, assigned: Mapping[Place, str], rng: np.random.Generator
) -> dict[Place, int]:
    """Order the worked cells panel by panel, at random within what the groups allow."""
    order = dict(plan.done)
    last = max(order.values(), default=0)
    begun = {place[0] for place in plan.done}
    for p, panel in sorted(enumerate(plan.panels), key=lambda at: at[0] not in begun):
        worked = [
            (p, r, c)
            for r, c in panel.open_cells()
            if assigned[p, r, c] not in _CONTROLS and (p, r, c) not in plan.done
        ]
        shuffled = [worked[int(i)] for i in rng.permutation(len(worked))]
        if plan.groups:
            groups = sorted({plan.groups.get(assigned[place], "") for place in worked})
            turn = {groups[int(g)]: i for i, g in enumerate(rng.permutation(len(groups)))}
            shuffled.sort(key=lambda place: turn[plan.groups.get(assigned[place], "")])
        for place in shuffled:
            last += 1
            order[place] = last
    return order
