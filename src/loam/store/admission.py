"""One admission for all that comes from a file: what typing could not make, no file may bring.

Values that check themselves when built (`Trial`, `Panel`, `Stage`, `Combination`, `Taping`) are
right already; here the rest is checked: what refers to what, what stands twice, how much there is.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from loam.core.errors import LoamError, ValueRefused
from loam.core.outline import Outline, open_cells
from loam.core.readings import kind_of
from loam.core.text import NOTE, check_text
from loam.core.trial import MAX_ORDER, check_reading
from loam.store.about import check_taken
from loam.store.draft import TrialDraft

MOST = {
    "panels": 2000,
    "combinations": 2000,
    "cells": 200_000,
    "readings": 1_000_000,
    "strikes": 1_000_000,
}
"""How much one trial may hold; a workshop may hold many trials."""


@dataclass(frozen=True)
class Fault:
    """What is wrong: the table, the place in it (from 0), the column, the value, the rule."""

    table: str
    at: int
    column: str
    value: str
    rule: str


def too_many(table: str, count: int) -> str:
    """Say that a table holds more than a trial may; "" when it does not."""
    if count <= MOST[table]:
        return ""
    return f"more than {MOST[table]} {table}: split the file by trial"


def check_draft(draft: TrialDraft) -> Fault | None:
    """Return the first thing wrong with a trial that came from a file, None when all is right."""
    for find in (_sizes, _names, _cells, _readings, _strikes):
        for fault in find(draft):
            return fault
    return None


def _sizes(draft: TrialDraft) -> Iterator[Fault]:
    for table in MOST:
        said = too_many(table, len(getattr(draft, table)))
        if said:
            yield Fault(table, 0, "id", "", said)
    if sum(p.taping.rows * p.taping.columns for p in draft.panels) > MOST["cells"]:
        yield Fault("panels", 0, "rows", "", too_many("cells", MOST["cells"] + 1))


def _names(draft: TrialDraft) -> Iterator[Fault]:
    for table, names in (
        ("panels", [p.name for p in draft.panels]),
        ("combinations", [c.code for c in draft.combinations]),
    ):
        seen: set[str] = set()
        for i, name in enumerate(names):
            if name in seen:
                column = "name" if table == "panels" else "code"
                yield Fault(table, i, column, name, "this name stands twice")
            seen.add(name)
    try:
        check_text(draft.created_at, "the time")
    except ValueRefused as error:
        yield Fault("trial", 0, "created_at", "", error.what)


def _cells(draft: TrialDraft) -> Iterator[Fault]:
    size = {p.id: p.taping for p in draft.panels}
    shaped = {p.id: open_cells(p.outline, p.taping) for p in draft.panels if p.outline != Outline()}
    codes = {c.id for c in draft.combinations}
    places: set[tuple[int, int, int]] = set()
    for i, c in enumerate(draft.cells):
        yield from _baseline(i, c.baseline)
        if c.panel_id not in size:
            yield Fault("cells", i, "panel", str(c.panel_id), "there is no such panel")
            continue
        taping = size[c.panel_id]
        if not (0 <= c.row < taping.rows and 0 <= c.column < taping.columns):
            yield Fault("cells", i, "row", str(c.row + 1), "the cell lies off its panel")
        elif c.panel_id in shaped and (c.row, c.column) not in shaped[c.panel_id]:
            rule = "the cell lies off the outline of its panel"
            yield Fault("cells", i, "row", str(c.row + 1), rule)
        if (c.panel_id, c.row, c.column) in places:
            yield Fault("cells", i, "row", str(c.row + 1), "another cell lies there already")
        places.add((c.panel_id, c.row, c.column))
        if c.combination_id is not None and c.combination_id not in codes:
            value = str(c.combination_id)
            yield Fault("cells", i, "combination", value, "there is no such combination")
        if c.run_order is not None and not 0 <= c.run_order <= MAX_ORDER:
            rule = f"the run order lies between 0 and {MAX_ORDER}"
            yield Fault("cells", i, "run_order", str(c.run_order), rule)


def _baseline(at: int, before: dict[str, float]) -> Iterator[Fault]:
    for measurand, value in before.items():
        try:
            kind = kind_of(measurand)
            if kind.derived:
                raise ValueRefused("this is no reading before work")
            kind.check(value)
        except LoamError as error:
            yield Fault("baselines", at, "value", f"{value:g}", error.what)


def _readings(draft: TrialDraft) -> Iterator[Fault]:
    count = len(draft.cells)
    struck: dict[int, bool] = {}
    for entry in draft.strikes:
        struck[entry.reading_id] = entry.struck
    seen: set[tuple[int, str, str, int, int]] = set()
    for i, r in enumerate(draft.readings):
        if not 1 <= r.cell_id <= count:
            yield Fault("readings", i, "cell", str(r.cell_id), "there is no such cell")
            continue
        try:
            check_reading(r)
            check_taken(r.about)
        except LoamError as error:
            yield Fault(
                "readings", i, "value", f"{r.value:g}", f"{error.what} {error.todo}".strip()
            )
        if not struck.get(r.id) and not draft.beside("reading", "uid", i):
            key = (r.cell_id, r.measurand, r.phase, r.stage, r.ordinal)
            if key in seen:
                rule = "this reading of the cell stands twice"
                yield Fault("readings", i, "ordinal", str(r.ordinal), rule)
            seen.add(key)


def _strikes(draft: TrialDraft) -> Iterator[Fault]:
    count = len(draft.readings)
    for i, s in enumerate(draft.strikes):
        if not 1 <= s.reading_id <= count:
            yield Fault("strikes", i, "reading", str(s.reading_id), "there is no such reading")
        if s.struck and not s.reason.strip():
            yield Fault("strikes", i, "reason", "", "a struck reading has a reason")
        try:
            check_text(s.reason, "the reason", NOTE, lines=True)
            check_text(s.at, "the time")
        except ValueRefused as error:
            yield Fault("strikes", i, "reason", s.reason[:60], error.what)
