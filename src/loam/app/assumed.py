"""What is assumed of a trial from another workshop: what was known there when it was written out.

A verdict rests on lessons of earlier trials and on studies of meters, which stay where they were
made. So what they come to travels with the trial, and is the same wherever it is judged.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from loam.core.errors import ValueRefused
from loam.core.matter import Matters, matters
from loam.core.readings import BY_KEY, kind_of
from loam.core.stats.prior import Prior
from loam.core.verdict import Taught
from loam.store.origins import taken_in
from loam.store.settings import recall

_MOST_SOURCE = 200


@dataclass(frozen=True)
class Assumed:
    """What a file says is assumed; nothing where the trial is the workshop's own."""

    said: Mapping[str, Any]

    def _of(self, measurand: str) -> Mapping[str, Any]:
        known = self.said.get("measurands")
        found = known.get(measurand) if isinstance(known, Mapping) else None
        return found if isinstance(found, Mapping) else {}

    def taught(self, measurand: str) -> Taught | None:
        """Return what was known of a measurand; None where the file does not say."""
        own = self._of(measurand)
        terms = own.get("priors")
        if not isinstance(terms, Mapping):
            return None
        priors = {str(k): p for k, v in terms.items() if (p := _prior(v)) is not None}
        repeat = own.get("repeat")
        return Taught(priors, repeat if _positive(repeat) else None) if priors else None

    def behind(self, measurand: str) -> dict[str, tuple[float, ...]] | None:
        """Return how far combinations lay behind the leader before, by hardness."""
        found = self._of(measurand).get("behind")
        if not isinstance(found, Mapping):
            return None
        return {
            str(h): tuple(float(v) for v in own if isinstance(v, int | float))
            for h, own in found.items()
            if isinstance(own, list)
        }

    def matters(self, measurand: str) -> Matters | None:
        """Return what mattered in the whole workshop that it comes from, if that was chosen."""
        own = self.said.get("matters")
        value = own.get(measurand) if isinstance(own, Mapping) else None
        if not _positive(value) or measurand not in BY_KEY:
            return None
        try:
            return matters(kind_of(measurand), float(value), "workshop")  # type: ignore[arg-type]
        except (ValueRefused, OverflowError):
            return None


def assumed_key(trial_id: int) -> str:
    """Return the setting that holds what is assumed of a trial."""
    return f"assumed:{trial_id}"


def assumed_of(db: sqlite3.Connection, trial_id: int) -> Assumed:
    """Return what is assumed of a trial from another workshop."""
    found = recall(db, assumed_key(trial_id), {})
    if not isinstance(found, Mapping) or not taken_in(db, trial_id):
        return Assumed({})
    return Assumed(found)


def _positive(value: object) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and 0.0 < value < 1e9


def _prior(value: object) -> Prior | None:
    if not isinstance(value, list) or len(value) != 3 or not isinstance(value[2], str):
        return None
    if not (_positive(value[0]) and _positive(value[1])):
        return None
    return Prior(float(value[0]), float(value[1]), value[2][:_MOST_SOURCE])
