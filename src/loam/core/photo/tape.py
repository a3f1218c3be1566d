"""Find the tape in a photograph: the worked cell, and the untouched strip beside it.

Tape edges run straight across the whole picture. So the difference from row to row (or column to
column), taken as the median along the row, is nothing but for tape edges, whatever marks and flake
do. The picture is sheared to undo a small turn of the camera.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy import ndimage

from loam.core.photo.measure import Region
from loam.core.stats.reduce import FloatArray

WORK_PX = 480
"""Longer side at which edges are looked for."""
MOST_TURN_DEG, STEP_DEG = 3.0, 0.5
SIGMAS = 7.0
"""An edge stands out of the rest by so many robust standard deviations."""
LEAST_SD = 0.0008
"""A fifth of a step of eight bits: what a picture without any noise is taken to scatter."""
MOST_TAPE = 0.09
LEAST_AREA = 0.08
"""Shares of the picture's side: tape is narrower, a cell or strip wider."""
INSET = 0.012
"""Of the side: so far inside its tape an area begins."""


@dataclass(frozen=True)
class Found:
    """Where the cell and the strip lie, and by how much the tape is turned, degrees."""

    cell: Region
    strip: Region
    turn_deg: float


def find_tape(values: FloatArray) -> Found | None:
    """Find the worked cell (the larger area) and the strip (the smaller one) in a photograph.

    Parameters
    ----------
    values : (h, w)
        sRGB values, 0 to 1.

    Returns
    -------
    Found or None
        None where no tape is seen that parts the picture into two areas.
    """
    scale = max(1, math.ceil(max(values.shape) / WORK_PX))
    h, w = (n // scale for n in values.shape)
    small = values[: h * scale, : w * scale].reshape(h, scale, w, scale).mean(axis=(1, 3))
    small = np.asarray(np.minimum(small, np.quantile(small, 0.98)), np.float64)
    best: tuple[float, Found] | None = None
    turns = np.arange(-MOST_TURN_DEG, MOST_TURN_DEG + 0.01, STEP_DEG)
    for turn in sorted(turns, key=abs):
        rows, row_force = _edges(_sheared(small, turn))
        columns, column_force = _edges(_sheared(small.T, -turn))
        found = _areas(rows, columns, h, w)
        if found is None:
            continue
        force = row_force + column_force
        if best is None or force > best[0] * 1.02:
            cell, strip = (_region(a, scale, values.shape, turn) for a in found)
            best = (force, Found(cell, strip, float(turn)))
    return None if best is None else best[1]


def _sheared(image: FloatArray, turn_deg: float) -> FloatArray:
    """Shift every column up or down so that lines turned by a small angle lie level."""
    if abs(turn_deg) < 1e-9:
        return image
    h, w = image.shape
    drop = math.tan(math.radians(turn_deg)) * (np.arange(w) - w / 2.0)
    at = np.clip(np.arange(h)[:, None] + np.rint(drop).astype(int)[None, :], 0, h - 1)
    return np.asarray(np.take_along_axis(image, at, axis=0))


def _edges(image: FloatArray) -> tuple[list[float], float]:
    """Return where edges run along the rows, and how strongly they stand out."""
    step = image[2:] - image[:-2]
    line = np.median(step, axis=1)
    line -= ndimage.median_filter(line, size=31)
    line = ndimage.gaussian_filter1d(line, 0.8)
    spread = max(1.4826 * float(np.median(np.abs(line))), LEAST_SD)
    force = np.abs(line) / spread
    top = ndimage.maximum_filter1d(force, 7)
    at = [int(i) + 1 for i in np.flatnonzero((force == top) & (force > SIGMAS))]
    return [float(i) for i in at], float(sum(min(force[i - 1], 60.0) for i in at))


Span = tuple[float, float]
Area = tuple[Span, Span]


def _spans(edges: list[float], length: int) -> list[Span]:
    """Return the wide spans between edges; narrow ones are tape."""
    all_edges = [0.0, *edges, float(length)]
    spans = list(pairwise(all_edges))
    return [s for s in spans if s[1] - s[0] > LEAST_AREA * length]


def _areas(rows: list[float], columns: list[float], h: int, w: int) -> tuple[Area, Area] | None:
    """Return cell and strip as (rows, columns), where two areas lie beside or below each other."""
    down, across = _spans(rows, h), _spans(columns, w)
    if len(down) == 2 and len(across) == 1:
        areas = [(d, across[0]) for d in down]
        gap = down[1][0] - down[0][1]
        limit = MOST_TAPE * h
    elif len(down) == 1 and len(across) == 2:
        areas = [(down[0], a) for a in across]
        gap = across[1][0] - across[0][1]
        limit = MOST_TAPE * w
    else:
        return None
    if not 1.0 < gap < limit:
        return None
    areas.sort(key=lambda a: -(a[0][1] - a[0][0]) * (a[1][1] - a[1][0]))
    return areas[0], areas[1]


def _region(area: Area, scale: int, shape: tuple[int, ...], turn: float) -> Region:
    """Return an area in px of the whole picture, inside its tape whatever the turn."""
    h, w = shape
    (top, bottom), (left, right) = area
    lean = abs(math.tan(math.radians(turn))) / 2.0
    inset_y = INSET * h + lean * (right - left) * scale
    inset_x = INSET * w + lean * (bottom - top) * scale
    y, x = top * scale + inset_y, left * scale + inset_x
    return Region(
        round(x),
        round(y),
        max(8, round(right * scale - inset_x - x)),
        max(8, round(bottom * scale - inset_y - y)),
    )
