"""A trial as the rows of a file for exchange, and back."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from loam.core.panel import Taping
from loam.core.record import SORTS
from loam.core.record.trial import USED
from loam.core.trial import Cell, Combination, Panel, Reading, Stage, Trial
from loam.core.wipes import read_wipes, written
from loam.store.builds import build_of, build_text, facts_text, outline_of, outline_text
from loam.store.combinations import STAGE_FIELDS
from loam.store.draft import Row, Strike, TrialDraft
from loam.store.facts_text import facts_of
from loam.store.package_checks import VALUES

BESIDE: dict[str, tuple[str, ...]] = {
    "trial": ("uid",),
    "panel": ("uid", "board", "made"),
    "combination": ("uid", "made"),
    "stage": tuple(f"{what}_as_used" for what in USED),
    "reading": ("meter_as_used", "line", "uid"),
    "strike": ("uid", "made"),
}
"""Fields of those that no value holds."""


def rows_of(draft: TrialDraft) -> dict[str, Iterable[Sequence[Any]]]:
    """Return the rows of each sort, values in the order of its fields."""
    t, beside = draft.trial, draft.beside
    rows: dict[str, Iterable[Sequence[Any]]] = {
        "trial": [
            (
                t.name,
                t.question,
                " ".join((*t.measurands, *t.unknown)),
                t.readings_per_cell,
                t.seed,
                t.note,
                draft.created_at,
                draft.uid,
            )
        ],
        "panel": [
            (
                p.id,
                p.name,
                p.hardness,
                p.paint,
                p.taping.width_mm,
                p.taping.height_mm,
                p.taping.rows,
                p.taping.columns,
                p.taping.gap_mm,
                p.taping.margin_mm,
                build_text(p.build),
                outline_text(p.outline),
                facts_text(p.facts),
                beside("panel", "uid", i),
                beside("panel", "board", i),
                beside("panel", "made", i),
            )
            for i, p in enumerate(draft.panels)
        ],
        "combination": [
            (
                c.id,
                c.code,
                c.name,
                c.control,
                beside("combination", "uid", i),
                beside("combination", "made", i),
            )
            for i, c in enumerate(draft.combinations)
        ],
        "stage": [
            (c.id, i, *_stage_row(s), *draft.used_by(c, i))
            for c in draft.combinations
            for i, s in enumerate(c.stages, 1)
        ],
        "cell": [
            (c.id, c.panel_id, c.row + 1, c.column + 1, c.combination_id, c.run_order, c.name)
            for c in draft.cells
        ],
        "baseline": [(c.id, m, v) for c in draft.cells for m, v in sorted(c.baseline.items())],
        "reading": [
            (
                r.id,
                r.cell_id,
                r.measurand,
                r.value,
                r.phase,
                r.ordinal,
                r.stage,
                r.scale,
                r.operator,
                r.day,
                r.taken_at,
                r.reader,
                r.meter,
                r.mark,
                r.about,
                beside("reading", "meter_as_used", i, None),
                beside("reading", "line", i, None),
                beside("reading", "uid", i),
            )
            for i, r in enumerate(draft.readings)
        ],
        "strike": [
            (
                s.reading_id,
                int(s.struck),
                s.reason,
                s.at,
                beside("strike", "uid", i),
                beside("strike", "made", i),
            )
            for i, s in enumerate(draft.strikes)
        ],
    }
    for sort in SORTS:
        if sort.key not in rows:
            names = [f.name for f in sort.fields]
            rows[sort.key] = [[r[n] for n in names] for r in draft.rest.get(sort.key, ())]
    return rows


def _stage_row(stage: Stage) -> list[object]:
    """Return what stages.csv says of a stage, in the order of `STAGE_FIELDS`."""
    return [written(stage.wipes) if f == "wipes" else getattr(stage, f) for f in STAGE_FIELDS]


def assemble(rows: Mapping[str, list[Row]]) -> TrialDraft:
    """Return the trial that rows, which were checked, are.

    Raises
    ------
    LoamError
        Where a value cannot be.
    """
    head = rows["trial"][0]
    stages: dict[int, list[Stage]] = {}
    for r in sorted(rows["stage"], key=lambda r: (r["combination"], r["position"])):
        values = {f: r[f] for f in STAGE_FIELDS} | {"wipes": read_wipes(r["wipes"])}
        stages.setdefault(r["combination"], []).append(Stage(**values))
    baselines: dict[int, dict[str, float]] = {}
    for r in rows["baseline"]:
        baselines.setdefault(r["cell"], {})[r["measurand"]] = r["value"]
    return TrialDraft(
        Trial(
            1,
            head["name"],
            head["question"],
            tuple(head["measurands"].split()),
            head["readings_per_cell"],
            head["seed"],
            head["note"],
        ),
        tuple(
            Panel(
                r["id"],
                1,
                r["name"],
                r["hardness"],
                Taping(
                    r["width_mm"],
                    r["height_mm"],
                    r["rows"],
                    r["columns"],
                    r["gap_mm"],
                    r["margin_mm"],
                ),
                r["paint"],
                0,
                build_of(r["build"]),
                outline_of(r["outline"]),
                facts_of(r["facts"]),
            )
            for r in rows["panel"]
        ),
        tuple(
            Combination(r["id"], r["code"], r["name"], tuple(stages.get(r["id"], ())), r["control"])
            for r in rows["combination"]
        ),
        tuple(
            Cell(
                r["id"],
                r["panel"],
                r["row"] - 1,
                r["column"] - 1,
                r["combination"],
                r["run_order"],
                baselines.get(r["id"], {}),
                r["name"],
            )
            for r in rows["cell"]
        ),
        tuple(
            Reading(
                r["id"],
                r["cell"],
                r["measurand"],
                r["value"],
                r["phase"],
                r["ordinal"],
                r["stage"],
                r["scale"],
                r["operator"],
                r["day"],
                r["taken_at"],
                None,
                r["reader"],
                r["meter"],
                r["mark"],
                r["about"],
            )
            for r in rows["reading"]
        ),
        tuple(
            Strike(r["reading"], bool(r["struck"]), r["reason"], r["at"]) for r in rows["strike"]
        ),
        head["created_at"],
        side=_side(rows),
        rest={s.key: tuple(rows[s.key]) for s in SORTS if s not in VALUES and rows[s.key]},
    )


def _side(rows: Mapping[str, list[Row]]) -> dict[str, dict[str, tuple[Any, ...]]]:
    """Return what stands beside the values of a trial; nothing where no row has any of it."""
    found = {}
    for sort, names in BESIDE.items():
        columns = {name: tuple(row[name] for row in rows[sort]) for name in names}
        if any(value not in ("", None) for column in columns.values() for value in column):
            found[sort] = columns
    return found
