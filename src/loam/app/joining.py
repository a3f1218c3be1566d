"""Joining a file to a trial of the workshop: by identity, or by its names."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping

from loam.store.by_name import as_part_of
from loam.store.draft import TrialDraft
from loam.store.join import Joined, join, trial_here
from loam.store.merge import MINE
from loam.store.take_out import read_draft


def join_file(
    db: sqlite3.Connection, trial_id: int, draft: TrialDraft, now: str,
    choose: str | Mapping[str, str] = "",
) -> Joined:  # fmt: skip
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
        return join(db, trial_id, draft, now, choose)
    return join(db, trial_id, as_part_of(read_draft(db, trial_id), draft), now, MINE)
