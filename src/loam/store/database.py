"""Connections to a workshop's database, transactions, and what it says of a fault."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from pathlib import Path
from typing import Literal

from loam.core.errors import LoamError
from loam.store.belonging import count_in, mark_log
from loam.store.turns import turn_of

BUSY_S = 2.0
Fault = Literal["", "damaged", "newer", "other", "empty", "missing", "changed", "place"]


class WorkshopRefused(LoamError):
    """A workshop that cannot be opened, read or written.

    Attributes
    ----------
    fault : str
        "damaged", "newer", "other" (no workshop), "empty", "missing", "changed" (by something
        else), "place" (the folder or disk), or "".
    """

    def __init__(
        self, what: str, *, where: str = "", todo: str = "", kept: str = "", fault: Fault = ""
    ) -> None:
        super().__init__(what, where=where, todo=todo, kept=kept)
        self.fault = fault

    @classmethod
    def of(cls, error: LoamError, fault: Fault) -> WorkshopRefused:
        """Return a refusal that says what another error says."""
        return cls(error.what, where=error.where, todo=error.todo, kept=error.kept, fault=fault)


def connect(path: Path, *, read_only: bool) -> sqlite3.Connection:
    """Open a connection to a workshop's file; it is never made."""
    uri = f"{path.absolute().as_uri()}?mode={'ro' if read_only else 'rw'}"
    connection = sqlite3.connect(uri, uri=True, isolation_level=None, timeout=BUSY_S)
    connection.execute("PRAGMA foreign_keys = ON")
    if read_only:
        connection.execute("PRAGMA query_only = ON")
    return connection


def said_plainly(error: sqlite3.Error, where: Path) -> WorkshopRefused:
    """Turn what the database says into what happened and what to do."""
    if isinstance(error, sqlite3.OperationalError) and "locked" in str(error):
        return WorkshopRefused(
            "Something else is writing to the workshop just now.",
            where=where.name,
            todo="Do it again in a moment.",
            kept="Nothing was changed.",
        )
    said = str(error)
    if "no such" in said or "has no column" in said or "cannot modify" in said:
        return WorkshopRefused(
            f"The workshop's file lacks what belongs into it ({error}).",
            where=str(where),
            todo="Something else has changed it: go back to an earlier copy (Ctrl+Shift+O).",
            kept="Earlier copies stay.",
            fault="damaged",
        )
    if isinstance(error, sqlite3.OperationalError):
        return WorkshopRefused(
            f"The disk did not take it ({error}).",
            where=str(where),
            todo="Free some space or check the disk, then do it again.",
            kept="Everything before this is safe.",
            fault="place",
        )
    return WorkshopRefused(
        f"The workshop's file cannot be read ({error}).",
        where=str(where),
        todo="Go back to an earlier copy (Ctrl+Shift+O).",
        kept="Earlier copies stay.",
        fault="damaged",
    )


@contextmanager
def reading_apart(path: Path) -> Iterator[sqlite3.Connection]:
    """Read one moment of a workshop, on the thread that calls this.

    Whatever is written meanwhile, all reads inside the block see the same state.

    Raises
    ------
    WorkshopRefused
        When the file cannot be read.
    """
    try:
        with closing(connect(path, read_only=True)) as connection:
            connection.execute("BEGIN")
            yield connection
    except sqlite3.DatabaseError as error:
        raise said_plainly(error, path) from error


@contextmanager
def one_transaction(
    connection: sqlite3.Connection, where: Path, *, later: bool = False
) -> Iterator[sqlite3.Connection]:
    """Run a block as one transaction: all of it is kept, or none.

    Parameters
    ----------
    later : bool
        Let whoever else in this program wants to write go first.

    Raises
    ------
    WorkshopRefused
        When the disk refuses, or someone else is writing.
    """
    turn = turn_of(where)
    with turn.passed(later=later):
        yield from _transaction(connection, where)
        turn.commits += 1
        mark_log(connection, where, turn)


def _transaction(connection: sqlite3.Connection, where: Path) -> Iterator[sqlite3.Connection]:
    try:
        connection.execute("BEGIN IMMEDIATE")
        yield connection
        count_in(connection)
        connection.execute("COMMIT")
    except BaseException as error:
        if connection.in_transaction:
            with suppress(sqlite3.Error):
                connection.execute("ROLLBACK")
        if isinstance(error, sqlite3.DatabaseError) and not isinstance(
            error, sqlite3.IntegrityError
        ):
            raise said_plainly(error, where) from error
        raise


@contextmanager
def writing_apart(path: Path) -> Iterator[sqlite3.Connection]:
    """Open a connection to write with on another thread, beside the window's.

    The caller runs its own transactions (`one_transaction`, later), best many small ones, and
    moves what it wrote into the file between them (`settle_down`).
    """
    connection = connect(path, read_only=False)
    try:
        connection.execute("PRAGMA synchronous = FULL")
        connection.execute("PRAGMA wal_autocheckpoint = 0")
        yield connection
        # else the next small write, on the window's thread, would move all of it; what was
        # committed is safe whether or not this succeeds
        settle_down(connection)
    finally:
        connection.close()


def settle_down(connection: sqlite3.Connection) -> None:
    """Move what was written into the file; nobody's writing waits for that."""
    with suppress(sqlite3.Error):
        connection.execute("PRAGMA wal_checkpoint(PASSIVE)").fetchall()


def into_one_file(connection: sqlite3.Connection) -> None:
    """Move all that was written into the file, and leave nothing beside it."""
    with suppress(sqlite3.Error):
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        connection.execute("PRAGMA journal_mode = DELETE")


def version_of(connection: sqlite3.Connection) -> int:
    """Return the version of the schema."""
    return int(connection.execute("PRAGMA user_version").fetchone()[0])
