"""What a verdict rests on, taken from the workshop or from a file, for the one way to judge it."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Mapping
from typing import Any

from loam.app.learnt_priors import taught
from loam.app.what_matters import matters_in
from loam.app.work_against_plan import done_in, left_out, looks, marks_left_in
from loam.core.doubts import Doubt
from loam.core.matter import Matters
from loam.core.prepare import consequences, standing
from loam.core.readings import KINDS
from loam.core.sanding import marks_words
from loam.core.trial_rows import TrialData
from loam.core.verdict import Record, Taught
from loam.store import preparation
from loam.store.draft import TrialDraft
from loam.store.settings import recalled
from loam.store.snapshot import load_snapshot, snapshot_of
from loam.store.snapshot_cache import Loader


def record_of(
    db: sqlite3.Connection,
    trial_id: int,
    measurands: Iterable[str] | None = None,
    load: Loader = load_snapshot,
    turned: Mapping[str, Any] | None = None,
) -> Record:
    """Return what a verdict on a trial of the workshop rests on.

    Parameters
    ----------
    measurands : iterable of str, optional
        Only readings of these; all by default.
    turned : mapping, optional
        What is kept under some keys, as it would be; what the workshop keeps otherwise.
    """
    snapshot = load(db, trial_id, measurands)
    noted = preparation.passed(db, trial_id)
    said = consequences([(p.name, standing(noted.get(p.id, ()))) for p in snapshot.panels])
    left = [f for f in marks_left_in(db, snapshot, trial_id) if f.left]
    if left:
        said.append(marks_words(left, {c.code: c for c in snapshot.combinations}) + ".")
    return Record(
        snapshot,
        done_in(db, snapshot, trial_id),
        tuple(said),
        left_out(db, trial_id, turned),
        tuple(applied(db, trial_id, turned).values()),
        looks(db, trial_id),
        {k.key: matters_in(db, trial_id, k.key) for k in KINDS},
    )


def record_in(draft: TrialDraft, matters: Mapping[str, Matters]) -> Record:
    """Return what a verdict on a file of readings rests on."""
    return Record(snapshot_of(draft), matters=matters)


class Learnt:
    """What earlier trials of the workshop, and its gauge studies, taught for a trial."""

    def __init__(self, db: sqlite3.Connection, trial_id: int) -> None:
        self._db, self._trial = db, trial_id

    def of(self, measurand: str, data: TrialData) -> Taught:
        """Return what is known of a measurand; ``data`` itself does not teach."""
        return taught(self._db, self._trial, measurand, data)


def doubts_key(trial_id: int) -> str:
    """Return the setting that holds the doubts that are taken into account."""
    return f"doubts:{trial_id}"


def applied(
    db: sqlite3.Connection, trial_id: int, turned: Mapping[str, Any] | None = None
) -> dict[str, Doubt]:
    """Return the doubts that are taken into account, by their keys; ``turned`` goes first."""
    kept = recalled(db, doubts_key(trial_id), {}, turned)
    if not isinstance(kept, Mapping):
        return {}
    found = {str(k): _from_stored(v) for k, v in kept.items() if isinstance(v, dict)}
    return {k: d for k, d in found.items() if d is not None}


def stored(doubt: Doubt) -> dict[str, Any]:
    """Return a doubt as it is kept once it is taken into account."""
    return {
        "kind": doubt.kind,
        "subject": doubt.subject,
        "panels": sorted(doubt.panels),
        "cells": sorted(doubt.cells),
        "slope": [[m, {str(c): v for c, v in x.items()}, s] for m, x, s in doubt.slope],
    }


def _from_stored(found: Mapping[str, Any]) -> Doubt | None:
    """Return a doubt from what was kept; None where it cannot be read."""
    try:
        return Doubt(
            str(found["kind"]),
            str(found["subject"]),
            0.0,
            panels=frozenset(int(p) for p in found["panels"]),
            cells=frozenset(int(c) for c in found["cells"]),
            slope=tuple(
                (str(m), {int(c): float(v) for c, v in x.items()}, float(s))
                for m, x, s in found["slope"]
            ),
        )
    except (KeyError, TypeError, ValueError, AttributeError):
        return None
