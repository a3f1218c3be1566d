"""One way to a verdict: what was recorded of a trial, what was learnt before, what it says.

Whoever judges a trial goes this way: the window, every page, the doors, reports, doubts, and all
trials as one.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Protocol

from loam.core.as_done import StageDone, unlike_words
from loam.core.dataset import control_means, trial_data, worked_only
from loam.core.doubts import Doubt, Extras, without
from loam.core.judging import TrialJudgement, judge_readings
from loam.core.matter import Matters
from loam.core.prior import Priors
from loam.core.readings import FILM, KINDS, REMOVED, kind_of
from loam.core.snapshot import Columns, Snapshot, before_wipe
from loam.core.trial import AFTER, BEFORE, Trial, coats_of
from loam.core.trial_rows import TrialData

Done = Mapping[int, tuple[StageDone, ...]]


@dataclass(frozen=True)
class Record:
    """What a verdict on a trial rests on, at one moment.

    Attributes
    ----------
    snapshot : Snapshot
        What was laid out and read; struck readings are left out.
    done : mapping of int to tuple of StageDone
        How cells were worked, where that was noted.
    prepared : tuple of str
        What leaving out a gate means, in words.
    left_out : bool
        Whether cells that were not worked as planned are left out.
    doubts : tuple of Doubt
        Those that are taken into account.
    looks : int
        How often cells were added after a look at the result.
    matters : mapping of str to Matters
        What matters, by measurand; the measurand's default otherwise.
    """

    snapshot: Snapshot
    done: Done = field(default_factory=dict)
    prepared: tuple[str, ...] = ()
    left_out: bool = False
    doubts: tuple[Doubt, ...] = ()
    looks: int = 0
    matters: Mapping[str, Matters] = field(default_factory=dict)

    def as_it_stands(self) -> Record:
        """Return the record with nothing left out or corrected, whatever was decided."""
        return replace(self, left_out=False, doubts=())


@dataclass(frozen=True)
class Taught:
    """What was known of a measurand before: how its readings vary, and how its meter repeats."""

    priors: Priors | None = None
    repeat: float | None = None


class Lessons(Protocol):
    """What earlier trials and studies taught."""

    def of(self, measurand: str, data: TrialData) -> Taught:
        """Return what is known of a measurand; ``data`` itself does not teach."""


class NoLessons:
    """Nothing was learnt before: stated defaults hold."""

    def of(self, measurand: str, data: TrialData) -> Taught:
        """Return nothing."""
        return Taught()


@dataclass(frozen=True)
class Counting:
    """What counts of a record.

    Attributes
    ----------
    snapshot : Snapshot
        What counts, controls among it.
    work, doubted : tuple of str
        What was not worked as planned and what that means; what is left out for a doubt.
    unlike : bool
        Whether some cells were not worked as planned.
    """

    snapshot: Snapshot
    work: tuple[str, ...] = ()
    doubted: tuple[str, ...] = ()
    unlike: bool = False


@dataclass(frozen=True)
class Verdict:
    """What one measurand of a trial says.

    Attributes
    ----------
    judgement : TrialJudgement
    counting : Counting
    snapshot : Snapshot
        What was judged: controls left out, readings before the wipe in place where that was asked.
    held : mapping
        What controls read, by hardness and kind.
    taught : Taught
        What was known before.
    """

    judgement: TrialJudgement
    counting: Counting
    snapshot: Snapshot
    held: Mapping[tuple[str, str], float]
    taught: Taught


def judge(
    record: Record, lessons: Lessons, measurand: str, *, seed: int = 1, unwiped: bool = False
) -> Verdict:
    """Judge one measurand of a trial.

    Parameters
    ----------
    unwiped : bool
        On what was read before the wipe, to teach: never what counts.

    Raises
    ------
    NotEnough, ValueRefused
        When there is nothing to judge, or a reading cannot be one.
    """
    count = counting(record)
    snapshot = count.snapshot
    if unwiped:
        snapshot = replace(snapshot, columns=before_wipe(snapshot.columns, measurand))
    held = control_means(snapshot, measurand)
    snapshot = worked_only(snapshot)
    data = replace(trial_data(snapshot, measurand), looked=record.looks > 0)
    taught = lessons.of(measurand, data)
    judgement = judge_readings(
        data,
        delta=record.matters.get(measurand),
        priors=taught.priors,
        repeat=taught.repeat,
        seed=seed,
    ).coated(coats_of(snapshot.panels))
    return Verdict(judgement, count, snapshot, held, taught)


def counting(record: Record) -> Counting:
    """Leave out what is not to count, correct what is to be corrected, and say so."""
    snapshot, notes = record.snapshot, list(record.prepared)
    unlike = unlike_plan(record.done)
    if unlike:
        name = {p.id: p.name for p in snapshot.panels}
        cells = [c for c in snapshot.cells if c.id in unlike]
        said = unlike_words((f"{name[c.panel_id]} {c.code}", record.done[c.id]) for c in cells)
        if record.left_out:
            kept = tuple(c for c in snapshot.cells if c.id not in unlike)
            snapshot = replace(snapshot, cells=kept)
            notes.append(f"{said} Left out here; X lets them count.")
        else:
            notes.append(f"{said} They count; X leaves them out.")
    snapshot, doubted = _as_doubted(snapshot, record.doubts)
    return Counting(snapshot, tuple(notes), tuple(doubted), bool(unlike))


def unlike_plan(done: Done) -> frozenset[int]:
    """Return the cells that did not get what was planned."""
    return frozenset(cell for cell, stages in done.items() if not all(s.as_planned for s in stages))


def _as_doubted(snapshot: Snapshot, found: tuple[Doubt, ...]) -> tuple[Snapshot, list[str]]:
    """Leave out, or correct for, what is doubted and wanted so; say it."""
    if not found:
        return snapshot, []
    rest, _ = without(snapshot, Extras.unknown(snapshot.columns.value.size), list(found))
    said = []
    for corrected, words in (
        (False, "Left out because it is doubted: {}. D lets it count."),
        (True, "Corrected for: {}. D takes that back."),
    ):
        names = ", ".join(_named(d) for d in found if bool(d.slope) is corrected)
        if names:
            said.append(words.format(names))
    return rest, said


def _named(doubt: Doubt) -> str:
    before = {"class": "panel ", "hand": "cells of "}.get(doubt.kind, "")
    return f"{before}{doubt.subject}"


def judged_by(columns: Columns) -> list[str]:
    """Return what can be judged: what was read after work, and film read before and after."""
    found = [
        k.key for k in KINDS if k.rankable and not k.derived and columns.rows(k.key, AFTER).size
    ]
    if columns.rows(FILM.key, AFTER).size and columns.rows(FILM.key, BEFORE).size:
        found.append(REMOVED.key)
    return found


def asked_of(trial: Trial, has_film_pairs: bool) -> list[str]:
    """Return what a trial is to be judged by, in the order in which it reads it."""
    keys = [m for m in trial.measurands if kind_of(m).rankable]
    if has_film_pairs and FILM.key in trial.measurands:
        keys.append(REMOVED.key)
    return keys
