"""The pacer's frames, and photographs beside the notes' method."""

import statistics
import time

import numpy as np
from measuring import median_ms, report


def bench_pacer(folder):
    """Time the frames of a running pacer, painting included, on a clock of the bench's own."""
    from PyQt6.QtWidgets import QApplication

    from loam.demo.scenario import make_demo
    from loam.store.workshop import Workshop
    from loam.ui.start import make_window

    demo = folder / "pacer.loam"
    make_demo(demo)
    application = QApplication.instance() or QApplication([])
    window = make_window(application, Workshop(demo))
    window.resize(1280, 800)
    window.show()
    session = window.session
    session.choose(session.trials()[3].id)
    window.go("work")
    while window.jobs.busy:
        application.processEvents()
    view, now = window.view, [0.0]
    view.runner.clock = lambda: now[0]
    view.bench.set_up(view.runner.clock)
    view.show_all()
    view.press()
    view.runner.timer.stop()
    frames = []
    for _ in range(900):
        now[0] += 1.0 / 60.0
        start = time.perf_counter()
        view.runner.tick()
        application.processEvents()
        frames.append(1e3 * (time.perf_counter() - start))
    frames.sort()
    report("a frame of the pacer, painted", statistics.median(frames), 16.7, "ms")
    report("one frame in a hundred takes", frames[-len(frames) // 100], 16.7, "ms at least")
    window.close()
    session.close()


def bench_photo(scenes=20):
    """Measure rendered pairs, their error and their time; beside them the method of the notes."""
    from line_bank import removed_pct

    from loam.core.photo import measure
    from loam.simulated.camera import Scene, photograph

    wanted = {"black": 4.0, "silver": 10.0, "white": 8.0}
    for paint, bound in wanted.items():
        off, theirs, refused = [], [], 0
        for seed in range(scenes):
            rng = np.random.default_rng([seed, 7])
            cut, spread = float(rng.uniform(0.03, 1.3)), float(rng.uniform(0.35, 0.55))
            pair = photograph(Scene(seed, paint, 900, cut, spread))
            found = measure(pair.before, pair.after, paint, pair.cell, pair.strip)
            if found.refused:
                refused += 1
                continue
            off.append(found.removed_pct - pair.removed_pct)
            if seed < 5:
                said = removed_pct(pair.before, pair.after, pair.cell, pair.strip)
                theirs.append(said - pair.removed_pct)
        rms, other = (float(np.sqrt(np.mean(np.square(o)))) for o in (off, theirs))
        print(f"     {paint}: {refused} of {scenes} refused; the notes' method {other:.1f} points")
        report(f"{paint}, root mean square error", rms, bound, "points")
    pair = photograph(Scene(1, "black", 1500, 0.4))
    ours = median_ms(lambda: measure(pair.before, pair.after, "black", pair.cell, pair.strip), 3)
    start = time.perf_counter()
    removed_pct(pair.before, pair.after, pair.cell, pair.strip)
    notes = 1e3 * (time.perf_counter() - start)
    report("a pair of 1500 x 1500 px", ours, 1300, "ms")
    report("the notes' method over ours", notes / ours, 4, "times", at_least=True)
