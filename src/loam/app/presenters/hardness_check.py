"""How the panels of the workshop answer, against the hardness that each is declared to have."""

from __future__ import annotations

import math
import sqlite3
from dataclasses import dataclass

import numpy as np

from loam.core.dataset import counted, source_of
from loam.core.errors import LoamError
from loam.core.hardness import MEASURANDS, Answer, Response, answer, answer_said
from loam.core.prior import RESIDUAL, default_priors
from loam.core.readings import kind_of
from loam.core.scale import scale_for
from loam.core.snapshot import Snapshot
from loam.store.readings import state_of_trial
from loam.store.snapshot import load_snapshot
from loam.store.trials import trials

MOST_READINGS = 20_000
"""A trial of more readings is left out: it would take too long in passing."""


@dataclass(frozen=True)
class Answers:
    """How each panel answers, by the panel's physical id."""

    found: dict[int, Answer | None]

    def said(self, physical: int, declared: str) -> tuple[str, bool]:
        """Return what is said of a panel, and whether it is a warning."""
        found = self.found.get(physical)
        return answer_said(found, declared), found is not None and found.doubts(declared)


def answers(db: sqlite3.Connection, panels: dict[int, str]) -> Answers:
    """Work out how some panels answer; made for a worker.

    Parameters
    ----------
    panels : dict
        Declared hardness by physical id: it stands for these, whatever other trials said.
    """
    responses: list[Response] = []
    for trial in trials(db):
        wanted = [m for m in MEASURANDS if source_of(m) in trial.measurands]
        if not wanted or _count(db, trial.id) > MOST_READINGS:
            continue
        snapshot = load_snapshot(db, trial.id, [source_of(m) for m in wanted])
        for measurand in wanted:
            responses += _responses(snapshot, measurand, panels)
    priors = {}
    for measurand in MEASURANDS:
        usual = default_priors(kind_of(measurand))
        cell = math.hypot(usual["cell"].sd, usual[RESIDUAL].sd / math.sqrt(3.0))
        priors[measurand] = (usual["panel"].sd, cell)
    return Answers({physical: answer(responses, physical, priors) for physical in panels})


def _count(db: sqlite3.Connection, trial_id: int) -> int:
    return int(state_of_trial(db, trial_id)[0])


def _responses(snapshot: Snapshot, measurand: str, panels: dict[int, str]) -> list[Response]:
    """Return a trial's cells by panel and recipe, on the measurand's scale."""
    kind = kind_of(measurand)
    try:
        found = counted(snapshot.columns, measurand)
    except LoamError:
        return []
    if not found.y.size:
        return []
    scale = scale_for(kind, found.y)
    cell = snapshot.columns.cell[found.rows]
    ids, at = np.unique(cell, return_inverse=True)
    means = np.bincount(at, weights=scale.to(found.y)) / np.bincount(at)
    mean_of = {int(c): float(m) for c, m in zip(ids, means, strict=True)}
    recipes = {c.id: c.stages for c in snapshot.combinations if c.stages}
    of_panel = {p.id: p for p in snapshot.panels}
    grouped: dict[tuple[int, int], list[float]] = {}
    for c in snapshot.cells:
        if c.id in mean_of and c.combination_id in recipes and c.panel_id in of_panel:
            grouped.setdefault((c.panel_id, c.combination_id), []).append(mean_of[c.id])
    made = []
    for (panel_id, combination), values in grouped.items():
        panel = of_panel[panel_id]
        declared = panels.get(panel.physical, panel.hardness)
        made.append(
            Response(panel.physical, declared, recipes[combination], measurand, tuple(values))
        )
    return made
