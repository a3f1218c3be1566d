"""What the workshop's own readings of film say of how much clear a combination takes off."""

from __future__ import annotations

import itertools
import sqlite3
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path

from loam.app.work_against_plan import done_in
from loam.core.as_done import StageDone
from loam.core.dataset import cell_means
from loam.core.design.costs import plateau
from loam.core.errors import LoamError
from loam.core.panel import Taping
from loam.core.readings import FILM, REMOVED
from loam.core.removal import CellLoss, Known, fit_kp, recipe_of
from loam.core.scale import Scale
from loam.core.snapshot import Snapshot
from loam.core.stages import cell_states
from loam.core.trial import BETWEEN, Combination, Stage
from loam.core.verdict import Done
from loam.store import trials as trial_store
from loam.store.database import reading_apart
from loam.store.readings import state_of_trial
from loam.store.snapshot import load_snapshot

MOST_READINGS = 20_000
"""A larger trial is not gone through in passing."""
_KEPT = 32
_AS_READ = Scale("identity", 0.0, float("inf"))
_losses: dict[tuple[object, ...], tuple[CellLoss, ...]] = {}


def stage_dose(stage: Stage, taping: Taping) -> float:
    """Return the planned dose of a stage in the even ground of a cell, kPa m."""
    return plateau(stage, taping.cell_width_mm, taping.cell_height_mm)


def losses(snapshot: Snapshot, done: Done, *, by_recipe: bool) -> list[CellLoss]:
    """Return what every cell with film read before and after lost, and the dose that it got.

    The dose is the planned one times what was done of it; a cell that was not paced counts as
    worked as planned.
    """
    means = cell_means(snapshot.columns, REMOVED.key)
    films = _film_states(snapshot)
    combinations = {c.id: c for c in snapshot.combinations if c.stages}
    panels = {p.id: p for p in snapshot.panels}
    doses: dict[tuple[Combination, Taping], list[float]] = {}
    found = []
    for cell in snapshot.cells:
        combination = combinations.get(cell.combination_id or 0)
        if combination is None or not (cell.id in means or cell.id in films):
            continue
        panel = panels[cell.panel_id]
        key = (combination, panel.taping)
        if key not in doses:
            try:
                doses[key] = [stage_dose(s, panel.taping) for s in combination.stages]
            except LoamError:
                doses[key] = []
        own = _as_done(doses[key], done.get(cell.id, ()))
        if sum(own) > 0.0:
            name = recipe_of(combination.stages) if by_recipe else combination.code
            if cell.id in means:
                found.append(CellLoss(name, panel.hardness, means[cell.id], sum(own)))
            if by_recipe:
                found += _by_part(combination.stages, panel.hardness, own, films.get(cell.id, {}))
    return found


def _by_part(
    stages: Sequence[Stage], hardness: str, dose: Sequence[float], film: Mapping[int, float]
) -> Iterator[CellLoss]:
    """Give what was lost between two stages that film was read after; the whole is known apart."""
    for a, b in itertools.pairwise(sorted(film)):
        got = sum(dose[a:b])
        if b - a < len(stages) and got > 0.0:
            yield CellLoss(recipe_of(stages[a:b]), hardness, film[a] - film[b], got)


def _film_states(snapshot: Snapshot) -> dict[int, dict[int, float]]:
    """Return the mean film of each cell after so many stages, µm, where it was read in between."""
    if not any(snapshot.columns.rows(FILM.key, phase).size for phase in BETWEEN):
        return {}
    count = {c.id: len(c.stages) for c in snapshot.combinations}
    stages = {c.id: count.get(c.combination_id or 0, 1) for c in snapshot.cells}
    start = {c.id: c.baseline[FILM.key] for c in snapshot.cells if FILM.key in c.baseline}
    return cell_states(snapshot.columns, FILM.key, _AS_READ, start, stages)


def _as_done(planned: list[float], stages: tuple[StageDone, ...]) -> list[float]:
    if len(stages) != len(planned):
        return planned
    return [dose * stage.share for dose, stage in zip(planned, stages, strict=True)]


def measured_kp(db: sqlite3.Connection) -> Known:
    """Return Kp by recipe and hardness, from all trials of the workshop that read film twice."""
    return fit_kp([loss for t in trial_store.trials(db) for loss in _of_trial(db, t.id)])


def kp_at(path: Path) -> Known:
    """Return what `measured_kp` does, from a file; made for a worker thread."""
    with reading_apart(path) as db:
        return measured_kp(db)


def _of_trial(db: sqlite3.Connection, trial_id: int) -> tuple[CellLoss, ...]:
    file = db.execute("PRAGMA database_list").fetchone()[2]
    state = state_of_trial(db, trial_id)
    worked = db.execute("SELECT coalesce(max(id), 0) FROM work").fetchone()[0]
    key = (file, trial_id, worked, *state)
    if key not in _losses:
        if len(_losses) >= _KEPT:
            _losses.clear()
        _losses[key] = _gone_through(db, trial_id) if state[0] <= MOST_READINGS else ()
    return _losses[key]


def _gone_through(db: sqlite3.Connection, trial_id: int) -> tuple[CellLoss, ...]:
    snapshot = load_snapshot(db, trial_id, [FILM.key])
    if FILM.key not in snapshot.columns.measurands:
        return ()
    return tuple(losses(snapshot, done_in(db, snapshot, trial_id), by_recipe=True))
