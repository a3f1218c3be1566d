"""What can be known of a panel beside its name, its hardness and its film.

One line here is all that a further field takes: it is asked on the sheet of the panel, stands in
the workshop, in tables and in files for exchange, is checked wherever it comes from, and is shown.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from loam.core.errors import ValueRefused
from loam.core.kit.facts import TEXT, Fact

PANEL_FACTS: tuple[Fact, ...] = (
    Fact("batch", "Sprayed in batch", TEXT),
    Fact("may_go", "May go of its coat", unit="%", low=5, high=90),
    Fact("floor_um", "Never below", unit="µm", quantity="film", low=5, high=100),
)
"""Of what is sprayed in one go the panels are more alike than others. How much of its coat may go
is the workshop's rule where a panel says nothing."""


def check_panel_facts(facts: Mapping[str, Any], panel: str) -> None:
    """Refuse facts that cannot be; what a newer version may know of a panel is let be.

    Raises
    ------
    ValueRefused
    """
    known = {f.key: f for f in PANEL_FACTS}
    for key, value in facts.items():
        if key in known:
            try:
                known[key].check(value)
            except ValueRefused as error:
                where = f"panel {panel}"
                raise ValueRefused(error.what, where=where, todo=error.todo) from error


def facts_said(facts: Mapping[str, Any]) -> list[tuple[Fact, str]]:
    """Return what is known of a panel, each fact as it is written."""
    return [(f, f.write(facts[f.key])) for f in PANEL_FACTS if facts.get(f.key) not in (None, "")]


def column_of(fact: Fact) -> str:
    """Return the column of a table that holds a fact of a panel."""
    return f"panel_{fact.key}"
