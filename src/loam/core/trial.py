"""The values of a trial. Identifiers are whole numbers given by the workshop."""

from __future__ import annotations

from dataclasses import dataclass, field

from loam.core.errors import ValueRefused
from loam.core.panel import Taping, cell_code

HARDNESSES: tuple[str, ...] = ("soft", "medium", "hard")
MAX_STAGES = 4
PHASES: tuple[str, ...] = ("before", "unwiped", "after")


@dataclass(frozen=True)
class Stage:
    """One pad, compound and machine with its settings and section passes."""

    pad: str
    compound: str
    machine: str
    pad_material: str = ""
    compound_class: str = ""
    machine_kind: str = ""
    passes: int = 0
    dial: str = ""
    force_n: float | None = None

    def __post_init__(self) -> None:
        if not 0 <= self.passes <= 99:
            raise ValueRefused(f"{self.passes} section passes cannot be: 0 to 99.")
        if self.force_n is not None and not 0 < self.force_n <= 500:
            raise ValueRefused(f"A force of {self.force_n:g} N cannot be: above 0, up to 500 N.")

    def words(self) -> str:
        """Say the stage in the trade's order: pad, compound, machine, passes."""
        parts = [p for p in (self.pad, self.compound, self.machine) if p]
        text = " + ".join(parts[:2]) + (f" on {parts[2]}" if len(parts) == 3 else "")
        if self.passes:
            text += f", {self.passes} pass" + ("es" if self.passes != 1 else "")
        return text or "nothing yet"


@dataclass(frozen=True)
class Combination:
    """What a cell gets: one to four stages in their order, or none for a control."""

    id: int
    code: str
    name: str = ""
    stages: tuple[Stage, ...] = ()

    def __post_init__(self) -> None:
        if not self.code.strip():
            raise ValueRefused("A combination needs a code.", todo="Give it a letter, like A.")
        if len(self.stages) > MAX_STAGES:
            raise ValueRefused(f"A combination has at most {MAX_STAGES} stages.")

    def words(self) -> str:
        """Say the whole combination, first stage first."""
        return ", then ".join(stage.words() for stage in self.stages) or "control, not worked"


@dataclass(frozen=True)
class Cell:
    """One taped area. ``baseline`` holds the mean reading before work, by measurand."""

    id: int
    panel_id: int
    row: int
    column: int
    combination_id: int | None = None
    run_order: int | None = None
    baseline: dict[str, float] = field(default_factory=dict)

    @property
    def code(self) -> str:
        """The cell's name on the tape."""
        return cell_code(self.row, self.column)


@dataclass(frozen=True)
class Panel:
    """A painted panel in a trial, with its declared hardness and its taping."""

    id: int
    trial_id: int
    name: str
    hardness: str
    taping: Taping
    paint: str = ""

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise ValueRefused("A panel needs a name.", todo="Type one, like Heron.")
        if self.hardness not in HARDNESSES:
            raise ValueRefused(
                f"{self.hardness!r} is not a hardness class.",
                where=f"panel {self.name}",
                todo="Use " + ", ".join(HARDNESSES) + ".",
            )


@dataclass(frozen=True)
class Reading:
    """One number from one meter at one spot. Never changed, only struck.

    ``phase`` is ``before`` work, ``unwiped`` (worked, fillers may still mask) or ``after`` the
    wipe; judgements rest on the last.
    """

    id: int
    cell_id: int
    measurand: str
    value: float
    phase: str = "after"
    ordinal: int = 1
    stage: int = 1
    scale: str = ""
    operator: str = ""
    day: str = ""
    taken_at: str = ""
    struck: str | None = None


@dataclass(frozen=True)
class Trial:
    """A question put to panels."""

    id: int
    name: str
    question: str = ""
    measurands: tuple[str, ...] = ("gloss20",)
    readings_per_cell: int = 5
    seed: int = 1
    note: str = ""

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise ValueRefused("A trial needs a name.", todo="Type one.")
        if not 1 <= self.readings_per_cell <= 50:
            raise ValueRefused("Between 1 and 50 readings a cell.")
        if not self.measurands:
            raise ValueRefused("A trial reads at least one thing.", todo="Choose what you read.")
