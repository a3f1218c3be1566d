"""Defects removed from photographs: the reference pairs, rendered scenes, refusals."""

import io
import json
import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from scipy.integrate import quad
from scipy.stats import lognorm

from helpers.reference import ROOT
from loam.app.headless import run
from loam.core.errors import ValueRefused
from loam.core.photo import Region, measure
from loam.core.photo.depth import left, removed
from loam.core.photo.frame import frame_of, linear
from loam.simulated.camera import PAINTS, Scene, photograph
from loam.store.picture_file import read_picture

PAIRS = ROOT / "optics" / "pairs"
TRUTH = json.loads((PAIRS / "truth.json").read_text())
SMALL = Scene(3, "black", 600, 0.5)


def regions(pair):
    r = pair["regions"]
    x0, x1 = r["margin_cols"]
    return [Region(x0, top, x1 - x0, end - top) for top, end in (r["cell_rows"], r["control_rows"])]


def written(r):
    return f"{r.x},{r.y},{r.width},{r.height}"


@pytest.mark.parametrize("pair", TRUTH["pairs"], ids=lambda p: p["id"])
def test_the_reference_pairs_come_out_within_half_their_tolerance(pair, capsys):
    cell, strip = regions(pair)
    status = run(
        "photo",
        [
            str(PAIRS / pair["before"]),
            str(PAIRS / pair["after"]),
            "--paint",
            pair["paint"],
            "--cell",
            written(cell),
            "--strip",
            written(strip),
            "--json",
        ],
    )
    found = json.loads(capsys.readouterr().out)
    assert status == 0
    assert found["refused"] is False
    assert found["reason"] == ""
    truth = pair["truth"]["removed_length_depth_pct"]
    assert abs(found["removed_pct"] - truth) <= 0.5 * TRUTH["tolerance_points"][pair["paint"]]
    assert abs(found["removed_pct"] - truth) <= 2.0 * found["error_points"]
    undo = pair["prototype"]["shift_to_undo_xy"]
    assert found["shift_px"] == pytest.approx(undo, abs=0.15)


@pytest.mark.parametrize("paint", PAINTS)
def test_rendered_scenes_come_out_as_they_were_cut(paint):
    off = []
    for seed, cut, spread in ((1, 0.15, 0.4), (2, 0.4, 0.5), (3, 0.7, 0.45), (4, 1.1, 0.4)):
        pair = photograph(Scene(seed, paint, 700, cut, spread))
        found = measure(pair.before, pair.after, paint, pair.cell, pair.strip)
        assert not found.refused, found.reason
        off.append(found.removed_pct - pair.removed_pct)
        assert abs(off[-1]) <= 2.5 * found.error_points
    assert math.sqrt(np.mean(np.square(off))) <= {"black": 4.0, "silver": 10.0, "white": 8.0}[paint]


@pytest.mark.parametrize(
    "change",
    [
        {"exposure": 1.25},
        {"exposure": 0.7},
        {"shift": (9.4, -6.7)},
        {"turn_deg": 0.8},
        {"bloom": 0.6},
        {"noise": 2.0},
        {"turn_deg": -1.5, "shift": (-4.0, 8.0)},
    ],
    ids=str,
)
def test_what_a_camera_does_between_the_pictures_hardly_matters(change):
    still = photograph(SMALL)
    first = measure(still.before, still.after, "black", still.cell, still.strip)
    pair = photograph(replace(SMALL, **change))
    found = measure(pair.before, pair.after, "black", pair.cell, pair.strip)
    assert not found.refused, found.reason
    assert found.removed_pct == pytest.approx(first.removed_pct, abs=2.5)
    assert found.turn_deg == pytest.approx(-change.get("turn_deg", 0.0), abs=0.2)


def test_a_scratch_that_catches_the_nail_is_not_counted():
    pair = photograph(SMALL)
    plain = measure(pair.before, pair.after, "black", pair.cell, pair.strip)
    at = Region(pair.cell.x + 20, pair.cell.y + pair.cell.height // 2 - 60, 14, 120)
    before, after = pair.before.copy(), pair.after.copy()
    for values in (before, after):
        values[at.y + 4 : at.y + at.height - 4, at.x + 6 : at.x + 8] += 0.4
    told = measure(before, after, "black", pair.cell, pair.strip, outside=[at], keep=True)
    fooled = measure(before, after, "black", pair.cell, pair.strip)
    assert told.removed_pct == pytest.approx(plain.removed_pct, abs=2.5)
    assert fooled.removed_pct < plain.removed_pct - 5.0
    most = measure(before, after, "black", pair.cell, pair.strip, outside=[pair.cell])
    assert most.refused
    assert "no larger than it is" in most.reason


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"other_panel": True}, "another panel"),
        ({"marked_strip": False}, "no marks of its own"),
        ({"shift": (70.0, 5.0)}, "fix"),
        ({"paint": "white", "exposure": 1.5}, "expose less"),
    ],
    ids=str,
)
def test_a_pair_that_cannot_be_compared_is_refused_with_what_helps(change, said):
    scene = replace(SMALL, **change)
    pair = photograph(scene)
    found = measure(pair.before, pair.after, scene.paint, pair.cell, pair.strip)
    assert found.refused
    assert found.removed_pct is None
    assert found.error_points is None
    assert said in found.reason


def test_no_lamp_no_marks_and_a_cell_full_of_glare():
    pair = photograph(SMALL)
    dark = np.minimum(pair.before, 0.5)
    found = measure(dark, dark, "black", pair.cell, pair.strip)
    assert "No lamp spot is seen in the first picture" in found.reason
    flat = np.full_like(pair.before, 0.2)
    flat[300:320, 300:320] = 1.0
    assert measure(flat, flat, "white", pair.cell, pair.strip).refused
    same = measure(pair.before, pair.before, "black", pair.cell, pair.strip)
    assert same.removed_pct == pytest.approx(0.0, abs=1e-6)
    assert same.gain == pytest.approx(1.0)


def test_it_can_be_stopped_and_tells_how_far_it_is():
    pair = photograph(SMALL)
    told = []
    measure(pair.before, pair.after, "black", pair.cell, pair.strip, lambda s: told.append(s) or 1)
    assert told == sorted(told)
    assert len(told) >= 4
    stopped = measure(pair.before, pair.after, "black", pair.cell, pair.strip, lambda s: s < 0.5)
    assert stopped.refused
    assert "stopped" in stopped.reason


@pytest.mark.parametrize(
    ("words", "said"),
    [
        ({"paint": "red"}, "no kind of paint"),
        ({"cell": Region(0, 0, 900, 10)}, "does not lie on the picture"),
        ({"strip": Region(-1, 0, 50, 50)}, "does not lie on the picture"),
        ({"cell": Region(10, 10, 4, 40)}, "does not lie on the picture"),
    ],
)
def test_odd_regions_and_paints_are_refused(words, said):
    pair = photograph(replace(SMALL, size=300))
    given = {"paint": "black", "cell": pair.cell, "strip": pair.strip} | words
    with pytest.raises(ValueRefused, match=said):
        measure(pair.before, pair.after, given["paint"], given["cell"], given["strip"])
    other = measure(pair.before, pair.after[:-1], "black", pair.cell, pair.strip)
    assert other.refused
    assert "different size: 300 × 300 and 300 × 299 px" in other.reason
    small = measure(np.zeros((60, 60)), np.zeros((60, 60)), "black", pair.cell, pair.strip)
    assert "too small" in small.reason


@pytest.mark.parametrize(("cut", "spread"), [(0.3, 0.45), (1.0, 0.45), (1.8, 0.6), (0.05, 0.3)])
def test_what_is_left_of_log_normal_depths_is_worked_out_right(cut, spread):
    d = lognorm(spread)

    def mean(f):
        return quad(lambda x: f(x) * d.pdf(x), cut, 60, limit=200)[0]

    first, second = d.mean(), d.var() + d.mean() ** 2
    assert left(cut, spread) == pytest.approx(
        (
            mean(lambda x: x - cut) / first,
            mean(lambda x: x * (x - cut)) / second,
            mean(lambda x: (x - cut) ** 2) / second,
        ),
        rel=1e-6,
    )


@given(cut=st.floats(0.01, 8.0), spread=st.floats(0.2, 0.8))
def test_the_product_gives_the_cut_back(cut, spread):
    kept, product, square = left(cut, spread)
    assert removed(product, spread) == pytest.approx(1.0 - kept, abs=1e-6)
    assert 0.0 <= square <= product <= 1.0
    assert kept <= product + 1e-12  # deep marks, which weigh more, keep more


def test_more_gone_is_never_less_removed():
    shares = [removed(p) for p in np.linspace(1.2, -0.2, 60)]
    assert shares == sorted(shares)
    assert (shares[0], shares[-1]) == (0.0, 1.0)


def test_the_lamp_is_found_and_glare_is_left_out():
    values = np.full((200, 300), 0.2)
    yy, xx = np.mgrid[:200, :300]
    values[(xx - 120) ** 2 + (yy - 70) ** 2 < 100] = 1.0
    values[150, 250] = 1.0
    frame = frame_of(values)
    assert frame.lamp == pytest.approx((120.0, 70.0, 9.9), abs=0.2)
    assert frame.glare[70, 120 + 21]
    assert not frame.glare[70, 120 + 24]
    assert frame.glare[150, 258]
    assert not frame.glare[150, 265]
    assert linear(np.array([0.0, 0.04045, 1.0])) == pytest.approx([0.0, 0.00313, 1.0], abs=1e-5)


def picture(tmp_path, name, values, **save):
    path = tmp_path / name
    Image.fromarray((values * 255).astype(np.uint8)).save(path, **save)
    return path


def test_pictures_are_turned_as_the_camera_says_and_colours_weighed(tmp_path):
    values = np.zeros((40, 60))
    values[:10] = 1.0
    exif = Image.Exif()
    exif[0x0112] = 6  # lies on its side: turned by a quarter clockwise
    turned = read_picture(picture(tmp_path, "t.jpg", values, exif=exif, quality=98))
    assert turned.shape == (60, 40)
    assert turned[:, -5:].mean() > 0.9
    assert turned[:, :5].mean() < 0.1
    colour = np.zeros((8, 8, 3))
    colour[..., 1] = 0.5
    found = read_picture(picture(tmp_path, "c.png", colour))
    light = 0.7152 * ((127 / 255 + 0.055) / 1.055) ** 2.4
    assert float(linear(found)[0, 0]) == pytest.approx(light, rel=1e-4)
    colour[..., 0] = 1.0
    assert read_picture(picture(tmp_path, "r.png", colour)).max() == 1.0
    deep = tmp_path / "deep.png"
    Image.fromarray(np.full((9, 9), 32768, np.uint16)).save(deep)
    assert read_picture(deep)[0, 0] == pytest.approx(0.5, abs=1e-4)


def test_what_is_no_picture_is_refused(tmp_path, capsys):
    good = io.BytesIO()
    Image.fromarray(np.zeros((300, 300), np.uint8)).save(good, "PNG")
    cases = {
        "junk.png": b"not a picture" * 50,
        "cut.png": good.getvalue()[:60],
        "empty.jpg": b"",
        "text.jpg": b"\xff\xd8\xff\xe0" + b"x" * 30,
    }
    for name, content in cases.items():
        (tmp_path / name).write_bytes(content)
        with pytest.raises(ValueRefused, match="cannot be read as a picture"):
            read_picture(tmp_path / name)
    status = run(
        "photo",
        [
            str(tmp_path / "junk.png"),
            str(tmp_path / "gone.png"),
            "--paint",
            "black",
            "--cell",
            "0,0,10,10",
            "--strip",
            "0,0,10,10",
        ],
    )
    said = capsys.readouterr().err
    assert status == 2
    assert "junk.png" in said
    assert "Traceback" not in said
    status = run("photo", ["a", "b", "--paint", "black", "--cell", "1,2,3", "--strip", "x"])
    assert status == 2


def test_a_large_picture_is_made_smaller_first():
    pair = photograph(replace(SMALL, size=900))
    large = [np.kron(p, np.ones((3, 3))) for p in (pair.before, pair.after)]
    grown = [Region(3 * r.x, 3 * r.y, 3 * r.width, 3 * r.height) for r in (pair.cell, pair.strip)]
    small = measure(pair.before, pair.after, "black", pair.cell, pair.strip)
    found = measure(*large, "black", *grown)
    assert found.removed_pct == pytest.approx(small.removed_pct, abs=3.0)
