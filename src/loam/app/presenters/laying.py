"""Laying a trial out on a worker: what its cells are to get."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

from loam.app.planning import Placement, Rules, planned
from loam.core.design import lay_out
from loam.core.design.search import Told
from loam.store import cells as cell_store
from loam.store.cells import Place
from loam.store.workshop import reading_apart


@dataclass(frozen=True)
class Laid:
    """A layout of a trial.

    Attributes
    ----------
    stood : tuple of Place
        The cells as they stood when it was begun.
    rules : Rules
        The rules it was made by.
    turn : int
        The turn of the trial's seed that was drawn.
    """

    trial_id: int
    stood: tuple[Place, ...]
    rules: Rules
    turn: int
    placements: tuple[Placement, ...]


def lay_out_trial(path: Path, trial_id: int, told: Told | None = None) -> Laid:
    """Lay a trial out from its file; made for a worker thread.

    Raises
    ------
    NotEnough
        When there is too little to lay out.
    """
    with reading_apart(path) as db:
        stood = tuple(cell_store.places(db, trial_id))
        found = planned(db, trial_id)
    turn = found.rules.turn + 1
    seed = replace(found.rules, turn=turn).seed(found.trial)
    layout = lay_out(replace(found.plan, seed=seed), told)
    return Laid(trial_id, stood, found.rules, turn, tuple(found.placements(layout)))
