"""What each stage adds: paired differences within cells, against what the meter can see.

A cell that was read after one stage and again after the next gives one difference; the cells of a
combination on a hardness agree as well as such differences do (one standard deviation, pooled over
all combinations, with a t interval). A gain is *seen* when it is surely larger than the meter's
repeatability limit of a cell's mean, *below the meter* when it is surely smaller either way, and
*not settled* between. What is read is brought onto its scale first.
"""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from loam.core.scale import Scale
from loam.core.snapshot import Columns, FloatArray, Snapshot
from loam.core.trial import AFTER, BEFORE, BETWEEN, Combination, Stage
from loam.core.verdicts import SURE

START = 0
"""The state before work; state s is after s stages."""
SEEN, BELOW, LOST, UNSETTLED = "seen", "below the meter", "lost", "not settled"


@dataclass(frozen=True)
class State:
    """Cells of one combination after some stages, on the scale: mean of the cell means."""

    done: int
    mean: float
    cells: int


@dataclass(frozen=True)
class Gain:
    """What was gained from one state to another, on the scale, more is better.

    Attributes
    ----------
    low, high : float
        90 % interval; infinite where a single cell of each shows no scatter.
    verdict : str
        ``seen``, ``below the meter``, ``lost`` (surely worse by more than the meter's limit) or
        ``not settled``.
    """

    start: int
    end: int
    middle: float
    low: float
    high: float
    cells: int
    verdict: str


@dataclass(frozen=True)
class Staged:
    """The states of one combination on one hardness, and the gains between them."""

    hardness: str
    combination: str
    states: tuple[State, ...]
    gains: tuple[Gain, ...]


def cell_states(
    columns: Columns,
    measurand: str,
    scale: Scale,
    baseline: Mapping[int, float],
    stages: Mapping[int, int],
) -> dict[int, dict[int, float]]:
    """Return the mean on the scale of every cell and state.

    What was read between two stages stands for the stages before it; what was read after work
    for all, once anything was read between them.

    Parameters
    ----------
    baseline : mapping of int to float
        Means before work that cells carry, where no reading before work was taken.
    stages : mapping of int to int
        How many stages the combination of each cell has.
    """
    found: dict[int, dict[int, float]] = {}
    after, before = columns.rows(measurand, AFTER), columns.rows(measurand, BEFORE)
    key = columns.cell[after] * 64 + columns.stage[after]
    for done, phase in enumerate(BETWEEN, 1):
        rows = columns.rows(measurand, phase)
        for cell, mean in _means(columns.cell[rows], scale.to(columns.value[rows])).items():
            found.setdefault(cell, {})[done] = mean
    between = set(found)
    for code, mean in _means(key, scale.to(columns.value[after])).items():
        cell, state = code // 64, code % 64
        if cell in between:
            state = max(state, stages.get(cell, 1))
        found.setdefault(cell, {})[state] = mean
    early = _means(columns.cell[before], scale.to(columns.value[before]))
    for cell, value in baseline.items():
        if cell not in early:
            early[cell] = float(scale.to(np.array([value]))[0])
    for cell, mean in early.items():
        found.setdefault(cell, {})[START] = mean
    return found


def _means(code: np.ndarray, values: FloatArray) -> dict[int, float]:
    codes, at = np.unique(code, return_inverse=True)
    means = np.bincount(at, weights=values) / np.maximum(np.bincount(at), 1)
    return {int(c): float(m) for c, m in zip(codes, means, strict=True)}


def stage_gains(
    snapshot: Snapshot, measurand: str, scale: Scale, floor: float, sign: float
) -> list[Staged]:
    """Return what each stage adds, by hardness and combination.

    Parameters
    ----------
    floor : float
        Repeatability limit of a cell's mean on the scale.
    sign : float
        1 where more is better, else -1.
    """
    baseline = {c.id: c.baseline[measurand] for c in snapshot.cells if measurand in c.baseline}
    count = {c.id: len(c.stages) for c in snapshot.combinations}
    stages = {c.id: count.get(c.combination_id or 0, 1) for c in snapshot.cells}
    states = cell_states(snapshot.columns, measurand, scale, baseline, stages)
    names = {c.id: c.code for c in snapshot.combinations}
    hardness = {p.id: p.hardness for p in snapshot.panels}
    groups: dict[tuple[str, str], list[dict[int, float]]] = {}
    for cell in snapshot.cells:
        own = states.get(cell.id)
        if own and cell.combination_id in names:
            key = (hardness[cell.panel_id], names[cell.combination_id])
            groups.setdefault(key, []).append(own)
    steps: dict[tuple[str, str, int, int], FloatArray] = {}
    for (h, name), cells in groups.items():
        seen = sorted({s for own in cells for s in own})
        for a, b in itertools.pairwise(seen):
            both = [sign * (own[b] - own[a]) for own in cells if a in own and b in own]
            if both:
                steps[h, name, a, b] = np.array(both)
    spread = {
        first: _pooled([d for k, d in steps.items() if (k[2] == START) == first])
        for first in (True, False)
    }
    found = []
    for (h, name), cells in sorted(groups.items()):
        seen = sorted({s for own in cells for s in own})
        here = tuple(
            State(
                s,
                float(np.mean([own[s] for own in cells if s in own])),
                sum(s in own for own in cells),
            )
            for s in seen
        )
        gains = tuple(
            _gain(a, b, steps[h, name, a, b], spread[a == START], floor)
            for a, b in itertools.pairwise(seen)
            if (h, name, a, b) in steps
        )
        found.append(Staged(h, name, here, gains))
    return found


def _pooled(parts: Sequence[FloatArray]) -> tuple[float, int]:
    """Return the pooled standard deviation of differences and its degrees of freedom."""
    squares = sum(float(((d - d.mean()) ** 2).sum()) for d in parts)
    df = sum(d.size - 1 for d in parts)
    return (float(np.sqrt(squares / df)) if df else 0.0), df


def _gain(a: int, b: int, d: FloatArray, spread: tuple[float, int], floor: float) -> Gain:
    from scipy.special import stdtr, stdtrit  # takes longer to load than the window may take

    middle, (sd, df) = float(d.mean()), spread
    if not df:
        return Gain(a, b, middle, -np.inf, np.inf, d.size, UNSETTLED)
    error = max(sd / float(np.sqrt(d.size)), 1e-12)
    half = float(stdtrit(df, 0.95)) * error
    above = float(stdtr(df, (middle - floor) / error))
    under = float(stdtr(df, (-middle - floor) / error))
    verdict = UNSETTLED
    if above >= SURE:
        verdict = SEEN
    elif under >= SURE:
        verdict = LOST
    elif 1.0 - above - under >= SURE:
        verdict = BELOW
    return Gain(a, b, middle, middle - half, middle + half, d.size, verdict)


def _alike(stage: Stage) -> tuple[object, ...]:
    return (
        stage.pad,
        stage.compound,
        stage.machine,
        stage.dial,
        stage.passes,
        stage.disc,
        stage.wipes,
    )


def one_more(combinations: Sequence[Combination]) -> list[tuple[Combination, Combination, int]]:
    """Return pairs that differ by one stage: the longer, the shorter, and the stage's number."""
    found = []
    for longer, shorter in itertools.permutations(combinations, 2):
        if len(longer.stages) != len(shorter.stages) + 1 or not shorter.stages:
            continue
        own, other = [_alike(s) for s in longer.stages], [_alike(s) for s in shorter.stages]
        at = next((i for i in range(len(own)) if own[:i] + own[i + 1 :] == other), None)
        if at is not None:
            found.append((longer, shorter, at + 1))
    return found
