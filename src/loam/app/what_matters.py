"""What matters in a trial: its own choice, else the workshop's, else the measurand's default."""

from __future__ import annotations

import sqlite3
from typing import Any

from loam.app.assumed import assumed_of
from loam.core.errors import ValueRefused
from loam.core.matter import Matters, matters
from loam.core.readings import BY_KEY, kind_of
from loam.store.settings import recall, remember

WORKSHOP = "matters"


def key_of(trial_id: int | None) -> str:
    """Return under which key a trial's choices are kept; the workshop's for None."""
    return WORKSHOP if trial_id is None else f"{WORKSHOP}:{trial_id}"


def chosen(db: sqlite3.Connection, trial_id: int | None) -> dict[str, float]:
    """Return the choices of a trial, or of the workshop; what cannot be one is left out."""
    kept: Any = recall(db, key_of(trial_id), {})
    if not isinstance(kept, dict):
        return {}
    return {m: float(v) for m, v in kept.items() if m in BY_KEY and _possible(m, v)}


def _possible(measurand: str, value: object) -> bool:
    if isinstance(value, bool) or not isinstance(value, int | float):
        return False
    try:
        matters(kind_of(measurand), float(value))
    except (ValueRefused, OverflowError):
        return False
    return True


def matters_in(db: sqlite3.Connection, trial_id: int, measurand: str) -> Matters:
    """Return what matters for a measurand in a trial, and whose choice it is."""
    kind = kind_of(measurand)
    own = chosen(db, trial_id)
    if measurand in own:
        return matters(kind, own[measurand], "trial")
    brought = assumed_of(db, trial_id).matters(measurand)
    if brought is not None:
        return brought
    every = chosen(db, None)
    return matters(kind, every[measurand], "workshop") if measurand in every else matters(kind)


def keep(db: sqlite3.Connection, trial_id: int | None, measurand: str, value: float | None) -> None:
    """Keep a choice; None takes it back."""
    own = chosen(db, trial_id)
    own.pop(measurand, None)
    if value is not None:
        own[measurand] = value
    remember(db, key_of(trial_id), own)
