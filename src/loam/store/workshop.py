"""Opening a workshop file: one writer, any number of readers, migrations with a copy before."""

from __future__ import annotations

import errno
import fcntl
import os
import shutil
import sqlite3
import stat
import tempfile
from collections.abc import Callable, Iterator, Sequence
from contextlib import closing, contextmanager, suppress
from datetime import datetime
from pathlib import Path
from typing import IO, Literal

from loam.store.belonging import Mixed, beside, log_of, put_aside_foreign
from loam.store.copies import copies, copy_before
from loam.store.database import (
    WorkshopRefused,
    connect,
    into_one_file,
    one_transaction,
    settle_down,
    version_of,
)
from loam.store.schema import APPLICATION_ID, MIGRATIONS
from loam.store.settling import Settler
from loam.store.structure import changed, put_back
from loam.store.turns import turn_of

Why = Literal["", "window", "folder", "look"]


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
    look : bool
        Open it to look at only, a file of a newer Loam too.

    Attributes
    ----------
    said : str
        What was done at opening that whoever opens it should know, or "".
    read_only : bool
        Whether it can only be looked at; ``why`` says why: another "window" has it, its "folder"
        takes no writing, or only a "look" was asked for.
    reads : Path
        The file that readers on other threads open: the workshop's own, or a copy of it where
        the own cannot be read in place.

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
        *,
        look: bool = False,
    ) -> None:
        self.path = self.reads = path
        self.clock = clock
        self.why: Why = "look" if look else ""
        self.said = ""
        self._settler: Settler | None = None
        self._lock: IO[str] | None = None
        self._place: tempfile.TemporaryDirectory[str] | None = None
        self._identity: tuple[int, int] | None = None
        connection: sqlite3.Connection | None = None
        try:
            self._check_place()
            if not look:
                self.why = self._take_lock()
            if self.read_only:
                connection = self._open_to_look(migrations)
            else:
                self._make_private()
                self.said = put_aside_foreign(path, clock())
                connection = connect(path, read_only=False)
                self._check(connection, len(migrations))
                newest = version_of(connection) == len(migrations)
                if newest:
                    self._check_layout(connection, migrations)
                connection.execute("PRAGMA journal_mode = WAL")
                connection.execute("PRAGMA synchronous = FULL")
                # the worker moves pages into the file; a typed reading must not wait for that
                connection.execute("PRAGMA wal_autocheckpoint = 8000")
                connection.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchall()
                turn_of(path).log = log_of(path)
                if not newest:
                    self._migrate(connection, migrations)
                    self._check_layout(connection, migrations)
                self._identity = self._identify()
            if self.read_only and version_of(connection) == len(migrations):
                self._check_layout(connection, migrations)
            self._probe(connection)
            self.connection = connection
            self._open = True
        except BaseException as error:
            if connection is not None:
                connection.close()
            self._release()
            if isinstance(error, (sqlite3.DatabaseError, OSError)):
                raise self._cannot_be_read(error) from error
            if isinstance(error, Mixed):
                raise WorkshopRefused.of(error, "damaged") from error
            raise

    @property
    def read_only(self) -> bool:
        """Whether the workshop can only be looked at here."""
        return bool(self.why)

    def _cannot_be_read(self, error: Exception) -> WorkshopRefused:
        said = getattr(error, "strerror", None) or str(error)
        full = "disk is full" in said or getattr(error, "errno", None) in (
            errno.ENOSPC,
            errno.EDQUOT,
        )
        if full or (isinstance(error, sqlite3.OperationalError) and "disk I/O" in said):
            return WorkshopRefused(
                f"The disk did not take what opening a workshop needs ({said}).",
                where=str(self.path),
                todo="Free some space or check the disk, then open it again.",
                kept="The workshop is as it was.",
                fault="place",
            )
        place = isinstance(error, OSError) or "unable to open" in said
        return WorkshopRefused(
            f"This file cannot be read as a workshop ({said}).",
            where=str(self.path),
            todo="Go back to an earlier copy, or choose another file.",
            kept="The file is as it was.",
            fault="place" if place else "damaged",
        )

    def _check_place(self) -> None:
        try:
            mode = self.path.stat()
        except FileNotFoundError:
            self._refuse_missing()
            if self.why == "look":
                raise
            self.path.parent.mkdir(parents=True, exist_ok=True)
            return
        if not stat.S_ISREG(mode.st_mode):
            raise WorkshopRefused(
                "This is no ordinary file.",
                where=str(self.path),
                todo="Choose another file.",
                kept="It is as it was.",
                fault="other",
            )
        if mode.st_size == 0 and copies(self.path):
            raise WorkshopRefused(
                "The workshop's file is empty.",
                where=str(self.path),
                todo="Go back to an earlier copy.",
                kept="Its copies are safe.",
                fault="empty",
            )

    def _refuse_missing(self) -> None:
        """Refuse to begin an empty workshop where one was: its copies, or what it left, lie here.

        Raises
        ------
        WorkshopRefused
        """
        left = beside(self.path)
        if not left and not copies(self.path):
            return
        raise WorkshopRefused(
            "The workshop's file is not here any more.",
            where=str(self.path),
            todo=f"If it was moved, move it back: what was typed last lies in {left[0].name}."
            if left
            else "Move it back, or go back to an earlier copy.",
            kept="What lies beside it is as it was." if left else "Its copies are safe.",
            fault="missing",
        )

    def _make_private(self) -> None:
        """Make the file when it is missing, for nobody else to read; the database then does too."""
        with suppress(FileExistsError):
            os.close(os.open(self.path, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600))

    def _take_lock(self) -> Why:
        """Become the writer; say why not otherwise."""
        lock = self.path.with_name(self.path.name + ".lock")
        if self.path.exists() and not os.access(self.path, os.W_OK):
            return "folder"
        for _ in range(50):
            try:
                if lock.is_symlink():
                    raise self._lock_is_a_link(lock)
                flags = os.O_CREAT | os.O_RDWR | os.O_NOFOLLOW | os.O_CLOEXEC | os.O_NONBLOCK
                self._lock = os.fdopen(os.open(lock, flags, 0o600), "w")
                fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                self._drop_lock()
                return "window"
            except OSError:
                self._drop_lock()
                if not self.path.exists():
                    raise
                return "folder"
            # the one who held it may have taken the file away meanwhile
            with suppress(OSError):
                if os.fstat(self._lock.fileno()).st_ino == lock.stat().st_ino:
                    return ""
            self._drop_lock()
        return "window"

    def _lock_is_a_link(self, lock: Path) -> WorkshopRefused:
        return WorkshopRefused(
            "Where this workshop is marked as open lies a link to elsewhere.",
            where=str(lock),
            todo="Take the link away; Loam does not write through it.",
            kept="Nothing was changed.",
            fault="other",
        )

    def _drop_lock(self) -> None:
        if self._lock is not None:
            self._lock.close()
            self._lock = None

    def _release(self) -> None:
        if self._lock is not None:
            with suppress(OSError):
                self.path.with_name(self.path.name + ".lock").unlink(missing_ok=True)
            self._drop_lock()
        if self._place is not None:
            self._place.cleanup()
            self._place = None

    def _open_to_look(self, migrations: Sequence[Sequence[str]]) -> sqlite3.Connection:
        """Open the file as it is; where that cannot be, a copy of it in a place of our own."""
        if self.why == "window":
            connection = connect(self.path, read_only=True)
            self._check(connection, len(migrations))
            if version_of(connection) == len(migrations):
                return connection
            connection.close()
        self._place = tempfile.TemporaryDirectory(prefix="loam-look-")
        self.reads = Path(self._place.name) / "look.loam"
        for ending in ("", "-wal"):
            part = Path(f"{self.path}{ending}")
            if part.exists():
                shutil.copyfile(part, f"{self.reads}{ending}")
        self.said = put_aside_foreign(self.reads, self.clock())
        with closing(connect(self.reads, read_only=False)) as connection:
            self._check(connection, len(migrations))
            if version_of(connection) < len(migrations):
                _upgrade(connection, self.reads, migrations)
        return connect(self.reads, read_only=True)

    @property
    def is_open(self) -> bool:
        """Whether `close` has not been called yet."""
        return self._open

    @property
    def version(self) -> int:
        """Schema version of the file."""
        return version_of(self.connection)

    def _check(self, connection: sqlite3.Connection, known: int) -> None:
        mark = int(connection.execute("PRAGMA application_id").fetchone()[0])
        tables = connection.execute("SELECT count(*) FROM sqlite_master").fetchone()[0]
        if (tables or self.read_only) and mark != APPLICATION_ID:
            raise WorkshopRefused(
                "This is a database, but not a Loam workshop.",
                where=str(self.path),
                todo="Choose another file.",
                kept="The file is as it was.",
                fault="other",
            )
        version = version_of(connection)
        if version > known and self.why != "look":
            raise WorkshopRefused(
                f"This workshop was written by a newer Loam (file version {version}, "
                f"this Loam knows {known}).",
                where=str(self.path),
                todo="Update Loam to open it, or only look at it.",
                kept="The file is as it was.",
                fault="newer",
            )

    def _migrate(self, connection: sqlite3.Connection, migrations: Sequence[Sequence[str]]) -> None:
        version = version_of(connection)
        if version == len(migrations):
            return
        if version:
            copy_before(connection, self.path, version, self.clock())
        _upgrade(connection, self.path, migrations)

    def _check_layout(
        self, connection: sqlite3.Connection, migrations: Sequence[Sequence[str]]
    ) -> None:
        """Put back guards that something else took away; refuse tables that are others."""
        found = changed(connection, migrations)
        if found is None or (self.read_only and not found.lost):
            return
        if found.broken:
            raise WorkshopRefused(
                "Something other than Loam has changed this workshop: "
                f"{'; '.join(found.broken[:4])}.",
                where=str(self.path),
                todo="Go back to an earlier copy.",
                kept="The file is as it was.",
                fault="damaged" if found.lost else "changed",
            )
        with one_transaction(connection, self.path):
            self.said = " ".join(w for w in (self.said, put_back(connection, found)) if w)

    @staticmethod
    def _probe(connection: sqlite3.Connection) -> None:
        """Touch what a start needs, so that a damaged file is refused here and not later."""
        for table in ("trial", "taping", "combination", "cell", "setting", "person"):
            connection.execute(f"SELECT * FROM {table} ORDER BY 1 DESC LIMIT 1").fetchall()

    def _identify(self) -> tuple[int, int] | None:
        try:
            found = self.path.stat()
        except OSError:
            return None
        return found.st_dev, found.st_ino

    @property
    def in_place(self) -> bool:
        """Whether the file still lies where it was opened."""
        return self.read_only or self._identify() == self._identity

    def need_writer(self) -> None:
        """Refuse when the workshop may only be looked at here, or is not where it was.

        Raises
        ------
        WorkshopRefused
            With the reason.
        """
        if self.read_only:
            said, todo = {
                "window": ("is open in another window", "Close the other window first."),
                "folder": ("lies where nothing can be written", "Copy it to a place of your own."),
                "look": ("was opened to look at", "Open it as usual to go on with it."),
            }[self.why]
            raise WorkshopRefused(
                f"This workshop {said}, so it can only be looked at here.",
                todo=todo,
                kept="Nothing was changed.",
            )
        if not self.in_place:
            raise WorkshopRefused(
                "The workshop's file was moved or replaced while it is open.",
                where=str(self.path),
                todo="Move it back, then do it again.",
                kept="All before this is in the file that was moved.",
                fault="place",
            )

    @contextmanager
    def transaction(self) -> Iterator[sqlite3.Connection]:
        """Run a block as one transaction: all of it is kept, or none.

        Raises
        ------
        WorkshopRefused
            When the workshop is open read-only, was moved, or the disk refuses.
        """
        self.need_writer()
        with one_transaction(self.connection, self.path) as db:
            yield db

    def settle(self) -> None:
        """Move what was written into the file, also after it was moved while it is open."""
        if not self.read_only:
            settle_down(self.connection)

    def settle_by_itself(self) -> None:
        """Move what was written into the file every few seconds from now on, in the background."""
        if not self.read_only and self._settler is None:
            self._settler = Settler(self.path)
            self._settler.start()

    def now(self) -> str:
        """Return the time now as ISO 8601 text, to the second."""
        return self.clock().isoformat(timespec="seconds")

    def close(self) -> None:
        """Close the file, leaving one plain file; safe to call twice."""
        if self._settler is not None:
            self._settler.stop()
            self._settler = None
        if not self.read_only:
            into_one_file(self.connection)
        self._open = False
        self.connection.close()
        if self.why == "window":
            self._tidy_after_the_writer()
        self._release()

    def _tidy_after_the_writer(self) -> None:
        """Leave one plain file too when the writer closed before this one who only looked."""
        with suppress(OSError, sqlite3.Error):
            if Path(f"{self.path}-wal").exists() and not self._take_lock():
                with closing(connect(self.path, read_only=False)) as connection:
                    into_one_file(connection)


def _upgrade(
    connection: sqlite3.Connection, path: Path, migrations: Sequence[Sequence[str]]
) -> None:
    """Bring the schema up to date, each step in one transaction."""
    connection.execute("PRAGMA foreign_keys = OFF")
    try:
        for number in range(version_of(connection), len(migrations)):
            with one_transaction(connection, path):
                for statement in migrations[number]:
                    connection.execute(statement)
                if connection.execute("PRAGMA foreign_key_check").fetchone() is not None:
                    raise WorkshopRefused(
                        "This workshop's rows do not fit together, so it was not upgraded.",
                        where=str(path),
                        todo="Go back to an earlier copy.",
                        kept="The file is as it was.",
                        fault="damaged",
                    )
                connection.execute(f"PRAGMA application_id = {APPLICATION_ID}")
                connection.execute(f"PRAGMA user_version = {number + 1}")
    finally:
        connection.execute("PRAGMA foreign_keys = ON")
