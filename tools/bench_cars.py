"""Is what is promised of a car true? Simulated vehicles; and how fast the stairs follow an aim."""

import sqlite3
import tempfile
import time
from dataclasses import replace
from pathlib import Path

import numpy as np
from measuring import median_ms, report

DOUBLE = np.sqrt(3.0)
"""A shift of so many times the vehicles' spread more doubles that spread."""


def _followed(ladder, truth, plan, rng):
    """Follow a plan as it stands on every vehicle; return who was reached, and the mean cost."""
    from loam.core.ladder import Ladder

    own = Ladder(truth, ladder.measured, ladder.aim, ladder.rungs, ladder.prices)
    reached, cost = np.zeros(len(truth.weights)), np.zeros(len(truth.weights))
    left = np.ones(len(truth.weights), dtype=bool)
    for k in plan.sequence:
        met = rng.random(len(left)) < own.passes[:, k]
        cost += left * own.spot[:, k]
        now = left & met
        cost += now * own.take[:, k]
        reached += now * own.met[:, k]
        left &= ~met
    cost += left * ladder.prices.give_up
    return reached.mean(), cost


def bench_cars(vehicles=4000):
    """Measure reach, cost and coverage on simulated vehicles of the demo, and the speed."""
    from loam.app.applying.at_hand import jobs_in
    from loam.app.applying.rests import rests_on
    from loam.app.applying.stairs import grounds_of, limits_of, work_out
    from loam.app.applying.told import PRICES
    from loam.core.ladder import Ladder, Rung
    from loam.core.vehicle.particles import learnt_draws, measured_of, particles
    from loam.demo.scenario import make_demo

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "demo.loam"
        make_demo(path)
        db = sqlite3.connect(path)
        job = next(job for _, job in jobs_in(db) if not job.spots)
        db.close()
        rests = rests_on(path, job.trial, [w.measurand for w in job.aim], job.chances)
    ground = grounds_of(job, rests, (22.0, 8.0), {})
    rungs = [Rung(c, 6.0, 600.0) for c in rests.codes]
    cloud = particles(ground, np.random.default_rng(1))
    ladder = Ladder(cloud, measured_of(ground), limits_of(job, rests), rungs, PRICES)
    plan, mild = ladder.start().best, ladder.schools()["least first"]
    same = particles(ground, np.random.default_rng(2), vehicles)
    rng = np.random.default_rng(3)
    wide = same.results.copy()
    for q, m in enumerate(m for m in ground.promises if m != "removed"):
        _, spread = learnt_draws(ground.promises[m], None, wide.shape[1], rng)
        wide[q] += (DOUBLE * spread * rng.standard_normal(wide.shape[1]))[:, None]
    for name, truth in (("of the model", same), ("twice as apart", replace(same, results=wide))):
        reached, cost = _followed(ladder, truth, plan, rng)
        _, other = _followed(ladder, truth, mild, rng)
        off = 100 * abs(reached - plan.reach)
        told = f"cars {name}: P(reached) {100 * plan.reach:.1f} % is off by"
        if name == "of the model":
            report(told, off, 3.0, "points")
        else:
            print(f"{told} {off:.1f} points (said, not hidden)")
        report(f"cars {name}: cost beside mildest first", cost.mean() / other.mean(), 1.0, "x")
        for q, m in enumerate(ladder.measured):
            noise = m.spot_sd * rng.standard_normal(len(cloud.weights))
            low, high = np.quantile(cloud.results[q][:, 0] + noise, (0.05, 0.95))
            seen = truth.results[q][:, 0] + m.spot_sd * rng.standard_normal(truth.results.shape[1])
            share = 100 * np.mean((seen >= low) & (seen <= high))
            if name == "of the model":
                report(
                    f"cars {name}: 90 % ranges of {m.name} off by", abs(share - 90), 3.0, "points"
                )
            else:
                print(f"cars {name}: 90 % ranges of {m.name} hold {share:.0f} %")
    took = []
    for i in range(5):
        aim = tuple(replace(w, at_least=80.0 + i) if w.at_least else w for w in job.aim)
        begin = time.perf_counter()
        work_out(replace(job, aim=aim), rests)
        took.append(time.perf_counter() - begin)
    report("stairs after an aim is moved", 1000 * sorted(took)[2], 100.0, "ms")
    report("a ladder of 12 rungs and 4,096 vehicles, exactly", median_ms(_twelve, 3), 300.0, "ms")


def _twelve():
    """Work out the best sequence of twelve rungs."""
    from loam.core.ladder import Cloud, Ladder, Limit, Measured, Prices, Rung, scaled
    from loam.core.scale import Scale

    rng = np.random.default_rng(12)
    n, k = 4096, 12
    results = rng.normal(np.linspace(70.0, 95.0, k), 8.0, (1, n, k))
    clear = np.maximum(rng.normal(np.linspace(1.0, 6.0, k), 0.5, (n, k)), 0.0)
    held = np.zeros(n, dtype=int)
    cloud = scaled(Cloud(("hard",), held, np.ones(n), results, clear, np.full(n, 20.0)))
    measured = [Measured("removed", Scale("identity", 0.0, 100.0), 3.0)]
    rungs = [Rung(str(i), 5.0, 300.0) for i in range(k)]
    Ladder(cloud, measured, [Limit(0, 85.0, True)], rungs, Prices(0.005, 0.1, 12.0)).start()


if __name__ == "__main__":
    bench_cars()
