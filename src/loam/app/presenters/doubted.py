"""Doubts about the trial at hand: found on the worker, taken into account where that is wanted."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from loam.app.doubting import DoubtSaid, doubts_said
from loam.app.lessons import priors_for
from loam.app.what_matters import matters_in
from loam.core.dataset import trial_data
from loam.core.doubts import Doubt, Extras, without
from loam.core.errors import LoamError
from loam.core.judging import TrialJudgement, judge_readings
from loam.core.readings import FILM, KINDS, REMOVED
from loam.core.snapshot import Snapshot
from loam.core.trial import AFTER, BEFORE
from loam.store.database import reading_apart
from loam.store.extras import extras_in
from loam.store.kept import Loader
from loam.store.settings import recalled
from loam.store.snapshot import load_snapshot

STEPS = 20_000
"""Steps of the database, some milliseconds, after which a reading of a trial can be stopped."""


def key_of(trial_id: int) -> str:
    """Return the setting that holds the doubts that are taken into account."""
    return f"doubts:{trial_id}"


def stored(doubt: Doubt) -> dict[str, Any]:
    """Return a doubt as it is kept once it is taken into account."""
    return {
        "kind": doubt.kind, "subject": doubt.subject, "panels": sorted(doubt.panels),
        "cells": sorted(doubt.cells),
        "slope": [[m, {str(c): v for c, v in x.items()}, s] for m, x, s in doubt.slope],
    }  # fmt: skip


def _from_stored(found: Mapping[str, Any]) -> Doubt | None:
    """Return a doubt from what was kept; None where it cannot be read."""
    try:
        return Doubt(
            str(found["kind"]), str(found["subject"]), 0.0,
            panels=frozenset(int(p) for p in found["panels"]),
            cells=frozenset(int(c) for c in found["cells"]),
            slope=tuple(
                (str(m), {int(c): float(v) for c, v in x.items()}, float(s))
                for m, x, s in found["slope"]
            ),
        )  # fmt: skip
    except (KeyError, TypeError, ValueError, AttributeError):
        return None


def applied(
    db: sqlite3.Connection, trial_id: int, turned: Mapping[str, Any] | None = None
) -> dict[str, Doubt]:
    """Return the doubts that are taken into account, by their keys; ``turned`` goes first."""
    kept = recalled(db, key_of(trial_id), {}, turned)
    if not isinstance(kept, Mapping):
        return {}
    found = {str(k): _from_stored(v) for k, v in kept.items() if isinstance(v, dict)}
    return {k: d for k, d in found.items() if d is not None}


def as_doubted(
    db: sqlite3.Connection, snapshot: Snapshot, trial_id: int,
    turned: Mapping[str, Any] | None = None,
) -> tuple[Snapshot, list[str]]:  # fmt: skip
    """Leave out, or correct for, what is doubted and wanted so; say it."""
    found = applied(db, trial_id, turned)
    if not found:
        return snapshot, []
    extras = Extras.unknown(snapshot.columns.value.size)
    rest, _ = without(snapshot, extras, list(found.values()))
    out = [d for d in found.values() if not d.slope]
    corrected = [d for d in found.values() if d.slope]
    said = []
    if out:
        names = ", ".join(_named(d) for d in out)
        said.append(f"Left out because it is doubted: {names}. D lets it count.")
    if corrected:
        names = ", ".join(_named(d) for d in corrected)
        said.append(f"Corrected for: {names}. D takes that back.")
    return rest, said


def _named(doubt: Doubt) -> str:
    before = {"class": "panel ", "hand": "cells of "}.get(doubt.kind, "")
    return f"{before}{doubt.subject}"


def doubts_of(
    path: Path, trial_id: int, seed: int, told: Callable[[float], None] | None = None,
    load: Loader = load_snapshot,
) -> list[DoubtSaid]:  # fmt: skip
    """Look a trial through from its file; made for a worker thread.

    All of it counts, whatever was taken into account before: a doubt stays to be seen.
    """
    with reading_apart(path) as db:
        if told is not None:
            db.set_progress_handler(lambda: _stopped(told), STEPS)
        snapshot = load(db, trial_id, None)
        if not snapshot.columns.value.size:
            return []
        extras = extras_in(db, trial_id, snapshot)
        judged: list[TrialJudgement] = []
        priors = {}
        for key in _measurands(snapshot):
            if told is not None:
                told(0.0)
            try:
                data = trial_data(snapshot, key)
                priors[key] = priors_for(db, trial_id, key, data)
                matters = matters_in(db, trial_id, key)
                found = judge_readings(data, delta=matters, priors=priors[key], seed=seed)
            except LoamError:
                continue  # the ranking says why; the others are looked through all the same
            judged.append(found)
    chosen = {j.measurand: j.matters for j in judged}
    return doubts_said(snapshot, extras, judged, chosen, seed, told=told)


def _stopped(told: Callable[[float], None]) -> bool:
    """Tell whether whoever is told wants no more: the reading of a large trial ends at once."""
    try:
        told(0.0)
    except Exception:
        return True
    return False


def _measurands(snapshot: Snapshot) -> list[str]:
    columns = snapshot.columns
    found = [
        k.key for k in KINDS if k.rankable and not k.derived and columns.rows(k.key, AFTER).size
    ]
    if columns.rows(FILM.key, AFTER).size and columns.rows(FILM.key, BEFORE).size:
        found.append(REMOVED.key)
    return found


def short(count: int) -> str:
    """Say how many doubts there are."""
    if not count:
        return ""
    return "One doubt: D shows it." if count == 1 else f"{count} doubts: D shows them."
