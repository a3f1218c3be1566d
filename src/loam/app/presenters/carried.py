"""What else a trial's readings carry: wear, order, place, heat, people, claims, masking."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from loam.app.lessons import priors_for
from loam.app.presenters.doubted import as_doubted
from loam.app.presenters.masked import MaskedPicture
from loam.app.worked import as_it_counts
from loam.core.dataset import trial_data
from loam.core.doubts.records import Cells, Extras
from loam.core.inspection import jeffreys
from loam.core.judgement import TrialData
from loam.core.judging import TrialJudgement
from loam.core.kit.facts import COMPOUND
from loam.core.prior import Priors
from loam.core.readings import REMOVED, kind_of
from loam.core.readings.kind import ReadingKind
from loam.core.snapshot import FloatArray, Snapshot
from loam.core.trends import Trend, concordance, trend
from loam.core.trial import AFTER, Combination
from loam.core.units import fixed, percent
from loam.core.words.masking import span
from loam.core.words.verdict import listed, unit_of
from loam.store import kit
from loam.store.extras import extras_in
from loam.store.snapshot import load_snapshot
from loam.store.workshop import reading_apart

CLEARED = 95.0
"""A cell counts as cleared from this share of defects removed: assumed."""
MOST_PEOPLE, LEAST_COMPOUNDS = 6, 3


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
    lines : tuple of (str, str)
        Claims, scales and masking: head and words.
    """

    kind: ReadingKind
    strands: tuple[Strand, ...]
    matters: float
    lines: tuple[tuple[str, str], ...]
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
        return [*rows, *([head, "", "", "", words] for head, words in self.lines)]


def draw_carried(
    path: Path, trial_id: int, judged: Mapping[str, TrialJudgement], measurand: str,
    masked: MaskedPicture | None, seed: int, tell: Callable[[float], None] = lambda _share: None,
) -> CarriedPicture:  # fmt: skip
    """Find what else the readings carry; made for a worker.

    Parameters
    ----------
    tell : callable
        Told the share done; may raise to stop.
    """
    with reading_apart(path) as db:
        snapshot = load_snapshot(db, trial_id)
        extras = extras_in(db, trial_id, snapshot)
        counted, _, _ = as_it_counts(db, snapshot, trial_id, measurand)
        counted, _ = as_doubted(db, counted, trial_id)
        same = counted.columns.value.size == snapshot.columns.value.size
        data = trial_data(counted, measurand)
        priors = priors_for(db, trial_id, measurand, data)
        claims = _facts(db)
    if not same:
        extras = Extras.unknown(counted.columns.value.size)
    own = judged[measurand]
    rng = np.random.default_rng([seed, 66])
    finder = _Strands(counted, extras, data, own, priors, rng, tell)
    strands = tuple(finder.all())
    lines = (
        _claim_line(snapshot, claims),
        *_scale_lines(snapshot, judged, claims),
        ("masking", _masking(masked, measurand)),
    )
    surely = [s for s in strands if s.sure]
    kind = kind_of(measurand)
    said = "taken one by one in this measurand alone, nothing else surely moves it"
    if surely:
        said = "; ".join(s.words.rstrip(".") for s in surely)
    return CarriedPicture(
        kind, strands, finder.shown(own.matters.on_scale), lines,
        f"{kind.label.capitalize()}: {said[:1].lower() + said[1:] if surely else said}.",
    )  # fmt: skip


class _Strands:
    """Tries one covariate after the other."""

    def __init__(
        self, snapshot: Snapshot, extras: Extras, data: TrialData, own: TrialJudgement,
        priors: Priors, rng: np.random.Generator, tell: Callable[[float], None],
    ) -> None:  # fmt: skip
        self.tell, self.done = tell, 0
        self.snapshot, self.extras, self.data, self.own = snapshot, extras, data, own
        self.priors, self.rng = priors, rng
        assert data.rows is not None
        self.cells = Cells.of(snapshot, data.rows)
        self.kind = kind_of(own.measurand)
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
            self._one("a pad's sets", "sets", sets, "set", "With the sets of its pad",
                      "the pads' sets (Work counts them, or a column worked_sets)"),
            self._one("order of work", "run", self.cells.run, "cell", "From first to last worked",
                      "an order of work (Lay out draws one)"),
            self._one("order of reading", "order", order, "reading", "From first to last read",
                      "the order of reading (a column read_order)"),
            self._one("rim of the panel", "rim", self.cells.edge, "", "At the rim of a panel",
                      "cells at the rim and within"),
            self._one("down the panel", "row", self.cells.row, "row", "From top to bottom",
                      "more than one row of cells"),
            self._one("panel temperature", "temperature", self._heat(), "°C",
                      "From cool to warm", "the panel's temperature in every cell"),
        ]  # fmt: skip
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
        for cell, value in zip(columns.cell[rows].tolist(), columns.value[rows].tolist(),
                               strict=True):  # fmt: skip
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
            found.append(self._one(name, f"person:{name}", x, "", f"{name}'s cells: against the"
                                   " others", "two people who work cells"))  # fmt: skip
        return found


def _facts(db: sqlite3.Connection) -> dict[str, Mapping[str, object]]:
    """Return what makers say of their compounds, by name in small letters."""
    return {t.name.casefold(): t.facts for t in kit.things(db, COMPOUND)}


def _final(snapshot: Snapshot) -> dict[int, Combination]:
    return {c.id: c for c in snapshot.combinations if c.stages}


def _claim_line(snapshot: Snapshot, facts: Mapping[str, Mapping[str, object]]) -> tuple[str, str]:
    """Say in how many cells a claimed grit was cleared."""
    columns, own = snapshot.columns, _final(snapshot)
    rows = columns.rows("defects", AFTER)
    cells: dict[int, list[float]] = {}
    for cell, value in zip(columns.cell[rows].tolist(), columns.value[rows].tolist(), strict=True):
        cells.setdefault(cell, []).append(value)
    by_compound: dict[str, list[float]] = {}
    for cell in snapshot.cells:
        c = own.get(cell.combination_id or 0)
        if c is None or cell.id not in cells:
            continue
        by_compound.setdefault(c.stages[0].compound, []).append(
            sum(cells[cell.id]) / len(cells[cell.id])
        )
    said = []
    for name, values in sorted(by_compound.items()):
        grit = facts.get(name.casefold(), {}).get("clears_grit")
        if not isinstance(grit, int | float):
            continue
        hits = sum(v >= CLEARED for v in values)
        low, high = jeffreys(hits, len(values))
        said.append(
            f"{name} (claims P{grit:g}) cleared {hits} of {len(values)} cells"
            f" ({percent(low)} to {percent(high)})"
        )
    if not said:
        return "grit claims", (
            "Not carried: it would take defects read after work, and a compound whose grit claim"
            " is on the shelf (Kit, Ctrl+T)."
        )
    return "grit claims", (
        "; ".join(said) + f". Cleared: {CLEARED:g} % of the marks gone, whatever marks this trial"
        " was given (assumed)."
    )


def _scale_lines(
    snapshot: Snapshot, judged: Mapping[str, TrialJudgement],
    facts: Mapping[str, Mapping[str, object]],
) -> list[tuple[str, str]]:  # fmt: skip
    """Hold makers' figures against what was measured, each maker's scale for itself."""
    lines = []
    for fact, at, measurands, what in (
        ("cut", 0, (REMOVED.key, "defects"), "makers' cut"),
        ("finish", -1, ("haze", "gloss20"), "makers' finish"),
    ):
        key = next((m for m in measurands if m in judged), "")
        said = _scales(snapshot, judged[key], facts, fact, at) if key else []
        if not said:
            wanted = kind_of(measurands[0]).label
            said = [
                f"Not carried: it would take {LEAST_COMPOUNDS} compounds with figures on one"
                f" maker's scale, and {wanted} judged."
            ]
        lines.append((what, " ".join(said)))
    return lines


def _scales(
    snapshot: Snapshot, judged: TrialJudgement, facts: Mapping[str, Mapping[str, object]],
    fact: str, at: int,
) -> list[str]:  # fmt: skip
    own = {c.code: c for c in snapshot.combinations if c.stages}
    kind = kind_of(judged.measurand)
    sign = 1.0 if judged.measurand == REMOVED.key or kind.higher_is_better else -1.0
    said = []
    for found in judged.classes:
        scales: dict[str, dict[str, list[int]]] = {}
        figure: dict[str, float] = {}
        for name, column in found.columns.items():
            compound = own[name].stages[at].compound if name in own else ""
            told = facts.get(compound.casefold(), {})
            value = told.get(fact)
            if isinstance(value, int | float):
                scale = (
                    f"a scale of {told['scale']}" if told.get("scale") else "a scale without a name"
                )
                scales.setdefault(scale, {}).setdefault(compound, []).append(column)
                figure[compound] = float(value)
        for scale, compounds in scales.items():
            if len(compounds) < LEAST_COMPOUNDS or len({figure[c] for c in compounds}) < 2:
                continue
            drawn = np.stack([found.draws[:, c].mean(axis=1) for c in compounds.values()], axis=1)
            tau, low, high = concordance([figure[c] for c in compounds], sign * drawn)
            verdict = "agrees" if low > 0 else "goes against" if high < 0 else "not settled"
            said.append(
                f"On {found.hardness}, on {scale}: {listed(list(compounds))} against measured"
                f" {kind.label}: Kendall's tau {fixed(tau, 2)} ({fixed(low, 2)} to"
                f" {fixed(high, 2)}), {verdict}."
            )
    return said


def _masking(masked: MaskedPicture | None, measurand: str) -> str:
    if masked is None:
        return (
            f"Not carried: it would take {kind_of(measurand).label} read before the wipe and"
            " again after it."
        )
    ranked = sorted(masked.products, key=lambda m: -m.masked)
    if not ranked:
        return "Nothing fell back at the wipe that can be laid to a product."
    return "By product: " + "; ".join(f"{m.group} {span(m, masked.kind)}" for m in ranked) + "."
