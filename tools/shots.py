"""Make the pictures in docs/screenshots from the demo workshop."""

import os
import sys
import tempfile
from datetime import datetime
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "src"))

from PyQt6.QtCore import QEventLoop  # noqa: E402
from PyQt6.QtWidgets import QApplication  # noqa: E402

from loam.demo.scenario import make_demo  # noqa: E402
from loam.store.workshop import Workshop  # noqa: E402
from loam.ui.start import make_window  # noqa: E402

SAMPLE = """panel;hardness;cell;combo;reading;operator;gloss20;haze
Heron;soft;K1;A;1;Ivo;88,4;11,2
Heron;soft;K1;A;2;Ivo;88,1;10,9
Heron;soft;K2;B;1;Lise;84,2;17,5
Heron;soft;K2;B;2;Lise;84,6;18,1
Plover;soft;K1;B;1;Tam;83,9;18,0
Plover;soft;K1;B;2;Tam;84,4;17,2
Plover;soft;K2;A;1;Ivo;88,9;10,4
Plover;soft;K2;A;2;Ivo;88,3;eleven
"""


def settle(application, window):
    """Let answers arrive and paint until nothing is left to do."""
    while window.jobs.busy:
        application.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
    for _ in range(5):
        application.processEvents()


def main(arguments):
    """Take every picture (or only those named) into a folder."""
    folder = Path(arguments[0]) if arguments else ROOT / "docs" / "screenshots"
    only = arguments[1].split(",") if len(arguments) > 1 else None
    size = [int(x) for x in arguments[2].split("x")] if len(arguments) > 2 else [1280, 800]
    folder.mkdir(parents=True, exist_ok=True)
    application = QApplication([])
    with tempfile.TemporaryDirectory() as place:
        path = Path(place) / "demo.loam"
        make_demo(path)
        workshop = Workshop(path, clock=lambda: datetime(2026, 9, 26, 14, 2, 11))
        window = make_window(application, workshop)
        window.resize(*size)
        window.show()
        settle(application, window)
        trials = [t.id for t in window.session.trials()]

        def take(name):
            if only is None or name in only:
                settle(application, window)
                window.grab().save(str(folder / f"{name}.png"))

        def go(step, trial=1):
            window.session.choose(trials[trial])
            window.go(step)
            settle(application, window)

        go("judge")
        take("judge")
        window.views["judge"].turn("haze")
        take("judge-haze")
        window.views["judge"].turn("gloss20")
        window.views["judge"].chart.choose("hard", "B")
        window.views["judge"].open_origin()
        take("origin")
        window.views["judge"].close_origin()
        go("ask")
        take("ask")
        go("kit")
        window.views["kit"]._choose(window.session.combinations()[1].id)
        take("kit")
        go("panels")
        take("panels")
        go("layout", 2)
        take("layout")
        go("read", 2)
        read = window.views["read"]
        for text in ("84,6", "84,9", "85,0"):
            read.digits.setText(text)
            read.keep()
            settle(application, window)
        read.digits.setText("84,6")
        take("read-bench")
        window.turn_lights()
        take("read")
        go("judge")
        take("judge-lights-out")
        if only and "dark" in only:
            for step in ("ask", "kit", "panels", "layout"):
                go(step)
                settle(application, window)
                window.grab().save(str(folder / f"dark-{step}.png"))
        window.turn_lights()
        window.show_keys()
        take("keys")
        window.overlay.leave()
        sample = Path(place) / "evening.csv"
        sample.write_text(SAMPLE)
        window.bring_in_file(sample)
        settle(application, window)
        window.views["bring_in"].take_in()
        take("bring-in")
        empty = Workshop(Path(place) / "empty.loam")
        first = make_window(application, empty)
        first.resize(*size)
        first.show()
        settle(application, first)
        if only is None or "empty" in only:
            first.grab().save(str(folder / "empty.png"))
        for shown in (first, window):
            shown.close()
            shown.session.close()


if __name__ == "__main__":
    main(sys.argv[1:])
