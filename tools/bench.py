"""Measure speed, as ratios within one run: each figure beside the bound that is wanted."""

import math
import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # as Loam does
ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT / "tests")]

import numpy as np  # noqa: E402
from bench_answers import bench_answers, bench_pool  # noqa: E402
from bench_cars import bench_cars  # noqa: E402
from bench_turns import bench_turns  # noqa: E402
from bench_work import bench_pacer, bench_photo  # noqa: E402
from measuring import RESULTS, asked, median_ms, pace_ms, report  # noqa: E402


def columns(data, random):
    """Return what `fit_mixed` takes, from trial data."""
    from loam.core.plain_rank import _factor
    from loam.core.stats.reduce import cross

    groups, count = cross(data.hardness.codes, data.combination.codes)
    return (
        data.y,
        groups,
        [str(i) for i in range(count)],
        {name: _factor(data, name) for name in random},
        {"baseline": data.baseline},
    )


def fit_and_contrasts(parts):
    """Fit, with every degree of freedom of the means."""
    from loam.core.stats.fit import fit_mixed
    from loam.core.stats.freedom import Satterthwaite

    fit = fit_mixed(*parts)
    Satterthwaite(fit).estimates(np.eye(fit.beta.size))
    return fit


def large_trial(panels=600, seed=7):
    """Return 48,000 generated readings: 600 panels of 16 cells with 5 readings each."""
    from loam.core.plain_rank import Coded, TrialData

    rng = np.random.default_rng(seed)
    cells, per = panels * 16, 5
    panel = np.repeat(np.arange(panels), 16)
    hardness = panel % 3
    combination = rng.integers(0, 10, cells)
    operator = rng.integers(0, 6, cells)
    baseline = rng.normal(62, 3, cells)
    level = 80 + hardness + 0.7 * combination + 0.15 * (baseline - 62)
    level += rng.normal(0, 1.0, panels)[panel] + rng.normal(0, 0.3, 6)[operator]
    level += rng.normal(0, 0.9, cells)
    y = np.repeat(level, per) + rng.normal(0, 0.4, cells * per)

    def coded(codes):
        names = tuple(f"n{i}" for i in range(int(codes.max()) + 1))
        return Coded(np.repeat(codes, per).astype(np.intp), names)

    return TrialData(
        "gloss20",
        y,
        coded(hardness),
        coded(combination),
        {"cell": coded(np.arange(cells)), "panel": coded(panel), "operator": coded(operator)},
        np.repeat(baseline, per),
    )


def bench_fits():
    """Compare the fit of `medium` with statsmodels, and 48,000 readings with `medium`."""
    import warnings

    import pandas as pd
    import statsmodels.formula.api as smf

    from helpers.reference import load_rows, trial_data

    random = ("cell", "panel", "operator")
    medium = columns(trial_data("medium", "gloss20"), random)
    ours = median_ms(lambda: fit_and_contrasts(medium), 15)
    frame = pd.DataFrame(load_rows("trials", "medium", "medium.csv"))
    for name in ("gloss20", "baseline_gloss20"):
        frame[name] = frame[name].astype(float)
    frame["group"] = frame.hardness + frame.combo

    def theirs():
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            model = smf.mixedlm(
                "gloss20 ~ 0 + C(group) + baseline_gloss20",
                frame,
                groups=np.ones(len(frame)),
                vc_formula={k: f"0 + C({k})" for k in random},
            )
            return model.fit(reml=True)

    other = median_ms(theirs, 3)
    print(f"     medium: {ours:.1f} ms with all degrees of freedom; statsmodels {other:.0f} ms")
    report("statsmodels' time over ours on medium", other / ours, 20, "times", at_least=True)
    large = columns(large_trial(), random)
    big = median_ms(lambda: fit_and_contrasts(large), 7)
    print(f"     48,000 readings: {big:.1f} ms")
    report("48,000 readings over medium (640)", big / ours, 5, "times")


def bench_judgement():
    """Time the whole judgement, and compare it with statsmodels' bare fit of the same model."""
    import warnings

    import pandas as pd
    import statsmodels.formula.api as smf

    from helpers.reference import load_rows, trial_data
    from loam.core.judging import judge_readings

    data = trial_data("medium", "gloss20")
    ours = median_ms(lambda: judge_readings(data), 15)
    frame = pd.DataFrame(load_rows("trials", "medium", "medium.csv"))
    for name in ("gloss20", "baseline_gloss20"):
        frame[name] = frame[name].astype(float)
    frame["group"], frame["both"] = frame.hardness + frame.combo, frame.panel + frame.combo

    def theirs():
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            model = smf.mixedlm(
                "gloss20 ~ 0 + C(group) + baseline_gloss20",
                frame,
                groups=np.ones(len(frame)),
                vc_formula={k: f"0 + C({k})" for k in ("cell", "panel", "operator", "day", "both")},
            )
            return model.fit(reml=True)

    other = median_ms(theirs, 1)
    print(f"     640 readings judged: {ours:.1f} ms; statsmodels' fit alone {other:.0f} ms")
    report("statsmodels' fit over our judgement", other / ours, 15, "times", at_least=True)
    report("640 readings judged", ours, 80, "ms")
    large = large_trial()
    report("48,000 readings judged", median_ms(lambda: judge_readings(large), 5), 200, "ms")


EARNED = "mnopq"
"""Designs in which "clearly" is hardly to be had, with more between panels or people than usual."""


def simulated(name, trials):
    """Judge so many simulated trials of one design; made for a process of its own."""
    from helpers.simulate import designs, run

    return name, run(designs()[name], trials)


def bench_simulation(trials=1000):
    """Judge simulated trials of every design on both cores, and print what was true of them."""
    from concurrent.futures import ProcessPoolExecutor

    from helpers.simulate import designs

    for threads in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS"):
        os.environ[threads] = "1"
    clear = false = 0
    names = list(designs())
    with ProcessPoolExecutor(2) as pool:
        for name, tally in pool.map(simulated, names, [trials] * len(names)):
            print("     " + tally.line(designs()[name].name), flush=True)
            if name[0] in EARNED:  # wide of what is assumed: what counts is that nothing is claimed
                share = 100 * tally.clear_false / max(tally.clear, 1)
                report(f"false among {tally.clear} clear claims of design {name}", share, 10, "%")
                continue
            low, high = (87, 99.5) if name == "f" else (85 if name[0] == "r" else 87, 96)
            report(f"coverage of design {name}", 100 * tally.coverage, low, "%", at_least=True)
            report(f"coverage of design {name}", 100 * tally.coverage, high, "%")
            report(f"P(best) of design {name}, off by", tally.calibration()[0], 0.03, "")
            clear, false = clear + tally.clear, false + tally.clear_false
            if name == "f":
                share = 100 * tally.any_clear_false / tally.trials
                report("twelve near ties with a false clear claim", share, 2, "% of trials")
    report("false among all clear claims", 100 * false / max(clear, 1), 5, "%")


def doubted(what):
    """Look so many simulated trials through for doubts; made for a process of its own."""
    from helpers.faults import OTHER, SHAPES, run

    plant, how, shape, trials, seed, other = what
    sizes = OTHER.get(plant) if other else None
    return what, run(plant, trials, seed, how=how, shape=SHAPES[shape], sizes=sizes)


def bench_doubts(trials=400):
    """Count false alarms in trials that are well, and planted faults that are found.

    Six sorts of trials with four kinds of scatter each, and the demo's and drawn variances; one in
    twenty may raise an alarm, so many trials say that within two standard errors. Faults are
    planted at the demo's sizes and at others.
    """
    from concurrent.futures import ProcessPoolExecutor

    from helpers.faults import OTHER, PLANTS, SHAPES

    for threads in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS"):
        os.environ[threads] = "1"
    each = max(trials // 5, 1)
    large = next(iter(SHAPES))
    work = [("", how, large, trials, 1, False) for how in ("demo", "drawn")]
    work += [
        ("", how, shape, max(trials // 6, 1), 1, False)
        for how in ("usual", "heavy", "apart", "both")
        for shape in SHAPES
    ]
    work += [(plant, "demo", large, each, 2, False) for plant in PLANTS]
    work += [(plant, "usual", large, each, 2, True) for plant in OTHER]
    alarms = {}
    with ProcessPoolExecutor(2) as pool:
        for (plant, how, shape, count, _, other), found in pool.map(doubted, work):
            if plant:
                share = 100 * found.hit / count
                least = 80 if plant in ("pad", "fade") and other else 90
                size = "another size" if other else "the demo's size"
                said = f"doubts: {plant} of {size} found in {count} trials"
                report(said, share, least, "%", at_least=True)
                continue
            print(f"     {shape}, variances {how}: {found.alarms} of {count} {found.kinds}")
            one = alarms.setdefault(how, [0, 0])
            one[0], one[1] = one[0] + found.alarms, one[1] + count
    for how, (alarmed, count) in alarms.items():
        said = f"doubts: trials with a false alarm, variances {how}, of {count}"
        report(said, 100 * alarmed / count, 5.0 + 2.0 * math.sqrt(5.0 * 95.0 / count), "%")


BARE = "import numpy, PyQt6.QtWidgets"
USABLE = """
import sys
from PyQt6.QtWidgets import QApplication
from pathlib import Path
from loam.store.workshop import Workshop
from loam.ui.start import make_window
application = QApplication([])
window = make_window(application, Workshop(Path(sys.argv[1])))
window.show()
application.processEvents()
assert window.view.isVisible()
import math
import os
sys.stdout.flush()
os._exit(0)
"""


def seconds(code, *arguments):
    """Return how long a fresh interpreter takes for some code."""
    environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
    environment.pop("PYTHONDONTWRITEBYTECODE", None)  # a user's second start finds compiled files
    start = time.perf_counter()
    subprocess.run([sys.executable, "-c", code, *arguments], env=environment, check=True)
    return time.perf_counter() - start


def bench_start(folder):
    """Compare the time to a usable window with the demo and a bare interpreter with imports."""
    from loam.demo.scenario import make_demo

    demo = folder / "demo.loam"
    make_demo(demo)
    seconds(BARE)
    seconds(USABLE, str(demo))
    # in turns, and the quickest of each: what else the machine does only ever adds
    pairs = [(seconds(BARE), seconds(USABLE, str(demo))) for _ in range(9)]
    bare, usable = (min(times) for times in zip(*pairs, strict=True))
    print(f"     bare imports {1e3 * bare:.0f} ms, usable window {1e3 * usable:.0f} ms")
    report("time to a usable window over bare imports", usable / bare, 4, "times")


def large_workshop(path, trials=20, panels=125):
    """Write a workshop of large trials, by default 20 of 50,000 readings (400 a panel)."""
    from loam.core.panel import Taping
    from loam.core.trial import Cell, Combination, Panel, Reading, Trial
    from loam.store.draft import TrialDraft
    from loam.store.take_in import write_draft
    from loam.store.workshop import Workshop

    rng = np.random.default_rng(3)
    taping = Taping(700, 700, 4, 4, 12, 40)
    classes = ("soft", "medium", "hard")
    per = 25
    workshop = Workshop(path)
    for number in range(trials):
        levels = rng.normal(85, 2, panels * 16)
        cells = [
            Cell(i + 1, i // 16 + 1, i % 16 // 4, i % 4, int(rng.integers(1, 9)), i % 16 + 1)
            for i in range(panels * 16)
        ]
        noise = rng.normal(0, 0.4, (panels * 16, per))
        values = np.round(levels[:, None] + noise, 1)
        readings = [
            Reading(
                c * per + k + 1,
                c + 1,
                "gloss20",
                float(values[c, k]),
                "after",
                k + 1,
                1,
                "",
                f"op{c % 4}",
                "2026-09-05",
            )
            for c in range(panels * 16)
            for k in range(per)
        ]
        draft = TrialDraft(
            Trial(1, f"Trial {number + 1}", "Which?", ("gloss20",), per),
            tuple(Panel(i + 1, 1, f"P{i + 1}", classes[i % 3], taping) for i in range(panels)),
            tuple(Combination(i + 1, "ABCDEFGH"[i]) for i in range(8)),
            tuple(cells),
            tuple(readings),
        )
        with workshop.transaction() as db:
            write_draft(db, draft, workshop.now())
    count = workshop.connection.execute("SELECT count(*) FROM reading").fetchone()[0]
    workshop.close()
    return count


class Watch:
    """Watches how long the window ever stands still."""

    def __init__(self, path):
        from PyQt6.QtCore import QTimer
        from PyQt6.QtWidgets import QApplication

        from loam.store.workshop import Workshop
        from loam.ui.start import make_window

        self.application = QApplication.instance() or QApplication([])
        self.window = make_window(self.application, Workshop(path))
        self.window.show()
        while self.window.jobs.busy or self.window.warm_up():  # as it does by itself when idle
            self.application.processEvents()
        self.worst, self.last = 0.0, time.perf_counter()
        self.pulse = QTimer()
        self.pulse.setInterval(1)
        self.pulse.timeout.connect(self.beat)
        self.pulse.start()

    def beat(self):
        """Note the time since the last beat."""
        now = time.perf_counter()
        self.worst = max(self.worst, now - self.last)
        self.last = now

    def rest(self):
        """Let the window run until the worker has answered everything."""
        from PyQt6.QtCore import QEventLoop

        self.beat()
        while self.window.jobs.busy:
            self.application.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
        self.application.processEvents()
        self.beat()

    def stop(self):
        """Close the window."""
        self.pulse.stop()
        self.window.close()
        self.window.session.close()

    def during(self, act):
        """Return the longest stall in ms while something is done and answered."""
        self.worst, self.last = 0.0, time.perf_counter()
        act()
        self.rest()
        return 1e3 * self.worst


def bench_stall(folder):
    """Open a workshop of a million readings and use it."""
    path = folder / "large.loam"
    count = large_workshop(path)
    print(f"     workshop of {count:,} readings, {path.stat().st_size / 2**20:.0f} MB")
    watch = Watch(path)
    window = watch.window
    start = time.perf_counter()
    stall = watch.during(lambda: window.go("judge"))
    assert window.view.chart.picture is not None
    print(f"     ranking of 50,000 readings on screen after {time.perf_counter() - start:.1f} s")
    report("longest stall while the ranking comes", stall, 100, "ms")
    for step in ("ask", "kit", "panels", "layout", "work", "read", "judge"):
        stall = watch.during(lambda s=step: window.go(s))
        report(f"longest stall turning to {step}", stall, 100, "ms")
    other = window.session.trials()[3].id
    stall = watch.during(lambda: window.turn_to(other))
    report("longest stall turning to another trial", stall, 100, "ms")
    stall = watch.during(window.view.open_origin)
    assert window.view.origin.isVisible()
    print(f"     longest stall opening the readings behind a figure: {stall:.0f} ms")
    file = folder / "large.csv"
    write_csv(file, large_trial())
    start = time.perf_counter()
    stall = watch.during(lambda: window.bring_in_file(file))
    stall = max(stall, watch.during(lambda: window.view.take_in()))
    assert window.session.trial.name == "large"
    print(f"     48,000 lines from file to ranking in {time.perf_counter() - start:.1f} s")
    print(f"     longest stall while 48,000 lines are brought in: {stall:.0f} ms")
    watch.stop()


def write_csv(path, data):
    """Write trial data as a file of readings."""
    import csv

    classes = ("soft", "medium", "hard")
    with path.open("w", newline="") as file:
        out = csv.writer(file)
        out.writerow(["panel", "hardness", "cell", "combo", "operator", "gloss20"])
        rows = zip(
            data.factors["panel"].codes,
            data.hardness.codes,
            data.factors["cell"].codes,
            data.combination.codes,
            data.factors["operator"].codes,
            data.y,
            strict=True,
        )
        for panel, hardness, cell, combination, operator, y in rows:
            out.writerow(
                [
                    f"P{panel}",
                    classes[hardness],
                    cell,
                    f"C{combination}",
                    operator,
                    round(float(y), 1),
                ]
            )


def bench_planning():
    """Time a layout and compare it with a search ten times as long; time a dose map."""
    from loam.core.design import PanelPlan, Plan, lay_out
    from loam.core.design import search as layout_search
    from loam.core.dose import SectionSettings, section_dose

    names = tuple("ABCDEFGHIJKL")
    panels = tuple(PanelPlan(f"P{i}", "soft", 4, 4) for i in range(8))
    for trends in (False, True):
        said = "12 combinations on 8 panels of 16" + (", trends" if trends else "")
        plan = Plan(names, panels, trends=trends)
        report(f"laying out {said}", median_ms(lambda p=plan: lay_out(p), 3), 2000, "ms")
        usual = lay_out(plan).efficiency[0].value
        kept = layout_search.PRICED, layout_search.MOST_STEPS
        layout_search.PRICED, layout_search.MOST_STEPS = 10 * kept[0], 10 * kept[1]
        long = lay_out(Plan(names, panels, trends=trends, seed=2)).efficiency[0].value
        layout_search.PRICED, layout_search.MOST_STEPS = kept
        report(f"{said}: share of a long search", usual / long, 0.98, "of it", at_least=True)
    dose = SectionSettings(
        "free-orbital", 150.0, 15.0, 4000.0, 120.0, 40.0, 600.0, 600.0, half_line_shift=True
    )
    report(
        "a dose map of 600 mm, footprint kept", median_ms(lambda: section_dose(dose), 9), 100, "ms"
    )


def main():
    """Run every measurement; exit with 1 when a bound is missed."""

    def many(usual):
        return counts[0] if counts else usual

    with tempfile.TemporaryDirectory() as place:
        parts = {
            "fits": bench_fits,
            "judgement": bench_judgement,
            "planning": bench_planning,
            "photo": lambda: bench_photo(many(20)),
            "pacer": lambda: bench_pacer(Path(place)),
            "start": lambda: bench_start(Path(place)),
            "stall": lambda: bench_stall(Path(place)),
            "simulation": lambda: bench_simulation(many(1000)),
            "doubts": lambda: bench_doubts(many(1000)),
            "pool": bench_pool,
            "cars": lambda: bench_cars(many(4000)),
            "answers": lambda: bench_answers(many(1000)),
            "turns": lambda: bench_turns(Path(place), Watch, large_workshop),
        }
        wanted, counts = asked(sys.argv[1:], parts)
        if {"pacer", "stall", "turns"} & set(wanted):
            from PyQt6.QtWidgets import QApplication

            held = QApplication([])  # one for all parts, or the theme dies with the first
            held.setQuitOnLastWindowClosed(False)
        for name in parts:
            if name in wanted:
                print(f"     {name}: a million plain steps take {pace_ms():.0f} ms just now")
                parts[name]()
    return 0 if all(RESULTS) else 1


if __name__ == "__main__":
    sys.exit(main())
