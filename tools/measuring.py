"""A figure beside the bound that is wanted, and the time of an act."""

import gc
import statistics
import sys
import time

RESULTS = []


def asked(words, parts):
    """Return the parts that are named, all without a name, and the counts; refuse other words."""
    names = [w for w in words if not w.isdigit()]
    unknown = [n for n in names if n not in parts]
    if unknown:
        sys.exit(f"There is no part {', '.join(unknown)}. Name some of: {', '.join(parts)}.")
    return names or list(parts), [int(w) for w in words if w.isdigit()]


def report(name, value, bound, unit, *, at_least=False):
    """Print a figure beside its bound and remember whether it holds."""
    good = value >= bound if at_least else value <= bound
    RESULTS.append(good)
    sign = "≥" if at_least else "≤"
    print(f"{'ok  ' if good else 'MISS'} {name}: {value:.2f} {unit} (wanted {sign} {bound:g})")


def pace_ms():
    """Return the ms of a million plain steps: how quick the machine is at this moment.

    Bounds in ms are for a machine at rest, where it takes 40 to 80; shared machines take up to
    five times as long.
    """
    times = []
    for _ in range(5):
        start, total = time.perf_counter(), 0
        for i in range(1_000_000):
            total += i
        times.append(1e3 * (time.perf_counter() - start))
    return statistics.median(times)


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
