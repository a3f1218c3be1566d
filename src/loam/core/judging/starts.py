"""The readings before work: how they level what was read after it.

Starts are centred within a class over the cells that count, and a cell without one counts at its
class's mean start. Their slope is beforehand N(0, `SLOPE_SD`^2) on the scale: one more row of the
fit. Where a start's own error is more than a fifth of how starts vary within the combinations, the
start that is used is the best guess of the true one (the regression calibration of Carroll,
Ruppert, Stefanski and Crainiceanu 2006, chapter 4): drawn to its combination's mean, and that to
the class's, so that a start read by chance too high moves nothing.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from loam.core.scale import Scale
from loam.core.stats.reduce import FloatArray, IntArray, compact, cross
from loam.core.trial_rows import TrialData

SLOPE_SD = 0.5
HARDLY_KNOWN = 0.25
"""A slope known no better than this has it less from the readings than three times its prior."""
POOR = 0.2
UNLIKE = 0.01
"""Starts of combinations that differ by chance no more often than this are a doubt."""
USED, NO_SPREAD = "used", "no spread"
MOST_GROUPS = 600


@dataclass(frozen=True)
class Starts:
    """What became of the readings before work.

    Attributes
    ----------
    became : str
        ``used``, ``no spread`` (they are alike everywhere), or "" for none.
    missing, cells : int
        Cells without one, of all that count.
    at : mapping of str to float
        The start, as measured, that each class is levelled to: the mean over its cells.
    corrected : bool
        Whether they are known too poorly to be taken as they were read.
    slope, slope_sd : float
        How much of a start is left after work, on the scale.
    p : float
        Chance that combinations start so far apart by chance alone; 1 where it cannot be told.
    """

    became: str = ""
    missing: int = 0
    cells: int = 0
    at: Mapping[str, float] = field(default_factory=dict)
    corrected: bool = False
    slope: float = 0.0
    slope_sd: float = 0.0
    p: float = 1.0

    @property
    def used(self) -> bool:
        """Whether the result is levelled to a start."""
        return self.became == USED


@dataclass(frozen=True)
class Levelled:
    """The covariate of a fit (n,), None where there is none, and what became of the starts."""

    x: FloatArray | None
    starts: Starts


def levelled(data: TrialData, scale: Scale, groups: IntArray, error: float) -> Levelled:
    """Return the readings before work as the covariate of a fit.

    Parameters
    ----------
    data : TrialData
        Its ``baseline`` is NaN where a cell has none.
    groups : (n,) int
        Combination within hardness of each reading.
    error : float
        Standard deviation, on the scale, with which a start is known: cells are read before work
        with the scatter that they have after it.
    """
    if data.baseline is None:
        return Levelled(None, Starts())
    cell = data.factors["cell"].codes if "cell" in data.factors else np.arange(data.y.size)
    _, first, at = np.unique(cell, return_index=True, return_inverse=True)
    known = ~np.isnan(data.baseline[first])
    count, missing = first.size, int(np.count_nonzero(~known))
    if not known.any():
        return Levelled(None, Starts("", missing, count))
    rows = first[known]
    x = scale.to(data.baseline[rows])
    own_class, group = data.hardness.codes[rows], groups[rows]
    middle = _means(x, own_class)
    centred = x - middle[own_class]
    said = {
        data.hardness.names[h]: float(scale.back(np.array([middle[h]]))[0])
        for h in np.unique(own_class)
    }
    if float(centred @ centred) <= 1e-18 * max(float(x @ x), 1e-300):
        return Levelled(None, Starts(NO_SPREAD, missing, count, said))
    guessed, corrected = _guessed(centred, own_class, group, error)
    panel = data.factors["panel"].codes[rows] if "panel" in data.factors else None
    whole = np.zeros(count)
    whole[known] = guessed
    p = unlike(centred, own_class, group, panel)
    return Levelled(whole[at], Starts(USED, missing, count, said, corrected, p=p))


def unlike(x: FloatArray, own_class: IntArray, group: IntArray, panel: IntArray | None) -> float:
    """Return the chance that combinations start so far apart by chance: an F test within classes.

    Panels are taken out first where the combinations' differences can be told beside them.

    Parameters
    ----------
    x : (m,) float
        Starts of cells on the scale.
    own_class, group, panel : (m,) int
        Class, combination within class and panel of each cell.
    """
    from scipy.special import fdtrc

    wanted = np.unique(group).size - np.unique(own_class).size
    if not 0 < wanted <= MOST_GROUPS:
        return 1.0
    for blocks in ([] if panel is None else [cross(own_class, panel)[0]]) + [own_class]:
        gained, gain, left, rest = _between(x, compact(blocks)[0], compact(group)[0])
        if gained == wanted and left > 0:
            scale = max(rest / left, 1e-12 * float(x @ x) / x.size)
            return float(fdtrc(gained, left, gain / gained / scale))
    return 1.0


def _between(x: FloatArray, block: IntArray, group: IntArray) -> tuple[int, float, int, float]:
    """Return df and sum of squares of groups beside blocks, and those that are left."""
    blocks, groups = int(block.max()) + 1, int(group.max()) + 1
    both = np.zeros((groups, blocks))
    np.add.at(both, (group, block), 1.0)
    size, total = both.sum(axis=0), np.bincount(block, weights=x)
    information = np.diag(both.sum(axis=1)) - (both / size) @ both.T
    score = np.bincount(group, weights=x) - both @ (total / size)
    values, vectors = np.linalg.eigh(information)
    seen = values > 1e-9 * max(float(values[-1]), 1.0)
    gain = float(((vectors.T @ score)[seen] ** 2 / values[seen]).sum())
    gained = int(np.count_nonzero(seen))
    less = float(x @ x) - float((total**2 / size).sum())
    return gained, gain, x.size - blocks - gained, max(less - gain, 0.0)


def _means(x: FloatArray, codes: IntArray) -> FloatArray:
    count = np.maximum(np.bincount(codes), 1)
    return np.asarray(np.bincount(codes, weights=x) / count, float)


def _guessed(
    x: FloatArray, own_class: IntArray, group: IntArray, error: float
) -> tuple[FloatArray, bool]:
    """Return the best guess of the true starts, and whether it is another than what was read."""
    size = np.bincount(group)
    there = size > 0
    mean = _means(x, group)
    rest = x - mean[group]
    free = x.size - int(np.count_nonzero(there))
    within = float(rest @ rest) / free if free > 0 else 0.0
    if free > 0 and error <= POOR * float(np.sqrt(within)):
        return x, False
    varies = max(within - error**2, 0.0) if free > 0 else 0.0
    noise = np.maximum(varies + error**2, 1e-300)
    groups, classes = int(np.count_nonzero(there)), np.unique(own_class).size
    between = 0.0
    if groups > classes:
        usual = float(np.mean(1.0 / size[there]))
        square = float((mean[there] ** 2).sum()) / (groups - classes)
        between = max(square - usual * noise, 0.0)
    of_mean = between / (between + noise / np.maximum(size, 1))
    guess = of_mean * mean
    # a cell's own part: what its combination's guess leaves, as far as it is real
    return guess[group] + varies / noise * (x - guess[group]), True


__all__ = ["NO_SPREAD", "SLOPE_SD", "UNLIKE", "USED", "Levelled", "Starts", "levelled", "unlike"]
