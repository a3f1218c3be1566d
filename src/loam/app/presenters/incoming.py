"""A file on its way in: what its columns mean, what will come out of it, and what will not."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

from loam.app.presenters.picture import CellFace, PanelPicture
from loam.core.errors import ValueRefused
from loam.core.readings import kind_of
from loam.core.text import listed
from loam.core.trial import Cell, Combination, Panel, Reading
from loam.core.units import thousands
from loam.store.by_name import Said, said_of
from loam.store.draft import TrialDraft
from loam.store.mapping import ROLE_BY_KEY, ROLES, Role, mapping_problems, reading_role
from loam.store.table_file import TableFile

PREVIEW_LINES = 5000
"""So many lines are looked at to show what will come out; all are checked on the way in."""
SAMPLES, LETTERS = 3, 60
MOST_JOINED = 5000


@dataclass(frozen=True)
class ColumnRow:
    """One column of the file as it is shown.

    Attributes
    ----------
    name, samples : str
        Cut to what can be read at a glance.
    meaning : str
        What it means, "" when it is left out.
    """

    column: str
    name: str
    samples: str
    meaning: str


def column_row(table: TableFile, mapping: Mapping[str, str], at: int) -> ColumnRow:
    """Return one column of a file with what stands in it and what it means."""
    column = table.header[at]
    values = [row[at].strip() for row in table.preview if row[at].strip()]
    samples = "  ".join(_cut(v, 18) for v in dict.fromkeys(values[: 2 * SAMPLES]))
    role = mapping.get(column, "")
    meaning = ROLE_BY_KEY[role].label if role in ROLE_BY_KEY else ""
    return ColumnRow(column, _cut(column, LETTERS), _cut(samples, LETTERS), meaning)


def _cut(text: str, most: int) -> str:
    plain = " ".join(text[: 4 * most].split())
    return plain if len(plain) <= most else plain[: most - 1] + "…"


def matching_roles(text: str) -> list[Role]:
    """Return the meanings that a typed text fits, likeliest first.

    A measurand comes before what is only named after it: "haze" finds haze before its scale.
    """
    wanted = " ".join(text.lower().split())
    if not wanted:
        return list(ROLES)

    def place(role: Role) -> tuple[int, int, int]:
        label = role.label.lower()
        reading = role.key.startswith("after:")
        if label == wanted or wanted in role.columns:
            rank = 0
        elif label.startswith(wanted):
            rank = 1 if reading or role.needed else 2
        elif any(word.startswith(wanted) for word in label.split()):
            rank = 3
        else:
            rank = 4
        return rank, 0 if role.needed else 1 if reading else 2, ROLES.index(role)

    found = [
        r
        for r in ROLES
        if wanted in r.label.lower() or any(c.startswith(wanted) for c in r.columns)
    ]
    return sorted(found, key=place)


def gaps(mapping: Mapping[str, str]) -> list[str]:
    """Say what the meaning of the columns still lacks."""
    return mapping_problems(mapping)


def first_gap(table: TableFile, mapping: Mapping[str, str]) -> str:
    """Return the column to look at first when something is lacking: the first left out."""
    return next((c for c in table.header if not mapping.get(c)), table.header[0])


def outcome_words(
    draft: TrialDraft, table: TableFile, mapping: Mapping[str, str]
) -> tuple[str, str]:
    """Say what comes out of a file, and what does not.

    Returns
    -------
    (str, str)
        "2 panels, 24 cells, 3 combinations: 120 gloss 20°, no haze." and what is left out.
    """
    counts: dict[str, int] = {}
    for reading in draft.readings:
        counts[reading.measurand] = counts.get(reading.measurand, 0) + 1
    parts = [f"{thousands(n)} × {kind_of(m).label}" for m, n in counts.items()]
    based = sum(1 for c in draft.cells if c.baseline)
    if based:
        parts.append(f"a mean before work of {thousands(based)} cells")
    said = (
        f"{_plural(len(draft.panels), 'panel')}, {_plural(len(draft.cells), 'cell')},"
        f" {_plural(len(draft.combinations), 'combination')}: {listed(parts)}."
    )
    if table.count > PREVIEW_LINES:
        said = f"The first {thousands(PREVIEW_LINES)} lines: {said}"
    left = [_cut(c, 24) for c in table.header if not mapping.get(c)]
    lost = ""
    if left:
        more = f" and {len(left) - 6} more" if len(left) > 6 else ""
        lost = f"Left out: {', '.join(left[:6])}{more}."
    empty = [
        _cut(c, 24)
        for c, role in mapping.items()
        if (split := reading_role(role)) is not None
        and split[0] == "after"
        and split[1] not in counts
    ]
    if empty:
        lost = f"{lost} Nothing stands in {listed(empty)}.".strip()
    return said, lost


def _plural(count: int, word: str) -> str:
    return f"{thousands(count)} {word}{'' if count == 1 else 's'}"


def draft_picture(draft: TrialDraft, panel: Panel) -> PanelPicture:
    """Return a panel as it will come out: its combinations, and a tick for each reading."""
    combinations = {c.id: c for c in draft.combinations}
    wanted = draft.trial.readings_per_cell
    taken: dict[int, int] = {}
    first = draft.readings[0].measurand if draft.readings else ""
    for reading in draft.readings:
        if reading.measurand == first and reading.phase == "after":
            taken[reading.cell_id] = taken.get(reading.cell_id, 0) + 1
    rects = {(r.row, r.column): r for r in panel.taping.cells()}
    cells = {(c.row, c.column): c for c in draft.cells if c.panel_id == panel.id}
    faces = []
    for place, r in rects.items():
        cell = cells.get(place)
        known = combinations.get(cell.combination_id or 0) if cell is not None else None
        ticks = taken.get(cell.id, 0) if cell is not None else 0
        faces.append(
            CellFace(
                cell.id if cell is not None else -1,
                cell.code if cell else r.code,
                r.x_mm,
                r.y_mm,
                r.width_mm,
                r.height_mm,
                known,
                "",
                ticks,
                min(wanted, 12) if known else 0,
                None,
                known is None,
            )
        )
    return PanelPicture(
        panel.id, panel.name, panel.hardness, panel.paint, panel.taping, tuple(faces)
    )


def join(
    draft: TrialDraft,
    panels: Sequence[Panel],
    cells: Sequence[Cell],
    combinations: Sequence[Combination],
    taken: Mapping[tuple[int, str, str, int], int],
    standing: Collection[Said] = (),
) -> list[Reading]:
    """Find the cells of a standing trial for the readings of a file.

    Panels are found by their name, cells by their place, and each must have the combination that
    the file says.

    Parameters
    ----------
    taken : mapping
        Highest number of a reading so far by (cell, measurand, phase, stage).
    standing : collection
        What the readings here say: one that says the very same is here already.

    Returns
    -------
    list of Reading
        For the standing cells, numbered on.

    Raises
    ------
    ValueRefused
        Naming the first panel, cell or combination that does not fit; nothing is taken then.
    """
    if len(draft.readings) > MOST_JOINED:
        raise ValueRefused(
            f"{thousands(len(draft.readings))} readings are too many to add to a trial at once.",
            todo=f"Take them in as a new trial, or in files of {thousands(MOST_JOINED)}.",
        )
    by_name = {p.name: p.id for p in panels}
    codes = {c.id: c.code for c in combinations}
    own = {c.id: c.code for c in draft.combinations}
    names = {p.id: p.name for p in draft.panels}
    at = {(c.panel_id, c.row, c.column): c for c in cells}
    place: dict[int, int] = {}
    for cell in draft.cells:
        name = names[cell.panel_id]
        if name not in by_name:
            raise ValueRefused(f"This trial has no panel {name}.", todo=_NEW)
        found = at.get((by_name[name], cell.row, cell.column))
        if found is None:
            raise ValueRefused(f"Panel {name} has no cell {cell.code} in this trial.", todo=_NEW)
        said, stands = own.get(cell.combination_id or 0, ""), codes.get(found.combination_id or 0)
        if said != stands:
            raise ValueRefused(
                f"Cell {cell.code} of panel {name} got {stands or 'nothing'} here and {said} in"
                " the file.",
                todo=_NEW,
            )
        place[cell.id] = found.id
    number = dict(taken)
    joined = []
    for reading in draft.readings:
        if said_of(replace(reading, cell_id=place[reading.cell_id])) in standing:
            continue
        key = (place[reading.cell_id], reading.measurand, reading.phase, reading.stage)
        number[key] = number.get(key, 0) + 1
        joined.append(replace(reading, id=0, cell_id=key[0], ordinal=number[key]))
    return joined


_NEW = "Take the file in as a new trial, or mend it."
