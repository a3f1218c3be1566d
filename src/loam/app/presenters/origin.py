"""The readings behind a figure, and how it follows from them."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from pathlib import Path

from loam.app.presenters.ranking import RankingPicture
from loam.core.dataset import source_of
from loam.core.prior import RESIDUAL
from loam.core.readings import REMOVED, ReadingKind
from loam.core.trial import Cell, Combination, Panel, Reading
from loam.core.units import fixed
from loam.core.words.verdict import scale_words
from loam.store import cells as cell_store
from loam.store import combinations as combination_store
from loam.store import panels as panel_store
from loam.store import readings as reading_store
from loam.store.workshop import reading_apart


@dataclass(frozen=True)
class OriginRow:
    """The readings of one cell behind a figure."""

    cell: Cell
    panel: Panel
    operator: str
    day: str
    readings: tuple[Reading, ...]
    mean: float | None


@dataclass(frozen=True)
class Origin:
    """Where a figure comes from.

    Attributes
    ----------
    heading, recipe : str
        What the figure is, and how it follows from the readings.
    means : dict
        Mean by cell id over the whole hardness class, for the panel drawing.
    """

    kind: ReadingKind
    hardness: str
    combination: str
    heading: str
    recipe: str
    rows: tuple[OriginRow, ...]
    panels: tuple[Panel, ...]
    means: dict[int, float]


def origin(
    db: sqlite3.Connection, trial_id: int, ranking: RankingPicture, hardness: str, code: str
) -> Origin:
    """Collect the readings behind one combination's figure on one hardness."""
    kind = ranking.kind
    panels = {p.id: p for p in panel_store.panels(db, trial_id) if p.hardness == hardness}
    combinations = {c.id: c for c in combination_store.combinations(db, trial_id)}
    cells = [c for p in panels for c in cell_store.cells_of(db, p)]
    own = [c for c in cells if _code(c, combinations) == code]
    by_cell: dict[int, list[Reading]] = {c.id: [] for c in own}
    for reading in reading_store.readings_of_cells(db, list(by_cell), source_of(kind.key)):
        by_cell[reading.cell_id].append(reading)
    means = {c.id: ranking.means[c.id] for c in cells if c.id in ranking.means}
    rows = []
    for cell in own:
        after = tuple(r for r in by_cell[cell.id] if r.phase == "after")
        rows.append(
            OriginRow(
                cell,
                panels[cell.panel_id],
                next((r.operator for r in after if r.operator), ""),
                next((r.day for r in after if r.day), ""),
                after,
                means.get(cell.id),
            )
        )
    heading, recipe = _recipe(ranking, hardness, code)
    return Origin(kind, hardness, code, heading, recipe, tuple(rows), tuple(panels.values()), means)


def load_origin(
    path: Path, trial_id: int, ranking: RankingPicture, hardness: str, code: str
) -> Origin:
    """Collect an origin from the workshop's file; made for a worker thread."""
    with reading_apart(path) as db:
        return origin(db, trial_id, ranking, hardness, code)


def _code(cell: Cell, combinations: dict[int, Combination]) -> str:
    found = combinations.get(cell.combination_id or 0)
    return found.code if found else ""


_SPREADS = (
    ("panel", "panels"),
    ("panel:combination", "a combination from panel to panel"),
    ("operator", "people"),
    ("day", "days"),
    ("cell", "cells"),
    (RESIDUAL, "repeat readings"),
)


def _recipe(ranking: RankingPicture, hardness: str, code: str) -> tuple[str, str]:
    kind, judgement = ranking.kind, ranking.judgement
    found = judgement.on(hardness)
    standing = found.standing(code) if found is not None else None
    if standing is None:
        return f"{code} was not tested on {hardness} clear", ""
    d, f = ranking.decimals, standing.figures
    half, own = 0.5 * (f.high - f.low), 0.5 * (f.own_high - f.own_low)
    heading = (
        f"{code} on {hardness} clear: {kind.label} {fixed(kind.shown(f.estimate), d)}"
        f" ± {fixed(kind.span(half), d)} {kind.unit}"
    )
    recipe = (
        f"Adjusted mean of {standing.readings} readings in {standing.cells} cells, from a mixed"
        f" model of all {judgement.readings} readings (REML likelihood, the variances integrated"
        f" over). The interval (90 %) holds the panels, people and days in it; for comparing on"
        f" {hardness} it is ± {fixed(kind.span(own), d)} {kind.unit}."
    )
    if f.moved:
        recipe += f" Among so many alike it is compared as {fixed(kind.shown(f.pooled), d)}."
    words = scale_words(judgement)
    if words:
        recipe += f" It is {words}."
    if judgement.baseline == "used":
        recipe += " Levelled to the mean reading before work."
    factor = kind.span(1.0) if judgement.scale.name == "identity" else 1.0
    spread = [
        f"{said} {judgement.sd[term] * factor:.2g}"
        + (" (assumed)" if term in judgement.assumed else "")
        for term, said in _SPREADS
        if judgement.levels.get(term, 0) > 1 or term == RESIDUAL
    ]
    unit = kind.unit if judgement.scale.name == "identity" else "on that scale"
    recipe += f" Standard deviations, {unit}: " + ", ".join(spread) + "."
    if kind.key == REMOVED.key:
        recipe += " Clear removed is film before less film after; the film after work is listed."
    return heading, recipe
