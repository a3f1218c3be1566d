"""What Loam did, in a few lines a day, beside the reports of faults; no reading is in it."""

from __future__ import annotations

import logging
from contextlib import suppress
from logging.handlers import RotatingFileHandler
from pathlib import Path

MOST_BYTES, FILES = 400_000, 3
LOG = logging.getLogger("loam")


class _Quiet(RotatingFileHandler):
    """Goes on without a word where the disk refuses."""

    def handleError(self, record: logging.LogRecord) -> None:
        return


def keep_log(folder: Path) -> Path | None:
    """Write the log to a file of this folder from now on; older ones go when it is full.

    Returns
    -------
    Path or None
        The file; None where it cannot be written, and Loam goes on without.
    """
    path = folder / "loam.log"
    with suppress(OSError):
        folder.mkdir(parents=True, exist_ok=True)
        handler = _Quiet(path, maxBytes=MOST_BYTES, backupCount=FILES, encoding="utf-8", delay=True)
        handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
        path.touch()
        for old in list(LOG.handlers):
            LOG.removeHandler(old)
            old.close()
        LOG.addHandler(handler)
        LOG.setLevel(logging.INFO)
        LOG.propagate = False
        return path
    return None
