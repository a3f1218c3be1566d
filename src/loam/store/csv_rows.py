"""One row after another of a mapped file: what it says, and everything that is wrong with it."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from loam.core.errors import LoamError, ValueRefused
from loam.core.kit import COMPOUNDS, PADS, guess
from loam.core.machines import KINDS as MACHINES
from loam.core.panel import MOST_ACROSS
from loam.core.readings import BY_KEY, kind_of
from loam.core.record.panel_facts import PANEL_FACTS, column_of
from loam.core.stage_settings import MAX_STAGES, SETTINGS
from loam.core.text import check_text
from loam.core.trial import (
    BETWEEN,
    BETWEEN_WIPES,
    CONTROLS,
    MAX_ORDER,
    Combination,
    Reading,
    Stage,
)
from loam.core.units import parse_number
from loam.core.wipes import read_wipes
from loam.store.admission import MOST, too_many
from loam.store.guarded import unguarded
from loam.store.mapping import AFTER, BASELINE, BEFORE, DAY, SAID, UNWIPED, WASH, reading_role
from loam.store.table_file import Complaints, TableFile

STAGE_SEPARATOR = ">"
_PHASES = {
    **{AFTER: "after", UNWIPED: "unwiped", BEFORE: "before", DAY: "day", WASH: "wash"},
    **{p: p for p in (*BETWEEN, *BETWEEN_WIPES)},
}
_SCALES = {k.key: k.scale_column for k in BY_KEY.values() if k.scale_column}
"""The column that says on which scale a measurand stands."""
_RECIPE = (
    "pad",
    "compound",
    "machine",
    "passes",
    "dial",
    "force",
    "pad_material",
    "compound_class",
    "machine_kind",
    "disc",
    "wipes",
    *(s.key for s in SETTINGS),
)
_TAPING = ("width_mm", "height_mm", "rows", "columns", "gap_mm", "margin_mm")

CLASS_WORDS: dict[str, tuple[str, ...]] = {
    "soft": ("soft", "s", "weich", "tendre", "blando", "morbido", "zacht", "mjuk"),
    "medium": ("medium", "m", "mid", "mittel", "moyen", "medio", "middel", "medel"),
    "hard": ("hard", "h", "hart", "dur", "duro", "hård"),
}
"""Words for the classes that need no asking; any other is mapped by whoever brings the file."""


def class_of(word: str, words: Mapping[str, str]) -> str:
    """Return the hardness class that a file's word means, "" when that is not known."""
    low = word.strip().lower()
    if low in words:
        return words[low]
    return next((key for key, known in CLASS_WORDS.items() if low in known), "")


@dataclass
class PanelSeen:
    """A panel as its first row tells it."""

    hardness: str
    line: int
    paint: str
    taping: tuple[str, ...]
    facts: dict[str, object] = field(default_factory=dict)


@dataclass
class CellSeen:
    """A cell as its rows tell it."""

    panel: str
    line: int
    combination: str
    place: tuple[int, int] | None
    run_order: int | None
    baseline: dict[str, list[float]] = field(default_factory=dict)


class Builder:
    """Collects the rows of one file and everything that is wrong with them."""

    def __init__(
        self, table: TableFile, mapping: Mapping[str, str], words: Mapping[str, str]
    ) -> None:
        self.table, self.words = table, words
        self.wrong = Complaints(table.path)
        places = {column: i for i, column in enumerate(table.header)}
        self.at: dict[str, int] = {}
        self.name_of: dict[str, str] = {}
        self._measured: list[tuple[int, str, str, str]] = []
        for column, role in mapping.items():
            if not role or column not in places:
                continue
            split = reading_role(role)
            if split is not None:
                self._measured.append((places[column], column, *split))
            else:
                self.at[role], self.name_of[role] = places[column], column
        self.panels: dict[str, PanelSeen] = {}
        self.cells: dict[tuple[str, str], CellSeen] = {}
        self.places: dict[tuple[str, int, int], str] = {}
        self.combinations: dict[str, tuple[tuple[str, ...], tuple[Stage, ...], int]] = {}
        self.readings: list[Reading] = []
        self.lines: list[int] = []
        self.struck: list[tuple[int, str]] = []
        self._cell_number: dict[tuple[str, str], int] = {}
        self._seen: dict[int, int] = {}
        self._count: dict[tuple[int, int, str, str], int] = {}
        self._stages: dict[tuple[str, ...], tuple[Stage, ...]] = {}
        self._texts: dict[tuple[str, str], str] = {}

    def wrong_at(self, line: int, role: str, value: str, rule: str) -> None:
        """Note a problem."""
        self.wrong.note(line, self.name_of.get(role, role and ""), value, rule)

    def text(self, row: list[str], role: str) -> str:
        """Return the trimmed text of a role in a row; "" when the role is not mapped."""
        place = self.at.get(role)
        return "" if place is None else unguarded(row[place].strip())

    def name(self, row: list[str], role: str, line: int, what: str) -> str:
        """Return a text that is a name; one that cannot be is noted, each once."""
        value = self.text(row, role)
        if not value or (role, value) in self._texts:
            return value
        try:
            check_text(value, what)
        except ValueRefused as error:
            self.wrong_at(line, role, value, f"{error.what} {error.todo}")
        self._texts[role, value] = value
        return value

    def whole(self, row: list[str], role: str, line: int, low: int, high: int) -> int | None:
        """Return a whole number, None when nothing stands there."""
        text = self.text(row, role)
        if not text:
            return None
        try:
            value = parse_number(text)
        except LoamError:
            value = math.nan
        if not (value == value and value == int(value) and low <= value <= high):
            rule = f"a whole number from {low} to {high} belongs here"
            self.wrong_at(line, role, text, rule)
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
        found = self._cell(row, line, panel, combination)
        if found is not None:
            self._readings(row, line, *found)

    def full(self) -> str:
        """Say when a trial cannot hold all this; "" otherwise."""
        for table, count in (
            ("panels", len(self.panels)),
            ("combinations", len(self.combinations)),
            ("cells", len(self.cells)),
            ("readings", len(self.readings)),
        ):
            if count > MOST[table]:
                return too_many(table, count)
        return ""

    def _panel(self, row: list[str], line: int, panel: str) -> None:
        said = self.text(row, "hardness")
        hardness = class_of(said, self.words)
        if not hardness:
            self.wrong_at(line, "hardness", said, "hardness is soft, medium or hard")
            return
        known = self.panels.get(panel)
        if known is None:
            self.name(row, "panel", line, "the name of a panel")
            paint = self.name(row, "paint", line, "the name of a paint")
            taping = tuple(self.text(row, role) for role in _TAPING)
            facts = self._facts(row, line)
            self.panels[panel] = PanelSeen(hardness, line, paint, taping, facts)
        elif known.hardness != hardness:
            self.wrong_at(
                line,
                "hardness",
                said,
                f"panel {panel} is {known.hardness} on line {known.line}: a panel has one hardness",
            )

    def _facts(self, row: list[str], line: int) -> dict[str, object]:
        """Read what else is known of a panel."""
        found: dict[str, object] = {}
        for fact in PANEL_FACTS:
            said = self.text(row, column_of(fact))
            try:
                value = fact.read(said)
            except ValueRefused as error:
                self.wrong_at(line, column_of(fact), said, f"{error.what} {error.todo}".strip())
                continue
            if value not in (None, ""):
                found[fact.key] = value
        return found

    def _combination(self, row: list[str], line: int, code: str) -> None:
        texts = tuple(self.text(row, role) for role in _RECIPE)
        stages = self._stages.get(texts)
        if stages is None:
            stages = self._stages[texts] = self._parse_stages(texts, line)
        known = self.combinations.get(code)
        if known is None:
            head = (self.text(row, "name"), self.text(row, "control").lower())
            try:
                Combination(1, code, head[0], stages, head[1] if head[1] in CONTROLS else "")
            except ValueRefused as error:
                self.wrong_at(line, "combination", code, f"{error.what} {error.todo}".strip())
            self.combinations[code] = (head, stages, line)
        elif known[1] != stages:
            self.wrong_at(
                line,
                "combination",
                code,
                f"{code} is {_words(stages)} here and {_words(known[1])} on line {known[2]}:"
                " a combination is one thing",
            )

    def _parse_stages(self, texts: tuple[str, ...], line: int) -> tuple[Stage, ...]:
        if not any(texts):
            return ()
        parts = [[p.strip() for p in t.split(STAGE_SEPARATOR)] for t in texts]
        count = max(len(p) for p in parts)
        wide = [p * count if len(p) == 1 else p for p in parts]
        if any(len(p) != count for p in wide):
            rule = "pad, compound, machine and passes name different counts of stages"
            self.wrong_at(line, "pad", texts[0], rule)
            return ()
        stages = []
        for each in zip(*wide, strict=True):
            try:
                stages.append(_stage(*each))
            except LoamError as error:
                self.wrong_at(line, "passes", each[3], f"{error.what} {error.todo}".strip())
        return tuple(stages)

    def _cell(
        self, row: list[str], line: int, panel: str, combination: str
    ) -> tuple[int, tuple[str, str]] | None:
        r = self.whole(row, "row", line, 1, MOST_ACROSS)
        c = self.whole(row, "column", line, 1, MOST_ACROSS)
        place = (r - 1, c - 1) if r is not None and c is not None else None
        code = self.name(row, "cell", line, "the code of a cell") or (f"r{r}c{c}" if place else "")
        if not code:
            self.wrong_at(line, "cell", "", "nothing says which cell this reading belongs to")
            return None
        key = (panel, code)
        order = self.whole(row, "run_order", line, 0, MAX_ORDER)
        seen = self.cells.get(key)
        if seen is None:
            if place is not None:
                other = self.places.setdefault((panel, *place), code)
                if other != code:
                    rule = f"cell {other} of panel {panel} lies there already"
                    self.wrong_at(line, "cell", code, rule)
            self.cells[key] = CellSeen(panel, line, combination, place, order)
            self._cell_number[key] = len(self.cells)
        else:
            self._same_cell(seen, line, combination, place, code)
        return self._cell_number[key], key

    def _same_cell(
        self,
        seen: CellSeen,
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

    def _about(self, row: list[str], line: int) -> str:
        """Return what a row says beside its readings, and its line where that is asked for."""
        known = {
            role.about: self.whole(row, role.key, line, 0, MAX_ORDER)
            if role.whole
            else self.name(row, role.key, line, role.label)
            for role in SAID
        }
        known = {k: v for k, v in known.items() if v not in ("", None)}
        return json.dumps(known, ensure_ascii=False, sort_keys=True) if known else ""

    def _scale(self, row: list[str], line: int, measurand: str) -> str:
        column, known = _SCALES[measurand], BY_KEY[measurand].scales
        scale = self.text(row, column).lower()
        if scale and scale not in known:
            rule = "the scale is " + " or ".join(known)
            if scale.replace(",", ".").replace(".", "", 1).isdigit():
                rule += f", and this is a number: is the column the {measurand} itself?"
            self.wrong_at(line, column, scale, rule)
            return ""
        return scale

    def _readings(self, row: list[str], line: int, cell: int, key: tuple[str, str]) -> None:
        ordinal = self.whole(row, "reading", line, 1, MAX_ORDER)
        stage = self.whole(row, "stage", line, 1, MAX_STAGES) or 1
        scales = {m: self._scale(row, line, m) for m in _SCALES}
        about = self._about(row, line)
        who = (
            self.name(row, "operator", line, "the name of a person"),
            self.name(row, "day", line, "the day"),
            self.name(row, "reader", line, "the name of a person"),
            self.name(row, "meter", line, "the name of a meter"),
            self.name(row, "mark", line, "the mark"),
        )
        struck = self.name(row, "struck", line, "the reason")
        for at, column, phase, measurand in self._measured:
            value = self._value(row[at].strip(), column, measurand, line)
            if value is None:
                continue
            if phase == BASELINE:
                self.cells[key].baseline.setdefault(measurand, []).append(value)
                continue
            number = ordinal
            if number is None:
                count = (cell, stage, measurand, phase)
                number = self._count[count] = self._count.get(count, 0) + 1
            elif not struck and not self._first(cell, stage, measurand, phase, number, line):
                continue
            self.readings.append(
                Reading(
                    len(self.readings) + 1,
                    cell,
                    measurand,
                    value,
                    _PHASES[phase],
                    number,
                    stage,
                    scales.get(measurand, ""),
                    who[0],
                    who[1],
                    "",
                    None,
                    who[2],
                    who[3],
                    who[4],
                    about,
                )
            )
            self.lines.append(line)
            if struck:
                self.struck.append((len(self.readings), struck))

    def _first(
        self, cell: int, stage: int, measurand: str, phase: str, number: int, line: int
    ) -> bool:
        """Tell whether this reading of a cell was not read before; else note where it was."""
        which = _MEASURANDS.index(measurand) * len(_PHASES) + list(_PHASES).index(phase)
        key = ((cell * (MAX_STAGES + 1) + stage) * 64 + which) * (MAX_ORDER + 1) + number
        before = self._seen.setdefault(key, line)
        if before != line:
            rule = f"reading {number} of this cell stands on line {before} already"
            self.wrong_at(line, "reading", str(number), rule)
        return before == line

    def _value(self, text: str, column: str, measurand: str, line: int) -> float | None:
        if not text:
            return None
        try:
            return kind_of(measurand).parse(text)
        except ValueRefused as error:
            rule = error.what.replace(f"{text!r} is", "this is")
            self.wrong.note(line, column, text, rule)
            return None


_MEASURANDS = list(BY_KEY)


def _stage(
    pad: str,
    compound: str,
    machine: str,
    passes: str,
    dial: str,
    force: str,
    material: str,
    grade: str,
    motion: str,
    disc: str,
    wipes: str,
    *sizes: str,
) -> Stage:
    count = parse_number(passes) if passes else 0.0
    if count != int(count):
        raise ValueRefused("passes are counted whole")
    figures = {s.key: parse_number(size) for s, size in zip(SETTINGS, sizes, strict=True) if size}
    stage = Stage(
        pad,
        compound,
        machine,
        material or guess(pad, PADS),
        grade or guess(compound, COMPOUNDS),
        motion or _machine_kind(machine),
        int(count),
        dial,
        parse_number(force) if force else None,
    )
    further = {"disc": disc, "wipes": read_wipes(wipes), **figures}
    return replace(stage, **further)  # type: ignore[arg-type]


def _words(stages: tuple[Stage, ...]) -> str:
    return ", then ".join(stage.words() for stage in stages) or "not described"


def _machine_kind(name: str) -> str:
    low = name.lower()
    found = [(len(w), kind.key) for kind in MACHINES for w in kind.words if w in low]
    return max(found)[1] if found else ""
