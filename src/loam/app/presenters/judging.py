"""The judging view: columns of ranked rows on one axis, and the readings behind each figure."""

from __future__ import annotations

import math
import sqlite3
from dataclasses import dataclass
from pathlib import Path

from loam.core.dataset import cell_means, source_of, trial_data
from loam.core.judgement import Judgement, judge
from loam.core.readings import FILM, REMOVED, ReadingKind, kind_of
from loam.core.trial import Cell, Combination, Panel, Reading, Trial
from loam.core.units import fixed, percent
from loam.core.words.result import notes, sentence
from loam.store import readings as reading_store
from loam.store.snapshot import load_snapshot
from loam.store.workshop import reading_apart


@dataclass(frozen=True)
class Row:
    """One combination on one hardness, as drawn."""

    combination: str
    estimate: float
    low: float
    high: float
    low50: float
    high50: float
    text: str
    in_best: bool
    cells: int
    readings: int
    p_best: float
    rank: str


@dataclass(frozen=True)
class Column:
    """One hardness class.

    Attributes
    ----------
    rows : tuple of Row
        In order of merit.
    tie : str
        What holds the best group together: "equal", "open" (not settled) or "" for one leader.
    band : (float, float)
        What does not matter around the leader.
    """

    hardness: str
    panels: int
    rows: tuple[Row, ...]
    untested: tuple[str, ...]
    tie: str
    band: tuple[float, float]


@dataclass(frozen=True)
class RankingPicture:
    """The whole ranking as drawn, and the words for it."""

    measurand: str
    unit: str
    label: str
    sentence: str
    notes: tuple[str, ...]
    columns: tuple[Column, ...]
    axis: tuple[float, float, float]
    caption: str
    judgement: Judgement
    kind: ReadingKind

    @property
    def decimals(self) -> int:
        """Decimals of a mean."""
        return max(self.kind.decimals, 1)


def spoken(picture: RankingPicture) -> str:
    """Say the whole picture as text, for those who listen to it."""
    parts = [picture.sentence]
    for column in picture.columns:
        rows = [
            f"{i}. {r.combination} {r.text} {picture.unit},"
            f" {fixed(r.low, picture.decimals)} to {fixed(r.high, picture.decimals)}"
            for i, r in enumerate(column.rows, 1)
        ]
        parts.append(f"{column.hardness.capitalize()}: " + "; ".join(rows) + ".")
    return " ".join(parts)


def ticks(low: float, high: float, most: int = 5) -> tuple[float, float, float]:
    """Return a round axis (low, high, step) that covers a range with at most ``most`` steps."""
    span = max(high - low, 1e-9)
    raw = span / most
    base = 10.0 ** math.floor(math.log10(raw))
    step = next(m * base for m in (1.0, 2.0, 2.5, 5.0, 10.0) if m * base >= raw - 1e-12)
    return math.floor(low / step + 1e-9) * step, math.ceil(high / step - 1e-9) * step, step


def rankable(trial: Trial, has_film_pairs: bool) -> list[str]:
    """Return the measurands that can be ranked in a trial, in the order it reads them."""
    keys = [m for m in trial.measurands if kind_of(m).rankable]
    if has_film_pairs and FILM.key in trial.measurands:
        keys.append(REMOVED.key)
    return keys


def has_film_pairs(db: sqlite3.Connection, trial_id: int) -> bool:
    """Tell whether film thickness was read before work anywhere in a trial."""
    row = db.execute(
        "SELECT EXISTS (SELECT 1 FROM taping t JOIN cell c ON c.taping_id = t.id"
        " JOIN reading r ON r.cell_id = c.id AND r.measurand = ? AND r.phase = 'before'"
        " WHERE t.trial_id = ? AND t.put_away = 0 AND c.put_away = 0)",
        (FILM.key, trial_id),
    ).fetchone()
    return bool(row[0])


def judge_trial(
    path: Path, trial_id: int, measurand: str, seed: int, kind: ReadingKind | None = None
) -> RankingPicture:
    """Judge one measurand of a trial from its file; made for a worker thread."""
    with reading_apart(path) as db:
        snapshot = load_snapshot(db, trial_id, [source_of(measurand)])
    return picture(judge(trial_data(snapshot, measurand), seed=seed), kind)


def picture(judgement: Judgement, kind: ReadingKind | None = None) -> RankingPicture:
    """Turn a judgement into what is drawn, in the unit that ``kind`` is shown in."""
    kind = kind or kind_of(judgement.measurand)
    sign = 1.0 if judgement.higher_is_better else -1.0
    columns = []
    for result in judgement.results:
        rows = tuple(
            Row(
                e.combination,
                kind.shown(e.estimate),
                kind.shown(e.low),
                kind.shown(e.high),
                kind.shown(e.low50),
                kind.shown(e.high50),
                fixed(kind.shown(e.estimate), max(kind.decimals, 1)),
                e.combination in result.best,
                e.cells,
                e.readings,
                float(result.ranks.p_best[i]),
                _rank(int(result.ranks.low[i]), int(result.ranks.high[i])),
            )
            for i, e in enumerate(result.effects)
        )
        best = result.best
        verdicts = {result.verdict(best[0], b) for b in best[1:]}
        tie = "" if len(best) == 1 else ("equal" if verdicts == {"tie"} else "open")
        leader = kind.shown(result.effects[0].estimate)
        band = sorted((leader, leader - sign * kind.span(judgement.delta)))
        columns.append(
            Column(result.hardness, result.panels, rows, result.untested, tie, (band[0], band[1]))
        )
    low = min(r.low for c in columns for r in c.rows)
    high = max(r.high for c in columns for r in c.rows)
    within = f"{fixed(kind.span(judgement.delta), max(kind.decimals, 1))} {kind.unit}"
    better = "further right" if judgement.higher_is_better else "further left"
    caption = (
        f"Better lies {better}. Bars: 50 and 90 % intervals of each combination's own part."
        f" Band: {within} behind the leader does not matter ({judgement.delta_source})."
    )
    label = f"{kind.label}, {judgement.scale} scale" if judgement.scale else kind.label
    return RankingPicture(
        kind.key, kind.unit, label, sentence(judgement, kind), tuple(notes(judgement)),
        tuple(columns), ticks(low, high), caption, judgement, kind,
    )  # fmt: skip


def _rank(low: int, high: int) -> str:
    return str(low) if low == high else f"{low} to {high}"


@dataclass(frozen=True)
class Figure:
    """One line of the detail sheet."""

    label: str
    value: str
    unit: str


def figures(ranking: RankingPicture, hardness: str, combination: str) -> list[Figure]:
    """Return what one ranking says of one combination."""
    result = next((r for r in ranking.judgement.results if r.hardness == hardness), None)
    if result is None:
        return []
    kind = ranking.kind
    for e in result.effects:
        if e.combination == combination:
            half = kind.span(0.5 * (e.high - e.low))
            value = f"{fixed(kind.shown(e.estimate), ranking.decimals)} ± "
            value += fixed(half, ranking.decimals)
            return [Figure(kind.label, value, kind.unit)]
    return []


def standing(
    ranking: RankingPicture, hardness: str, combination: str, most: int = 10_000
) -> list[str]:
    """Say how a combination stands against the others of its hardness, one line each.

    After ``most`` others the rest is only counted, in a last line.
    """
    result = next((r for r in ranking.judgement.results if r.hardness == hardness), None)
    if result is None:
        return []
    kind = ranking.kind
    names = [e.combination for e in result.effects]
    if combination not in names:
        return [f"{combination} was not tested on {hardness}."]
    i = names.index(combination)
    low, high = int(result.ranks.low[i]), int(result.ranks.high[i])
    said = [
        f"Best with a chance of {percent(float(result.ranks.p_best[i]))}, rank {_rank(low, high)}."
    ]
    words = {
        "a better": "better",
        "b better": "worse",
        "tie": "equal",
        "not settled": "not settled",
    }
    others = [n for n in names if n != combination]
    shown = others if len(others) <= most else others[: most - 1]
    for other in shown:
        if other != combination:
            c = result.contrast(combination, other)
            d = ranking.decimals
            sign = "+" if c.estimate > 0 else ""
            said.append(
                f"{other}\t{sign}{fixed(kind.span(c.estimate), d)}"
                f" ± {fixed(kind.span(1.645 * c.se), d)}"
                f"\t{words[result.verdict(combination, other)]}"
            )
    if len(shown) < len(others):
        said.append(f"and {len(others) - len(shown)} more, all in the picture")
    return said


def ranking_table(ranking: RankingPicture) -> list[list[str]]:
    """Return the ranking as a table, its heading first."""
    d, unit = ranking.decimals, ranking.unit
    head = ["hardness", "combination", f"{ranking.label}, {unit}", "low", "high", "chance of best",
            "rank", "cells", "readings"]  # fmt: skip
    rows = [
        [c.hardness, r.combination, r.text, fixed(r.low, d), fixed(r.high, d),
         percent(r.p_best), r.rank, str(r.cells), str(r.readings)]
        for c in ranking.columns
        for r in c.rows
    ]  # fmt: skip
    return [head, *rows]


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
    snapshot = load_snapshot(db, trial_id, [source_of(kind.key)])
    panels = {p.id: p for p in snapshot.panels if p.hardness == hardness}
    combinations = {c.id: c for c in snapshot.combinations}
    cells = [c for c in snapshot.cells if c.panel_id in panels]
    own = [c for c in cells if _code(c, combinations) == code]
    by_cell: dict[int, list[Reading]] = {c.id: [] for c in own}
    for reading in reading_store.readings_of_cells(db, list(by_cell), source_of(kind.key)):
        by_cell[reading.cell_id].append(reading)
    on_class = {c.id for c in cells}
    means = {c: m for c, m in cell_means(snapshot.columns, kind.key).items() if c in on_class}
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


def _recipe(ranking: RankingPicture, hardness: str, code: str) -> tuple[str, str]:
    kind, fit = ranking.kind, ranking.judgement.fit
    result = next(r for r in ranking.judgement.results if r.hardness == hardness)
    effect = next((e for e in result.effects if e.combination == code), None)
    if effect is None:
        return f"{code} was not tested on {hardness} clear", ""
    d = max(kind.decimals, 1)
    half = kind.span(0.5 * (effect.high - effect.low))
    heading = (
        f"{code} on {hardness} clear: {kind.label} {fixed(kind.shown(effect.estimate), d)}"
        f" ± {fixed(half, d)} {kind.unit}"
    )
    recipe = (
        f"Adjusted mean of {effect.readings} readings in {effect.cells} cells, from a mixed model"
        f" of all {fit.n} readings (REML)."
    )
    if fit.covariates:
        before = fixed(kind.shown(fit.covariate_means[0]), d)
        recipe += f" Levelled to a reading before work of {before} {kind.unit}."
    spread = [
        f"{words} {fixed(kind.span(math.sqrt(fit.variances[name])), d + 1)}"
        for name, words in (("panel", "panels"), ("operator", "operators"), ("cell", "cells"))
        if name in fit.variances
    ]
    spread.append(f"repeat readings {fixed(kind.span(fit.residual_sd), d + 1)}")
    recipe += f" Standard deviations, {kind.unit}: " + ", ".join(spread) + "."
    if kind.key == REMOVED.key:
        recipe += " Clear removed is film before less film after; the film after work is listed."
    return heading, recipe
