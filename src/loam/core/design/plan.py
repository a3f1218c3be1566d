"""What a layout is asked to do: combinations, panels with their cells, controls and rules."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

from loam.core.errors import NotEnough, ValueRefused
from loam.core.panel import MOST_ACROSS, cell_code

UNTOUCHED, DAMAGED = "untouched", "damaged"
MOST_READINGS = 1000
MOST_SEED = 2**32
Place = tuple[int, int, int]
"""Panel in the plan, row and column, all from 0."""


@dataclass(frozen=True)
class PanelPlan:
    """A panel's grid of cells; rows, columns and closed cells count from 0 here.

    Parameters
    ----------
    name, hardness : str
    rows, columns : int
    closed : frozenset of (row, column)
        Cells that cannot be used: a crease, a hole.
    """

    name: str
    hardness: str
    rows: int
    columns: int
    closed: frozenset[tuple[int, int]] = frozenset()

    def __post_init__(self) -> None:
        where = f"panel {self.name}"
        if not self.name.strip() or not self.hardness.strip():
            raise ValueRefused("A panel needs a name and a hardness.", where=where)
        for what, count in (("rows", self.rows), ("columns", self.columns)):
            if not 1 <= count <= MOST_ACROSS:
                raise ValueRefused(
                    f"{count} {what} of cells cannot be.", where=where, todo=f"1 to {MOST_ACROSS}."
                )
        for row, column in sorted(self.closed):
            if not (0 <= row < self.rows and 0 <= column < self.columns):
                raise ValueRefused(
                    f"There is no cell in row {row + 1}, column {column + 1} to close.",
                    where=where,
                    todo=f"The panel has {self.rows} rows and {self.columns} columns.",
                )

    def open_cells(self) -> list[tuple[int, int]]:
        """Return the cells that can be used, row by row."""
        return [
            (r, c)
            for r in range(self.rows)
            for c in range(self.columns)
            if (r, c) not in self.closed
        ]


@dataclass(frozen=True)
class Spreads:
    """Standard deviations that the forecast assumes: of panels, of cells, of repeat readings."""

    panel: float
    cell: float
    reading: float

    def __post_init__(self) -> None:
        for name in ("panel", "cell", "reading"):
            value = getattr(self, name)
            if not (math.isfinite(value) and 0.0 <= value <= 1e9):
                raise ValueRefused(
                    f"A standard deviation of {value:g} cannot be.",
                    where=f"sd of {name}",
                    todo="It is 0 or more.",
                )
        if self.cell == 0.0 and self.reading == 0.0:
            raise ValueRefused(
                "Cells and readings without any spread leave nothing to forecast.",
                where="sd",
                todo="Give the spread of cells, of readings, or both.",
            )

    def of_cell_mean(self, readings: int) -> float:
        """Variance of the mean of a cell's readings, panels apart."""
        return self.cell**2 + self.reading**2 / readings


@dataclass(frozen=True)
class Plan:
    """A trial to be laid out.

    Parameters
    ----------
    combinations : tuple of str
    panels : tuple of PanelPlan
        Each hardness is laid out on its own panels with all combinations.
    untouched, damaged : int
        Control cells of each kind on every panel.
    trends : bool
        Rows and columns of a panel count as blocks too.
    groups : mapping of str to str
        Hard to change: on a panel the cells of one group are worked one after another, and those
        of no group likewise.
    apart : bool
        Keep equal combinations from lying side by side, or one above the other.
    readings_per_cell : int
    sd : Spreads, optional
    seed : int
    fixed : mapping of (panel, row, column) to str
        Cells that keep what they have: a combination or a control.
    done : mapping of (panel, row, column) to int
        Cells that are worked already, with their place in the order of work; what is left comes
        after them, the panels that were begun first.

    Raises
    ------
    ValueRefused, NotEnough
        Naming what, where, and what to do.
    """

    combinations: tuple[str, ...]
    panels: tuple[PanelPlan, ...]
    untouched: int = 0
    damaged: int = 0
    trends: bool = False
    groups: Mapping[str, str] = field(default_factory=dict)
    apart: bool = False
    readings_per_cell: int = 1
    sd: Spreads | None = None
    seed: int = 1
    fixed: Mapping[Place, str] = field(default_factory=dict)
    done: Mapping[Place, int] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if not self.combinations:
            raise NotEnough("There is no combination to lay out.", todo="Name some first.")
        if not self.panels:
            raise NotEnough("There is no panel to lay out on.", todo="Tape a panel first.")
        _once("combination", self.combinations)
        _once("panel", [p.name for p in self.panels])
        if {UNTOUCHED, DAMAGED} & set(self.combinations):
            raise ValueRefused("A combination cannot be called like a control.")
        for what, count in ((UNTOUCHED, self.untouched), (DAMAGED, self.damaged)):
            if count < 0:
                raise ValueRefused(f"{count} {what} controls cannot be.", where="controls")
        if not 1 <= self.readings_per_cell <= MOST_READINGS:
            raise ValueRefused(
                f"{self.readings_per_cell} readings a cell cannot be.",
                where="readings_per_cell",
                todo=f"1 to {MOST_READINGS}.",
            )
        if not 0 <= self.seed < MOST_SEED:
            raise ValueRefused(f"A seed of {self.seed} is none.", todo=f"0 to {MOST_SEED - 1}.")
        self._check_groups()
        self._check_room()

    def _check_groups(self) -> None:
        for name in self.groups:
            if name not in self.combinations:
                raise ValueRefused(
                    f"There is no combination {name!r} to put into a group.",
                    where="groups",
                    todo="Combinations: " + ", ".join(self.combinations) + ".",
                )

    def _check_room(self) -> None:
        for panel in self.panels:
            room = len(panel.open_cells())
            if room < self.untouched + self.damaged:
                raise NotEnough(
                    f"It has {room} free cells for {self.untouched + self.damaged} controls.",
                    where=f"panel {panel.name}",
                    todo="Tape more cells, open closed ones, or ask for fewer controls.",
                )
        for hardness in self.hardnesses():
            cells = sum(self.worked(p) for p in self.panels if p.hardness == hardness)
            if cells < len(self.combinations):
                raise NotEnough(
                    f"{hardness} has {cells} free cells for {len(self.combinations)} combinations.",
                    where=f"panels of {hardness}",
                    todo="Add a panel or cells, take controls away, or drop combinations.",
                )
        for (at, row, column), what in self.fixed.items():
            known = what in self.combinations or what in (UNTOUCHED, DAMAGED)
            if not 0 <= at < len(self.panels) or not known:
                raise ValueRefused(f"{what!r} cannot be kept where it is.", where="fixed cells")
            if (row, column) not in self.panels[at].open_cells():
                raise ValueRefused(
                    f"Cell {cell_code(row, column)} is closed and cannot keep {what!r}.",
                    where=f"panel {self.panels[at].name}",
                )

    def hardnesses(self) -> list[str]:
        """Return the hardness classes in the order of the panels."""
        return list(dict.fromkeys(p.hardness for p in self.panels))

    def worked(self, panel: PanelPlan) -> int:
        """Return how many cells of a panel are worked."""
        return len(panel.open_cells()) - self.untouched - self.damaged


def _once(what: str, names: tuple[str, ...] | list[str]) -> None:
    seen: set[str] = set()
    for name in names:
        if not name.strip():
            raise ValueRefused(f"A {what} needs a name.")
        if name in seen:
            raise ValueRefused(f"There are two {what}s called {name!r}.", todo="Rename one.")
        seen.add(name)
