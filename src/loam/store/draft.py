"""A whole trial in memory, with ids of its own, before or after it is in a workshop."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from loam.core.record.trial import USED
from loam.core.trial import Cell, Combination, Panel, Reading, Trial

Row = dict[str, Any]
"""A row as a file has it: a value for every field that the record declares of its sort."""


@dataclass(frozen=True)
class Strike:
    """One entry of the log of strikes: struck out, or counted again."""

    reading_id: int
    struck: bool
    reason: str
    at: str


@dataclass(frozen=True)
class TrialDraft:
    """A trial with all that belongs to it.

    Ids are local: panels, combinations, cells and readings are numbered from 1 in the order of
    their lists, and refer to each other by those numbers.
    """

    trial: Trial
    panels: tuple[Panel, ...]
    combinations: tuple[Combination, ...]
    cells: tuple[Cell, ...]
    readings: tuple[Reading, ...]
    strikes: tuple[Strike, ...] = ()
    created_at: str = ""
    notes: tuple[str, ...] = field(default=())
    workshop: str = field(default="", compare=False)
    """Print of the workshop that it comes from."""
    lines: tuple[int, ...] = field(default=(), compare=False, repr=False)
    """Line of the file that each reading stands on, where it comes from a table."""
    called: tuple[str, ...] = field(default=(), compare=False, repr=False)
    """What the table calls each cell."""
    side: Mapping[str, Mapping[str, tuple[Any, ...]]] = field(default_factory=dict, repr=False)
    """Of trial, panels, combinations, readings and strikes what stands beside their values, by
    sort and field of the record, in the order of the lists: identities, lines of instruments."""
    rest: Mapping[str, tuple[Row, ...]] = field(default_factory=dict, repr=False)
    """Rows of every other sort of the record, by its key."""
    images: Mapping[str, bytes] = field(default_factory=dict, repr=False)
    """Photographs (JPEG), by their names in the file."""

    def beside(self, sort: str, name: str, at: int, default: Any = "") -> Any:
        """Return what stands beside the value at a place (from 0) of a list."""
        values = self.side.get(sort, {}).get(name, ())
        return values[at] if at < len(values) else default

    def used_by(self, combination: Combination, position: int) -> tuple[int | None, ...]:
        """Return the numbers of the things that a stage (from 1) used, as the record lists them."""
        before = sum(len(c.stages) for c in self.combinations[: combination.id - 1])
        names = tuple(f"{what}_as_used" for what in USED)
        return tuple(self.beside("stage", name, before + position - 1, None) for name in names)

    @property
    def uid(self) -> str:
        """The trial's identity; "" for one that has none yet."""
        return str(self.beside("trial", "uid", 0))
