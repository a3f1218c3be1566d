"""A trial as it leaves the workshop: all that belongs to it, and what is assumed of it here."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import replace
from typing import Any

from loam.app.assumed import assumed_key
from loam.app.learnt_priors import behind_before, taught
from loam.app.what_matters import chosen
from loam.core.dataset import source_of, trial_data, worked_only
from loam.core.errors import LoamError
from loam.core.record import CHOICE
from loam.core.verdict import counting, judged_by
from loam.store.draft import TrialDraft
from loam.store.origins import taken_in
from loam.store.settings import recall
from loam.store.snapshot import load_snapshot
from loam.store.take_out import read_draft


def whole_trial(db: sqlite3.Connection, trial_id: int, now: str) -> TrialDraft:
    """Take a trial out with all that belongs to it, so that it is judged alike elsewhere.

    Lessons of earlier trials and studies of meters stay here; what they come to for this trial goes
    along. Of a trial from elsewhere, what was assumed there goes on.
    """
    draft = read_draft(db, trial_id)
    if taken_in(db, trial_id) and recall(db, assumed_key(trial_id)):
        return draft
    said = _assumed(db, trial_id, now)
    rows = tuple(r for r in draft.rest.get(CHOICE.key, ()) if r["key"] != "assumed")
    row = {"key": "assumed", "value": json.dumps(said, sort_keys=True, ensure_ascii=False)}
    return replace(draft, rest={**draft.rest, CHOICE.key: (*rows, row)})


def _assumed(db: sqlite3.Connection, trial_id: int, now: str) -> dict[str, Any]:
    from loam.app.record import record_of

    found: dict[str, Any] = {}
    snapshot = load_snapshot(db, trial_id)
    for measurand in judged_by(snapshot.columns):
        record = record_of(db, trial_id, [source_of(measurand)])
        try:
            data = trial_data(worked_only(counting(record).snapshot), measurand)
        except LoamError:
            continue
        known = taught(db, trial_id, measurand, data)
        found[measurand] = {
            "priors": {t: [p.sd, p.df, p.source] for t, p in (known.priors or {}).items()},
            "repeat": known.repeat,
            "behind": {h: list(v) for h, v in behind_before(db, trial_id, measurand).items()},
        }
    return {"at": now, "measurands": found, "matters": chosen(db, None)}
