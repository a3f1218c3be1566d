"""What else a trial's readings carry: wear, order, place, heat, people, claims, masking."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from loam.app.learnt_priors import priors_for
from loam.app.questions.influences.claims import Claims, find_claims, makers_facts
from loam.app.questions.question import Asked, Tell
from loam.app.questions.ranking.masked import MaskedPicture
from loam.app.record import record_of
from loam.core.dataset import trial_data
from loam.core.doubts.records import Cells, Extras
from loam.core.judging import TrialJudgement
from loam.core.prior import Priors
from loam.core.readings.kind import ReadingKind
from loam.core.snapshot import FloatArray, Snapshot
from loam.core.trends import Trend, trend
from loam.core.trial import AFTER
from loam.core.trial_rows import TrialData
from loam.core.units import fixed
from loam.core.verdict import counting
from loam.core.words.verdict import unit_of
from loam.store.circumstances import extras_in
from loam.store.database import reading_apart

MOST_PEOPLE = 6


@dataclass(frozen=True)
class Strand:
    """One thing that the result may move with.

    Attributes
    ----------
    trend : Trend or None
        None where the readings do not carry it; ``words`` then says what would.
    middle, low, high : float
        What it comes to, as measured at the middle of the trial; more is to the right.
    """

    label: str
    words: str
    trend: Trend | None = None
    middle: float = 0.0
    low: float = 0.0
    high: float = 0.0

    @property
    def sure(self) -> bool:
        """Whether the result surely moves with it."""
        return self.trend is not None and self.trend.sure


@dataclass(frozen=True)
class CarriedPicture:
    """What else the readings carry of one measurand.

    Attributes
    ----------
    matters : float
        What matters, as measured at the middle of the trial.
    claims : Claims
        Of makers, and what the wipe took back by product.
    """

    kind: ReadingKind
    strands: tuple[Strand, ...]
    matters: float
    claims: Claims
    lead: str

    def said(self) -> tuple[str, ...]:
        """Return what surely moves the result."""
        return (self.lead,)

    def table(self) -> list[list[str]]:
        """Return it as a table, its heading first."""
        rows = [["what", "comes to", "low", "high", "in words"]]
        for s in self.strands:
            figures = [f"{v:.4g}" for v in (s.middle, s.low, s.high)] if s.trend else ["", "", ""]
            rows.append([s.label, *figures, s.words])
        return [*rows, *([head, "", "", "", words] for head, words in self.claims.lines())]


def find_influences(
    path: Path,
    trial_id: int,
    judged: Mapping[str, TrialJudgement],
    measurand: str,
    masked: MaskedPicture | None,
    seed: int,
    tell: Callable[[float], None] = lambda _share: None,
) -> CarriedPicture:
    """Find what else the readings carry; made for a worker.

    Parameters
    ----------
    tell : callable
        Told the share done; may raise to stop.
    """
    with reading_apart(path) as db:
        record = record_of(db, trial_id)
        snapshot = record.snapshot
        extras = extras_in(db, trial_id, snapshot)
        counted = counting(record).snapshot
        same = counted.columns.value.size == snapshot.columns.value.size
        data = trial_data(counted, measurand)
        priors = priors_for(db, trial_id, measurand, data)
        facts = makers_facts(db)
    if not same:
        extras = Extras.unknown(counted.columns.value.size)
    own = judged[measurand]
    rng = np.random.default_rng([seed, 66])
    finder = _Strands(counted, extras, data, own, priors, rng, tell)
    strands = tuple(finder.all())
    surely = [s for s in strands if s.sure]
    kind = own.kind
    claims = find_claims(counted, judged, facts, masked, kind)
    said = "nothing else surely moves it, each taken by itself"
    if surely:
        said = "; ".join(s.words.rstrip(".") for s in surely)
    return CarriedPicture(
        kind,
        strands,
        finder.shown(own.matters.on_scale),
        claims,
        f"{kind.label.capitalize()}: {said[:1].lower() + said[1:] if surely else said}.",
    )


class _Strands:
    """Tries one covariate after the other."""

    def __init__(
        self,
        snapshot: Snapshot,
        extras: Extras,
        data: TrialData,
        own: TrialJudgement,
        priors: Priors,
        rng: np.random.Generator,
        tell: Callable[[float], None],
    ) -> None:
        self.tell, self.done = tell, 0
        self.snapshot, self.extras, self.data, self.own = snapshot, extras, data, own
        self.priors, self.rng = priors, rng
        assert data.rows is not None
        self.cells = Cells.of(snapshot, data.rows)
        self.kind = own.kind
        estimates = [s.figures.estimate for c in own.classes for s in c.standings]
        self.middle = float(np.median(own.scale.to(np.array(estimates))))

    def shown(self, difference: float) -> float:
        """Turn a difference on the scale into one as measured, at the middle of the trial."""
        ends = self.own.scale.back(np.array([self.middle, self.middle + difference]))
        return self.kind.span(float(ends[1] - ends[0]))

    def all(self) -> list[Strand]:
        """Return every strand."""
        rows = self.data.rows
        assert rows is not None
        sets, order = self.extras.sets[rows], self.extras.order[rows]
        found = [
            self._one(
                "a pad's sets",
                "sets",
                sets,
                "set",
                "With the sets of its pad",
                "the pads' sets (Work counts them, or a column worked_sets)",
            ),
            self._one(
                "order of work",
                "run",
                self.cells.run,
                "cell",
                "From first to last worked",
                "an order of work (Lay out draws one)",
            ),
            self._one(
                "order of reading",
                "order",
                order,
                "reading",
                "From first to last read",
                "the order of reading (a column read_order)",
            ),
            self._one(
                "rim of the panel",
                "rim",
                self.cells.edge,
                "",
                "At the rim of a panel",
                "cells at the rim and within",
            ),
            self._one(
                "down the panel",
                "row",
                self.cells.row,
                "row",
                "From top to bottom",
                "more than one row of cells",
            ),
            self._one(
                "panel temperature",
                "temperature",
                self._heat(),
                "°C",
                "From cool to warm",
                "the panel's temperature in every cell",
            ),
        ]
        return [*found, *self._people()]

    def _one(
        self, label: str, key: str, x: FloatArray, unit: str, words: str, wanted: str
    ) -> Strand:
        self.tell(self.done / (6 + MOST_PEOPLE))
        self.done += 1
        found = trend(key, self.data, self.own.scale, self.priors, x, self.rng)
        if found is None:
            return Strand(label, f"Not carried: it would take {wanted}.")
        middle, low, high = (self.shown(v) for v in (found.middle, found.low, found.high))
        low, high = min(low, high), max(low, high)
        reach = ""
        if unit:
            reach = f" ({found.least:.4g} to {found.most:.4g}{' ' + unit if unit == '°C' else ''})"
        digits = max(self.kind.decimals, 1)
        said = f"{words}{reach} it moves by {fixed(middle, digits)} ({fixed(low, digits)} to"
        said += f" {fixed(high, digits)}) {unit_of(self.kind)}."
        if not found.sure:
            said = said.replace(" it moves by", " nothing sure:")
        return Strand(label, said, found, middle, low, high)

    def _heat(self) -> FloatArray:
        columns = self.snapshot.columns
        rows = columns.rows("temperature", AFTER)
        sums: dict[int, list[float]] = {}
        for cell, value in zip(
            columns.cell[rows].tolist(), columns.value[rows].tolist(), strict=True
        ):
            sums.setdefault(cell, []).append(value)
        means = {cell: sum(v) / len(v) for cell, v in sums.items()}
        return np.array([means.get(int(c), np.nan) for c in self.cells.cell])

    def _people(self) -> list[Strand]:
        """Each person against the others."""
        who = self.data.factors.get("operator")
        names = [n for n in who.names if n] if who is not None else []
        if who is None or len(names) < 2:
            return [Strand("people", "Not carried: it would take two people who work cells.")]
        found = []
        for name in names[:MOST_PEOPLE]:
            x = (who.codes == who.names.index(name)).astype(float)
            found.append(
                self._one(
                    name,
                    f"person:{name}",
                    x,
                    "",
                    f"{name}'s cells: against the others",
                    "two people who work cells",
                )
            )
        return found


def head(asked: Asked) -> str:
    """Return what its part of the report is called."""
    return f"What else moves {asked.label}"


def answer(asked: Asked, tell: Tell) -> CarriedPicture:
    """Find what else the readings carry."""
    return find_influences(
        asked.path,
        asked.trial.id,
        asked.judged,
        asked.measurand,
        asked.ranking.masked,
        asked.trial.seed,
        tell,
    )
