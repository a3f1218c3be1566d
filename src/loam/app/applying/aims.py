"""What is wanted of a car: presets, and an aim in words."""

from __future__ import annotations

from collections.abc import Mapping

from loam.core.readings import BY_KEY
from loam.core.vehicle.job import Job

PRESETS: tuple[tuple[str, str, dict[str, tuple[float | None, float | None]], float], ...] = (
    ("daily", "daily", {"defects": (85.0, None), "haze": (None, 20.0)}, 15.0),
    ("show", "show", {"defects": (95.0, None), "haze": (None, 12.0)}, 15.0),
    ("thin clear", "thin clear", {"defects": (70.0, None), "haze": (None, 20.0)}, 25.0),
    ("sale", "sale", {"defects": (75.0, None), "haze": (None, 25.0)}, 15.0),
)
"""What is wanted: its key, its name, limits by measurand, clear to keep (µm); assumed."""


def preset_notes(key: str) -> list[tuple[str, Mapping[str, object]]]:
    """Return the notes of a preset aim."""
    _, _, limits, keep = next(p for p in PRESETS if p[0] == key)
    notes: list[tuple[str, Mapping[str, object]]] = []
    for m in ("defects", "haze", "gloss20"):
        low, high = limits.get(m, (None, None))
        facts: dict[str, object] = {"measurand": m}
        facts |= {"at_least": low} if low is not None else {}
        facts |= {"at_most": high} if high is not None else {}
        notes.append(("aim", facts))
    return [*notes, ("wish", {"preset": key, "keep_um": keep})]


def aim_words(job: Job) -> str:
    """Say what is wanted: 85 % of the marks gone, haze at most 20 HU."""
    told = []
    for want in job.aim:
        if want.measurand == "defects" and want.at_least is not None:
            told.append(f"{want.at_least:g} % of the marks gone")
        elif want.at_least is not None:
            told.append(f"{_short(want.measurand)} at least {want.at_least:g}")
        if want.at_most is not None:
            told.append(f"{_short(want.measurand)} at most {want.at_most:g}")
    return ", ".join(told) or "nothing wanted"


def _short(measurand: str) -> str:
    kind = BY_KEY.get(measurand)
    return kind.short if kind is not None else measurand
