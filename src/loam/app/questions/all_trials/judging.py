"""All trials of a workshop as one ranking, those taken in from other workshops with them."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from pathlib import Path

from loam.app.meter_repeatability import with_study
from loam.app.readers import crossed
from loam.app.record import record_of
from loam.app.what_matters import matters_in
from loam.core.dataset import source_of, trial_data, worked_only
from loam.core.errors import LoamError, NotEnough
from loam.core.judging import TrialJudgement, judge_readings
from loam.core.pool import (
    TRIAL,
    WORKSHOP,
    Disagreement,
    Part,
    Pooled,
    disagreements,
    pool,
    recipe_key,
)
from loam.core.pool_fit import fit_pool
from loam.core.prior import default_priors, pooled_priors
from loam.core.readings import kind_of
from loam.core.trial import Combination, coats_of
from loam.core.verdict import counting
from loam.store import panels as panel_store
from loam.store import trials as trial_store
from loam.store.database import reading_apart
from loam.store.origins import origin_of
from loam.store.settings import recall

OWN = "this workshop"


@dataclass(frozen=True)
class PoolJudged:
    """Many trials judged as one.

    Attributes
    ----------
    combinations : tuple of Combination
        With the codes of the pool.
    apart : tuple of Disagreement
        Where trials, and workshops, disagree.
    nothing : tuple of str
        Trials in which the measurand was not read.
    unrelated : tuple of str
        Trials that share no recipe, and were not ticked.
    left : tuple of str
        Trials that the trainer took out.
    taken : tuple of str
        Trials that are pooled.
    """

    judgement: TrialJudgement
    pooled: Pooled
    combinations: tuple[Combination, ...]
    apart: tuple[Disagreement, ...]
    nothing: tuple[str, ...]
    unrelated: tuple[str, ...] = ()
    left: tuple[str, ...] = ()
    taken: tuple[str, ...] = ()


def judge_pool(
    path: Path,
    trial_id: int,
    measurand: str,
    seed: int,
    tell: Callable[[float], None] | None = None,
) -> PoolJudged:
    """Judge a measurand in every trial of a workshop as one; made for a worker.

    Parameters
    ----------
    trial_id : int
        The trial at hand: what matters there matters.
    tell : callable, optional
        Called with the share loaded; may raise to cancel.

    Raises
    ------
    NotEnough
        When no trial read it.
    """
    with reading_apart(path) as db:
        parts, makings, nothing = _load(db, measurand, tell or (lambda _share: None))
        delta = matters_in(db, trial_id, measurand)
        priors = pooled_priors(with_study(db, measurand, default_priors(kind_of(measurand))))
        named = named_trials(db)
        here = next((n for n, i in named.items() if i == trial_id), "")
        ticks = ticked(recall(db, ticks_key(trial_id)), named)
        taken = {named[p.trial] for p in parts if p.trial in named} | {trial_id}
        coats = coats_of([p for i in sorted(taken) for p in panel_store.panels(db, i)])
    if not parts:
        raise NotEnough(f"No trial of this workshop has {kind_of(measurand).label} to judge.")
    parts, unrelated, left = chosen_parts(parts, here, ticks)
    pooled = pool(parts)
    judged = judge_readings(pooled.data, delta=delta, priors=priors, seed=seed, fit=fit_pool)
    classes = tuple(replace(c, untested=()) for c in judged.classes)  # most are of other trials
    judged = replace(judged, classes=classes).coated(coats)
    apart = disagreements(pooled.data, judged, judged.scale, TRIAL)
    if pooled.workshops > 1:
        apart += disagreements(pooled.data, judged, judged.scale, WORKSHOP)
    made = tuple(
        Combination(0, code, c.name, c.stages, c.control)
        for code, letters in pooled.letters.items()
        if (c := makings.get(letters[0])) is not None
    )
    return PoolJudged(
        judged,
        pooled,
        made,
        tuple(apart),
        tuple(nothing),
        unrelated,
        left,
        tuple(p.trial for p in parts),
    )


def ticks_key(trial_id: int) -> str:
    """Return the setting that keeps which trials the trainer ticked for a trial."""
    return f"pooled:{trial_id}"


def ticked(kept: object, named: Mapping[str, int]) -> dict[str, bool]:
    """Return by name which trials were ticked, or taken out; what cannot be is left out."""
    ticks = kept if isinstance(kept, dict) else {}
    return {
        name: ticks[str(trial_id)]
        for name, trial_id in named.items()
        if isinstance(ticks.get(str(trial_id)), bool)
    }


def chosen_parts(
    parts: list[Part], here: str, ticks: Mapping[str, bool]
) -> tuple[list[Part], tuple[str, ...], tuple[str, ...]]:
    """Return the trials to pool, those that share no recipe, and those that were taken out.

    The trial at hand always counts.
    """
    own, _ = related(parts, here)
    related_ = {p.trial for p in own}
    taken = [p for p in parts if p.trial == here or ticks.get(p.trial, p.trial in related_)]
    names = {p.trial for p in taken}
    rest = [p.trial for p in parts if p.trial not in names]
    return (
        taken,
        tuple(n for n in rest if n not in related_),
        tuple(n for n in rest if n in related_),
    )


def related(parts: list[Part], here: str) -> tuple[list[Part], tuple[str, ...]]:
    """Return the trials that hang together with the one at hand by shared recipes, and the rest.

    A trial that shares no recipe with it, nor with one that does, says nothing of its combinations,
    but how trials are assumed to vary would make them less sure. Where the trial at hand has
    nothing to judge, all are taken.
    """
    if not any(p.trial == here for p in parts):
        return parts, ()
    taken = {here}
    recipes = {r for p in parts if p.trial == here for r in p.recipes.values()}
    while True:
        more = [p for p in parts if p.trial not in taken and recipes & set(p.recipes.values())]
        if not more:
            break
        taken |= {p.trial for p in more}
        recipes |= {r for p in more for r in p.recipes.values()}
    return (
        [p for p in parts if p.trial in taken],
        tuple(p.trial for p in parts if p.trial not in taken),
    )


def named_trials(db: sqlite3.Connection) -> dict[str, int]:
    """Return the trials of a workshop by the names that the pool gives them: each has its own."""
    found: dict[str, int] = {}
    for i, trial in enumerate(trial_store.trials(db)):
        name = trial.name if trial.name not in found else f"{trial.name} ({i + 1})"
        found[name] = trial.id
    return found


def _load(
    db: sqlite3.Connection, measurand: str, tell: Callable[[float], None]
) -> tuple[list[Part], dict[tuple[str, str], Combination], list[str]]:
    """Load every trial that read a measurand; the makings by trial and letter."""
    parts: list[Part] = []
    makings: dict[tuple[str, str], Combination] = {}
    nothing: list[str] = []
    trials = trial_store.trials(db)
    names = {trial_id: name for name, trial_id in named_trials(db).items()}
    for i, trial in enumerate(trials):
        tell(i / len(trials))
        if source_of(measurand) not in trial.measurands or crossed(trial):
            continue
        name = names[trial.id]
        try:
            record = record_of(db, trial.id, [source_of(measurand)])
            snapshot = worked_only(counting(record).snapshot)
            data = trial_data(snapshot, measurand, baseline=False)
        except LoamError:
            nothing.append(name)
            continue
        own = {c.code: c for c in snapshot.combinations}
        recipes = {code: key for code, c in own.items() if (key := recipe_key(c)) is not None}
        parts.append(Part(name, origin_of(db, trial.id), data, recipes))
        makings.update({(name, code): c for code, c in own.items()})
    return parts, makings, nothing
