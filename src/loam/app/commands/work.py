"""Acts on the work of cells: a pass done, a stage done, a mark."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from loam.app.changes import WORK
from loam.app.commands.base import Act
from loam.core.errors import ValueRefused
from loam.core.text import LINE, check_text
from loam.store import kit, people, work

MARKS: tuple[tuple[str, str], ...] = (
    ("stalled", "stalled"),
    ("dry", "dried out"),
    ("hot", "too hot"),
    ("edge", "touched an edge"),
    ("pad", "wrong pad"),
    ("passes", "wrong pass count"),
    ("lifted", "lifted"),
    ("missed", "product missed"),
)
MORE_MARKS: tuple[tuple[str, str], ...] = (
    ("dusted", "dusting or gumming"),
    ("grit", "grit under the pad"),
    ("pigtails", "pigtails"),
    ("burnt", "burnt through"),
    ("off", "pad off its plate"),
    ("splattered", "splatter or torn tape on a neighbour"),
    ("nib", "a nib or run in the paint"),
    ("interface", "interface left out"),
    ("unknown", "passes unknown"),
)
"""What goes wrong less often, behind one key."""
SPLATTERED = "splattered"
MARK_WORDS: dict[str, str] = {**dict(MARKS), **dict(MORE_MARKS), SPLATTERED: "hit by a neighbour"}


_NAMES = {
    work.PASS: "note a pass",
    work.WORKED: "note a stage as worked",
    work.MARK: "mark the work",
    work.HEAT: "note a temperature",
}


@dataclass
class NoteWork(Act):
    """Note something that was done to a cell; taken back it counts no more.

    Attributes
    ----------
    what : str
        pass, worked, mark or temperature.
    facts : mapping
        Of a pass and a stage ``seconds``; of a mark ``mark`` and perhaps ``words``; of a
        temperature ``panel_c``.
    person, pad : str
        Who did it, and the single pad that it was done with; "" for nobody known.
    """

    trial_id: int
    cell_id: int
    stage: int
    what: str
    facts: Mapping[str, Any]
    person: str = ""
    day: str = ""
    pad: str = ""
    id: int = field(default=0, init=False)
    kinds = frozenset({WORK})

    @property
    def name(self) -> str:  # type: ignore[override]
        """What was done."""
        return _NAMES.get(self.what, "note the work")

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Note it (again)."""
        words = str(self.facts.get("words", ""))
        check_text(words, "what is said of the work", LINE)
        if self.what == work.MARK and not (self.facts.get("mark") or words):
            raise ValueRefused("A mark says what happened.", todo="Choose one, or type words.")
        pad = None
        if self.pad:
            pad = kit.newest(db, kit.PAD, self.pad)
        self.id = work.add(
            db,
            self.cell_id,
            self.stage,
            self.what,
            people.person_id(db, self.person),
            people.session_id(db, self.day, now),
            pad,
            self.facts,
            now,
        )

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Note that it was not so."""
        work.take_back(db, self.id, now)
