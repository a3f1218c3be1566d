"""Acts on the photograph of a panel."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass, field

from loam.app.changes import SURVEY
from loam.app.commands.base import Act
from loam.core.errors import ValueRefused
from loam.store import photographs


@dataclass
class ShowPhotograph(Act):
    """Lay a photograph (JPEG) under a panel's drawing, or (no image) take it away.

    Attributes
    ----------
    physical : int
        The panel as a thing of the workshop.
    """

    trial_id: int
    physical: int
    image: bytes = b""
    before: int | None = field(default=None, init=False)
    id: int | None = field(default=None, init=False)
    kinds = frozenset({SURVEY})

    @property
    def name(self) -> str:  # type: ignore[override]
        """What was done."""
        return "lay a photograph under a panel" if self.image else "take a photograph away"

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Keep it (once) and show it."""
        if len(self.image) > photographs.MOST_BYTES:
            raise ValueRefused("The photograph is too large.", todo="Take a smaller one.")
        before = photographs.shown(db, self.physical)
        photo_id = self.id
        if self.image and photo_id is None:
            photo_id = photographs.add(db, self.physical, self.image, now)
        photographs.show(db, self.physical, photo_id, now)
        self.before, self.id = before, photo_id

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Show what was shown before."""
        photographs.show(db, self.physical, self.before, now)
