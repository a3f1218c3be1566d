"""Doubts about a trial with their words, their readings, and what each does to the ranking."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace

import numpy as np

from loam.core.dataset import source_of, worked_only
from loam.core.doubts import Doubt, Extras, doubts, without
from loam.core.doubts.beside import Beside, beside
from loam.core.doubts.values import START
from loam.core.errors import LoamError
from loam.core.film import coat_of
from loam.core.judging import TrialJudgement
from loam.core.readings import kind_of
from loam.core.snapshot import Snapshot
from loam.core.trial import AFTER, BEFORE
from loam.core.verdict import Lessons, Record, judge, judged_by
from loam.core.words.doubts import (
    doubt_advice,
    doubt_head,
    doubt_sentence,
    effect_words,
    evidence_line,
)


@dataclass(frozen=True)
class DoubtSaid:
    """A doubt in words.

    Attributes
    ----------
    subject : str
        A panel, a person, a pad, a day, or the cell of a slip.
    readings : tuple of int
        The readings that it concerns, as they are called.
    rows : tuple of int
        Their rows in the trial's columns.
    head, evidence, advice : str
        What is doubted, what shows it and how likely that is luck, and what to do: short.
    beside : Beside or None
        Whoever is doubted beside the others.
    stays : bool
        Whether the order of the ranking stays without it.
    """

    doubt: Doubt
    subject: str
    readings: tuple[int, ...]
    effect: str
    sentence: str
    rows: tuple[int, ...] = ()
    head: str = ""
    evidence: str = ""
    advice: str = ""
    beside: Beside | None = None
    stays: bool = True

    @property
    def key(self) -> str:
        """What it is remembered by."""
        return f"{self.doubt.kind}:{self.subject}"


def concerned(said: DoubtSaid, cells_of: Callable[[int], Iterable[int]]) -> frozenset[int]:
    """Return the cells that a doubt concerns; ``cells_of`` gives those of a panel."""
    of_panels = {c for p in said.doubt.panels for c in cells_of(p)}
    moved = {c for _, x, _ in said.doubt.slope for c, v in x.items() if v}
    return frozenset(said.doubt.cells) | of_panels | moved


def doubts_said(
    record: Record,
    lessons: Lessons,
    extras: Extras,
    seed: int = 1,
    told: Callable[[float], None] | None = None,
    called: Mapping[int, str] | None = None,
) -> list[DoubtSaid]:
    """Look a trial through and say what is doubted, and what each doubt does to the ranking.

    Doubts are looked for with the stated defaults, by which their shares of false alarms were set;
    what they do is judged with what was learnt before, as the ranking is.

    Parameters
    ----------
    called : mapping of int to str, optional
        What a file calls its cells, by id; as the window calls them otherwise.
    told : callable, optional
        Told the share done; may raise to stop.
    """
    snapshot = worked_only(record.snapshot)
    judged = _judged(record, lessons, seed, told)
    coat = coat_of(p.build for p in snapshot.panels)
    said = []
    for doubt in doubts(snapshot, extras, None, told):
        concerned = _measurand_of(doubt, judged)
        effect = ""
        if concerned is not None:
            after = _again(record, lessons, extras, doubt, concerned, seed)
            effect = effect_words(doubt, concerned, after)
        subject, unit = doubt.subject, ""
        if doubt.readings:
            row = doubt.readings[0]
            subject = _place(snapshot, int(snapshot.columns.cell[row]), called or {})
            code = int(snapshot.columns.measurand[row])
            unit = kind_of(snapshot.columns.measurands[code]).unit
        sentence = doubt_sentence(doubt, subject, unit, coat)
        rows = _rows(snapshot, doubt)
        numbers = tuple(sorted({int(extras.number[r]) for r in rows}))
        stays = effect.endswith("the order stays.")
        said.append(
            DoubtSaid(
                doubt,
                subject,
                numbers,
                effect,
                sentence,
                rows,
                doubt_head(doubt, subject),
                evidence_line(doubt, unit, coat),
                doubt_advice(doubt, stays=stays),
                beside(snapshot, doubt),
                stays,
            )
        )
    return said


def _judged(
    record: Record, lessons: Lessons, seed: int, told: Callable[[float], None] | None
) -> list[TrialJudgement]:
    """Judge whatever can be judged; what cannot is looked through all the same."""
    judged: list[TrialJudgement] = []
    for key in judged_by(record.snapshot.columns):
        if told is not None:
            told(0.0)
        with suppress(LoamError):  # the ranking says why
            judged.append(judge(record, lessons, key, seed=seed).judgement)
    return judged


def _measurand_of(doubt: Doubt, judged: Sequence[TrialJudgement]) -> TrialJudgement | None:
    """Return the judgement whose measurand a doubt moves most; the first for a slip."""
    known = {j.measurand: j for j in judged}
    moved = [e for e in doubt.evidence if e.measurand in known]
    if not moved:
        return judged[0] if judged else None
    most = max(moved, key=lambda e: e.moved.strength)
    return known[most.measurand]


def _again(
    record: Record,
    lessons: Lessons,
    extras: Extras,
    doubt: Doubt,
    judged: TrialJudgement,
    seed: int,
) -> TrialJudgement | None:
    """Judge again without what is doubted; None where too little is left."""
    try:
        rest, _ = without(worked_only(record.snapshot), extras, [doubt])
        own = replace(record, snapshot=rest)
        return judge(own, lessons, judged.measurand, seed=seed).judgement
    except LoamError:
        return None


def _place(snapshot: Snapshot, cell_id: int, called: Mapping[int, str]) -> str:
    cell = next(c for c in snapshot.cells if c.id == cell_id)
    panel = next(p for p in snapshot.panels if p.id == cell.panel_id)
    return f"{panel.name} {called.get(cell_id) or cell.code}"


def _rows(snapshot: Snapshot, doubt: Doubt) -> tuple[int, ...]:
    """Return the rows of the readings that a doubt concerns."""
    columns = snapshot.columns
    if doubt.readings:
        return doubt.readings
    if doubt.kind == START:
        code = next((c.id for c in snapshot.combinations if c.code == doubt.subject), 0)
        cells = frozenset(c.id for c in snapshot.cells if c.combination_id == code)
        key = source_of(doubt.evidence[0].measurand)
        before = columns.rows(key, BEFORE)
        return tuple(before[np.isin(columns.cell[before], list(cells))].tolist())
    own_cells = doubt.cells | {c.id for c in snapshot.cells if c.panel_id in doubt.panels}
    measurands = [m for m, _, _ in doubt.slope] or [e.measurand for e in doubt.evidence]
    rows: list[int] = []
    for m in dict.fromkeys(source_of(m) for m in measurands):
        own = columns.rows(m, AFTER)
        if own_cells:
            own = own[np.isin(columns.cell[own], list(own_cells))]
        elif doubt.slope:
            moved = {c for _, x, _ in doubt.slope for c, v in x.items() if v}
            own = own[np.isin(columns.cell[own], list(moved))]
        rows += own.tolist()
    return tuple(sorted(set(rows)))
