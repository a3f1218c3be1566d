"""Where things lie in a drawing, and what lies at a point: no Qt, no pixels."""

import math
from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from loam.app.drawings import Rect
from loam.app.drawings.core import LEAST as LEAST_LAYER
from loam.app.drawings.core import bands, border_at, dragged
from loam.app.drawings.panel import (
    face_at,
    face_beside,
    face_box,
    fitting_code,
    panel_box,
    tape_pieces,
)
from loam.app.drawings.tiles import GAP, LEAST, tile
from loam.app.presenters.axis import marks_of
from loam.app.presenters.picture import CellFace, PanelPicture
from loam.core.panel import Taping, cell_code, cell_place
from loam.core.scale import Scale


def picture(rows=3, columns=4, width=720.0, height=560.0):
    taping = Taping(width, height, rows, columns, 14.0, 44.0)
    faces = tuple(
        CellFace(i, r.code, r.x_mm, r.y_mm, r.width_mm, r.height_mm)
        for i, r in enumerate(taping.cells(), 1)
    )
    return PanelPicture(1, "Heron", "soft", "", taping, faces)


@pytest.mark.parametrize(
    ("area", "box"),
    [
        (Rect(0, 0, 720, 560), Rect(0, 0, 720, 560)),
        (Rect(0, 0, 360, 560), Rect(0, 0, 360, 280)),
        (Rect(10, 20, 720, 280), Rect(190, 20, 360, 280)),
    ],
)
def test_a_panel_lies_to_scale_centred_at_the_top(area, box):
    assert panel_box(area, picture()) == pytest.approx(box)


def test_a_cell_lies_where_its_millimetres_say():
    """At half scale K1 begins at 22, 22 and is (720 - 88 - 42) / 4 / 2 = 73.75 wide."""
    shown = picture()
    panel = Rect(0, 0, 360, 280)
    assert face_box(panel, shown, shown.faces[0]) == pytest.approx(
        Rect(22, 22, 73.75, (560 - 88 - 28) / 6)
    )
    second = face_box(panel, shown, shown.faces[1])
    assert second.x == pytest.approx(22 + 73.75 + 7)


def test_a_point_on_a_cell_finds_it_and_on_tape_nothing():
    shown, panel = picture(), Rect(0, 0, 360, 280)
    for face in shown.faces:
        box = face_box(panel, shown, face)
        assert face_at(panel, shown, *box.middle) is face
        assert face_at(panel, shown, box.x, box.y) is face
        assert face_at(panel, shown, box.right + 1, box.y + 1) is not face
    assert face_at(panel, shown, 1, 1) is None
    first = face_box(panel, shown, shown.faces[0])
    assert face_at(panel, shown, first.right + 3, first.y + 5) is None


@pytest.mark.parametrize(
    ("code", "move", "other"),
    [
        ("K1", (0, 1), "K2"),
        ("K1", (1, 0), "L1"),
        ("L2", (-1, 0), "K2"),
        ("L2", (0, -1), "L1"),
        ("K1", (-1, 0), None),
        ("K1", (0, -1), None),
        ("M4", (1, 0), None),
        ("M4", (0, 1), None),
    ],
)
def test_the_cell_beside_is_found_on_the_panel_as_it_lies(code, move, other):
    shown = picture()
    face = next(f for f in shown.faces if f.code == code)
    found = face_beside(shown, face, *move)
    assert (found.code if found else None) == other


def test_tape_goes_as_far_as_there_are_cells_beside_it():
    whole = picture(3, 4)
    t = whole.taping
    strips = tape_pieces(whole, 5.0)
    down, across = [s for s, d in strips if d], [s for s, d in strips if not d]
    assert (len(down), len(across)) == (3, 2)
    assert all(s.width == t.gap_mm for s in down)
    assert all(s.height == pytest.approx(t.height_mm - 2 * t.margin_mm + 10.0) for s in down)
    assert across[0].y == pytest.approx(t.margin_mm + t.cell_height_mm)
    hole = [f for f in whole.faces if f.code not in ("K1", "K2", "L2", "M4")]
    cut = tape_pieces(replace(whole, faces=tuple(hole)), 0.0)
    first = next(s for s, d in cut if d)
    assert first.y == pytest.approx(t.margin_mm + t.cell_height_mm + t.gap_mm)  # not beside K1, K2
    assert len([s for s, d in cut if d]) == 3
    alone = tape_pieces(replace(whole, faces=(whole.faces[0], whole.faces[11])), 0.0)
    assert [round(s.height) for s, d in alone if d] == [round(t.cell_height_mm)] * 2


@pytest.mark.parametrize(
    ("code", "letters", "shown"),
    [
        ("A", 1, "A"),
        ("Wool+Cut", 8, "Wool+Cut"),
        ("Wool+Cut", 6, "Wool…t"),
        ("C12", 2, "C1"),
        ("Wool+Cut", 3, "W…t"),
        ("Wool+Cut", 0, ""),
        ("Wool+Cut", -2, ""),
    ],
)
def test_a_long_code_keeps_its_beginning_and_its_end(code, letters, shown):
    assert fitting_code(code, letters) == shown
    assert len(shown) <= max(letters, 0)


def test_eight_panels_fill_a_wide_room_in_two_lines():
    tiles = tile(900, 400, 8, 1.2)
    assert len({b.y for b in tiles.boxes}) == 2
    assert len(tiles.boxes) == 8
    assert tiles.at(*tiles.boxes[5].middle) == 5
    assert tiles.at(899, 399) is None


@given(st.floats(80, 3000), st.floats(70, 2000), st.integers(1, 600), st.integers(0, 700))
def test_tiles_lie_inside_and_every_thing_has_its_page(width, height, count, first):
    tiles = tile(width, height, count, 1.18, first, 40)
    assert tiles.count == count
    assert len(tiles.boxes) <= 40
    for box in tiles.boxes:
        assert box.right <= width + 1e-6
        assert box.bottom <= height + 1e-6
    if tiles.boxes:
        assert tiles.first <= min(first, count - 1) < tiles.first + max(len(tiles.boxes), 1)
        if len(tiles.boxes) > 1 and count > len(tiles.boxes):
            assert tiles.boxes[0].width >= min(LEAST, width) - GAP - 1e-6


def test_no_room_shows_nothing():
    assert tile(10, 10, 5, 1.2).boxes == ()
    assert tile(500, 500, 0, 1.2).boxes == ()


@given(st.integers(0, 59), st.integers(0, 59))
def test_a_cells_name_is_read_back_to_its_place(row, column):
    assert cell_place(cell_code(row, column)) == (row, column)
    assert cell_place(cell_code(row, column).lower()) == (row, column)


@pytest.mark.parametrize("code", ["", "A1", "K0", "K", "1", "K61", "KL1", "K1x", "²", "K²"])
def test_what_is_no_cells_name_has_no_place(code):
    assert cell_place(code) is None


@given(st.lists(st.floats(0.0, 400.0), min_size=1, max_size=4), st.floats(60.0, 900.0))
def test_layers_fill_the_drawing_and_none_is_too_thin_for_its_figure(thick, height):
    layers = [(f"layer {i}", t) for i, t in enumerate(thick)]
    found = bands(layers, 10.0, height)
    assert [b.name for b in found] == [name for name, _ in layers]
    assert found[0].top == 10.0
    if max(thick) > 1.0:
        assert found[-1].bottom == pytest.approx(10.0 + height)
    least = min(LEAST_LAYER, height / len(layers))
    assert all(b.height >= least - 1e-6 for b in found)
    for above, below in pairwise(found):
        assert above.bottom == pytest.approx(below.top)


def test_a_border_is_dragged_by_the_scale_of_its_layer():
    found = bands([("clear", 60.0), ("base", 15.0), ("primer", 30.0)], 0.0, 630.0)
    clear = border_at(found, 3.0)
    assert clear.name == "clear"
    assert border_at(found, found[1].top - 6.0).name == "base"
    assert border_at(found, found[1].top - 30.0) is None
    assert dragged(clear, -clear.scale * 5.0, 60.0) == pytest.approx(65.0)
    assert dragged(clear, 1e6, 60.0) == 0.0
    assert bands([], 0.0, 100.0) == []


@given(st.floats(80.0, 1500.0), st.floats(80.0, 900.0), st.integers(1, 40), st.floats(0.4, 2.5))
def test_things_are_laid_out_as_large_as_they_can_be(width, height, count, aspect):
    found = tile(width, height, count, aspect)
    if not found.boxes:
        return
    widest = 0.0
    for across in range(1, count + 1):
        down = -(-count // across)
        across_room = (width - GAP * (across - 1)) / across
        down_room = (height - GAP * (down - 1)) / down * aspect
        for wide in (260.0, across_room, down_room):
            fits = wide <= across_room + 1e-6 and wide <= down_room + 1e-6 and wide <= 260.0
            widest = max(widest, wide if fits else 0.0)
    if widest >= LEAST:
        assert found.boxes[0].width == pytest.approx(widest)
        assert len(found.boxes) == count
    assert all(b.right <= width + 1e-6 and b.bottom <= height + 1e-6 for b in found.boxes)


@pytest.mark.parametrize("name", ["logit", "log1p"])
def test_marks_of_a_bent_axis_are_round_and_in_order(name):
    scale = Scale(name, 0.0, 100.0 if name == "logit" else 2000.0, 0.5)
    low, high = (float(v) for v in scale.to(np.array([scale.least, scale.most])))
    marks = marks_of(scale, low, high, 400)
    assert len(marks) > 15
    assert marks == sorted(set(marks))
    lead = [v / 10.0 ** math.floor(math.log10(v)) for v in marks if v]
    usual = (1, 1.2, 1.5, 2, 2.5, 3, 4, 5, 6, 7, 8, 8.5, 9, 9.5, 9.8, 9.9)
    assert all(any(abs(x - u) < 1e-9 for u in usual) for x in lead)


@pytest.mark.parametrize("aspect", [0.5, 1.2, 2.0])
def test_a_page_of_small_tiles_is_as_full_as_it_can_be(aspect):
    width, height = 4.5 * LEAST, 6.5 * LEAST / aspect
    page = tile(width, height, 500, aspect)
    across = sum(box.y == page.boxes[0].y for box in page.boxes)
    down = len(page.boxes) / across
    assert across == int((width + GAP) // (LEAST + GAP))
    assert down == int((height + GAP) // (LEAST / aspect + GAP))
