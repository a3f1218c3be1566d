"""Minimise the REML criterion over variance ratios that may be exactly zero.

Projected Newton in x = log(1 + gamma s), where s is the count of finer units a level holds: in
this scale a balanced layout has a nearly quadratic criterion, zero is the ordinary bound x = 0
with a non-zero slope there, and large ratios stay within reach. (Slopes in standard deviations
vanish at zero whatever the data say; logarithms never reach it.)
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from loam.core.stats.likelihood import Likelihood, Point
from loam.core.stats.reduce import BoolArray, FloatArray

MAX_STEPS = 80
X_TOP = 40.0


@dataclass(frozen=True)
class Optimum:
    """Where the criterion is least.

    Attributes
    ----------
    point : Point
        The likelihood there.
    steps : int
        Newton steps taken.
    converged : bool
        False when the last Newton decrement was still above 1e-9.
    """

    point: Point
    steps: int
    converged: bool


def _slope(likelihood: Likelihood, point: Point, s: FloatArray) -> FloatArray:
    return likelihood.gradient(point) * (1.0 + point.gamma * s) / s


def _curvature(
    likelihood: Likelihood, s: FloatArray, x: FloatArray, g: FloatArray, free: BoolArray
) -> FloatArray:
    """Forward differences of the exact slope in the free coordinates."""
    at = np.flatnonzero(free)
    h = np.empty((at.size, at.size))
    for row, i in enumerate(at):
        moved = x.copy()
        step = 1e-5 * max(1.0, x[i])
        moved[i] += step
        there = likelihood.at(np.expm1(moved) / s)
        h[row] = (_slope(likelihood, there, s)[at] - g[at]) / step
    return 0.5 * (h + h.T)


def _direction(h: FloatArray, g: FloatArray) -> FloatArray:
    values, vectors = np.linalg.eigh(h)
    floor = max(1e-10, 1e-8 * float(np.abs(values).max()))
    safe = np.maximum(np.abs(values), floor)
    step: FloatArray = -vectors @ ((vectors.T @ g) / safe)
    longest = float(np.abs(step).max())
    return step * min(1.0, 3.0 / longest) if longest > 0 else step


def minimise(likelihood: Likelihood, start: FloatArray | None = None) -> Optimum:
    """Find the least REML criterion.

    Parameters
    ----------
    likelihood : Likelihood
    start : (k,) float, optional
        Variance ratios to start from; 1 for every factor otherwise.
    """
    s = likelihood.typical
    gamma = np.ones(likelihood.k) if start is None else start
    x = np.log1p(gamma * s)
    point = likelihood.at(np.expm1(x) / s)
    converged = likelihood.k == 0
    steps = 0
    h, known, before = np.zeros((0, 0)), np.zeros(0, dtype=bool), np.inf
    while not converged and steps < MAX_STEPS:
        steps += 1
        g = _slope(likelihood, point, s)
        free = (x > 0) | (g < 0)
        if not free.any():
            converged = True
            break
        size = float(np.abs(g[free]).max())
        if size > 0.1 * before or not np.array_equal(free, known):
            h, known = _curvature(likelihood, s, x, g, free), free
        before = size
        move = np.zeros_like(x)
        move[free] = _direction(h, g[free])
        decrement = float(-g @ move)
        if decrement < 1e-11:
            converged = True
            break
        x_new, new = _search(likelihood, s, x, point, move, g)
        if new is None:
            converged = decrement < 1e-7
            break
        x, point = x_new, new
    return Optimum(point, steps, converged)


def _search(
    likelihood: Likelihood,
    s: FloatArray,
    x: FloatArray,
    point: Point,
    move: FloatArray,
    g: FloatArray,
) -> tuple[FloatArray, Point | None]:
    """Halve the projected step until the criterion falls enough (Armijo)."""
    length = 1.0
    for _ in range(30):
        candidate = np.clip(x + length * move, 0.0, X_TOP)
        there = likelihood.at(np.expm1(candidate) / s)
        promised = float(g @ (candidate - x))
        if there.criterion <= point.criterion + 1e-4 * min(promised, 0.0) + 1e-12:
            if np.array_equal(candidate, x):
                return x, None
            return candidate, there
        length *= 0.5
    return x, None
