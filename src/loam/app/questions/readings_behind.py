"""The readings behind a figure, and how it follows from them."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import loam
from loam.app.questions.all_trials.judging import named_trials
from loam.app.questions.ranking.picture import RankingPicture
from loam.app.questions.source import Source, own_source
from loam.app.record import record_of
from loam.core.dataset import source_of
from loam.core.readings import ReadingKind, kind_of
from loam.core.trial import (
    AFTER,
    BEFORE,
    BETWEEN,
    BETWEEN_WIPES,
    DAY,
    UNWIPED,
    WASH,
    Cell,
    Panel,
    Reading,
)
from loam.core.verdict import counting
from loam.core.words.verdict import some
from loam.store import cells as cell_store
from loam.store import combinations as combination_store
from loam.store import decisions
from loam.store import panels as panel_store
from loam.store import readings as reading_store
from loam.store import trials as trial_store
from loam.store.database import reading_apart
from loam.store.decisions import decision_words
from loam.store.snapshot import load_snapshot
from loam.store.snapshot_cache import Loader


@dataclass(frozen=True)
class OriginRow:
    """The readings of one cell behind a figure.

    Attributes
    ----------
    lead : tuple of str
        What stands before the readings, in the columns of its `Origin`.
    own : bool
        Whether it is of the trial at hand.
    """

    cell: Cell
    panel: Panel
    operator: str
    day: str
    readings: tuple[Reading, ...]
    mean: float | None
    lead: tuple[str, ...] = ()
    own: bool = True


@dataclass(frozen=True)
class Origin:
    """Where a figure comes from.

    Attributes
    ----------
    heading, recipe : str
        What the figure is, and how it follows from the readings.
    columns : tuple of str
        Heads of what stands before the readings.
    means : dict
        Mean by cell id over the whole hardness class, for the panel drawing.
    """

    kind: ReadingKind
    hardness: str
    codes: tuple[str, ...]
    heading: str
    recipe: str
    columns: tuple[str, ...]
    rows: tuple[OriginRow, ...]
    panels: tuple[Panel, ...]
    means: dict[int, float]


def origin(
    db: sqlite3.Connection, trial_id: int, ranking: RankingPicture, hardness: str, code: str
) -> Origin:
    """Collect the readings behind one combination's figure on one hardness."""
    return gathered(db, trial_id, ranking, own_source(ranking, hardness, code))


def gathered(
    db: sqlite3.Connection,
    trial_id: int,
    ranking: RankingPicture,
    source: Source,
    kind: ReadingKind | None = None,
    load: Loader = load_snapshot,
) -> Origin:
    """Collect the readings behind a figure.

    Parameters
    ----------
    ranking : RankingPicture
        Of the trial at hand, whose means are shown; best of the source's measurand.
    kind : ReadingKind, optional
        The source's measurand in the unit that is shown, where the ranking is of another.
    """
    same = ranking.measurand == source.measurand
    kind = kind or (ranking.kind if same else kind_of(source.measurand))
    panels = _panels(db, trial_id, source)
    means = {
        c.id: ranking.means[c.id]
        for p in panels.values()
        for c in cell_store.cells_of(db, p.id)
        if same and c.id in ranking.means
    }
    rows = _rows(db, trial_id, source, source.codes, means)
    others = [
        r for name, codes in source.trials.items() for r in _elsewhere(db, name, source, codes)
    ]
    every = [(None, r) for r in rows] + [(name, r) for name, r in others]
    columns = _columns([r for _, r in every], trials=bool(others))
    said = _kept(db, trial_id, source.measurand, rows, load)
    return Origin(
        kind,
        source.hardness,
        source.codes,
        source.heading,
        f"{source.recipe} {said}".strip(),
        (*columns, "Mean"),
        tuple(
            replace(r.row, lead=tuple(_lead(r, name, c) for c in columns), own=name is None)
            for name, r in every
        ),
        tuple(panels.values()),
        means,
    )


@dataclass(frozen=True)
class _Listed:
    """A row before its columns are known."""

    row: OriginRow
    code: str
    when: str

    @property
    def cell(self) -> Cell:
        return self.row.cell


def _panels(db: sqlite3.Connection, trial_id: int, source: Source) -> dict[int, Panel]:
    return {
        p.id: p for p in panel_store.panels(db, trial_id) if source.hardness in ("", p.hardness)
    }


def _rows(
    db: sqlite3.Connection,
    trial_id: int,
    source: Source,
    codes: Sequence[str],
    means: Mapping[int, float],
) -> list[_Listed]:
    """List the cells of some combinations in one trial, a row a cell and state."""
    panels = _panels(db, trial_id, source)
    combinations = [c for c in combination_store.combinations(db, trial_id) if c.code in codes]
    code = {c.id: c.code for c in combinations}
    stages = {c.id: len(c.stages) for c in combinations}
    own = [
        c
        for c in cell_store.cells(db, trial_id, baselines=BEFORE in source.phases, of=code)
        if c.panel_id in panels and (not source.cells or c.id in source.cells)
    ]
    rank = {panel: i for i, panel in enumerate(panels)}
    own.sort(key=lambda c: rank[c.panel_id])
    states: dict[tuple[int, str, int], list[Reading]] = {}
    for r in reading_store.readings_of_cells(db, [c.id for c in own], source_of(source.measurand)):
        if r.phase in source.phases:
            states.setdefault((r.cell_id, r.phase, r.stage), []).append(r)
    found = []
    for cell in own:
        here = {k[1:]: v for k, v in states.items() if k[0] == cell.id}
        before = cell.baseline.get(source_of(source.measurand))
        if BEFORE in source.phases and before is not None and (BEFORE, 1) not in here:
            here[BEFORE, 1] = []  # one mean came with the cell
        here = here or {(AFTER, 0): []}
        order = sorted(here, key=lambda k: (_ORDER.index(k[0]), k[1]))
        for phase, stage in order:
            readings = tuple(here[phase, stage])
            mean = means.get(cell.id) if phase == AFTER and len(here) == 1 else None
            if mean is None and (phase != AFTER or len(here) > 1 or not means):
                mean = _plain_mean(readings)
            if phase == BEFORE and not readings:
                mean = before
            last = stages.get(cell.combination_id or 0, 1)
            found.append(
                _Listed(
                    OriginRow(
                        cell,
                        panels[cell.panel_id],
                        next((r.operator for r in readings if r.operator), ""),
                        next((r.day for r in readings if r.day), ""),
                        readings,
                        mean,
                    ),
                    code[cell.combination_id or 0],
                    _when(phase, stage, last),
                )
            )
    return found


_ORDER = (BEFORE, *BETWEEN, UNWIPED, *BETWEEN_WIPES, AFTER, DAY, WASH)
_WHEN = {
    BEFORE: "before work",
    UNWIPED: "before the wipe",
    AFTER: "after",
    DAY: "another day",
    WASH: "after a wash",
}


def _when(phase: str, stage: int, last: int) -> str:
    if phase in BETWEEN:
        return f"after stage {BETWEEN.index(phase) + 1}"
    if phase in BETWEEN_WIPES:
        return f"after wipe {BETWEEN_WIPES.index(phase) + 1}"
    if phase == AFTER and 0 < stage < last and last > 1 and stage > 1:
        return f"after stage {stage}"
    return _WHEN[phase]


def _plain_mean(readings: Sequence[Reading]) -> float | None:
    values = [r.value for r in readings if r.struck is None]
    return sum(values) / len(values) if values else None


def _elsewhere(
    db: sqlite3.Connection, name: str, source: Source, codes: Sequence[str]
) -> list[tuple[str, _Listed]]:
    """List the cells of another trial of the workshop."""
    trial_id = named_trials(db).get(name)
    if trial_id is None:
        return []
    return [(name, r) for r in _rows(db, trial_id, replace(source, cells=frozenset()), codes, {})]


def _columns(rows: Sequence[_Listed], *, trials: bool) -> tuple[str, ...]:
    """Return the heads that tell these rows apart."""
    found = ["Trial"] if trials else []
    found += ["Panel", "Cell"]
    if len({r.code for r in rows}) > 1:
        found.append("Of")
    if len({r.when for r in rows}) > 1:
        found.append("When")
    return (*found, "By", "Day")


def _lead(listed_: _Listed, trial: str | None, column: str) -> str:
    row = listed_.row
    return {
        "Trial": trial or "this",
        "Panel": row.panel.name,
        "Cell": row.cell.code,
        "Of": listed_.code,
        "When": listed_.when,
        "By": row.operator,
        "Day": row.day,
    }[column]


def _kept(
    db: sqlite3.Connection, trial_id: int, measurand: str, rows: Sequence[_Listed], load: Loader
) -> str:
    """Say which of the readings that are listed do not count, and with what it was worked out."""
    said = []
    struck = sum(r.struck is not None for row in rows for r in row.row.readings)
    if struck:
        verb = "is struck and does" if struck == 1 else "are struck and do"
        said.append(f"{struck} of these readings {verb} not count.")
    found = counting(record_of(db, trial_id, [source_of(measurand)], load))
    doubted = found.doubted
    counted = {c.id for c in found.snapshot.cells}
    gone = {
        r.cell.id: f"{r.row.panel.name} {r.cell.code}" for r in rows if r.cell.id not in counted
    }
    if gone:
        names = some(list(gone.values()))
        said.append(f"Left out, with all that was read there: {names}.")
    said += doubted
    decided = decision_words(decisions.of_trial(db, trial_id))
    if decided:
        said.append(f"Decided: {'; '.join(decided[-5:])}.")
    said.append(
        f"Loam {loam.__version__}, seed {_seed(db, trial_id)}; the model is in docs/statistics.md."
    )
    return " ".join(said)


def _seed(db: sqlite3.Connection, trial_id: int) -> int:
    return next((t.seed for t in trial_store.trials(db) if t.id == trial_id), 1)


def load_origin(
    path: Path,
    trial_id: int,
    ranking: RankingPicture,
    source: Source,
    kind: ReadingKind,
    load: Loader = load_snapshot,
) -> Origin:
    """Collect an origin from the workshop's file; made for a worker thread."""
    with reading_apart(path) as db:
        return gathered(db, trial_id, ranking, source, kind, load)
