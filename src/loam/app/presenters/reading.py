"""Reading entry: which cell is next, what has been read there, and whether it is enough."""

from __future__ import annotations

from dataclasses import dataclass

from loam.app.session import Session
from loam.core.readings import ReadingKind, kind_of
from loam.core.stats.summary import CellSummary, summarise
from loam.core.trial import Cell, Panel, Reading
from loam.store import readings as reading_store

ORDINALS = (
    "first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth",
    "eleventh", "twelfth",
)  # fmt: skip


@dataclass(frozen=True)
class EntryState:
    """What the reader sees at one cell.

    Attributes
    ----------
    readings : tuple of Reading
        All of this cell and measurand in this phase, struck ones too.
    summary : CellSummary or None
        Of those that count.
    verdict, advice : str
        In words.
    """

    cell: Cell
    panel: Panel
    kind: ReadingKind
    phase: str
    readings: tuple[Reading, ...]
    summary: CellSummary | None
    wanted: int
    verdict: str
    advice: str

    @property
    def counted(self) -> list[Reading]:
        """Readings that are not struck."""
        return [r for r in self.readings if r.struck is None]

    @property
    def next_ordinal(self) -> int:
        """Number of the next reading."""
        return max((r.ordinal for r in self.readings), default=0) + 1

    @property
    def full(self) -> bool:
        """Whether the cell has all readings wanted and none stands out."""
        odd = self.summary is not None and bool(self.summary.odd)
        return len(self.counted) >= self.wanted + int(odd)


def reading_order(session: Session) -> list[Cell]:
    """Return laid-out cells in the order of reading: panel by panel, row by row."""
    return [c for c in session.cells() if c.combination_id is not None]


def next_cell(session: Session, measurand: str, after: int | None, phase: str) -> Cell | None:
    """Return the next cell that still wants readings, looking on from ``after``, then around."""
    trial = session.trial
    if trial is None:
        return None
    order = reading_order(session)
    start = next((i + 1 for i, c in enumerate(order) if c.id == after), 0)
    for cell in order[start:] + order[:start]:
        if len(_readings(session, cell, measurand, phase, counted=True)) < trial.readings_per_cell:
            return cell
    return None


def _readings(
    session: Session, cell: Cell, measurand: str, phase: str, *, counted: bool = False
) -> list[Reading]:
    if counted and phase == "after":
        n, _ = session.counts().get((cell.id, measurand), (0, 0.0))
        return [None] * n  # type: ignore[list-item]
    found = reading_store.readings_of_cells(session.workshop.connection, [cell.id], measurand)
    return [r for r in found if r.phase == phase and not (counted and r.struck is not None)]


def entry_state(session: Session, cell: Cell, measurand: str, phase: str) -> EntryState:
    """Describe one cell for reading."""
    trial = session.trial
    wanted = trial.readings_per_cell if trial else 1
    kind = kind_of(measurand)
    panel = next(p for p in session.panels() if p.id == cell.panel_id)
    readings = tuple(_readings(session, cell, measurand, phase))
    values = [r.value for r in readings if r.struck is None]
    summary = summarise(values, kind.repeatability)
    verdict, advice = _verdict(summary, kind, wanted)
    return EntryState(cell, panel, kind, phase, readings, summary, wanted, verdict, advice)


def _verdict(summary: CellSummary | None, kind: ReadingKind, wanted: int) -> tuple[str, str]:
    if summary is None:
        return "", "Type what the meter shows, then Enter."
    if summary.odd:
        return "one stands out", "Read the same spot again, or strike it with Ctrl+X."
    left = wanted - summary.n
    if left > 0 and summary.enough:
        return "enough", f"It agrees. {left} more as planned, or Enter on the empty box to go on."
    if left > 0:
        which = ORDINALS[summary.n] if summary.n < len(ORDINALS) else f"{summary.n + 1}th"
        return "", f"Turn the meter a quarter for the {which}."
    if summary.enough:
        return "enough", "All planned readings are in."
    return "one more", "The readings scatter more than the meter should. One more helps."


def panel_progress(session: Session, measurand: str) -> list[tuple[int, str, int, int]]:
    """Return (panel id, name, cells read, cells laid out) by panel."""
    trial = session.trial
    wanted = trial.readings_per_cell if trial else 1
    counts = session.counts()
    found = []
    for panel in session.panels():
        own = [c for c in session.cells_of(panel.id) if c.combination_id is not None]
        done = sum(counts.get((c.id, measurand), (0, 0.0))[0] >= wanted for c in own)
        if own:
            found.append((panel.id, panel.name, done, len(own)))
    return found


def progress(session: Session, measurand: str) -> tuple[int, int]:
    """Return how many laid-out cells have all readings, and how many there are."""
    trial = session.trial
    wanted = trial.readings_per_cell if trial else 1
    counts = session.counts()
    order = reading_order(session)
    done = sum(counts.get((c.id, measurand), (0, 0.0))[0] >= wanted for c in order)
    return done, len(order)
