"""Long-form or side-by-side readings from a mapped file to a trial, whole or not at all."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping
from contextlib import suppress

from loam.core.errors import LoamError, ValueRefused
from loam.core.panel import MAX_PANEL_MM, MOST_ACROSS, Taping, cell_code, cell_place
from loam.core.text import plain
from loam.core.trial import (
    MAX_CELL_NAME,
    MAX_READINGS,
    Cell,
    Combination,
    Panel,
    Trial,
)
from loam.core.units import parse_number
from loam.store.admission import check_draft
from loam.store.csv_rows import Builder, PanelSeen, class_of
from loam.store.draft import Strike, TrialDraft
from loam.store.mapping import AFTER, mapping_problems
from loam.store.table_file import FileRefused, Problem, TableFile, collector_paused

CELL_MM, GAP_MM, MARGIN_MM = 120.0, 12.0, 40.0
_PROGRESS_EVERY = 2000
_LOOKED_AT = 20_000


def unknown_classes(
    table: TableFile, mapping: Mapping[str, str], words: Mapping[str, str], most: int = 6
) -> list[str]:
    """Return the file's own words for hardness that are not known yet, in their order."""
    column = next((c for c, role in mapping.items() if role == "hardness"), None)
    if column is None:
        return []
    at = table.header.index(column)
    found: dict[str, None] = {}
    for row, _ in table.rows():
        word = row[at].strip()
        if word and not class_of(word, words):
            found[word.lower()] = None
            if len(found) >= most:
                break
    return list(found)


def build_draft(
    table: TableFile,
    mapping: Mapping[str, str],
    name: str,
    progress: Callable[[float], None] | None = None,
    *,
    words: Mapping[str, str] | None = None,
    first: int = 0,
) -> TrialDraft:
    """Build a trial from a file of readings.

    Parameters
    ----------
    table : TableFile
        The file as text.
    mapping : mapping
        Column name to role key.
    name : str
        Name of the new trial.
    progress : callable, optional
        Called with the share done; may raise to cancel.
    words : mapping, optional
        The file's own words for the hardness classes, lower case.
    first : int
        Look at so many lines only, to show what would come out; 0 takes all.

    Raises
    ------
    FileRefused
        With every rule broken, by line, column and value. Nothing is taken then.
    """
    lacking = mapping_problems(mapping)
    if lacking:
        raise FileRefused(table.path, [Problem(1, "", "", said) for said in lacking])
    with collector_paused():
        builder = Builder(table, mapping, words or {})
        for i, (row, line) in enumerate(table.rows()):
            if i % _PROGRESS_EVERY == 0:
                full = builder.full()
                if full:
                    raise FileRefused(table.path, [Problem(line, "", "", full)])
                if progress is not None:
                    progress(i / table.count)
            if first and i >= first:
                break
            builder.take(row, line)
        if not builder.wrong and not any(r.phase == AFTER for r in builder.readings):
            builder.wrong_at(0, "", "", "no line holds a reading after work")
        if builder.wrong:
            raise _refusal(builder, name)
        draft = _assemble(builder, name, table.path.name)
        fault = check_draft(draft)
        if fault is not None:
            said = f"{fault.table}: {fault.rule}"
            raise FileRefused(table.path, [Problem(0, fault.column, fault.value, said)])
    return draft


def _refusal(builder: Builder, name: str) -> FileRefused:
    """Return the refusal, with what the lines without fault would have given, to be looked at."""
    refusal = builder.wrong.refusal()
    if len(builder.readings) <= _LOOKED_AT:
        with suppress(LoamError, ValueError, KeyError):
            refusal.partial = _assemble(builder, name, builder.table.path.name)
    return refusal


def _assemble(builder: Builder, name: str, source: str) -> TrialDraft:
    panel_number = {panel: i for i, panel in enumerate(builder.panels, 1)}
    codes = sorted(builder.combinations)
    combination_number = {code: i for i, code in enumerate(codes, 1)}
    places = _place_cells(builder)
    extent: dict[str, tuple[int, int]] = {}
    for (panel, _), (row, column) in places.items():
        down, across = extent.get(panel, (0, 0))
        extent[panel] = (max(down, row + 1), max(across, column + 1))
    sized = "width_mm" in builder.at
    panels = [
        Panel(panel_number[panel], 1, panel, seen.hardness, taping, seen.paint, facts=seen.facts)
        for panel, seen in builder.panels.items()
        for taping in [_taping(builder, panel, seen, extent[panel])]
    ]
    cells = [
        Cell(
            number,
            panel_number[seen.panel],
            *places[key],
            combination_number[seen.combination],
            seen.run_order,
            {m: math.fsum(v) / len(v) for m, v in seen.baseline.items()},
            _own_name(key[1], places[key]),
        )
        for number, (key, seen) in enumerate(builder.cells.items(), 1)
    ]
    measured = tuple(dict.fromkeys(r.measurand for r in builder.readings if r.phase == AFTER))
    per_cell = max(r.ordinal for r in builder.readings)
    try:
        trial = Trial(
            1,
            name,
            "",
            measured,
            min(max(per_cell, 1), MAX_READINGS),
            1,
            f"Readings from {plain(source) or 'a file'}.",
        )
    except ValueRefused as error:
        raise FileRefused(builder.table.path, [Problem(0, "", name, str(error))]) from error
    return TrialDraft(
        trial,
        tuple(panels),
        tuple(
            Combination(combination_number[c], c, head[0], stages, head[1] if not stages else "")
            for c in codes
            for head, stages, _ in [builder.combinations[c]]
        ),
        tuple(cells),
        tuple(builder.readings),
        tuple(Strike(i, True, reason, "") for i, reason in builder.struck),
        notes=() if sized else ("The file gives no sizes, so cells of 120 mm are assumed.",),
        lines=tuple(builder.lines),
        called=tuple(cell for _, cell in builder.cells),
    )


def _taping(builder: Builder, panel: str, seen: PanelSeen, extent: tuple[int, int]) -> Taping:
    """Return a panel's taping as the file gives it, or one that holds its cells."""
    path = builder.table.path
    rows, columns = extent
    if max(rows, columns) > MOST_ACROSS:
        rule = f"panel {panel} would have {rows} rows of {columns} cells; 60 by 60 is the most"
        raise FileRefused(path, [Problem(seen.line, "", panel, rule)])
    if all(seen.taping):
        try:
            w, h, r, c, gap, margin = (parse_number(text) for text in seen.taping)
            if (r, c) != (int(r), int(c)) or r < rows or c < columns:
                raise ValueRefused(f"a cell lies off panel {panel}")
            return Taping(w, h, int(r), int(c), gap, margin)
        except LoamError as error:
            rule = f"panel {panel}: {error.what}"
            raise FileRefused(path, [Problem(seen.line, "", "", rule)]) from error
    size = min(CELL_MM, (MAX_PANEL_MM - 2 * MARGIN_MM) / max(rows, columns) - GAP_MM)
    return Taping(
        columns * size + (columns - 1) * GAP_MM + 2 * MARGIN_MM,
        rows * size + (rows - 1) * GAP_MM + 2 * MARGIN_MM,
        rows,
        columns,
        GAP_MM,
        MARGIN_MM,
    )


def _place_cells(builder: Builder) -> dict[tuple[str, str], tuple[int, int]]:
    """Return the grid place of every cell.

    Cells without row and column lie where their names say when all of a panel's names are of one
    sort (K1, L2; A1 to B4; 1A; R1C2): neighbours and rims stay what they are. Others fill a
    near-square grid.
    """
    places: dict[tuple[str, str], tuple[int, int]] = {}
    homeless: dict[str, list[tuple[str, str]]] = {}
    below: dict[str, int] = {}
    for key, seen in builder.cells.items():
        if seen.place is None:
            homeless.setdefault(seen.panel, []).append(key)
        else:
            places[key] = seen.place
            below[seen.panel] = max(below.get(seen.panel, 0), seen.place[0] + 1)
    for panel, keys in homeless.items():
        named = grid_places([code for _, code in keys])
        if panel not in below and all(named) and len(set(named)) == len(named):
            places.update({k: n for k, n in zip(keys, named, strict=True) if n is not None})
            continue
        wide = max(1, math.ceil(math.sqrt(len(keys))))
        for i, key in enumerate(keys):
            places[key] = (below.get(panel, 0) + i // wide, i % wide)
    return places


def _own_name(code: str, place: tuple[int, int]) -> str:
    """Return what the file calls a cell, where Loam would call it otherwise; not if too long."""
    fits = 0 < len(code) <= MAX_CELL_NAME and plain(code) == code
    return code if fits and code != cell_code(*place) else ""


_OWN = (
    re.compile(r"(?P<row>[A-Za-z])[ _.\-]?(?P<column>\d{1,2})"),
    re.compile(r"(?P<column>\d{1,2})[ _.\-]?(?P<row>[A-Za-z])"),
    re.compile(r"[RrZz](?P<row>\d{1,2})[ _.\-]?[CcSs](?P<column>\d{1,2})"),
    re.compile(r"(?P<row>\d{1,2})[ _.,\-/](?P<column>\d{1,2})"),
)
"""How people name cells of a grid: A1, 1A, R1C2, 1-2; the first that fits them all counts."""


def grid_places(codes: list[str]) -> list[tuple[int, int] | None]:
    """Return row and column of every cell from its name; None for all where they say none."""
    usual = [cell_place(code) for code in codes]
    if all(usual):
        return usual
    for form in _OWN:
        found = [form.fullmatch(code.strip()) for code in codes]
        if not all(found):
            continue
        rows = [m.group("row").upper() for m in found if m]
        columns = [int(m.group("column")) for m in found if m]
        lettered = not rows[0].isdigit()
        down = [ord(r) - ord("A") if lettered else int(r) - 1 for r in rows]
        least = min(down)
        places = [(d - least, c - 1) for d, c in zip(down, columns, strict=True)]
        if min(columns) >= 1 and max(max(p) for p in places) < MOST_ACROSS:
            return list(places)
    return [None] * len(codes)
