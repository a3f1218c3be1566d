"""Acts on panels."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from loam.app.changes import CELLS, PANELS, READINGS
from loam.app.commands.base import Add, Edit, PutAway
from loam.core.trial import Panel
from loam.store import panels as panel_store


@dataclass
class AddPanel(Add):
    """Tape another panel: a new one, or one of the workshop."""

    panel: Panel
    name = "add a panel"
    kinds = frozenset({PANELS, CELLS, READINGS})
    sort = "panel"

    @property
    def panels(self) -> frozenset[int]:
        """The panel."""
        return frozenset({self.id})

    @property
    def trial(self) -> int | None:
        """The trial that uses it."""
        return self.panel.trial_id

    def insert(self, db: sqlite3.Connection, now: str) -> int:
        """Write the panel and its cells."""
        return panel_store.add_panel(db, self.panel, now)


@dataclass
class EditPanel(Edit):
    """Change a panel or retape it."""

    before: Panel
    after: Panel
    name = "change a panel"
    kinds = frozenset({PANELS, CELLS})

    @property
    def panels(self) -> frozenset[int]:
        """The panel."""
        return frozenset({self.after.id})

    @property
    def trial(self) -> int | None:
        """The trial that uses it."""
        return self.after.trial_id

    def write(self, db: sqlite3.Connection, value: Panel, now: str) -> None:
        """Write a version of the panel and its taping."""
        panel_store.change_panel(db, value, now)


@dataclass
class PutPanelAway(PutAway):
    """Take a panel out of a trial, with its readings, or bring it back."""

    trial_id: int
    name = "put a panel away"
    kinds = frozenset({PANELS, CELLS, READINGS})
    sort = "panel"

    @property
    def panels(self) -> frozenset[int]:
        """The panel."""
        return frozenset({self.id})
