"""Faults of Loam itself: said, written down, and survived."""

from __future__ import annotations

import platform
import sqlite3
import sys
import traceback
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from types import TracebackType

from loam import __version__
from loam.core.errors import LoamError
from loam.store.database import said_plainly
from loam.ui.log import LOG


def write_report(
    folder: Path, kind: type[BaseException], error: BaseException, trace: TracebackType | None
) -> Path:
    """Write what happened to a new file and return its path. No reading is in it."""
    folder.mkdir(parents=True, exist_ok=True)
    now = datetime.now()
    path = folder / f"loam-{now:%Y%m%d-%H%M%S-%f}.txt"
    head = f"Loam {__version__}, Python {platform.python_version()}, {platform.platform()}\n"
    text = "".join(traceback.format_exception(kind, error, trace))
    path.write_text(f"{head}{now.isoformat(timespec='seconds')}\n\n{text}", encoding="utf-8")
    return path


def _place(trace: TracebackType | None) -> str:
    """Return where a fault arose: file, line and function; nothing of what was worked on."""
    found = traceback.extract_tb(trace)
    return f"{Path(found[-1].filename).name}:{found[-1].lineno} {found[-1].name}" if found else "?"


def install(folder: Path, say: Callable[[str], None]) -> None:
    """Catch faults from now on: write a report and say so, instead of ending the program."""

    def caught(
        kind: type[BaseException], error: BaseException, trace: TracebackType | None
    ) -> None:
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, error, trace)
            return
        if isinstance(error, LoamError):
            say(str(error))
            return
        if isinstance(error, sqlite3.DatabaseError):
            say(str(said_plainly(error, Path("workshop"))))
            return
        sys.__excepthook__(kind, error, trace)
        LOG.error("a fault of Loam itself: %s at %s", kind.__name__, _place(trace))
        try:
            where = f"A report is in {write_report(folder, kind, error, trace)}."
        except OSError:
            where = "A report could not be written."
        say(f"Loam itself failed here. Every reading taken is safe. {where}")

    sys.excepthook = caught
