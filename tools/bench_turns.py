"""How soon another goal, scope or exclusion is on screen, in the real window."""

import statistics
import time
from functools import partial

from measuring import median_ms, report
from PyQt6.QtCore import QCoreApplication, QEvent, QEventLoop, Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

TURNS = 5
LOOK_MS = 200
_STEP = QEventLoop.ProcessEventsFlag.WaitForMoreEvents


def until(shown, act):
    """Return the ms from an act until something is shown and painted."""
    start = time.perf_counter()
    act()
    while not shown():
        QApplication.processEvents(_STEP)
    for kind in (QEvent.Type.LayoutRequest, QEvent.Type.UpdateRequest):
        QCoreApplication.sendPostedEvents(None, kind.value)
    return 1e3 * (time.perf_counter() - start)


def quiet(watch):
    """Let all be answered and painted, as when somebody looks at it."""
    watch.rest()
    looked = QEventLoop()
    QTimer.singleShot(LOOK_MS, looked.quit)
    looked.exec()


def press(key):
    """Press a key where the keyboard is."""
    QTest.keyClick(QApplication.focusWidget(), key)


def _leave_out(window, panel, *, out):
    """Leave a panel out as a doubt does, or let it count again."""
    from loam.app.record import doubts_key, stored
    from loam.core.doubts import Doubt

    kept = {"class:x": stored(Doubt("class", "x", 0.0, panels=frozenset({panel})))} if out else {}
    window.session.remember(doubts_key(window.session.trial_id), kept)
    window.view.judge_again()


def exclusion(watch):
    """Return the ms until a panel left out, and counted again, has moved the ranking; the stall."""
    window, times, stall = watch.window, ([], []), 0.0
    view, panels = window.view, [p.id for p in window.session.panels()]
    watch.pulse.stop()  # its beats hold the worker up
    for turn in range(2 * TURNS):
        before, back = view.ranking, turn % 2
        panel = panels[turn // 2]
        act = partial(_leave_out, window, panel, out=not back)
        times[back].append(until(lambda b=before: view.ranking is not b, act))
        quiet(watch)
    watch.pulse.start()
    for panel in panels[TURNS : TURNS + 2]:
        stall = max(stall, watch.during(lambda p=panel: _leave_out(window, p, out=True)))
    watch.pulse.stop()
    return *(statistics.median(t) for t in times), stall


def switched(watch):
    """Return the ms until a doubt that was found is left out, by its number."""
    view, times = watch.window.view, []
    view.doubts.start()
    watch.rest()
    press(Qt.Key.Key_D)
    number = next(
        i
        for i, s in enumerate(view.doubts.found, 1)
        if s.doubt.cells and s.doubt.p > 0 and s.doubt.kind in ("hand", "pad", "class")
    )
    for _ in range(2 * TURNS):
        before = view.ranking
        quiet(watch)
        times.append(
            until(
                lambda b=before: view.ranking is not b, lambda: press(Qt.Key(Qt.Key.Key_0 + number))
            )
        )
        view.judging.kept = {k: v for k, v in view.judging.kept.items() if k[1] != view.measurand}
        view.judging.look_ahead()  # as if it were another doubt each time
    quiet(watch)
    press(Qt.Key.Key_Escape)
    return statistics.median(times)


def judgement(window):
    """Return the ms of the statistics alone: what is left is loading, drawing up and painting."""
    from loam.core.dataset import trial_data
    from loam.core.judging import judge_readings
    from loam.store.snapshot import load_snapshot

    session = window.session
    snapshot = load_snapshot(session.workshop.connection, session.trial_id, ["gloss20"])
    data = trial_data(snapshot, "gloss20")
    return median_ms(lambda: judge_readings(data), 2 * TURNS)


def bench_turns(folder, watcher, large):
    """Turn goals, scopes and exclusions of the demo, and of 100,000 readings."""
    from loam.demo.scenario import make_demo

    demo = folder / "turns.loam"
    make_demo(demo)
    watch = watcher(demo)
    window = watch.window
    window.resize(1280, 800)
    window.turn_to(window.session.trials()[1].id)
    window.go("judge")
    watch.rest()
    took, back, _ = exclusion(watch)
    doubt = switched(watch)
    judged = judgement(window)
    print(f"     a judgement {judged:.0f} ms, a panel left out on screen after {took:.0f} ms")
    report("a panel of the demo left out, on screen, over a judgement", took / judged, 3, "times")
    report("a panel of the demo counted again, on screen", back, 100, "ms")
    report("a doubt of the demo left out by its number, on screen", doubt, 100, "ms")
    press(Qt.Key.Key_A)
    watch.rest()
    page = window.view.questions.page

    def scope():
        press(Qt.Key.Key_Escape)
        return until(
            lambda: page.isVisible() and page.found is not None, lambda: press(Qt.Key.Key_A)
        )

    report(
        "this trial to all and back, on screen",
        statistics.median(scope() for _ in range(TURNS)),
        100,
        "ms",
    )
    press(Qt.Key.Key_Escape)
    press(Qt.Key.Key_G)
    watch.rest()
    priorities = window.view.priorities
    times = []
    for turn in range(2 * TURNS):  # an aim with time in it, and one without: another slice
        said = priorities.lead.text()
        key = Qt.Key.Key_5 if turn % 2 == 0 else Qt.Key.Key_2
        times.append(until(lambda s=said: priorities.lead.text() != s, lambda k=key: press(k)))
    report("another goal ranked, on screen", statistics.median(times), 100, "ms")
    watch.stop()
    many = folder / "turns-large.loam"
    count = large(many, trials=1, panels=250)
    watch = watcher(many)
    watch.window.go("judge")
    watch.rest()
    took, _, stall = exclusion(watch)
    report(f"a panel of {count:,} readings left out, on screen", took, 1000, "ms")
    report("longest stall meanwhile", stall, 100, "ms")
    watch.stop()
