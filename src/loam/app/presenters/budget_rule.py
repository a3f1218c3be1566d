"""How much of a coat may go: the workshop's choice, or a panel's own."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from loam.core.film.budget import FLOOR_UM, HEAVY_SETS, SHARE, Rule
from loam.core.trial import Panel
from loam.store.settings import recall

RULE = "budget_rule"


def rule_of(db: sqlite3.Connection, panel: Panel) -> Rule:
    """Return how much of a panel's coat may go: its own word, else the workshop's."""
    kept = recall(db, RULE, {})
    kept = kept if isinstance(kept, dict) else {}
    share, floor = _figure(kept, "share", SHARE), _figure(kept, "floor_um", FLOOR_UM)
    sets = _figure(kept, "heavy_sets", HEAVY_SETS)
    own = panel.facts
    return Rule(
        _figure(own, "may_go", 100.0 * share) / 100.0,
        _figure(own, "floor_um", floor),
        int(sets),
    )


def _figure(kept: Mapping[str, Any], key: str, usual: float) -> float:
    value = kept.get(key)
    usable = isinstance(value, int | float) and not isinstance(value, bool) and value > 0
    return float(value) if usable and value is not None else float(usual)
