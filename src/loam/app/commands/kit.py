"""Acts on the workshop's shelf: things and people, whatever trial is at hand."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass, field
from typing import Any

from loam.app.changes import KIT, Changes
from loam.app.commands.base import Act
from loam.core.errors import ValueRefused
from loam.core.kit import BY_SORT, PadLife, after
from loam.core.kit.facts import PAD
from loam.core.kit.life import EVENTS
from loam.store import kit
from loam.store.workshop import Workshop

Shown = tuple[str, dict[str, Any]]
"""A thing's name and facts."""


@dataclass
class PutOnShelf(Act):
    """Put things on the shelf; one that stands there is given the facts that are new.

    Attributes
    ----------
    things : tuple of (sort, name, facts)
    done : list of (sort, item, what it was before or None)
    """

    things: tuple[tuple[str, str, dict[str, Any]], ...]
    done: list[tuple[str, int, Shown | None]] = field(default_factory=list)
    kinds = frozenset({KIT})
    brings = False

    @property
    def name(self) -> str:  # type: ignore[override]
        """What was done."""
        if len(self.things) == 1:
            return f"put a {BY_SORT[self.things[0][0]].one} on the shelf"
        return f"put {len(self.things)} things on the shelf"

    def do(self, workshop: Workshop) -> Changes:
        """Do it; what the disk refused was not done."""
        before = list(self.done)
        try:
            return super().do(workshop)
        except BaseException:
            self.done = before
            raise

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Write them, or bring them back."""
        done: list[tuple[str, int, Shown | None]] = []
        here: dict[str, dict[str, kit.KitVersion]] = {}
        taken: dict[str, dict[str, int]] = {}
        for sort in {sort for sort, _, _ in self.things}:
            here[sort] = {t.name.casefold(): t for t in kit.things(db, sort)}
            taken[sort] = {low: t.item_id for low, t in here[sort].items()}
        for i, (sort, name, facts) in enumerate(self.things):
            try:
                known = here[sort].pop(name.casefold(), None)
                done.append(self._one(db, now, i, sort, name, facts, known, taken[sort]))
            except ValueRefused as error:
                if len(self.things) == 1:
                    raise
                raise ValueRefused(
                    f"Row {i + 1}, {name[:40] or 'without a name'}: {error.what}",
                    todo=error.todo,
                    kept="Nothing was put on the shelf.",
                ) from error
        self.done = done

    def _one(
        self,
        db: sqlite3.Connection,
        now: str,
        i: int,
        sort: str,
        name: str,
        facts: dict[str, Any],
        known: kit.KitVersion | None,
        taken: dict[str, int],
    ) -> tuple[str, int, Shown | None]:
        if self.done and self.done[i][2] is None:
            kit.put_away(db, sort, self.done[i][1], False, taken)
            return self.done[i]
        if known is None:
            return sort, kit.add(db, sort, name, facts, now, taken), None
        merged = known.facts | facts
        if merged != known.facts:
            kit.edit(db, sort, known.item_id, known.name, merged, now, taken)
        return sort, known.item_id, (known.name, known.facts)

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Put away what is new; the rest is as it was."""
        for sort, item_id, before in self.done:
            if before is None:
                kit.put_away(db, sort, item_id, True)
            else:
                kit.edit(db, sort, item_id, before[0], dict(before[1]), now)


@dataclass
class EditThing(Act):
    """Give a thing another name or other facts: a new version."""

    sort: str
    id: int
    before: Shown
    after: Shown
    said: str = ""
    kinds = frozenset({KIT})
    brings = False

    @property
    def name(self) -> str:  # type: ignore[override]
        """What was done."""
        return self.said or f"change a {BY_SORT[self.sort].one}"

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Write the new state."""
        kit.edit(db, self.sort, self.id, self.after[0], dict(self.after[1]), now)

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Write the former state."""
        kit.edit(db, self.sort, self.id, self.before[0], dict(self.before[1]), now)


def pad_event(item_id: int, name: str, facts: dict[str, Any], event: str) -> EditThing:
    """Return the act by which something happens to a single pad."""
    life = after(PadLife.of(facts), event)
    said = f"note of {name}: {dict(EVENTS)[event]}"
    return EditThing(PAD, item_id, (name, facts), (name, facts | life.as_facts()), said)


@dataclass
class PutThingAway(Act):
    """Take a thing off the shelf, or (``away`` False) put it back; trials keep what they used."""

    sort: str
    id: int
    away: bool = True
    kinds = frozenset({KIT})

    @property
    def name(self) -> str:  # type: ignore[override]
        """What was done."""
        return f"{'put away' if self.away else 'bring back'} a {BY_SORT[self.sort].one}"

    def forward(self, db: sqlite3.Connection, now: str) -> None:
        """Do it."""
        kit.put_away(db, self.sort, self.id, self.away)

    def back(self, db: sqlite3.Connection, now: str) -> None:
        """Do the other."""
        kit.put_away(db, self.sort, self.id, not self.away)
