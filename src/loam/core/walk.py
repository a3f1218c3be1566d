"""In which order cells are read: the shortest walk, or at random; and where the meter is put."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

import numpy as np

WALK, RANDOM = "walk", "random"
MOST_TURNED = 120
"""Cells of a panel up to which the walk is bettered by turning parts of it round."""
QUARTER = 90
Point = tuple[float, float]
Place = tuple[int, int, int]
"""A cell's id, row and column."""


def length(points: Sequence[Point]) -> float:
    """Return the length of a walk from point to point."""
    return sum(math.dist(a, b) for a, b in pairwise(points))


def shortest_walk(places: Sequence[Place], width: float = 1.0, height: float = 1.0) -> list[int]:
    """Return the cells of one panel in the order of a short walk, from a corner on.

    To and fro by rows or by columns, whichever is shorter, then bettered by turning parts round
    (2-opt) until none helps. On a whole grid it is as short as a walk can be.

    Parameters
    ----------
    places : sequence of (id, row, column)
    width, height : float
        Of a cell with its gap, mm.
    """
    at = {i: (column * width, row * height) for i, row, column in places}

    def to_and_fro(line: int, along: int) -> list[int]:
        lines: dict[int, list[Place]] = {}
        for place in places:
            lines.setdefault(place[line], []).append(place)
        walk: list[int] = []
        for k, key in enumerate(sorted(lines)):
            own = sorted(lines[key], key=lambda p: p[along], reverse=bool(k % 2))
            walk += [p[0] for p in own]
        return walk

    walks = [to_and_fro(1, 2), to_and_fro(2, 1)]
    best = min(walks, key=lambda walk: length([at[i] for i in walk]))
    return _turned(best, at) if len(best) <= MOST_TURNED else best


def _turned(walk: list[int], at: dict[int, Point]) -> list[int]:
    """Turn parts of a walk round as long as that makes it shorter; its start stays."""
    n = len(walk)
    shorter = n > 3
    while shorter:
        shorter = False
        for i in range(1, n - 1):
            for j in range(i + 1, n):
                before, first, last = at[walk[i - 1]], at[walk[i]], at[walk[j]]
                now, then = math.dist(before, first), math.dist(before, last)
                if j + 1 < n:
                    after = at[walk[j + 1]]
                    now += math.dist(last, after)
                    then += math.dist(first, after)
                if then < now - 1e-9:
                    walk[i : j + 1] = walk[i : j + 1][::-1]
                    shorter = True
    return walk


def drawn(ids: Sequence[int], seed: int) -> list[int]:
    """Return cells in an order drawn by lot; the same seed draws the same."""
    return [ids[i] for i in np.random.default_rng(seed).permutation(len(ids))]


def spot(number: int, zone_mm: float) -> tuple[Point, int]:
    """Return where in a cell a reading is taken (mm from its middle) and how the meter lies.

    The middle first, then the corners of a square half as far out as the even ground reaches; the
    meter is turned a quarter each time, so that grain and slope of the panel cancel.

    Parameters
    ----------
    number : int
        Of the reading, from 0.
    zone_mm : float
        Diameter of the even ground.
    """
    turn = number % 4 * QUARTER
    place = number % 5
    if place == 0:
        return (0.0, 0.0), turn
    out = zone_mm / 4.0 / math.sqrt(2.0)
    across, down = ((-1, -1), (1, -1), (1, 1), (-1, 1))[place - 1]
    return (round(across * out, 1), round(down * out, 1)), turn
