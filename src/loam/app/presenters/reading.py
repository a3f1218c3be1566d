"""Reading entry: which cell is next, what has been read there, and whether it is enough."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import chain, islice, pairwise

from loam.app.presenters.inspecting import out_of_scope
from loam.app.presenters.rounds import open_round, phases_of, reading_order
from loam.app.readers import counts_at_hand, crossed
from loam.app.session import Session
from loam.core.dates import seconds_of
from loam.core.errors import LoamError, ValueRefused
from loam.core.readings import ReadingKind
from loam.core.readings.slip import Slip, alike, unlike
from loam.core.stats.summary import CellSummary, summarise
from loam.core.trial import AFTER, BETWEEN, Cell, Panel, Reading
from loam.store import readings as reading_store

ORDINALS = (
    "first",
    "second",
    "third",
    "fourth",
    "fifth",
    "sixth",
    "seventh",
    "eighth",
    "ninth",
    "tenth",
    "eleventh",
    "twelfth",
)
_LEAST_MEANS = 3
_PACED, _PAUSE_MIN = 30, 5.0
"""Readings whose pace is taken for the rest; a longer gap was a pause."""
REASONS = (
    "hair or dust under the meter",
    "meter tilted or lifted",
    "wrong place",
    "typed wrongly",
    "meter off its tile value",
)
"""The usual reasons to strike a reading; any other is typed."""


def ordinal(number: int) -> str:
    """Say the place of a reading, counted from 0: first, second, ..."""
    return ORDINALS[number] if number < len(ORDINALS) else f"{number + 1}th"


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
    last_ordinal : int
        Highest number of a reading so far, whoever took it.
    phases : tuple of (str, str)
        What can be read in the trial: keys and words.
    nail : bool
        Whether a scratch catches the nail in the cell.
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
    last_ordinal: int = 0
    phases: tuple[tuple[str, str], ...] = ()
    nail: bool = False

    @property
    def stage(self) -> int:
        """Stages that are done when it is read; 1 where that is not asked."""
        return BETWEEN.index(self.phase) + 1 if self.phase in BETWEEN else 1

    @property
    def counted(self) -> list[Reading]:
        """Readings that are not struck."""
        return [r for r in self.readings if r.struck is None]

    @property
    def next_ordinal(self) -> int:
        """Number of the next reading."""
        return self.last_ordinal + 1

    @property
    def full(self) -> bool:
        """Whether the cell has all readings wanted and none stands out."""
        odd = self.summary is not None and bool(self.summary.odd)
        return len(self.counted) >= self.wanted + int(odd)

    @property
    def figure(self) -> str:
        """The mean and half of its 90 % interval."""
        s = self.summary
        if s is None:
            return "–"
        more = 1 if self.kind.decimals else 0
        return f"{self.kind.write(s.mean)} ± {self.kind.write_span(s.half_width, more)}"

    @property
    def said(self) -> str:
        """What there is to say of this cell when the next one comes."""
        verdict = f", {self.verdict}" if self.verdict else ""
        return f"{self.cell.code}, {self.kind.label}: {self.figure} {self.kind.unit}{verdict}"


def next_cell(session: Session, measurand: str, after: int | None, phase: str) -> Cell | None:
    """Return the next cell that still wants readings, looking on from ``after``, then around."""
    trial = session.trial
    if trial is None:
        return None
    done, laid = progress(session, measurand, phase)
    if done >= laid:
        return None
    places = reading_order(session)
    opened = open_round(session)
    key = f"cells:order {opened.id if opened else 0}"
    order = session.cached(key, lambda: list(places))
    start = places.get(after or 0, -1) + 1
    counts, wanted = counts_at_hand(session, phase), trial.readings_per_cell
    for cell in chain(islice(order, start, None), islice(order, start)):
        if counts.get((cell, measurand), (0, 0.0))[0] < wanted:
            return session.cell(cell)
    return None


def next_meter(session: Session, cell: int, measurand: str, phase: str) -> str:
    """Return what is read next in a cell that is read with all meters in one go.

    It is the measurand with the fewest readings there, in the trial's order from the one after
    ``measurand`` on; the same again when all have what they want.
    """
    trial = session.trial
    if trial is None:
        return measurand
    keys = trial.measurands
    at = keys.index(measurand) if measurand in keys else 0
    turned = [*keys[at + 1 :], *keys[: at + 1]]
    counts = counts_at_hand(session, phase)
    taken = {k: counts.get((cell, k), (0, 0.0))[0] for k in turned}
    wanting = [k for k in turned if taken[k] < trial.readings_per_cell]
    return min(wanting, key=lambda k: taken[k], default=measurand)


def neighbour(session: Session, cell: Cell, down: int, across: int) -> Cell | None:
    """Return the nearest laid-out cell in a direction on the panel as it lies, None at its edge."""
    best: tuple[int, int] | None = None
    found = None
    for other in session.cells_of(cell.panel_id):
        if other.combination_id is None or other.id == cell.id:
            continue
        rows, columns = other.row - cell.row, other.column - cell.column
        ahead = rows * down + columns * across
        aside = abs(columns) if down else abs(rows)
        if ahead > 0 and (best is None or (aside, ahead) < best):
            best, found = (aside, ahead), other
    return found


def entry_state(session: Session, cell: Cell, measurand: str, phase: str) -> EntryState:
    """Describe one cell for reading."""
    trial = session.trial
    wanted = trial.readings_per_cell if trial else 1
    kind = session.kind(measurand)
    panel = next(p for p in session.panels() if p.id == cell.panel_id)
    found = reading_store.readings_of_cells(session.workshop.connection, [cell.id], measurand)
    readings = tuple(r for r in found if r.phase == phase)
    last = max((r.ordinal for r in readings), default=0)
    if crossed(trial):
        own = str(session.recall("reader", ""))
        readings = tuple(r for r in readings if r.reader == own)
    values = [r.value for r in readings if r.struck is None]
    summary = summarise(values, kind.repeatability)
    verdict, advice = _verdict(summary, kind, wanted)
    if crossed(trial) and not session.recall("reader", ""):
        advice = "Say first who reads (Read by): every reader reads every cell."
    copied = alike(values, _before(session, cell, measurand, phase)) if len(values) >= 3 else ""
    if copied and not any(r.scale == "eye" for r in readings):
        advice = f"{copied} {advice}"
    return EntryState(
        cell,
        panel,
        kind,
        phase,
        readings,
        summary,
        wanted,
        verdict,
        advice,
        last,
        phases_of(session),
        cell.id in out_of_scope(session),
    )


class Entries:
    """Describes the cell at hand, and again only when something has changed."""

    def __init__(self) -> None:
        self._key: object = None
        self._state: EntryState | None = None

    def at(self, session: Session, cell: Cell, measurand: str, phase: str) -> EntryState:
        """Return what `entry_state` does."""
        kind, reader = session.kind(measurand), session.recall("reader", "")
        key = (session.stamp, cell, kind, phase, reader)
        if self._state is None or key != self._key or session.workshop.read_only:
            self._key, self._state = key, entry_state(session, cell, measurand, phase)
        return self._state


def _before(session: Session, cell: Cell, measurand: str, phase: str) -> list[float]:
    """Return the readings of the cell that was read right before one."""
    row = session.workshop.connection.execute(
        "SELECT b.cell_id FROM reading b WHERE b.id < (SELECT min(r.id) FROM reading r"
        " WHERE r.cell_id=? AND r.measurand=? AND r.phase=?) AND b.measurand=? AND b.phase=?"
        " ORDER BY b.id DESC LIMIT 1",
        (cell.id, measurand, phase, measurand, phase),
    ).fetchone()
    if row is None:
        return []
    found = reading_store.readings_of_cells(session.workshop.connection, [row[0]], measurand)
    return [r.value for r in found if r.phase == phase and r.struck is None]


def _verdict(summary: CellSummary | None, kind: ReadingKind, wanted: int) -> tuple[str, str]:
    if summary is None:
        return "", "Type what the meter shows, then Enter."
    if summary.odd:
        return "one stands out", "Read the same spot again, or strike one with X."
    left = wanted - summary.n
    if left > 0 and summary.enough:
        return "enough", f"They agree. {left} more as planned, or Enter on the empty box to go on."
    if left > 0:
        return "", f"Turn the meter a quarter for the {ordinal(summary.n)}."
    if summary.enough:
        return "enough", "All planned readings are in, and they agree."
    if summary.scatters:
        return "one more", "They scatter more than the meter does. One more helps."
    more = 1 if kind.decimals else 0
    half, then = (kind.write_span(h, more) for h in (summary.half_width, summary.next_half))
    return "as planned", f"All planned readings are in: ± {half}. One more would make it ± {then}."


def asked_back(session: Session, state: EntryState, value: float, scale: str = "") -> Slip | None:
    """Tell whether a figure is unlike what was read around it, so that it is asked back once.

    Figures of another scale are no measure of it.
    """
    key = state.kind.key
    own = [r.value for r in state.counted if r.scale == scale]
    if not own and other_scales(session, key, scale):
        return None
    counts = session.counts(state.phase)
    others = [mean for (cell, m), (n, mean) in counts.items() if m == key and cell != state.cell.id]
    return unlike(value, own, others, state.kind)


def other_scales(session: Session, measurand: str, scale: str) -> set[str]:
    """Return the other scales that a trial was read on, where it was not read on this one yet."""
    if not session.kind(measurand).scales or session.trial_id is None:
        return set()
    known = reading_store.scales_of(session.workshop.connection, session.trial_id, measurand)
    return known if known and scale not in known else set()


def scale_words(kind: ReadingKind, scale: str, known: set[str]) -> str:
    """Ask back a scale that the trial was not read on so far."""
    was = " and ".join(sorted(s or "unnamed" for s in known))
    return (
        f"So far this trial reads {kind.label} on the {was} scale, and this is {scale}: scales"
        " never mix in a judgement. Enter again keeps it, marked; Esc clears it."
    )


def belongs_to(session: Session, state: EntryState, value: float) -> str:
    """Return another thing that is read, whose figures a value is like; "" for none.

    Two meters read in one go are easily typed the wrong way round.
    """
    trial = session.trial
    counts = session.counts(state.phase)
    for key in trial.measurands if trial is not None else ():
        kind = session.kind(key)
        if key == state.kind.key or not kind.low <= value <= kind.high:
            continue
        means = [mean for (_, m), (_, mean) in counts.items() if m == key]
        if len(means) >= _LEAST_MEANS and min(means) <= value <= max(means):
            return kind.label
    return ""


def slip_words(slip: Slip, text: str, state: EntryState, other: str = "") -> str:
    """Ask a figure back in words; ``other`` is another measurand that it is like."""
    kind = state.kind
    where = "in this cell" if state.counted else "on these panels"
    said = f"{text} is unlike the rest {where} ({kind.write(slip.low)} to {kind.write(slip.high)})."
    if slip.meant is not None:
        said += f" Was it {kind.write(slip.meant)}?"
    elif other:
        said += f" It is like {other}: are two meters swapped?"
    return f"{said} Enter again keeps it, marked; Esc clears it."


def pasted(text: str) -> list[str]:
    """Split what was pasted into figures: a column, a row, or both."""
    return [part for part in re.split(r"[\s;|]+", text.strip()) if part]


@dataclass(frozen=True)
class Pasted:
    """Figures that were pasted, and where they go: from the cell at hand on, cell by cell."""

    readings: tuple[Reading, ...]
    words: str


def place_pasted(
    session: Session, state: EntryState, figures: Sequence[str], like: Reading
) -> Pasted:
    """Find a place for pasted figures: this cell first, then the next that want some.

    Parameters
    ----------
    like : Reading
        Carries who, when and on which scale.

    Raises
    ------
    ValueRefused
        When one is no reading, or there are more than cells want; nothing is kept then.
    """
    values = []
    for i, figure in enumerate(figures, 1):
        try:
            values.append(state.kind.parse(figure))
        except LoamError as error:
            raise ValueRefused(f"Figure {i} of {len(figures)}: {error.what}") from error
    order, counts = list(reading_order(session)), counts_at_hand(session, state.phase)
    readings: list[Reading] = []
    parts = []
    for cell_id in order[order.index(state.cell.id) :]:
        taken = counts.get((cell_id, state.kind.key), (0, 0.0))[0]
        room = max(state.wanted - taken, 0)
        part = values[len(readings) : len(readings) + room]
        cell = session.cell(cell_id) if part else None
        if cell is None:
            continue
        here = (
            state
            if cell.id == state.cell.id
            else entry_state(session, cell, state.kind.key, state.phase)
        )
        readings += [
            _like(like, cell.id, value, here.next_ordinal + k) for k, value in enumerate(part)
        ]
        parts.append(f"{cell.code} {len(part)}")
        if len(readings) == len(values):
            break
    if len(readings) < len(values):
        raise ValueRefused(
            f"{len(values)} figures, but from {state.cell.code} on only {len(readings)} are wanted."
        )
    shown = ", ".join(parts[:6]) + (f" and {len(parts) - 6} more cells" if len(parts) > 6 else "")
    return Pasted(
        tuple(readings), f"{len(values)} figures: {shown}. Enter keeps them, Esc leaves them."
    )


def _like(like: Reading, cell: int, value: float, number: int) -> Reading:
    return replace(like, cell_id=cell, value=value, ordinal=number)


def panel_progress(
    session: Session, measurand: str, phase: str = AFTER
) -> list[tuple[int, str, int, int]]:
    """Return (panel id, name, cells read, cells laid out) by panel."""
    trial, tally = session.trial, session.tally
    wanted = trial.readings_per_cell if trial else 1
    done = tally.done(session.workshop.connection, measurand, phase, wanted)
    if crossed(trial):
        of = tally.panel_of
        done = Counter(
            of[cell]
            for (cell, m), (n, _) in counts_at_hand(session, phase).items()
            if m == measurand and n >= wanted and cell in tally.order
        )
    laid = session.cached("cells:laid", tally.laid)
    return [(p.id, p.name, done[p.id], laid[p.id]) for p in session.panels() if laid[p.id]]


def progress(session: Session, measurand: str, phase: str = AFTER) -> tuple[int, int]:
    """Return how many laid-out cells have all readings, and how many there are."""
    parts = panel_progress(session, measurand, phase)
    return sum(done for *_, done, _ in parts), sum(count for *_, count in parts)


def minutes_left(session: Session, measurand: str, phase: str) -> str:
    """Say how long the cells that are left will take at the pace of the last readings."""
    done, count = progress(session, measurand, phase)
    if not 0 < done < count:
        return ""
    rows = session.workshop.connection.execute(
        "SELECT r.taken_at FROM reading r JOIN cell c ON c.id = r.cell_id"
        " JOIN taping t ON t.id = c.taping_id WHERE t.trial_id=? ORDER BY r.id DESC LIMIT ?",
        (session.trial_id or 0, _PACED),
    ).fetchall()
    times = [seconds_of(r[0]) / 60.0 for r in reversed(rows)]
    gaps = sorted(b - a for a, b in pairwise(times))
    gaps = [g for g in gaps if 0.0 < g < _PAUSE_MIN]
    trial = session.trial
    if len(gaps) < 3 or trial is None:
        return ""
    each = gaps[len(gaps) // 2] * trial.readings_per_cell
    left = each * (count - done)
    return f", about {max(left, 1.0):.0f} min left"


def reading_table(session: Session, phase: str) -> list[list[str]]:
    """Return a line a cell with the mean and count of each thing read, its heading first."""
    trial = session.trial
    if trial is None:
        return []
    kinds = [session.kind(k) for k in trial.measurands]
    counts = session.counts(phase)
    names = {p.id: p.name for p in session.panels()}
    head = ["panel", "cell"]
    for kind in kinds:
        head += [f"{kind.label}, {kind.unit}", f"readings of {kind.label}"]
    rows = []
    for cell_id in session.order():
        cell = session.cell(cell_id)
        if cell is None:
            continue
        row = [names[cell.panel_id], cell.code]
        for kind in kinds:
            n, mean = counts.get((cell.id, kind.key), (0, 0.0))
            row += [kind.write(mean, 1) if n else "", str(n)]
        rows.append(row)
    return [head, *rows]
