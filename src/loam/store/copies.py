"""Dated copies of a workshop, a few at most, and the way back to one."""

from __future__ import annotations

import filecmp
import os
import sqlite3
from contextlib import closing, suppress
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from loam.core.errors import LoamError

NEWEST, DAYS = 3, 3
"""How many copies are kept: the newest few, and the last of a few earlier days."""
_HEADER = 100
_STAMP = "%Y-%m-%d %H.%M.%S"


@dataclass(frozen=True)
class Copy:
    """A copy of a workshop, and when it was made."""

    path: Path
    at: datetime
    size: int


def folder_of(workshop: Path) -> Path:
    """Return the folder in which a workshop's copies lie."""
    return workshop.with_name(workshop.name + ".copies")


def copies(workshop: Path) -> list[Copy]:
    """Return the copies of a workshop, newest first."""
    found = []
    with suppress(OSError):
        for path in folder_of(workshop).glob("*.loam"):
            with suppress(ValueError, OSError):
                at = datetime.strptime(path.stem[:19], _STAMP)
                found.append(Copy(path, at, path.stat().st_size))
    return sorted(found, key=lambda c: (c.at, c.path.name), reverse=True)


def keep_copy(workshop: Path, now: datetime) -> Path | None:
    """Copy a workshop beside itself when it has changed since the last copy, and thin out.

    Safe beside a writer: SQLite's own backup reads one moment of the file.

    Raises
    ------
    LoamError
        When the file is damaged (the copies are left as they are), or the disk refuses.
    """
    folder = folder_of(workshop)
    beside = folder / ".new.part"
    try:
        folder.mkdir(exist_ok=True)
        beside.unlink(missing_ok=True)
        with (
            closing(sqlite3.connect(f"{workshop.absolute().as_uri()}?mode=ro", uri=True)) as source,
            closing(sqlite3.connect(beside)) as target,
        ):
            source.backup(target)
            target.execute("PRAGMA journal_mode = DELETE")
            found = target.execute("PRAGMA quick_check(1)").fetchone()[0]
        if found != "ok":
            raise sqlite3.DatabaseError(found)
        standing = copies(workshop)
        if standing and _alike(beside, standing[0].path):
            return None
        place = folder / f"{now.strftime(_STAMP)}.loam"
        os.replace(beside, place)
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
            where=str(folder),
            kept="The workshop itself is not touched.",
        ) from error
    finally:
        with suppress(OSError):
            beside.unlink(missing_ok=True)
    _thin(workshop)
    return place


def _alike(one: Path, other: Path) -> bool:
    """Tell whether two copies hold the same, whatever the counters in their headers say."""
    if one.stat().st_size != other.stat().st_size:
        return False
    if filecmp.cmp(one, other, shallow=False):
        return True
    with one.open("rb") as a, other.open("rb") as b:
        a.seek(_HEADER)
        b.seek(_HEADER)
        while True:
            left, right = a.read(1 << 20), b.read(1 << 20)
            if left != right:
                return False
            if not left:
                return True


def _thin(workshop: Path) -> None:
    standing = copies(workshop)
    keep = standing[:NEWEST]
    days = {c.at.date() for c in keep}
    for copy in standing[NEWEST:]:
        if copy.at.date() not in days and len(keep) < NEWEST + DAYS:
            keep.append(copy)
            days.add(copy.at.date())
        elif "before" not in copy.path.stem:
            with suppress(OSError):
                copy.path.unlink()


def copy_before(
    connection: sqlite3.Connection, workshop: Path, version: int, now: datetime
) -> Path:
    """Copy a workshop before its schema is upgraded."""
    folder = folder_of(workshop)
    folder.mkdir(exist_ok=True)
    place = folder / f"{now.strftime(_STAMP)} before, version {version}.loam"
    with closing(sqlite3.connect(place)) as target:
        connection.backup(target)
        target.execute("PRAGMA journal_mode = DELETE")
    return place


def go_back(workshop: Path, copy: Path, now: datetime) -> Path | None:
    """Put a copy in the place of a workshop that is closed; what stood there is set aside.

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
        beside.unlink(missing_ok=True)
        with (
            closing(sqlite3.connect(f"{copy.absolute().as_uri()}?mode=ro", uri=True)) as source,
            closing(sqlite3.connect(beside)) as target,
        ):
            source.backup(target)
            if target.execute("PRAGMA quick_check(1)").fetchone()[0] != "ok":
                raise sqlite3.DatabaseError("the copy is damaged")
        if workshop.exists():
            aside = workshop.with_name(f"{workshop.name}.set-aside {now.strftime(_STAMP)}")
            for ending in ("", "-wal", "-shm"):
                part = Path(f"{workshop}{ending}")
                if part.exists():
                    os.replace(part, Path(f"{aside}{ending}"))
        os.replace(beside, workshop)
    except (OSError, sqlite3.DatabaseError) as error:
        with suppress(OSError):
            beside.unlink(missing_ok=True)
        raise LoamError(
            f"This copy could not be put in place ({error}).",
            where=str(copy),
            todo="Choose another copy.",
            kept="The workshop is as it was.",
        ) from error
    return aside
