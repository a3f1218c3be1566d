"""A trial as one flat CSV that people can read and Loam can bring in: a line a reading."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass, field
from pathlib import Path

from loam.core.readings import BY_KEY
from loam.core.record.panel_facts import PANEL_FACTS, column_of
from loam.core.stage_settings import SETTINGS
from loam.core.trial import BETWEEN, BETWEEN_WIPES, Cell, Combination, Panel, Reading
from loam.core.wipes import written
from loam.store.csv_rows import STAGE_SEPARATOR
from loam.store.draft import TrialDraft
from loam.store.guarded import guarded, one_line
from loam.store.safe_files import write_text

_HEAD = (
    "panel",
    "hardness",
    "paint",
    "panel_width_mm",
    "panel_height_mm",
    "panel_rows",
    "panel_columns",
    "tape_gap_mm",
    "margin_mm",
    "cell",
    "cell_row",
    "cell_column",
    "run_order",
    "combination",
    "combination_name",
    "control",
    "pad",
    "pad_material",
    "compound",
    "compound_class",
    "machine",
    "machine_kind",
    "passes",
    "dial",
    "force_n",
    *(s.headed for s in SETTINGS),
    "disc",
    "wipes",
)
_SCALED = tuple(k.key for k in BY_KEY.values() if k.scales)
_TAKEN = (
    "stage",
    "reading",
    "operator",
    "reader",
    "meter",
    "day",
    *(f"{k}_scale" for k in _SCALED),
    "mark",
    "struck",
)
_SUFFIX = {
    "before": "_before_reading",
    "unwiped": "_unwiped",
    "after": "",
    "day": "_next_day",
    "wash": "_after_wash",
    **{phase: f"_after_stage_{phase[5:]}" for phase in BETWEEN},
    **{phase: f"_after_wipe_{phase[4:]}" for phase in BETWEEN_WIPES},
}


def write_flat(draft: TrialDraft, path: Path) -> None:
    """Write a trial as flat CSV, whole or not at all.

    Raises
    ------
    LoamError
        When the place is no ordinary file, or the disk refuses.
    """
    write_text(path, flat_text(draft), "The trial is safe in the workshop.")


def flat_text(draft: TrialDraft) -> str:
    """Return a trial as flat CSV: what a cell is, then what was read there side by side."""
    columns = _columns(draft)
    facts = [f for f in PANEL_FACTS if any(p.facts.get(f.key) for p in draft.panels)]
    based = [k for k in BY_KEY if any(k in c.baseline for c in draft.cells)]
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    names = [f"{k}{_SUFFIX[phase]}" for k, phase in columns]
    told = [column_of(f) for f in facts]
    writer.writerow([*_HEAD, *_TAKEN, *names, *(f"{k}_baseline" for k in based), *told])
    by_cell: dict[int, list[Reading]] = {}
    for reading in draft.readings:
        by_cell.setdefault(reading.cell_id, []).append(reading)
    struck = {}
    for entry in draft.strikes:
        struck[entry.reading_id] = entry.reason if entry.struck else ""
    panels = {p.id: p for p in draft.panels}
    combinations = {c.id: c for c in draft.combinations}
    for cell in draft.cells:
        combination = combinations.get(cell.combination_id or 0)
        if combination is None:
            continue
        head = _head(panels[cell.panel_id], cell, combination)
        before = ["" if k not in cell.baseline else repr(cell.baseline[k]) for k in based]
        for taken, values in _lines(by_cell.get(cell.id, []), struck):
            figures = ["" if c not in values else repr(values[c]) for c in columns]
            known = panels[cell.panel_id].facts
            told = [guarded(f.write(known.get(f.key))) for f in facts]
            writer.writerow([*head, *taken, *figures, *before, *told])
    return out.getvalue()


def _columns(draft: TrialDraft) -> list[tuple[str, str]]:
    found = {(r.measurand, r.phase) for r in draft.readings if r.measurand in BY_KEY}
    return [(k, phase) for k in BY_KEY for phase in _SUFFIX if (k, phase) in found]


def _head(panel: Panel, cell: Cell, combination: Combination) -> list[str]:
    t, stages = panel.taping, combination.stages

    def each(values: list[str]) -> str:
        return f" {STAGE_SEPARATOR} ".join(values) if any(values) else ""

    return [
        guarded(panel.name),
        panel.hardness,
        guarded(panel.paint),
        repr(t.width_mm),
        repr(t.height_mm),
        str(t.rows),
        str(t.columns),
        repr(t.gap_mm),
        repr(t.margin_mm),
        guarded(cell.code),
        str(cell.row + 1),
        str(cell.column + 1),
        "" if cell.run_order is None else str(cell.run_order),
        guarded(combination.code),
        guarded(combination.name),
        combination.control,
        guarded(each([s.pad for s in stages])),
        each([s.pad_material for s in stages]),
        guarded(each([s.compound for s in stages])),
        each([s.compound_class for s in stages]),
        guarded(each([s.machine for s in stages])),
        each([s.machine_kind for s in stages]),
        each([str(s.passes) for s in stages]),
        guarded(each([s.dial for s in stages])),
        each([_number(s.force_n) for s in stages]),
        *(each([_number(getattr(s, x.key)) for s in stages]) for x in SETTINGS),
        guarded(each([s.disc for s in stages])),
        guarded(each([written(s.wipes) for s in stages])),
    ]


def _number(value: float | None) -> str:
    return "" if value is None else repr(value)


def _lines(
    readings: list[Reading], struck: dict[int, str]
) -> list[tuple[list[str], dict[tuple[str, str], float]]]:
    """Put readings that were taken together side by side; a cell without any has one bare line."""
    lines: list[_Line] = []
    for r in readings:
        if r.measurand not in BY_KEY:
            continue
        key = (
            str(r.stage),
            str(r.ordinal),
            guarded(r.operator),
            guarded(r.reader),
            guarded(r.meter),
            guarded(r.day),
            guarded(r.mark),
            guarded(one_line(struck.get(r.id, ""))),
        )
        place = (r.measurand, r.phase)
        line = next((x for x in lines if x.takes(key, r.scale, place)), None)
        if line is None:
            line = _Line(key)
            lines.append(line)
        if r.measurand in _SCALED:
            line.scales[r.measurand] = r.scale
        line.values[place] = r.value
    if not lines:
        return [([""] * len(_TAKEN), {})]
    return [
        ([*x.key[:6], *(x.scales.get(k, "") for k in _SCALED), *x.key[6:]], x.values) for x in lines
    ]


@dataclass
class _Line:
    """Readings side by side: one number, one person, one day, one scale of each measurand."""

    key: tuple[str, ...]
    scales: dict[str, str] = field(default_factory=dict)
    values: dict[tuple[str, str], float] = field(default_factory=dict)

    def takes(self, key: tuple[str, ...], scale: str, place: tuple[str, str]) -> bool:
        """Tell whether a reading belongs on this line."""
        return (
            self.key == key
            and place not in self.values
            and self.scales.get(place[0], scale) == scale
        )
