"""Lay a plan out, as the window does: what each cell gets, how good it is, what it will tell."""

from __future__ import annotations

import argparse
from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from loam.app.headless.common import FAILED, answer, as_json, complain, measurand_of
from loam.core.design import (
    Forecast,
    Layout,
    PanelPlan,
    Plan,
    Spreads,
    expected_pairs,
    forecast,
    lay_out,
)
from loam.core.design.plan import Place
from loam.core.errors import LoamError, ValueRefused
from loam.core.matter import matters
from loam.core.panel import MOST_ACROSS, cell_code
from loam.core.prior import RESIDUAL, default_priors
from loam.core.readings import ReadingKind, kind_of
from loam.store.json_file import Fields, read_json

MOST_CELLS = 60_000
MOST_COMBINATIONS = 400


def run(arguments: Sequence[str]) -> int:
    """Run ``loam layout`` and return the exit status: 0, or 2 after an error on stderr."""
    parser = argparse.ArgumentParser(
        prog="loam layout", description="Choose which combination goes into which cell."
    )
    parser.add_argument("file", type=Path, metavar="PLAN.json")
    parser.add_argument("--json", action="store_true", help="print JSON instead of text")
    options = parser.parse_args(arguments)
    try:
        fields = read_json(options.file, "the plan")
        measurand, delta = (
            fields.text("measurand", "gloss20"),
            (fields.number("delta") if fields.has("delta") else None),
        )
        kind = kind_of(measurand_of(measurand))
        layout = lay_out(plan_of(fields))
        printed = printed_of(layout, kind, matters(kind, delta).on_scale)
    except LoamError as error:
        complain(error)
        return FAILED
    answer(as_json(printed) if options.json else as_text(layout, printed))
    return 0


def plan_of(fields: Fields) -> Plan:
    """Build a plan.

    Raises
    ------
    LoamError
        For a field that is missing, unknown or wrong, or a plan that cannot be laid out.
    """
    if fields.has("plan") and not fields.has("panels"):
        inner = fields.inner("plan")
        fields.drop("expected")
        fields.done()
        fields = inner
    controls = fields.inner("controls", {})
    plan = Plan(
        combinations=tuple(fields.texts("combinations")),
        panels=tuple(_panel(v, i) for i, v in enumerate(fields.many("panels"), start=1)),
        untouched=controls.whole("untouched", 0),
        damaged=controls.whole("damaged", 0),
        trends=fields.yes("trends", False),
        groups=fields.mapping("groups"),
        apart=fields.yes("apart", False),
        readings_per_cell=fields.whole("readings_per_cell", 1),
        sd=_spreads(fields.inner("sd")) if fields.has("sd") else None,
        seed=fields.whole("seed", 1),
    )
    controls.done()
    fields.done()
    cells = sum(len(p.open_cells()) for p in plan.panels)
    if cells > MOST_CELLS or len(plan.combinations) > MOST_COMBINATIONS:
        raise ValueRefused(
            f"{cells} cells and {len(plan.combinations)} combinations are too many.",
            where="the plan",
            todo=f"At most {MOST_CELLS} and {MOST_COMBINATIONS}.",
        )
    return plan


def _panel(value: Any, number: int) -> PanelPlan:
    fields = Fields(value, f"panel {number}")
    name = fields.text("name")
    fields.where = f"panel {name}"
    rows, columns = fields.whole("rows"), fields.whole("columns")
    if not (0 < rows <= MOST_ACROSS and 0 < columns <= MOST_ACROSS):
        raise ValueRefused(
            f"{rows} rows and {columns} columns of cells cannot be.",
            where=fields.where,
            todo=f"1 to {MOST_ACROSS} of each.",
        )
    closed = set()
    for place in fields.many("closed", []):
        one = Fields({"closed": place}, fields.where)
        row, column = one.pair("closed")
        if row != int(row) or column != int(column):
            raise ValueRefused(f"{place} is no row and column.", where=fields.where)
        closed.add((int(row) - 1, int(column) - 1))
    panel = PanelPlan(name, fields.text("hardness"), rows, columns, frozenset(closed))
    fields.done()
    return panel


def _spreads(fields: Fields) -> Spreads:
    sd = Spreads(fields.number("panel"), fields.number("cell"), fields.number("reading"))
    fields.done()
    return sd


def printed_of(layout: Layout, kind: ReadingKind, delta: float) -> dict[str, Any]:
    """Return a layout with its efficiency and forecast as plain values.

    Parameters
    ----------
    kind : ReadingKind
        Whose priors the judgement will use.
    delta : float
        What matters, on its scale.
    """
    plan = layout.plan
    assigned = {(c.panel, c.row, c.column): c.assigned for c in layout.cells}
    expected = _expected(plan, assigned, kind, delta) if plan.sd is not None else []
    printed: dict[str, Any] = {
        "seed": plan.seed,
        "cells": [
            {
                "panel": plan.panels[c.panel].name,
                "row": c.row + 1,
                "column": c.column + 1,
                "assigned": c.assigned,
                "run_order": c.run_order,
            }
            for c in layout.cells
        ],
        "efficiency": [
            {"hardness": e.hardness, "value": e.value, "mean_variance": e.mean_variance}
            for e in layout.efficiency
        ],
        "forecast": [
            {
                "hardness": f.hardness,
                "a": f.a,
                "b": f.b,
                "se": f.se,
                "df": f.df,
                "half_width_90": f.half_width_90,
                "detectable_80": f.detectable_80,
                "ahead_80": f.ahead_80,
                "clearly_80": f.clearly_80,
            }
            for f in expected
        ],
    }
    notes = _notes(layout, expected)
    if notes:
        printed["notes"] = notes
    return printed


def _expected(
    plan: Plan, assigned: Mapping[Place, str], kind: ReadingKind, delta: float
) -> list[Forecast]:
    """Forecast every pair, with what verdicts to expect; what 'sd' leaves out is as assumed."""
    assert plan.sd is not None
    priors = default_priors(kind)
    true = {name: p.sd for name, p in priors.items()}
    true |= {"panel": plan.sd.panel, "cell": plan.sd.cell, RESIDUAL: plan.sd.reading}
    told = expected_pairs(plan, assigned, true, priors, delta)
    found = []
    for f in forecast(plan, assigned, plan.sd):
        one = told.get((f.hardness, f.a, f.b))
        if one is not None:
            f = replace(f, ahead_80=float(one.ahead), clearly_80=one.clearly)
        found.append(f)
    return found


def _notes(layout: Layout, expected: Sequence[Any]) -> list[str]:
    notes = []
    if layout.plan.sd is None:
        notes.append("Without 'sd' nothing is forecast.")
    for hardness in dict.fromkeys(f.hardness for f in expected if f.df < 1):
        notes.append(
            f"{hardness}: every cell is used up by telling combinations and panels apart; nothing"
            " is left to know the spread by, so no interval is forecast. Add cells."
        )
    for e in layout.efficiency:
        if e.value == 0.0:
            notes.append(f"{e.hardness}: some pair of combinations shares no chain of panels.")
    return notes


def as_text(layout: Layout, printed: dict[str, Any]) -> str:
    """Return a layout as text: every panel as its grid, then how good it is."""
    lines = []
    for p, panel in enumerate(layout.plan.panels):
        lines.append(f"{panel.name} ({panel.hardness})")
        lines += [
            f"  {cell_code(c.row, c.column):<5}{c.assigned:<14}{c.run_order or ''}"
            for c in layout.cells
            if c.panel == p
        ]
    for e in printed["efficiency"]:
        value = "one combination" if e["value"] is None else f"{e['value']:.4f}"
        lines.append(f"{e['hardness']}: efficiency {value}")
    for f in printed["forecast"]:
        if f["half_width_90"] is not None:
            lines.append(
                f"{f['hardness']}: {f['a']} - {f['b']} within {f['half_width_90']:.3g}, finds"
                f" {f['detectable_80']:.3g} ({f['df']} df)"
            )
    return "\n".join([*lines, *(f"Note: {note}" for note in printed.get("notes", []))])
