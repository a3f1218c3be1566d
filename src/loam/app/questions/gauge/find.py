"""A gauge study in a trial: every reader reads every cell, and what that says of the meter."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import numpy as np

from loam.app.readers import ALL_READINGS
from loam.core.errors import NotEnough
from loam.core.gauge import Study, Variances, judge_study, readings_needed, reads_apart
from loam.core.matter import RATIO, matters
from loam.core.panel import cell_code
from loam.core.readings import ReadingKind
from loam.core.trial import AFTER
from loam.core.words.gauge import gauge_verdict, study_words
from loam.store.database import reading_apart
from loam.store.panels import panels


@dataclass(frozen=True)
class GaugePicture:
    """A study, drawn.

    Attributes
    ----------
    study : Study
    spots : tuple of (str, mapping of str to tuple of float)
        Each spot and what each reader read there, less the spot's mean, in the unit shown.
    readers : tuple of str
    words : tuple of str
        What it says; the first is the short of it.
    needed : int
        Readings a cell by which two cells are told apart as far as matters.
    meter : str
        With which most was read; "" where nobody said.
    verdict : str
        Whether it is good enough, who reads apart, how often to read: the short of it.
    beside : mapping of str to float
        How each reader reads beside the others, in the unit shown.
    """

    kind: ReadingKind
    study: Study
    spots: tuple[tuple[str, Mapping[str, tuple[float, ...]]], ...]
    readers: tuple[str, ...]
    words: tuple[str, ...]
    needed: int
    meter: str = ""
    verdict: str = ""
    beside: Mapping[str, float] = field(default_factory=dict)


def gauge_of(path: Path, trial_id: int, kind: ReadingKind) -> GaugePicture:
    """Judge the study of a trial from its file; made for a worker thread.

    Raises
    ------
    NotEnough
        When it is not crossed yet, saying what is missing.
    """
    with reading_apart(path) as db:
        rows = db.execute(ALL_READINGS, (trial_id, AFTER, kind.key)).fetchall()
        names = _panel_names(db, trial_id)
    rows = [r for r in rows if r[4] and r[1] in names]
    if not rows:
        raise NotEnough(
            "Nobody has read anything yet under a name.",
            todo="In Read (F7), say who reads, and let every reader read every cell.",
        )
    part = [f"{names[r[1]]} {r[7] or cell_code(r[2], r[3])}" for r in rows]
    reader = [r[4] for r in rows]
    values = np.array([r[5] for r in rows])
    study = judge_study(part, reader, values)
    spots = []
    for spot in dict.fromkeys(part):
        own = [(o, v) for p, o, v in zip(part, reader, values, strict=True) if p == spot]
        mean = sum(v for _, v in own) / len(own)
        read = {
            o: tuple(kind.span(float(v - mean)) for x, v in own if x == o)
            for o in dict.fromkeys(x for x, _ in own)
        }
        spots.append((spot, read))
    apart = kind.matters if kind.scale == "identity" else _usual(kind, float(values.mean()))
    needed = readings_needed(study.result.ev, apart)
    shown = [kind.span(float(v)) for v in values]
    beside = reads_apart(part, reader, shown)
    said = study_words(_shown(study, kind), kind.unit, max(kind.decimals + 1, 1), beside)
    by = f"{kind.write_span(apart, 0 if kind.decimals else 1)} {kind.unit}"
    said.append(
        f"To tell two cells apart by {by}, read each {needed} times; more cells help more than"
        " more readings."
    )
    meter = _most(rows)
    return GaugePicture(
        kind,
        study,
        tuple(spots),
        tuple(dict.fromkeys(reader)),
        tuple(said),
        needed,
        meter,
        gauge_verdict(meter, needed, by, beside, kind.unit),
        {o.reader: o.middle for o in beside},
    )


def _most(rows: list[tuple[Any, ...]]) -> str:
    """Return the meter with which most was read."""
    meters = [r[6] for r in rows if r[6]]
    return max(meters, key=meters.count) if meters else ""


def _usual(kind: ReadingKind, level: float) -> float:
    """Return what matters by default as a difference at a level."""
    chosen = matters(kind)
    if chosen.kind == RATIO and kind.scale == "log1p":
        return (chosen.value - 1.0) * (level + 1.0)
    share = min(max(level / 100.0, 0.01), 0.99)
    return 100.0 * (chosen.value - 1.0) * share * (1.0 - share)


def _panel_names(db: sqlite3.Connection, trial_id: int) -> dict[int, str]:
    return {p.id: p.name for p in panels(db, trial_id)}


def _shown(study: Study, kind: ReadingKind) -> Study:
    """Return a study in the unit that is shown."""
    factor = kind.span(1.0) ** 2
    if factor == 1.0:
        return study

    def scaled(v: Variances | None) -> Variances | None:
        return (
            None
            if v is None
            else Variances(
                v.repeatability * factor, v.interaction * factor, v.reader * factor, v.part * factor
            )
        )

    raw = scaled(study.raw)
    assert raw is not None
    return replace(study, raw=raw, raw_pooled=scaled(study.raw_pooled))


def gauge_table(found: GaugePicture) -> list[list[str]]:
    """Return the readings of a study as a table, its heading first."""
    most = max((len(v) for _, by in found.spots for v in by.values()), default=0)
    rows = [
        [spot, reader, *(f"{v:+.3g}" for v in values)]
        for spot, by in found.spots
        for reader, values in by.items()
    ]
    return [["spot", "reader", *(f"{i}, less the spot's mean" for i in range(1, most + 1))], *rows]
