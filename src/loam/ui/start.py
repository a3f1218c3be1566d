"""Starting the window: command line, paths, fonts, theme."""

from __future__ import annotations

import argparse
import os
import signal
import sqlite3
import subprocess
import sys
from contextlib import suppress
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, Qt
from PyQt6.QtWidgets import QApplication

from loam import __version__
from loam.app.headless import DOORS
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.store.copies import go_back
from loam.store.database import WorkshopRefused, said_plainly
from loam.store.workshop import Workshop
from loam.ui.bugs import install
from loam.ui.log import LOG, keep_log
from loam.ui.theme import BENCH, LIGHTS_OUT, look
from loam.ui.theme.look import QuietCaret, load_fonts
from loam.ui.window import MainWindow

_SCREENS = ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="loam",
        description="Loam: from readings on taped test panels to an honest ranking.",
        epilog="Without a window: " + "; ".join(f"loam {said}" for said in DOORS.values()) + ".",
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


def demo_path() -> Path:
    """Return where the demo workshop lives."""
    return data_folder() / "demo.loam"


def workshop_path(options: argparse.Namespace) -> Path:
    """Return the workshop that the command line asks for."""
    return Path(options.workshop or data_folder() / "workshop.loam").absolute()


def prepare_demo(path: Path, *, fresh: bool) -> None:
    """Make the demo workshop when it is missing, or anew; an open one is left alone."""
    if path.exists() and not fresh:
        return
    from loam.demo.scenario import make_demo

    path.parent.mkdir(parents=True, exist_ok=True)
    if path.exists():
        busy = False
        with suppress(LoamError):
            standing = Workshop(path)
            busy = standing.read_only
            standing.close()
        if busy:
            raise LoamError("The demo is open in another window.", todo="Close that window first.")
    for ending in ("", "-wal", "-shm"):
        Path(f"{path}{ending}").unlink(missing_ok=True)
    make_demo(path)


_STYLED = "quiet_caret"


def _style(application: QApplication) -> None:
    """Give the application its style, once: Qt goes through every widget each time."""
    if not application.property(_STYLED):
        application.setStyle(QuietCaret("Fusion"))
        application.setProperty(_STYLED, True)


def make_window(application: QApplication, workshop: Workshop) -> MainWindow:
    """Build the window on an open workshop; the same factory serves the tests."""
    load_fonts()
    _style(application)
    session = Session(workshop)
    lights = session.recall("theme") == LIGHTS_OUT.name
    percent = session.recall("text", 100)
    scale = percent / 100 if 100 <= percent <= 200 else 1.0
    look.apply(application, LIGHTS_OUT if lights else BENCH, scale)
    return MainWindow(session)


if TYPE_CHECKING:
    from loam.ui.rescue import RescueWindow

_LATER = Qt.ConnectionType.QueuedConnection
"""A window is put away only after the key press that asked for it has run its course."""


class Desk(QObject):
    """Keeps one window open: a workshop's, or the one that says why it cannot be opened."""

    def __init__(self, application: QApplication) -> None:
        super().__init__()
        self.application = application
        self.window: MainWindow | RescueWindow | None = None

    def open(self, path: Path, *, look: bool = False) -> None:
        """Open a workshop; what speaks against it is shown, never thrown."""
        workshop: Workshop | None = None
        try:
            workshop = Workshop(path, look=look)
            LOG.info(
                "opened %s, schema %d%s",
                path,
                workshop.version,
                f", to look at only ({workshop.why})" if workshop.read_only else "",
            )
            self.show(workshop)
        except (LoamError, OSError, sqlite3.DatabaseError, ValueError) as error:
            if workshop is not None:
                workshop.close()
            self.rescue(path, error)

    def show(self, workshop: Workshop) -> None:
        """Show the window of an open workshop, and see to its copies."""
        window = make_window(self.application, workshop)
        window.copy_wanted.connect(self._go_back, _LATER)  # type: ignore[call-arg]
        self._replace(window)
        window.take_care()

    def rescue(self, path: Path, error: Exception) -> None:
        """Say why a workshop cannot be opened, and offer the ways on."""
        from loam.ui.rescue import RescueWindow

        LOG.warning("%s was not opened: %s", path, error)
        if isinstance(error, sqlite3.DatabaseError):
            error = said_plainly(error, path)
        elif not isinstance(error, LoamError):
            said = getattr(error, "strerror", None) or str(error)
            error = WorkshopRefused(
                f"The workshop cannot be opened ({said}).", where=str(path), fault="place"
            )
        if isinstance(self.window, RescueWindow) and self.window.path == path:
            self.window.complain(error)
            return
        load_fonts()
        _style(self.application)
        look.apply(self.application, look.tokens)
        window = RescueWindow(path, error)
        window.go_back.connect(lambda c: self._go_back(path, c), _LATER)  # type: ignore[call-arg]
        window.look.connect(lambda: self.open(path, look=True), _LATER)  # type: ignore[call-arg]
        other = window.other
        other.connect(lambda t: self.open(Path(t).absolute()), _LATER)  # type: ignore[call-arg]
        self._replace(window)

    def _replace(self, window: MainWindow | RescueWindow) -> None:
        old, self.window = self.window, window
        window.show()
        if old is not None:
            old.close()
            if isinstance(old, MainWindow):
                old.session.close()
            old.deleteLater()

    def _go_back(self, path: Path, copy: str) -> None:
        old = self.window
        if isinstance(old, MainWindow):
            old.jobs.stop()
            old.session.close()
        LOG.info("going back to %s", copy)
        try:
            go_back(path, Path(copy), datetime.now())
        except LoamError as error:
            self.rescue(path, error)
            return
        self.open(path)
        if isinstance(self.window, MainWindow):
            self.window.say("Back at the earlier copy. What stood here is set aside beside it.")

    def say(self, text: str) -> None:
        """Say something in whichever window is open."""
        if isinstance(self.window, MainWindow):
            self.window.say(text, care=True)

    def close(self) -> None:
        """Close what is open; an answer that is still to come finds nobody."""
        if isinstance(self.window, MainWindow):
            self.window.jobs.stop()
            self.window.session.close()


def simulated_meters() -> subprocess.Popen[bytes] | None:
    """Serve the demo's meters beside the window; without them it goes on."""
    command = [sys.executable, "-m", "loam.simulated.serve", "--with-parent"]
    with suppress(OSError):
        return subprocess.Popen(
            command, stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
        )
    return None


def start(arguments: list[str]) -> int:
    """Open the workshop and run the window."""
    options = _parser().parse_args(arguments)
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    if not any(os.environ.get(name) for name in _SCREENS):
        print("loam: no screen found, so running without one; Ctrl+C ends it.", file=sys.stderr)
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
    application = QApplication.instance() or QApplication([sys.argv[0]])
    assert isinstance(application, QApplication)
    application.setApplicationName("Loam")
    application.setDesktopFileName("loam")
    desk = Desk(application)
    install(data_folder() / "reports", desk.say)
    keep_log(data_folder() / "reports")
    LOG.info("Loam %s starts", __version__)
    path = demo_path() if options.demo else workshop_path(options)
    try:
        if options.demo:
            prepare_demo(path, fresh=options.fresh)
    except (LoamError, OSError, sqlite3.DatabaseError) as error:
        print(f"loam: {error}", file=sys.stderr)
        return 2
    meters = simulated_meters() if options.demo else None
    desk.open(path)
    status = application.exec()
    desk.close()
    if meters is not None:
        meters.terminate()
        meters.wait()
    return int(status)
