"""A figure beside the bound that is wanted, and the time of an act."""

import gc
import statistics
import time

RESULTS = []


def report(name, value, bound, unit, *, at_least=False):
    """Print a figure beside its bound and remember whether it holds."""
    good = value >= bound if at_least else value <= bound
    RESULTS.append(good)
    sign = "≥" if at_least else "≤"
    print(f"{'ok  ' if good else 'MISS'} {name}: {value:.2f} {unit} (wanted {sign} {bound:g})")


def median_ms(act, repeats):
    """Return the median time of an act in ms, after one run to warm up."""
    act()
    times = []
    for _ in range(repeats):
        gc.collect()
        start = time.perf_counter()
        act()
        times.append(1e3 * (time.perf_counter() - start))
    return statistics.median(times)
