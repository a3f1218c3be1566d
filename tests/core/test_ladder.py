"""The ladder: worked cases, brute force over all sequences, properties, refusals, speed of size."""

import itertools
import json
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from helpers.reference import ROOT
from loam.app.headless import run
from loam.app.headless.ladder import case_of, figures
from loam.core.errors import ValueRefused
from loam.core.ladder import Cloud, Ladder, Limit, Measured, Prices, Rung
from loam.core.scale import Scale
from loam.store.json_file import Fields

CASES = json.loads((ROOT / "ladder" / "ladder_cases.json").read_text("utf-8"))


def same(found, wanted, path=""):
    if isinstance(wanted, dict):
        assert set(found) == set(wanted), path
        for key, value in wanted.items():
            same(found[key], value, f"{path}/{key}")
    elif isinstance(wanted, list):
        assert len(found) == len(wanted), path
        for i, value in enumerate(wanted):
            same(found[i], value, f"{path}/{i}")
    elif isinstance(wanted, bool | str):
        assert found == wanted, path
    else:
        assert found == pytest.approx(wanted, abs=1e-8), path


@pytest.mark.parametrize("case", CASES, ids=lambda c: c["case"]["name"])
def test_worked_cases(case, tmp_path, capsys):
    ladder, house, spots = case_of(Fields(case["case"], "the case"))
    same(figures(ladder, house, spots), case["expected"])
    path = tmp_path / "case.json"
    path.write_text(json.dumps(case["case"]), "utf-8")
    assert run("ladder", [str(path), "--json"]) == 0
    same(json.loads(capsys.readouterr().out), case["expected"])
    assert run("ladder", [str(path)]) == 0
    assert "Order, mildest first" in capsys.readouterr().out


def made(seed, rungs, particles=40, *, increasing=True, give_up=6.0, budget=True):
    rng = np.random.default_rng(seed)
    hidden = rng.normal(0.0, 1.0, (particles, 1))
    x = hidden + np.linspace(-0.5, 1.5, rungs) + rng.normal(0.0, 0.3, (particles, rungs))
    clear = np.abs(np.linspace(0.4, 3.0, rungs) + rng.normal(0.0, 0.2, (particles, rungs)))
    weights = rng.dirichlet(np.ones(particles))
    limit = rng.uniform(2.0, 9.0, particles) if budget else np.full(particles, np.inf)
    cloud = Cloud(("hard",), np.zeros(particles, int), weights, x[None], clear, limit)
    measured = [Measured("y", Scale("identity", -np.inf, np.inf), 0.4)]
    aim = [Limit(0, 0.8, True)]
    own = [Rung(f"R{k}", 5.0 + k, 60.0 + 10.0 * k) for k in range(rungs)]
    prices = Prices(0.02, 0.3, give_up, increasing, 0.9, 0.6)
    return Ladder(cloud, measured, aim, own, prices)


@given(st.integers(0, 10_000), st.integers(1, 5), st.booleans())
@settings(max_examples=40, deadline=None)
def test_the_best_sequence_is_the_best_of_all(seed, rungs, increasing):
    ladder = made(seed, rungs, increasing=increasing)
    w = ladder.cloud.weights
    allowed = ladder.allowed(w)
    place = {k: i for i, k in enumerate(ladder.order)}
    sequences = [
        s
        for n in range(rungs + 1)
        for s in itertools.permutations([k for k in range(rungs) if allowed[k]], n)
        if not increasing or list(s) == sorted(s, key=place.get)
    ]
    least = min(ladder.plan(w, s).cost for s in sequences)
    found = ladder.best(w)
    assert found.cost == pytest.approx(least, abs=1e-8)
    assert list(found.sequence) in [list(s) for s in sequences]
    assert found.accept + found.give_up == pytest.approx(1.0)
    assert found.reach <= found.accept + 1e-12
    schools = ladder.schools(0)
    assert all(found.cost <= plan.cost + 1e-9 for plan in schools.values())


def test_nothing_is_tried_where_nothing_is_worth_it():
    ladder = made(3, 4, give_up=0.001)
    assert ladder.start().best.sequence == ()
    assert ladder.start().best.cost == pytest.approx(0.001)


def test_twelve_rungs_and_4096_particles_are_worked_out_exactly():
    ladder = made(1, 12, 4096, budget=False)
    found = ladder.start().best
    assert found.cost <= min(p.cost for p in ladder.schools(5).values())
    for k in range(12):  # no rung added, dropped or swapped makes it better
        for other in (
            [r for r in found.sequence if r != k],
            sorted({*found.sequence, k}, key=ladder.order.index),
        ):
            assert found.cost <= ladder.plan(ladder.cloud.weights, other).cost + 1e-9


def test_vehicles_drawn_from_the_cloud_cost_what_was_said():
    """The start plan, followed as it stands on simulated vehicles, costs J on average."""
    ladder = made(8, 4, 300)
    plan = ladder.start().best
    rng = np.random.default_rng(4)
    costs, reached = [], 0
    for _ in range(4000):
        i = rng.choice(ladder.cloud.weights.size, p=ladder.cloud.weights)
        cost, done = 0.0, False
        for k in plan.sequence:
            cost += ladder.spot[i, k]
            reading = ladder.cloud.results[0, i, k] + 0.4 * rng.normal()
            if reading >= 0.8:
                cost += ladder.take[i, k]
                reached += ladder.met[i, k] > 0
                done = True
                break
        costs.append(cost if done else cost + ladder.prices.give_up)
    error = np.std(costs) / math.sqrt(len(costs))
    assert abs(np.mean(costs) - plan.cost) < 3.5 * error
    assert reached / 4000 == pytest.approx(plan.reach, abs=0.03)


def changed(**changes):
    case = json.loads(json.dumps(CASES[1]["case"]))
    case.update(changes)
    return case


def _all_chances(case, value):
    for c in case["classes"]:
        c["chance"] = value


SPOILT = {
    "no chance": lambda c: _all_chances(c, 0.0),
    "a negative chance": lambda c: c["classes"][0].update(chance=-0.1),
    "a rung missing in a draw": lambda c: c["classes"][0]["draws"][0]["clear"].pop("F"),
    "no aim": lambda c: c.update(aim=[]),
    "an aim on nothing": lambda c: c["aim"][0].update(measurand="shine"),
    "thirteen rungs": lambda c: c.update(
        rungs=[{"name": str(i), "spot_minutes": 1, "vehicle_minutes": 1} for i in range(13)]
    ),
    "a rung tried twice": lambda c: c.update(spots=[c["spots"][0]] * 2),
    "an unknown rung": lambda c: c["spots"][0].update(rung="Z"),
    "not finite": lambda c: c.update(give_up=float("inf")),
    "a reading out of range": lambda c: c["spots"][0]["read"].update(removed=101),
    "an unknown field": lambda c: c.update(colour="red"),
    "an unknown house": lambda c: c.update(house="Z"),
    "a share of 2": lambda c: c.update(spot_weight=2.0),
}


@pytest.mark.parametrize("name", SPOILT)
def test_what_cannot_be_is_refused_with_what_and_where(name, tmp_path, capsys):
    case = changed()
    SPOILT[name](case)
    if name != "not finite":  # no JSON at all: the file itself is refused
        with pytest.raises(ValueRefused):
            case_of(Fields(case, "the case"))
    path = tmp_path / "case.json"
    path.write_text(json.dumps(case), "utf-8")
    assert run("ladder", [str(path), "--json"]) == 2
    told = capsys.readouterr()
    assert told.out == ""
    assert len(told.err) > 12


def test_chances_are_scaled_and_may_lack():
    case = changed()
    for c in case["classes"]:
        c["chance"] *= 3.0
    ladder, house, spots = case_of(Fields(case, "the case"))
    same(figures(ladder, house, spots), CASES[1]["expected"])
    for c in case["classes"]:
        del c["chance"]
    ladder, _, _ = case_of(Fields(case, "the case"))
    assert list(ladder.start().classes.values()) == pytest.approx([1 / 3] * 3)


def test_a_reading_like_no_panel_stops_with_the_decision():
    case = json.loads(json.dumps(CASES[0]["case"]))
    case["spots"] = [{"rung": "A", "read": {"removed": 61}}, {"rung": "B", "read": {"removed": 90}}]
    ladder, house, spots = case_of(Fields(case, "the case"))
    after = figures(ladder, house, spots)["after"]
    assert len(after) == 1, "it stops"
    assert after[0]["decision"] == "unlike the panels"
    far = changed(spots=[{"rung": "F", "read": {"removed": 99.9, "haze": 80}}])
    ladder, house, spots = case_of(Fields(far, "the case"))
    assert "haze" in figures(ladder, house, spots)["after"][0]["unlike"]
