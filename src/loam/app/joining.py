"""Joining a file to a trial of the workshop: by identity, or by its names."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from pathlib import Path

from loam.store.by_name import as_part_of
from loam.store.database import one_transaction, reading_apart, writing_apart
from loam.store.draft import TrialDraft
from loam.store.join import Here, Joined, join, trial_here
from loam.store.merge import MINE


def join_file(
    db: sqlite3.Connection,
    trial_id: int,
    draft: TrialDraft,
    now: str,
    choose: str | Mapping[str, str] = "",
    here: Here | None = None,
) -> Joined:
    """Join a file to a trial inside the caller's transaction.

    A file of this very trial is joined by the identity of its rows; a table, or a file of an older
    format, by its names: what was laid out stays as it is here.

    Raises
    ------
    BothChanged
        When something was changed in both and ``choose`` does not say which holds.
    LoamError
        When the file is of another trial, or says otherwise than the trial.
    """
    if trial_here(db, draft) == trial_id:
        return join(db, trial_id, draft, now, choose, here)
    here = Here.of(db, trial_id) if here is None else here.again(db, trial_id)
    return join(db, trial_id, as_part_of(here.mine, draft), now, MINE, here)


def join_apart(
    path: Path,
    trial_id: int,
    draft: TrialDraft,
    now: str,
    choose: str | Mapping[str, str] = "",
) -> Joined:
    """Join a file to a trial on another thread: all or nothing, and nobody waits long."""
    with reading_apart(path) as db:
        here = Here.of(db, trial_id)
    with writing_apart(path) as db, one_transaction(db, path, later=True):
        return join_file(db, trial_id, draft, now, choose, here)
