"""The path of the machine over a section: the same that the pacer shows and the dose integrates."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from loam.core.dose.settings import SectionSettings
from loam.core.stats.reduce import FloatArray


@dataclass(frozen=True)
class Pass:
    """One crossing of the whole section.

    Attributes
    ----------
    upright : bool
        Whether its lines run along the height.
    at_mm : (n,)
        Where its lines lie across, from the section's edge.
    spacing_mm : float
        Between neighbouring lines; the whole width of the pad's step when there is one line.
    points_mm : (2 n, 2)
        Corners of the way, x and y, in the order of work.
    """

    upright: bool
    at_mm: FloatArray
    spacing_mm: float
    points_mm: FloatArray

    @property
    def length_mm(self) -> float:
        """Length of the way."""
        return float(np.hypot(*np.diff(self.points_mm, axis=0).T).sum())


def _lines(side: float, inset: float, step: float, shifted: bool) -> tuple[FloatArray, float]:
    """Return where lines lie over a side, and their spacing."""
    span = side - 2.0 * inset
    if span <= 0:
        return np.array([0.5 * side]), step
    n = math.ceil(span / step - 1e-9) + 1
    spacing = span / (n - 1)
    at = np.asarray(inset + spacing * np.arange(n), float)
    if shifted:
        at = np.concatenate([[inset], at[:-1] + 0.5 * spacing, [side - inset]])
    return at, spacing


def passes(settings: SectionSettings) -> list[Pass]:
    """Return the passes of a stage over its section, in order.

    Odd passes run along the height, even ones along the width; lines are joined at their ends
    (boustrophedon). With the half-line shift, passes 3, 4, 7, 8, ... run between the others.
    """
    step = (1.0 - settings.overlap) * settings.pad_mm
    found = []
    for number in range(settings.passes):
        upright = number % 2 == 0
        across, along = settings.width_mm, settings.height_mm
        if not upright:
            across, along = along, across
        shifted = settings.half_line_shift and number % 4 >= 2
        at, spacing = _lines(across, settings.inset, step, shifted)
        near, far = settings.inset, along - settings.inset
        if far < near:
            near = far = 0.5 * along
        points = np.empty((2 * at.size, 2))
        points[0::2, 0] = points[1::2, 0] = at
        turn = np.arange(at.size) % 2 == 0
        points[0::2, 1] = np.where(turn, near, far)
        points[1::2, 1] = np.where(turn, far, near)
        found.append(Pass(upright, at, spacing, points if upright else points[:, ::-1]))
    return found


def occupancy(
    ways: list[Pass], settings: SectionSettings, margin: int, shape: tuple[int, int]
) -> FloatArray:
    """Spread the time spent on the path over a grid, in s/m^2.

    Time is laid down every quarter of a grid step, shared between the four nearest points.

    Parameters
    ----------
    margin : int
        Grid steps around the section.
    shape : (rows, columns)
        Of the grid; rows run along the height.
    """
    h = settings.grid_mm
    xs, ys, weights = [], [], []
    for way in ways:
        start, end = way.points_mm[:-1], way.points_mm[1:]
        length = np.hypot(*(end - start).T)
        for a, b, d in zip(start, end, length, strict=True):
            if d <= 0:
                continue
            n = max(1, math.ceil(d / (0.25 * h)))
            t = ((np.arange(n) + 0.5) / n)[:, None]
            spot = a + t * (b - a)
            xs.append(spot[:, 0])
            ys.append(spot[:, 1])
            weights.append(np.full(n, d / n / settings.arm_mm_s))
    out = np.zeros(shape[0] * shape[1])
    if xs:
        x, y = np.concatenate(xs) / h - 0.5 + margin, np.concatenate(ys) / h - 0.5 + margin
        w = np.concatenate(weights)
        i, j = np.floor(y).astype(np.intp), np.floor(x).astype(np.intp)
        fy, fx = y - i, x - j
        for di, dj, share in (
            (0, 0, (1 - fy) * (1 - fx)),
            (0, 1, (1 - fy) * fx),
            (1, 0, fy * (1 - fx)),
            (1, 1, fy * fx),
        ):
            place = (i + di) * shape[1] + j + dj
            out += np.bincount(place, weights=w * share, minlength=out.size)
    return out.reshape(shape) / (h * 1e-3) ** 2
