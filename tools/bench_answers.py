"""Is what Judge says beside the ranking true? Predictions, advice, priorities; and many trials."""

import os
import statistics
import time
from concurrent.futures import ProcessPoolExecutor

import numpy as np
from measuring import report


def _predicted(seed):
    """Predict what was not tried in so many crossings; count intervals that hold it."""
    from helpers.questions import crossing
    from loam.core.drivers import take_apart

    rng = np.random.default_rng([seed, 31])
    hits, levels, count = 0, 0, 0
    for _ in range(20):
        each, together = rng.choice([0.5, 1.0, 2.0]), rng.choice([0.1, 0.3, 0.6])
        columns, drawn, truth, out = crossing(rng, each=each, together=together, draws=512)
        found = take_apart(columns, drawn, rng)
        tried = np.mean([truth[p, c] for p in range(3) for c in range(3) if (p, c) != out])
        low, high = np.quantile(found.predict([*out], rng) - found.means.mean(axis=1), (0.05, 0.95))
        hits += low <= truth[out] - tried <= high
        pad = truth.mean(axis=1) - truth.mean()
        own = found.effects[0] - found.effects[0].mean(axis=1, keepdims=True)
        low, high = np.quantile(own, (0.05, 0.95), axis=0)
        levels += int(((low <= pad) & (pad <= high)).sum())
        count += pad.size
    return hits, 20, levels, count


def bench_predictions(trials):
    """Count how often 90 % intervals of what was not tried, and of levels, hold the truth."""
    with ProcessPoolExecutor(2) as pool:
        found = list(pool.map(_predicted, range(max(trials // 20, 1))))
    hits, count, levels, of = (sum(f[i] for f in found) for i in range(4))
    share = 100 * hits / count
    report(f"predictions: 90 % intervals that hold, of {count}", share, 86, "%", at_least=True)
    report(
        f"drivers: 90 % intervals of levels that hold, of {of}",
        100 * levels / of,
        86,
        "%",
        at_least=True,
    )


def _crossed(what):
    """Predict what was left out of so many crossings of one kind."""
    from helpers.questions import CROSSINGS, predicted_in

    name, seed = what
    rng = np.random.default_rng([seed, 37])
    found = [predicted_in(rng, CROSSINGS[name]) for _ in range(20)]
    return sum(f[0] for f in found), sum(f[1] for f in found)


def bench_crossings(trials):
    """Count, by kind of crossing, how often predictions hold what was left out."""
    from helpers.questions import CROSSINGS

    with ProcessPoolExecutor(2) as pool:
        for name in CROSSINGS:
            asked = [(name, seed) for seed in range(max(trials // 60, 1))]
            hits, count = (sum(x) for x in zip(*pool.map(_crossed, asked), strict=True))
            share = 100 * hits / max(count, 1)
            report(f"predictions, {name}, of {count}", share, 85, "%", at_least=True)
            report(f"predictions, {name}, of {count}", share, 95, "%")


def _alike(seed):
    from helpers.questions import falsely_ahead

    return falsely_ahead(np.random.default_rng([seed, 3]))


def bench_alike(trials):
    """Add cells to two that are alike until a verdict falls; count how often one is ahead."""
    with ProcessPoolExecutor(2) as pool:
        share = 100 * statistics.mean(pool.map(_alike, range(trials)))
    report(f"two alike, until a verdict: one ahead, of {trials}", share, 10, "%")


def _advised(seed):
    """Settle one trial by advice, and by two combinations drawn by lot."""
    from helpers.questions import settled_after

    means = 84.0 + np.random.default_rng([seed, 17]).normal(0, 1.2, 5)
    lot = np.random.default_rng([seed, 19])
    advised = settled_after(np.random.default_rng([seed, 18]), means, lambda _, pair: pair)
    drawn = settled_after(
        np.random.default_rng([seed, 18]),
        means,
        lambda names, _: lot.choice(names, 2, replace=False),
    )
    return advised, drawn


def bench_advice(trials):
    """Compare how many pairs of cells settle the leader, as advised and drawn by lot."""
    with ProcessPoolExecutor(2) as pool:
        found = [f for f in pool.map(_advised, range(trials)) if max(f)]
    advised, drawn = (statistics.mean(f[i] for f in found) for i in range(2))
    said = f"advice: pairs of cells to settle ({advised:.1f}) against by lot ({drawn:.1f})"
    report(f"{said}, {len(found)} trials", advised / drawn, 0.9, "×")


def bench_priorities(trials):
    """Hold the chance of the winner by priorities against how often it is the true winner."""
    from loam.core.priorities import Criterion, decide

    rng = np.random.default_rng(23)
    criteria = [Criterion("gloss", 78, 92), Criterion("removed", 40, 100), Criterion("clear", 7, 0)]
    spread, error = np.array([2.0, 10.0, 1.2]), np.array([0.6, 4.0, 0.4])
    centre = np.array([85.0, 75.0, 3.0])
    chance, right = [], []
    for _ in range(trials):
        truth = centre + spread * rng.standard_normal((5, 3))
        seen = truth + error * rng.standard_normal((5, 3))
        # the posterior under the spread that the truths were drawn with
        keep = spread**2 / (spread**2 + error**2)
        middle, sd = centre + keep * (seen - centre), error * np.sqrt(keep)
        drawn = middle + sd * rng.standard_normal((1024, 5, 3))
        weights = rng.dirichlet(np.ones(3))

        def worth(y):
            return np.stack([c.worth(y[..., i]) for i, c in enumerate(criteria)], axis=-1)

        found = decide(worth(drawn), weights)
        true = decide(worth(truth[None]), weights).mean
        first = int(found.p_best.argmax())
        chance.append(float(found.p_best[first]))
        right.append(first == int(true.argmax()))
    off = 100 * abs(float(np.mean(chance)) - float(np.mean(right)))
    said = f"priorities: chance of the winner ({100 * np.mean(chance):.1f} %) against how often"
    report(f"{said} it wins ({100 * np.mean(right):.1f} %), {trials} trials", off, 3, "points")


def bench_pool():
    """Pool 100 trials of 2,000 readings each, of six workshops."""
    from helpers.questions import parts
    from loam.core.judging import judge_readings
    from loam.core.pool import disagreements, pool
    from loam.core.pool_fit import fit_pool
    from loam.core.prior import default_priors, pooled_priors
    from loam.core.readings import GLOSS20

    rng = np.random.default_rng(5)
    found, _ = parts(rng, 100, recipes=20, each=8, workshops=6, cells=6, panels=8)
    priors = pooled_priors(default_priors(GLOSS20))
    times = []
    for _ in range(4):
        start = time.perf_counter()
        pooled = pool(found)
        judged = judge_readings(pooled.data, priors=priors, fit=fit_pool)
        disagreements(pooled.data, judged, judged.scale)
        times.append(time.perf_counter() - start)
    size = pooled.data.y.size
    report(f"{pooled.trials} trials, {size} readings as one", statistics.median(times), 2, "s")


def bench_answers(trials=1000):
    """Run all of them."""
    for threads in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS"):
        os.environ[threads] = "1"
    bench_priorities(trials)
    bench_predictions(trials)
    bench_crossings(trials)
    bench_alike(max(trials // 5, 1))
    bench_advice(max(trials // 10, 1))
