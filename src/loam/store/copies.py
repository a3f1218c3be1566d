"""Copies of a workshop, numbered and dated, a few at most, and the way back to one.

A copy is written under another name, checked, brought to the disk and then renamed, so that what
bears the name of a copy is whole.
"""

from __future__ import annotations

import os
import re
import sqlite3
from contextlib import closing, suppress
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import IO

from loam.core.errors import LoamError
from loam.store.belonging import ASIDE, STAMP, mark_apart
from loam.store.schema import APPLICATION_ID, MIGRATIONS

NEWEST, DAYS = 3, 3
"""How many copies are kept: the newest few, and the last of a few earlier days."""
_HEADER = 100
_MAGIC = b"SQLite format 3\0"
_NAMED = re.compile(r"(\d{4}-\d\d-\d\d \d\d\.\d\d\.\d\d)(?: no (\d{1,9}))?( before.*)?")


@dataclass(frozen=True)
class Copy:
    """A copy of a workshop, and when it was made.

    ``number`` tells the order in which copies were made, whatever a clock said; those of before
    there were numbers have 0. ``before`` tells that it was made before an upgrade.
    """

    path: Path
    at: datetime
    size: int
    number: int = 0
    before: bool = False


def folder_of(workshop: Path) -> Path:
    """Return the folder in which a workshop's copies lie."""
    return workshop.with_name(workshop.name + ".copies")


def copies(workshop: Path) -> list[Copy]:
    """Return the copies of a workshop that have all their pages, newest first."""
    found = []
    with suppress(OSError):
        for path in folder_of(workshop).glob("*.loam"):
            named = _NAMED.fullmatch(path.stem)
            with suppress(ValueError, OSError):
                if named is None or path.is_symlink() or not _all_there(path):
                    continue
                at = datetime.strptime(named[1], STAMP)
                size, number = path.stat().st_size, int(named[2] or 0)
                found.append(Copy(path, at, size, number, bool(named[3])))
    return sorted(found, key=lambda c: (c.number, c.at, c.path.name), reverse=True)


def _all_there(path: Path) -> bool:
    """Tell by its header whether a file is a workshop with as many pages as it says."""
    with path.open("rb") as file:
        head = file.read(_HEADER)
    if len(head) < _HEADER or not head.startswith(_MAGIC):
        return False
    page = int.from_bytes(head[16:18], "big")
    pages = int.from_bytes(head[28:32], "big")
    whole = (65536 if page == 1 else page) * pages
    mark = int.from_bytes(head[68:72], "big")
    return mark == APPLICATION_ID and pages > 0 and path.stat().st_size >= whole


def keep_copy(workshop: Path, now: datetime) -> Path | None:
    """Copy a workshop beside itself when it has changed since the last copy, and thin out.

    Safe beside a writer: SQLite's own backup reads one moment of the file.

    Raises
    ------
    LoamError
        When the file is damaged (the copies are left as they are), or the disk refuses.
    """
    place: Path | None = None
    try:
        with closing(_reader(workshop)) as source:
            place = _kept(source, workshop, now, "", alike=True)
    except sqlite3.DatabaseError as error:
        full = isinstance(error, sqlite3.OperationalError)
        raise LoamError(
            f"No copy of the workshop could be made ({error})."
            if full
            else f"The workshop's file is damaged on the disk ({error}).",
            where=str(workshop),
            todo="Free some space." if full else "Go back to an earlier copy (Ctrl+Shift+O).",
            kept="Earlier copies stay.",
        ) from error
    except OSError as error:
        raise LoamError(
            f"No copy of the workshop could be made ({error.strerror}).",
            where=str(folder_of(workshop)),
            kept="The workshop itself is not touched.",
        ) from error
    if place is not None:
        _thin(workshop)
    return place


def copy_before(
    connection: sqlite3.Connection, workshop: Path, version: int, now: datetime
) -> Path:
    """Copy a workshop before its schema is upgraded.

    Raises
    ------
    sqlite3.DatabaseError, OSError
        When the copy is not whole, or the disk refuses; no copy stands then.
    """
    place = _kept(connection, workshop, now, f" before, version {version}", alike=False)
    assert place is not None
    return place


def _reader(path: Path) -> sqlite3.Connection:
    return sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)


def _kept(
    source: sqlite3.Connection, workshop: Path, now: datetime, why: str, *, alike: bool
) -> Path | None:
    """Write a whole copy and name it; None where the last copy holds the same, if ``alike``."""
    folder = folder_of(workshop)
    folder.mkdir(mode=0o700, exist_ok=True)
    beside = folder / ".new.part"
    try:
        _copied(source, beside)
        standing = copies(workshop)
        if alike and standing and _alike(beside, standing[0].path):
            return None
        number = max((c.number for c in standing), default=0) + 1
        place = folder / f"{now.strftime(STAMP)} no {number}{why}.loam"
        os.replace(beside, place)
        _to_disk(folder)
    finally:
        with suppress(OSError):
            beside.unlink(missing_ok=True)
    return place


def _copied(source: sqlite3.Connection, beside: Path) -> None:
    """Copy a database to a new file that nobody else may read, check it, bring it to the disk."""
    beside.unlink(missing_ok=True)
    os.close(os.open(beside, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600))
    with closing(sqlite3.connect(beside, isolation_level=None)) as target:
        source.backup(target)
        target.execute("PRAGMA journal_mode = DELETE")
        _check_whole(target)
    _to_disk(beside)


def _check_whole(db: sqlite3.Connection) -> None:
    """Refuse what is not sound, or no workshop.

    Raises
    ------
    sqlite3.DatabaseError
        With the reason.
    """
    found = db.execute("PRAGMA quick_check(1)").fetchone()[0]
    if found != "ok":
        raise sqlite3.DatabaseError(found)
    mark = db.execute("PRAGMA application_id").fetchone()[0]
    version = db.execute("PRAGMA user_version").fetchone()[0]
    if mark != APPLICATION_ID or version < 1:
        raise sqlite3.DatabaseError("it holds no workshop")


def _to_disk(path: Path) -> None:
    descriptor = os.open(path, os.O_RDONLY)
    try:
        os.fsync(descriptor)
    finally:
        os.close(descriptor)


def _alike(one: Path, other: Path) -> bool:
    """Tell whether two copies hold the same, whatever their headers and marks count."""
    if one.stat().st_size != other.stat().st_size:
        return False
    page, mark = _mark_page(one)
    if (page, mark) != _mark_page(other):
        return False
    with one.open("rb") as a, other.open("rb") as b:
        a.seek(_HEADER)
        b.seek(_HEADER)
        first = _HEADER
        for start, end in (((mark - 1) * page, mark * page), (one.stat().st_size, 0)):
            if not _same(a, b, start - first):
                return False
            a.seek(end)
            b.seek(end)
            first = end
    return True


def _same(a: IO[bytes], b: IO[bytes], count: int) -> bool:
    """Compare so many bytes from where both files stand."""
    while count > 0:
        left, right = a.read(min(count, 1 << 20)), b.read(min(count, 1 << 20))
        if left != right or not left:
            return False
        count -= len(left)
    return True


def _mark_page(path: Path) -> tuple[int, int]:
    """Return the size of a page, and the number of the one that holds the mark (the last else)."""
    with closing(_reader(path)) as db:
        size = int(db.execute("PRAGMA page_size").fetchone()[0])
        row = db.execute("SELECT rootpage FROM sqlite_master WHERE name = 'mark'").fetchone()
        last = int(db.execute("PRAGMA page_count").fetchone()[0]) + 1
    return size, last if row is None else int(row[0])


def _thin(workshop: Path) -> None:
    standing = copies(workshop)
    keep = standing[:NEWEST]
    days = {c.at.date() for c in keep}
    for copy in standing[NEWEST:]:
        if copy.at.date() not in days and len(keep) < NEWEST + DAYS:
            keep.append(copy)
            days.add(copy.at.date())
        elif not copy.before:
            with suppress(OSError):
                copy.path.unlink()


def go_back(workshop: Path, copy: Path, now: datetime) -> Path | None:
    """Put a copy in the place of a workshop that is closed; what stood there is set aside.

    At no moment is there no file of the workshop's name.

    Returns
    -------
    Path or None
        Where the former file lies now.

    Raises
    ------
    LoamError
        When the copy cannot be read or the disk refuses; nothing is changed then.
    """
    beside = workshop.with_name(workshop.name + ".back")
    aside: Path | None = None
    try:
        if not copy.is_file() or not _all_there(copy):
            raise sqlite3.DatabaseError("the copy is not whole")
        with closing(_reader(copy)) as source:
            _copied(source, beside)
        with closing(sqlite3.connect(beside, isolation_level=None)) as db:
            if db.execute("PRAGMA user_version").fetchone()[0] == len(MIGRATIONS):
                mark_apart(db)
        _to_disk(beside)
        if workshop.exists():
            aside = _set_aside(workshop, now)
        os.replace(beside, workshop)
        for ending in ("-wal", "-journal", "-shm"):
            Path(f"{workshop}{ending}").unlink(missing_ok=True)
    except (OSError, sqlite3.DatabaseError) as error:
        with suppress(OSError):
            beside.unlink(missing_ok=True)
            if aside is not None and not workshop.exists():
                os.replace(aside, workshop)
        raise LoamError(
            f"This copy could not be put in place ({error}).",
            where=str(copy),
            todo="Choose another copy.",
            kept="The workshop is as it was.",
        ) from error
    return aside


def _set_aside(workshop: Path, now: datetime) -> Path:
    """Give the file, and what lies beside it, a second name; where that cannot be, another."""
    aside = workshop.with_name(f"{workshop.name}.{ASIDE} {now.strftime(STAMP)}")
    number = 1
    while aside.exists():
        number += 1
        aside = workshop.with_name(f"{workshop.name}.{ASIDE} {now.strftime(STAMP)} {number}")
    for ending in ("-wal", "-journal", ""):
        part, name = Path(f"{workshop}{ending}"), Path(f"{aside}{ending}")
        if part.exists():
            try:
                os.link(part, name)
            except OSError:  # a disk without links
                os.replace(part, name)
    return aside
