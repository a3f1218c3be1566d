"""Long-form readings (one line a reading) from a mapped file to a trial, whole or not at all."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from loam.core.errors import LoamError, ValueRefused
from loam.core.kit import COMPOUNDS, PADS, guess
from loam.core.machines import KINDS as MACHINES
from loam.core.panel import MAX_PANEL_MM, MOST_ACROSS, Taping
from loam.core.readings import kind_of
from loam.core.trial import HARDNESSES, Cell, Combination, Panel, Reading, Stage, Trial
from loam.core.units import parse_number
from loam.store.draft import TrialDraft
from loam.store.mapping import AFTER, BASELINE, BEFORE, mapping_problems, reading_role
from loam.store.table_file import (
    MAX_PROBLEMS,
    FileRefused,
    Problem,
    TableFile,
    collector_paused,
)

CELL_MM, GAP_MM, MARGIN_MM = 120.0, 12.0, 40.0
STAGE_SEPARATOR = ">"
_PROGRESS_EVERY = 2000


@dataclass
class _CellSeen:
    panel: str
    line: int
    combination: str
    place: tuple[int, int] | None
    run_order: int | None
    baseline: dict[str, list[float]] = field(default_factory=dict)


class _Builder:
    """Collects the rows of one file and everything that is wrong with them."""

    def __init__(self, table: TableFile, mapping: Mapping[str, str]) -> None:
        self.table = table
        self.problems: list[Problem] = []
        self.wrong = 0
        at = {column: i for i, column in enumerate(table.header)}
        self.at = {role: at[c] for c, role in mapping.items() if role and c in at}
        self.name_of = {role: c for c, role in mapping.items() if role}
        self.panels: dict[str, tuple[str, int]] = {}
        self.cells: dict[tuple[str, str], _CellSeen] = {}
        self.places: dict[tuple[str, int, int], str] = {}
        self.combinations: dict[str, tuple[tuple[Stage, ...], int]] = {}
        self.readings: list[Reading] = []
        self._cell_number: dict[tuple[str, str], int] = {}
        self._seen: dict[tuple[int, int, int], int] = {}
        self._count: dict[tuple[int, int, str, str], int] = {}
        self._stages: dict[tuple[str, ...], tuple[Stage, ...]] = {}
        self._measured = [
            (role, *split) for role in self.at if (split := reading_role(role)) is not None
        ]

    def wrong_at(self, line: int, role: str, value: str, rule: str) -> None:
        """Note a problem; only the first few are kept, all are counted."""
        self.wrong += 1
        if len(self.problems) < MAX_PROBLEMS:
            self.problems.append(Problem(line, self.name_of.get(role, ""), value, rule))

    def text(self, row: list[str], role: str) -> str:
        """Return the trimmed text of a role in a row; "" when the role is not mapped."""
        place = self.at.get(role)
        return "" if place is None else row[place].strip()

    def whole(self, row: list[str], role: str, line: int, low: int = 1) -> int | None:
        """Return a whole number, None when nothing stands there."""
        text = self.text(row, role)
        if not text:
            return None
        try:
            value = parse_number(text)
        except LoamError:
            value = math.nan
        if not (value == value and value == int(value) and low <= value <= 1_000_000):
            self.wrong_at(line, role, text, f"a whole number from {low} on belongs here")
            return None
        return int(value)

    def take(self, row: list[str], line: int) -> None:
        """Take one row."""
        panel, combination = self.text(row, "panel"), self.text(row, "combination")
        for role, value in (("panel", panel), ("combination", combination)):
            if not value:
                self.wrong_at(line, role, "", "nothing stands here, and every reading needs it")
        if not panel or not combination:
            return
        self._panel(row, line, panel)
        self._combination(row, line, combination)
        number = self._cell(row, line, panel, combination)
        if number is not None:
            self._readings(row, line, number, self.cells_key)

    def _panel(self, row: list[str], line: int, panel: str) -> None:
        hardness = self.text(row, "hardness").lower()
        if hardness not in HARDNESSES:
            self.wrong_at(line, "hardness", hardness, "hardness is soft, medium or hard")
            return
        known = self.panels.setdefault(panel, (hardness, line))
        if known[0] != hardness:
            self.wrong_at(
                line,
                "hardness",
                hardness,
                f"panel {panel} is {known[0]} on line {known[1]}: a panel has one hardness",
            )

    def _combination(self, row: list[str], line: int, code: str) -> None:
        roles = ("pad", "compound", "machine", "passes")
        texts = tuple(self.text(row, role) for role in roles)
        stages = self._stages.get(texts)
        if stages is None:
            stages = self._stages[texts] = self._parse_stages(texts, line)
        known = self.combinations.setdefault(code, (stages, line))
        if known[0] != stages:
            self.wrong_at(
                line,
                "combination",
                code,
                f"{code} is {_words(stages)} here and {_words(known[0])} on line {known[1]}:"
                " a combination is one thing",
            )

    def _parse_stages(self, texts: tuple[str, ...], line: int) -> tuple[Stage, ...]:
        parts = [[p.strip() for p in t.split(STAGE_SEPARATOR)] for t in texts]
        count = max(len(p) for p in parts)
        if not any(texts):
            return ()
        wide = [p * count if len(p) == 1 else p for p in parts]
        if any(len(p) != count for p in wide):
            rule = "pad, compound, machine and passes name different counts of stages"
            self.wrong_at(line, "pad", texts[0], rule)
            return ()
        stages = []
        for pad, compound, machine, passes in zip(*wide, strict=True):
            try:
                value = parse_number(passes) if passes else 0.0
                if value != int(value):
                    raise ValueRefused("passes are counted whole")
                stages.append(
                    Stage(
                        pad,
                        compound,
                        machine,
                        guess(pad, PADS),
                        guess(compound, COMPOUNDS),
                        _machine_kind(machine),
                        int(value),
                    )
                )
            except LoamError as error:
                self.wrong_at(line, "passes", passes, error.what)
        return tuple(stages)

    def _cell(self, row: list[str], line: int, panel: str, combination: str) -> int | None:
        r, c = self.whole(row, "row", line), self.whole(row, "column", line)
        if max(r or 1, c or 1) > MOST_ACROSS:
            self.wrong_at(line, "row", f"{r}, {c}", "a panel has at most 60 rows and columns")
            return None
        place = (r - 1, c - 1) if r is not None and c is not None else None
        code = self.text(row, "cell") or (f"r{r}c{c}" if place else "")
        if not code:
            self.wrong_at(line, "cell", "", "nothing says which cell this reading belongs to")
            return None
        key = self.cells_key = (panel, code)
        order = self.whole(row, "run_order", line, 0)
        seen = self.cells.get(key)
        if seen is None:
            if place is not None:
                other = self.places.setdefault((panel, *place), code)
                if other != code:
                    rule = f"cell {other} of panel {panel} lies there already"
                    self.wrong_at(line, "cell", code, rule)
            self.cells[key] = _CellSeen(panel, line, combination, place, order)
            self._cell_number[key] = len(self.cells)
        else:
            self._same_cell(seen, line, combination, place, code)
        return self._cell_number[key]

    def _same_cell(
        self,
        seen: _CellSeen,
        line: int,
        combination: str,
        place: tuple[int, int] | None,
        code: str,
    ) -> None:
        if seen.combination != combination:
            self.wrong_at(
                line,
                "combination",
                combination,
                f"cell {code} got {seen.combination} on line {seen.line}:"
                " one cell, one combination",
            )
        if place is not None and seen.place != place:
            rule = f"cell {code} lies elsewhere on line {seen.line}"
            self.wrong_at(line, "row", f"{place[0] + 1}, {place[1] + 1}", rule)

    def _readings(self, row: list[str], line: int, cell: int, key: tuple[str, str]) -> None:
        ordinal = self.whole(row, "reading", line)
        stage = self.whole(row, "stage", line) or 1
        if ordinal is not None:
            before = self._seen.setdefault((cell, stage, ordinal), line)
            if before != line:
                rule = f"reading {ordinal} of cell {key[1]} stands on line {before} already"
                self.wrong_at(line, "reading", str(ordinal), rule)
                return
        operator, day = self.text(row, "operator"), self.text(row, "day")
        scale = self.text(row, "scale").lower()
        for role, phase, measurand in self._measured:
            value = self._value(row, role, measurand, line)
            if value is None:
                continue
            if phase == BASELINE:
                self.cells[key].baseline.setdefault(measurand, []).append(value)
                continue
            scales = kind_of(measurand).scales
            if scales and scale and scale not in scales:
                self.wrong_at(line, "scale", scale, "the scale is " + " or ".join(scales))
                continue
            number = ordinal
            if number is None:
                count = (cell, stage, measurand, phase)
                number = self._count[count] = self._count.get(count, 0) + 1
            self.readings.append(
                Reading(
                    len(self.readings) + 1,
                    cell,
                    measurand,
                    value,
                    AFTER if phase == AFTER else BEFORE,
                    number,
                    stage,
                    scale if scales else "",
                    operator,
                    day,
                )
            )

    def _value(self, row: list[str], role: str, measurand: str, line: int) -> float | None:
        text = self.text(row, role)
        if not text:
            return None
        try:
            return kind_of(measurand).parse(text)
        except ValueRefused as error:
            self.wrong_at(line, role, text, error.what.replace(f"{text!r} is", "this is"))
            return None


def _words(stages: tuple[Stage, ...]) -> str:
    return ", then ".join(stage.words() for stage in stages) or "not described"


def _machine_kind(name: str) -> str:
    low = name.lower()
    found = [(len(w), kind.key) for kind in MACHINES for w in kind.words if w in low]
    return max(found)[1] if found else ""


def build_draft(
    table: TableFile,
    mapping: Mapping[str, str],
    name: str,
    progress: Callable[[float], None] | None = None,
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

    Raises
    ------
    FileRefused
        With every rule broken, by line, column and value. Nothing is taken then.
    """
    lacking = mapping_problems(mapping)
    if lacking:
        raise FileRefused(table.path, [Problem(1, "", "", said) for said in lacking])
    with collector_paused():
        builder = _Builder(table, mapping)
        for i, (row, line) in enumerate(zip(table.rows, table.lines, strict=True)):
            if progress is not None and i % _PROGRESS_EVERY == 0:
                progress(i / len(table.rows))
            builder.take(row, line)
        if not builder.problems and not any(r.phase == AFTER for r in builder.readings):
            builder.wrong_at(0, "", "", "no line holds a reading after work")
        if builder.problems:
            more = builder.wrong - len(builder.problems)
            raise FileRefused(table.path, builder.problems, more)
        return _assemble(builder, name, table.path.name)


def _assemble(builder: _Builder, name: str, source: str) -> TrialDraft:
    panel_number = {panel: i for i, panel in enumerate(builder.panels, 1)}
    codes = sorted(builder.combinations)
    combination_number = {code: i for i, code in enumerate(codes, 1)}
    places = _place_cells(builder)
    panels = []
    extent: dict[str, tuple[int, int]] = {}
    for (panel, _), (row, column) in places.items():
        down, across = extent.get(panel, (0, 0))
        extent[panel] = (max(down, row + 1), max(across, column + 1))
    for panel, (hardness, line) in builder.panels.items():
        rows, columns = extent[panel]
        if max(rows, columns) > MOST_ACROSS:
            rule = f"panel {panel} would have {rows} rows of {columns} cells; 60 by 60 is the most"
            raise FileRefused(builder.table.path, [Problem(line, "", panel, rule)])
        size = min(CELL_MM, (MAX_PANEL_MM - 2 * MARGIN_MM) / max(rows, columns) - GAP_MM)
        taping = Taping(
            columns * size + (columns - 1) * GAP_MM + 2 * MARGIN_MM,
            rows * size + (rows - 1) * GAP_MM + 2 * MARGIN_MM,
            rows,
            columns,
            GAP_MM,
            MARGIN_MM,
        )
        panels.append(Panel(panel_number[panel], 1, panel, hardness, taping))
    cells = [
        Cell(
            number,
            panel_number[seen.panel],
            *places[key],
            combination_number[seen.combination],
            seen.run_order,
            {m: sum(v) / len(v) for m, v in seen.baseline.items()},
        )
        for number, (key, seen) in enumerate(builder.cells.items(), 1)
    ]
    measured = tuple(dict.fromkeys(r.measurand for r in builder.readings if r.phase == AFTER))
    per_cell = max(r.ordinal for r in builder.readings)
    trial = Trial(1, name, "", measured, min(max(per_cell, 1), 50), 1, f"Readings from {source}.")
    return TrialDraft(
        trial,
        tuple(panels),
        tuple(Combination(combination_number[c], c, "", builder.combinations[c][0]) for c in codes),
        tuple(cells),
        tuple(builder.readings),
        notes=("The file gives no sizes, so cells of 120 mm are assumed.",),
    )


def _place_cells(builder: _Builder) -> dict[tuple[str, str], tuple[int, int]]:
    """Return the grid place of every cell; cells without one fill a near-square grid."""
    places: dict[tuple[str, str], tuple[int, int]] = {}
    homeless: dict[str, list[tuple[str, str]]] = {}
    for key, seen in builder.cells.items():
        if seen.place is None:
            homeless.setdefault(seen.panel, []).append(key)
        else:
            places[key] = seen.place
    for panel, keys in homeless.items():
        below = 1 + max((p[0] for k, p in places.items() if k[0] == panel), default=-1)
        wide = max(1, math.ceil(math.sqrt(len(keys))))
        for i, key in enumerate(keys):
            places[key] = (below + i // wide, i % wide)
    return places
