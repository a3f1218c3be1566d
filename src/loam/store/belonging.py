"""Whether what lies beside a workshop's file belongs to it: the log of a writer that was cut off.

SQLite plays a log (``-wal``) into whatever file of that name lies beside it; a copy put back by
hand, or a log from elsewhere, gives a mixture of two states. So each log is marked: the first that
is written after a log began anew is a new token, with the token before it, into a table of the
workshop. A log begins anew only when all of the one before is in the file. Each
transaction is counted too. So a log belongs to a file that bears the log's own token and has
counted no more than the log; or the token before it, and has counted as many as there were when
the log began.
"""

from __future__ import annotations

import os
import secrets
import shutil
import sqlite3
import tempfile
from contextlib import closing, suppress
from datetime import datetime
from pathlib import Path
from typing import NamedTuple

from loam.core.errors import LoamError
from loam.store.schema import APPLICATION_ID
from loam.store.turns import Turn

_HEADER, _FRAME = 32, 24
_SALTS = slice(16, 24)
ASIDE = "set-aside"
STAMP = "%Y-%m-%d %H.%M.%S"


class Mark(NamedTuple):
    """What a file, or a file with its log, says of itself."""

    token: str
    before: str
    since: int
    commits: int


class Mixed(LoamError):
    """Neither the file nor what lies beside it is whole."""


_NONE, _UNREADABLE = Mark("", "", 0, 0), Mark("?", "?", 0, 0)


def count_in(connection: sqlite3.Connection) -> None:
    """Count a transaction, inside of it."""
    try:
        connection.execute("UPDATE mark SET commits = commits + 1")
    except sqlite3.OperationalError as error:
        if "no such" not in str(error):  # of a version that counted none; a full disk is told
            raise


def mark_log(connection: sqlite3.Connection, workshop: Path, turn: Turn) -> None:
    """Mark the log when it began anew; whoever calls holds the turn and has just written."""
    salts = log_of(workshop)
    if not salts or salts == turn.log:
        return
    with suppress(sqlite3.Error):
        # a mark that is lost with the current only leaves the log without one
        connection.execute("PRAGMA synchronous = NORMAL")
        # the one that has just been written began it
        connection.execute(
            "UPDATE mark SET before = token, token = ?, since = commits - 1",
            (secrets.token_hex(8),),
        )
        # the log may have begun anew with the mark itself: all before it was in the file by then
        turn.log = log_of(workshop)
    with suppress(sqlite3.Error):
        connection.execute("PRAGMA synchronous = FULL")


def mark_apart(connection: sqlite3.Connection) -> None:
    """Give a file that is put in another's place a mark that no log knows."""
    connection.execute("UPDATE mark SET before = ?1, token = ?1", (secrets.token_hex(8),))


def beside(workshop: Path) -> list[Path]:
    """Return what a writer that was cut off left beside a workshop, of which something is in."""
    found = []
    for ending, least in (("-wal", _HEADER + _FRAME), ("-journal", 0)):
        part = Path(f"{workshop}{ending}")
        with suppress(OSError):
            if part.stat().st_size > least:
                found.append(part)
    return found


def put_aside_foreign(workshop: Path, now: datetime) -> str:
    """Look at what lies beside a closed workshop, and set aside what does not belong to it.

    Returns
    -------
    str
        What was done, or "".

    Raises
    ------
    Mixed
        When the file is not whole without it either; nothing is moved then.
    OSError
        When the folder takes no writing.
    """
    said = []
    for part in beside(workshop):
        log = part.name.endswith("-wal")
        if _belongs(workshop, log=log):
            continue
        if not _whole_alone(workshop):
            raise Mixed(
                "The workshop's file is not whole, with and without what lies beside it.",
                where=str(part),
                todo="Go back to an earlier copy.",
                kept="Both are as they were.",
            )
        aside = part.with_name(f"{part.name}.{ASIDE} {now.strftime(STAMP)}")
        os.replace(part, aside)
        Path(f"{workshop}-shm").unlink(missing_ok=True)
        said.append(
            f"Beside the workshop lay {part.name}, which does not belong to this file, as after a"
            f" copy was put back by hand. It was not used, and is set aside as {aside.name}."
        )
    return " ".join(said)


def log_of(workshop: Path) -> bytes:
    """Return what tells a workshop's log from the next; b"" where there is none."""
    try:
        with open(f"{workshop}-wal", "rb") as file:
            return file.read(_HEADER)[_SALTS]
    except OSError:
        return b""


def _belongs(workshop: Path, *, log: bool) -> bool:
    """Tell whether what lies beside fits the file: the marks follow, and the whole is sound."""
    try:
        alone = _mark_alone(workshop)
        if log:
            uri = f"{workshop.absolute().as_uri()}?mode=ro"
            with closing(sqlite3.connect(uri, uri=True)) as db:
                if not _sound(db):
                    return False
                # cut off while the log was moved into the file, the file alone is not sound
                return alone is _UNREADABLE or _follows(alone, _mark(db))
        with tempfile.TemporaryDirectory(prefix="loam-look-") as folder:
            # a half transaction is taken back by writing: in a copy
            place = Path(folder) / "look.loam"
            for ending in ("", "-journal"):
                shutil.copyfile(f"{workshop}{ending}", f"{place}{ending}")
            with closing(sqlite3.connect(place)) as db:
                return _sound(db) and (alone in (_NONE, _UNREADABLE) or _mark(db) == alone)
    except sqlite3.DatabaseError:
        return False


def _follows(alone: Mark, replayed: Mark) -> bool:
    if alone.token == replayed.token:
        return alone.commits <= replayed.commits
    # or one more, where the log began with the mark itself
    as_it_began = replayed.since <= alone.commits <= replayed.since + 1
    return alone.token == replayed.before and as_it_began


def _whole_alone(workshop: Path) -> bool:
    try:
        with closing(_alone(workshop)) as db:
            return _sound(db)
    except sqlite3.DatabaseError:
        return False


def _mark_alone(workshop: Path) -> Mark:
    try:
        with closing(_alone(workshop)) as db:
            return _mark(db)
    except sqlite3.DatabaseError:
        return _UNREADABLE


def _alone(workshop: Path) -> sqlite3.Connection:
    """Open the file as if nothing lay beside it."""
    uri = f"{workshop.absolute().as_uri()}?mode=ro&immutable=1"
    return sqlite3.connect(uri, uri=True)


def _mark(db: sqlite3.Connection) -> Mark:
    try:
        row = db.execute("SELECT token, before, since, commits FROM mark").fetchone()
    except sqlite3.OperationalError:  # of a version that had none
        return _NONE
    return _NONE if row is None else Mark(str(row[0]), str(row[1]), int(row[2]), int(row[3]))


def _sound(db: sqlite3.Connection) -> bool:
    mark = db.execute("PRAGMA application_id").fetchone()[0]
    return bool(
        mark == APPLICATION_ID and db.execute("PRAGMA integrity_check(1)").fetchone()[0] == "ok"
    )
