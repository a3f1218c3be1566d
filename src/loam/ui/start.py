"""Starting the window: command line, paths, fonts, theme."""

from __future__ import annotations

import argparse
import os
import signal
import sys
from pathlib import Path

from PyQt6.QtWidgets import QApplication

from loam import __version__
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.store.workshop import Workshop
from loam.ui.bugs import install
from loam.ui.theme import BENCH, LIGHTS_OUT, look
from loam.ui.theme.look import QuietCaret, load_fonts
from loam.ui.window import MainWindow

_SCREENS = ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="loam",
        description="Loam: from readings on taped test panels to an honest ranking.",
        epilog="loam rank FILE.csv --measurand gloss20 ranks a file without a window.",
    )
    parser.add_argument("workshop", nargs="?", type=Path, help="workshop file (made when missing)")
    parser.add_argument("--demo", action="store_true", help="open the demo workshop")
    parser.add_argument("--fresh", action="store_true", help="with --demo: make the demo anew")
    parser.add_argument("--version", action="version", version=f"Loam {__version__}")
    return parser


def data_folder() -> Path:
    """Return where workshops live by default."""
    from platformdirs import user_data_path

    return Path(user_data_path("loam"))


def open_workshop(options: argparse.Namespace) -> Workshop:
    """Open the workshop that the command line asks for."""
    if options.demo:
        path = data_folder() / "demo.loam"
        if options.fresh or not path.exists():
            from loam.demo.scenario import make_demo

            path.parent.mkdir(parents=True, exist_ok=True)
            if path.exists():
                standing = Workshop(path)
                busy = standing.read_only
                standing.close()
                if busy:
                    raise LoamError(
                        "The demo is open in another window.", todo="Close that window first."
                    )
            for old in (path, Path(f"{path}-wal"), Path(f"{path}-shm")):
                old.unlink(missing_ok=True)
            make_demo(path)
        return Workshop(path)
    return Workshop(options.workshop or data_folder() / "workshop.loam")


def make_window(application: QApplication, workshop: Workshop) -> MainWindow:
    """Build the window on an open workshop; the same factory serves the tests."""
    load_fonts()
    application.setStyle(QuietCaret("Fusion"))
    session = Session(workshop)
    lights = session.recall("theme") == LIGHTS_OUT.name
    look.apply(application, LIGHTS_OUT if lights else BENCH)
    return MainWindow(session)


def start(arguments: list[str]) -> int:
    """Open the workshop and run the window."""
    options = _parser().parse_args(arguments)
    try:
        workshop = open_workshop(options)
    except (LoamError, OSError) as error:
        print(f"loam: {error}", file=sys.stderr)
        return 2
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    if not any(os.environ.get(name) for name in _SCREENS):
        print("loam: no screen found, so running without one; Ctrl+C ends it.", file=sys.stderr)
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
    application = QApplication.instance() or QApplication([sys.argv[0]])
    assert isinstance(application, QApplication)
    application.setApplicationName("Loam")
    application.setDesktopFileName("loam")
    window = make_window(application, workshop)
    install(data_folder() / "reports", lambda said: window.say(said, care=True))
    window.show()
    status = application.exec()
    window.session.close()
    return int(status)
