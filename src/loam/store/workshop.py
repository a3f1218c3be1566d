"""Opening a workshop file: one writer, any number of readers, migrations with a backup."""

from __future__ import annotations

import fcntl
import sqlite3
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path
from typing import IO

from loam.core.errors import LoamError
from loam.store.schema import APPLICATION_ID, MIGRATIONS


class WorkshopRefused(LoamError):
    """A file that cannot be opened as a workshop."""


def _connect(path: Path, *, read_only: bool) -> sqlite3.Connection:
    uri = f"file:{_quoted(path)}?mode={'ro' if read_only else 'rwc'}"
    connection = sqlite3.connect(uri, uri=True, isolation_level=None, timeout=5.0)
    connection.execute("PRAGMA foreign_keys = ON")
    if read_only:
        connection.execute("PRAGMA query_only = ON")
    return connection


def _quoted(path: Path) -> str:
    from urllib.parse import quote

    return quote(str(path.absolute()))


def open_reader(path: Path) -> sqlite3.Connection:
    """Open a connection that can only read, for use on the thread that calls this."""
    return _connect(path, read_only=True)


@contextmanager
def one_transaction(connection: sqlite3.Connection, where: Path) -> Iterator[sqlite3.Connection]:
    """Run a block as one transaction: all of it is kept, or none.

    Raises
    ------
    WorkshopRefused
        When the disk refuses.
    """
    connection.execute("BEGIN IMMEDIATE")
    try:
        yield connection
        connection.execute("COMMIT")
    except BaseException as error:
        if connection.in_transaction:
            connection.execute("ROLLBACK")
        if isinstance(error, sqlite3.OperationalError):
            raise WorkshopRefused(
                f"The disk did not take it ({error}).",
                where=str(where),
                todo="Free some space or check the disk, then do it again.",
                kept="Everything before this is safe.",
            ) from error
        raise


@contextmanager
def writing_apart(path: Path) -> Iterator[sqlite3.Connection]:
    """Write to a workshop that this program has open, on another thread, as one transaction."""
    connection = _connect(path, read_only=False)
    try:
        connection.execute("PRAGMA synchronous = FULL")
        with one_transaction(connection, path) as db:
            yield db
        # else the next small write, on the window's thread, would move all of it
        connection.execute("PRAGMA wal_checkpoint(PASSIVE)")
    finally:
        connection.close()


class Workshop:
    """An open workshop file.

    Parameters
    ----------
    path : Path
        The file; made when missing.
    clock : callable
        Returns the time now; every time stamp comes from it.
    migrations : sequence
        Steps of the schema; other than the default only in tests.

    Raises
    ------
    WorkshopRefused
        When the file is no workshop, is newer than this Loam, or cannot be written or read.
    """

    def __init__(
        self,
        path: Path,
        clock: Callable[[], datetime] = datetime.now,
        migrations: Sequence[Sequence[str]] = MIGRATIONS,
    ) -> None:
        self.path = path
        self.clock = clock
        self._lock: IO[str] | None = None
        path.parent.mkdir(parents=True, exist_ok=True)
        self.read_only = not self._take_lock()
        try:
            self.connection = _connect(path, read_only=self.read_only)
            self._check()
            if not self.read_only:
                self.connection.execute("PRAGMA journal_mode = WAL")
                self.connection.execute("PRAGMA synchronous = FULL")
                self._migrate(migrations)
        except sqlite3.DatabaseError as error:
            self._release()
            raise WorkshopRefused(
                f"This file cannot be read as a workshop ({error}).",
                where=str(path),
                todo="Choose another file.",
                kept="The file is as it was.",
            ) from error
        except WorkshopRefused:
            self.connection.close()
            self._release()
            raise

    def _take_lock(self) -> bool:
        lock = self.path.with_name(self.path.name + ".lock")
        try:
            self._lock = lock.open("a")
            fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            self._release()
            return False
        return True

    def _release(self) -> None:
        if self._lock is not None:
            self._lock.close()
            self._lock = None

    @property
    def version(self) -> int:
        """Schema version of the file."""
        return int(self.connection.execute("PRAGMA user_version").fetchone()[0])

    def _check(self) -> None:
        mark = int(self.connection.execute("PRAGMA application_id").fetchone()[0])
        tables = self.connection.execute("SELECT count(*) FROM sqlite_master").fetchone()[0]
        if tables and mark != APPLICATION_ID:
            raise WorkshopRefused(
                "This is a database, but not a Loam workshop.",
                where=str(self.path),
                todo="Choose another file.",
                kept="The file is as it was.",
            )

    def _migrate(self, migrations: Sequence[Sequence[str]]) -> None:
        version = self.version
        if version > len(migrations):
            raise WorkshopRefused(
                f"This workshop was written by a newer Loam (file version {version}, "
                f"this Loam knows {len(migrations)}).",
                where=str(self.path),
                todo="Update Loam to open it.",
                kept="The file is as it was.",
            )
        if version == len(migrations):
            return
        if version:
            self._backup(version)
        for number in range(version, len(migrations)):
            with self.transaction():
                for statement in migrations[number]:
                    self.connection.execute(statement)
                self.connection.execute(f"PRAGMA application_id = {APPLICATION_ID}")
                self.connection.execute(f"PRAGMA user_version = {number + 1}")

    def _backup(self, version: int) -> None:
        beside = self.path.with_name(f"{self.path.name}.v{version}.bak")
        with sqlite3.connect(beside) as target:
            self.connection.backup(target)
        target.close()

    def need_writer(self) -> None:
        """Refuse when the workshop may only be looked at here.

        Raises
        ------
        WorkshopRefused
            When another window has it open.
        """
        if self.read_only:
            raise WorkshopRefused(
                "This workshop is open in another window, so it can only be looked at here.",
                todo="Close the other window first.",
                kept="Nothing was changed.",
            )

    @contextmanager
    def transaction(self) -> Iterator[sqlite3.Connection]:
        """Run a block as one transaction: all of it is kept, or none.

        Raises
        ------
        WorkshopRefused
            When the workshop is open read-only, or the disk refuses.
        """
        self.need_writer()
        with one_transaction(self.connection, self.path) as db:
            yield db

    def now(self) -> str:
        """Return the time now as ISO 8601 text, to the second."""
        return self.clock().isoformat(timespec="seconds")

    def reader(self) -> sqlite3.Connection:
        """Open another connection that can only read, for use on another thread."""
        return open_reader(self.path)

    def close(self) -> None:
        """Close the file; safe to call twice."""
        self.connection.close()
        self._release()
