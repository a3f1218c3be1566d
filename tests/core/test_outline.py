"""Outlines: which cells of the grid can be worked, against sampling and by hand."""

import itertools
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from loam.core.errors import ValueRefused
from loam.core.outline import CREASE_MM, SHAPES, Outline, Zone, open_cells
from loam.core.panel import Taping

PLAIN = Taping(720, 560, 3, 4, 14, 44)


def all_of(taping):
    return {(c.row, c.column) for c in taping.cells()}


def test_a_plain_rectangle_keeps_every_cell():
    assert open_cells(Outline(), PLAIN) == all_of(PLAIN)
    far = Outline(keep_out=(Zone(-50, -50, 90, 90),))
    assert open_cells(far, PLAIN) == all_of(PLAIN)


def test_a_zone_takes_the_cells_that_it_touches_and_no_others():
    first = PLAIN.cells()[0]
    right = first.x_mm + first.width_mm
    inside = Outline(keep_out=(Zone(right - 1, first.y_mm + 5, 10, 10),))
    assert all_of(PLAIN) - open_cells(inside, PLAIN) == {(0, 0)}
    in_the_gap = Outline(keep_out=(Zone(right, first.y_mm + 5, PLAIN.gap_mm, 10),))
    assert open_cells(in_the_gap, PLAIN) == all_of(PLAIN)
    across = Outline(keep_out=(Zone(0, 0, 720, 60),))
    assert all_of(PLAIN) - open_cells(across, PLAIN) == {(0, c) for c in range(4)}


@pytest.mark.parametrize("shape", [s.key for s in SHAPES if s.key])
@given(rows=st.integers(2, 9), columns=st.integers(2, 9), margin=st.floats(0, 60))
def test_every_open_cell_keeps_its_distance_and_every_other_breaks_a_rule(
    shape, rows, columns, margin
):
    taping = Taping(1000, 700, rows, columns, 8, margin)
    outline = Outline(shape)
    found = open_cells(outline, taping)
    edge = dense(outline.corners(1000, 700), closed=True)
    creases = [p for line in outline.creases(1000, 700) for p in dense(line)]
    recesses = outline.recesses(1000, 700)
    for cell in taping.cells():
        rim = min(gap(cell, p) for p in edge)
        crease = min(gap(cell, p) for p in creases)
        recess = min((apart(cell, z) for z in recesses), default=1e9)
        middle = (cell.x_mm + cell.width_mm / 2, cell.y_mm + cell.height_mm / 2)
        inside = winding(outline.corners(1000, 700), *middle)
        slack = min(abs(rim - margin), abs(crease - CREASE_MM), abs(recess - CREASE_MM))
        if slack < 3.0:  # the sampled lines are that coarse
            continue
        fits = inside and rim > margin and crease > CREASE_MM and recess > CREASE_MM
        assert ((cell.row, cell.column) in found) == fits


def dense(line, *, closed=False):
    points = [*line, line[0]] if closed else line
    found = []
    for (ax, ay), (bx, by) in itertools.pairwise(points):
        steps = max(2, int(math.hypot(bx - ax, by - ay) / 2))
        found += [(ax + (bx - ax) * i / steps, ay + (by - ay) * i / steps) for i in range(steps)]
    return [*found, points[-1]]


def gap(cell, p):
    x = max(cell.x_mm - p[0], 0.0, p[0] - cell.x_mm - cell.width_mm)
    y = max(cell.y_mm - p[1], 0.0, p[1] - cell.y_mm - cell.height_mm)
    return math.hypot(x, y)


def apart(cell, zone):
    """Return by how much a zone clears a cell, along the better axis."""
    x = max(cell.x_mm - zone.x_mm - zone.width_mm, zone.x_mm - cell.x_mm - cell.width_mm)
    y = max(cell.y_mm - zone.y_mm - zone.height_mm, zone.y_mm - cell.y_mm - cell.height_mm)
    return max(x, y)


def winding(corners, x, y):
    """Tell by the sum of angles whether a polygon holds a point."""
    total = 0.0
    for (ax, ay), (bx, by) in zip(corners, [*corners[1:], corners[0]], strict=True):
        a, b = math.atan2(ay - y, ax - x), math.atan2(by - y, bx - x)
        total += (b - a + math.pi) % (2 * math.pi) - math.pi
    return abs(total) > math.pi


def test_an_outline_comes_back_as_it_was_written():
    outline = Outline("door", (Zone(10, 20.5, 30, 40),))
    assert Outline.from_plain(outline.as_plain()) == outline
    assert Outline.from_plain([]) == Outline.from_plain({}) == Outline()


@pytest.mark.parametrize(
    "value",
    [
        7,
        [1],
        {"shape": 3},
        {"shape": "boat"},
        {"keep_out": 5},
        {"keep_out": [[1, 2, 3]]},
        {"keep_out": [[1, 2, 3, True]]},
        {"keep_out": [[0, 0, -1, 5]]},
        {"other": 1},
        {"keep_out": [[0, 0, math.nan, 5]]},
        {"keep_out": [[math.inf, 0, 5, 5]]},
        {"keep_out": [[0, 0, 5, 5]] * 25},
    ],
)
def test_what_is_no_outline_is_refused(value):
    with pytest.raises(ValueRefused):
        Outline.from_plain(value)


def test_every_drawn_outline_lies_on_its_panel():
    for shape in SHAPES:
        points = [*shape.corners, *(p for line in shape.creases for p in line)]
        points += [(x + w, y + h) for x, y, w, h in shape.recesses]
        points += [(x, y) for x, y, _, _ in shape.recesses]
        assert all(0.0 <= x <= 1.0 and 0.0 <= y <= 1.0 for x, y in points), shape.key
        xs, ys = zip(*shape.corners, strict=True)
        assert (max(xs), min(ys)) == (1.0, 0.0)
        assert min(xs) == 0.0
        assert max(ys) == pytest.approx(1.0)
