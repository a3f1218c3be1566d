"""How many sets the thinnest spot bears, by hand, by simulation, and through the door."""

import json
import math

import numpy as np
import pytest

from loam.app.headless import run
from loam.core.errors import ValueRefused
from loam.core.film.sets import Guess, sets_left

CASE = {
    "film": [118.0, 121.0, 109.0, 117.0, 120.0],
    "gauge_sd": 1.0,
    "clear": {"mean": 48.0, "sd": 4.0},
    "other": {"mean": 69.0, "sd": 3.0},
    "floor": 15.0,
    "share": 0.5,
    "removed": {"mean": 2.5, "sd": 0.5},
    "edge": 1.5,
    "seam": 1.2,
}


def found(**changes):
    case = CASE | changes
    return sets_left(
        case["film"],
        case["gauge_sd"],
        Guess(**case["clear"]),
        Guess(**case["removed"]),
        floor=case["floor"],
        share=case["share"],
        edge=case["edge"],
        seam=case["seam"],
    )


def test_by_hand():
    got = found()
    assert got.thinnest == 109.0
    assert got.clear.mean == pytest.approx(48.0 - (117.0 - 109.0))
    assert got.clear.sd == pytest.approx(math.sqrt(16.0 + 1.2))
    assert got.may_go == pytest.approx(min(24.0, 40.0 - 15.0))
    z = (40.0 - 3 * 1.8 * 2.5 - 15.0) / math.hypot(math.sqrt(17.2), 3 * 1.8 * 0.5)
    assert got.chances[2] == pytest.approx(0.5 * math.erfc(-z / math.sqrt(2.0)))
    assert len(got.chances) == 12
    assert list(got.chances) == sorted(got.chances, reverse=True)


def test_by_simulation():
    rng = np.random.default_rng(2)
    got = found()
    clear = rng.normal(got.clear.mean, got.clear.sd, 400_000)
    removed = rng.normal(2.5, 0.5, 400_000)
    for n in (1, 5, 8):
        share = float((clear - n * 1.8 * removed >= 15.0).mean())
        assert got.chances[n - 1] == pytest.approx(share, abs=0.003)


def test_nothing_scatters_and_nothing_may_go():
    got = found(gauge_sd=0.0, clear={"mean": 20.0, "sd": 0.0}, removed={"mean": 1.0, "sd": 0.0})
    assert got.may_go == 0.0, "the thinnest spot is below the floor"
    assert set(got.chances) == {0.0}
    exact = found(
        film=[100.0],
        gauge_sd=0.0,
        clear={"mean": 17.0, "sd": 0.0},
        removed={"mean": 1.0, "sd": 0.0},
        edge=1.0,
        seam=1.0,
    )
    assert exact.chances[:3] == (1.0, 1.0, 0.0), "the floor itself is still above"


def test_the_door_prints_it_and_refuses_what_cannot_be(tmp_path, capsys):
    path = tmp_path / "case.json"
    path.write_text(json.dumps(CASE), "utf-8")
    assert run("budget", [str(path), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    got = found()
    assert told["clear_at_thinnest"] == {"mean": got.clear.mean, "sd": got.clear.sd}
    assert [s["n"] for s in told["sets"]] == list(range(1, 13))
    assert told["sets"][3]["chance"] == got.chances[3]
    assert run("budget", [str(path)]) == 0
    assert "may go" in capsys.readouterr().out
    for spoilt in ({"film": []}, {"film": [1, "x"]}, {"share": 2.0}, {"gauge_sd": -1.0}):
        path.write_text(json.dumps(CASE | spoilt), "utf-8")
        assert run("budget", [str(path), "--json"]) == 2
        assert capsys.readouterr().err
    with pytest.raises(ValueRefused):
        found(film=[])
