"""Panels: physical things of the workshop, in versions, and how a trial tapes them."""

from __future__ import annotations

import sqlite3
from collections.abc import Collection
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

from loam.core.errors import ValueRefused
from loam.core.film.build import FilmBuild
from loam.core.outline import Outline, open_cells
from loam.core.panel import Taping
from loam.core.trial import Panel
from loam.store.builds import build_of, build_text, facts_text, outline_of, outline_text
from loam.store.facts_text import facts_of
from loam.store.readings import STRUCK_NOW
from loam.store.trials import COMING_IN, SHOWN

_ROWS = (
    "SELECT t.id, t.trial_id, v.name, v.hardness, v.width_mm, v.height_mm, t.rows, t.columns,"
    " t.gap_mm, t.margin_mm, v.paint, v.panel_id, v.build, v.outline, v.facts FROM taping t"
    " JOIN panel_version v ON v.id = t.panel_version_id"
)
_FACTS = "name, hardness, paint, width_mm, height_mm, build, outline, facts"


@dataclass(frozen=True)
class WorkshopPanel:
    """A panel as it stands in the workshop: its newest version, and the trials that use it."""

    id: int
    name: str
    hardness: str
    paint: str
    width_mm: float
    height_mm: float
    trials: tuple[str, ...]
    build: FilmBuild
    outline: Outline
    facts: dict[str, Any] = field(default_factory=dict)

    @property
    def ground(self) -> str:
        """What is worked, in words: soft clear."""
        return f"{self.hardness} {self.build.coat}"


def _facts(panel: Panel) -> tuple[object, ...]:
    return (
        panel.name,
        panel.hardness,
        panel.paint,
        panel.taping.width_mm,
        panel.taping.height_mm,
        build_text(panel.build),
        outline_text(panel.outline),
        facts_text(panel.facts),
    )


def _version(db: sqlite3.Connection, physical: int, panel: Panel, now: str) -> int:
    """Return the version of a physical panel with these facts, added when new."""
    row = db.execute(
        f"SELECT max(id) FROM panel_version WHERE panel_id=? AND ({_FACTS}) = (?,?,?,?,?,?,?,?)",
        (physical, *_facts(panel)),
    ).fetchone()
    if row[0] is not None:
        return int(row[0])
    cursor = db.execute(
        f"INSERT INTO panel_version(panel_id, {_FACTS}, at) VALUES (?,?,?,?,?,?,?,?,?,?)",
        (physical, *_facts(panel), now),
    )
    return int(cursor.lastrowid or 0)


def _name_free(db: sqlite3.Connection, panel: Panel) -> None:
    taken = db.execute(
        "SELECT 1 FROM taping t JOIN panel_version v ON v.id = t.panel_version_id"
        " WHERE t.trial_id=? AND t.put_away=0 AND v.name=? AND t.id<>?",
        (panel.trial_id, panel.name, panel.id),
    ).fetchone()
    if taken:
        raise ValueRefused(
            f"There is a panel {panel.name} in this trial already.", todo="Choose another name."
        )


def add_panel(
    db: sqlite3.Connection, panel: Panel, now: str, *, state: int = SHOWN, check: bool = True
) -> int:
    """Tape a panel for a trial, with its cells, and return the taping's id.

    The physical panel is the one that it names (``physical``), or a new one.
    """
    if check:
        _name_free(db, panel)
    physical = panel.physical
    if not physical:
        cursor = db.execute("INSERT INTO panel(put_away) VALUES (?)", (state,))
        physical = int(cursor.lastrowid or 0)
    t = panel.taping
    cursor = db.execute(
        "INSERT INTO taping(id, trial_id, panel_version_id, rows, columns, gap_mm, margin_mm)"
        " VALUES (?,?,?,?,?,?,?)",
        (
            panel.id or None,
            panel.trial_id,
            _version(db, physical, panel, now),
            t.rows,
            t.columns,
            t.gap_mm,
            t.margin_mm,
        ),
    )
    taping_id = int(cursor.lastrowid or 0)
    _tape(db, taping_id, panel)
    return taping_id


def change_panel(db: sqlite3.Connection, panel: Panel, now: str) -> None:
    """Give a panel a new version and retape it; cells that carry readings may not vanish.

    Raises
    ------
    ValueRefused
        When a cell with readings would fall off the panel, or the name is taken.
    """
    there = _open(panel)
    read = db.execute(
        'SELECT DISTINCT c.row, c."column" FROM cell c JOIN reading r ON r.cell_id = c.id'
        f" WHERE c.taping_id=? AND r.id NOT IN ({STRUCK_NOW})",
        (panel.id,),
    )
    lost = sum((row, column) not in there for row, column in read)
    if lost:
        raise ValueRefused(
            f"{lost} cell{'s' if lost > 1 else ''} with readings would fall off the panel.",
            where=f"panel {panel.name}",
            todo="Keep rows, columns and outline, or start another panel.",
            kept="The panel is as it was.",
        )
    _name_free(db, panel)
    physical = db.execute(
        "SELECT v.panel_id FROM taping t JOIN panel_version v ON v.id = t.panel_version_id"
        " WHERE t.id=?",
        (panel.id,),
    ).fetchone()[0]
    t = panel.taping
    db.execute(
        "UPDATE taping SET panel_version_id=?, rows=?, columns=?, gap_mm=?, margin_mm=? WHERE id=?",
        (
            _version(db, physical, panel, now),
            t.rows,
            t.columns,
            t.gap_mm,
            t.margin_mm,
            panel.id,
        ),
    )
    _tape(db, panel.id, panel)


def _open(panel: Panel) -> frozenset[tuple[int, int]]:
    """Return the cells that a panel has within its outline, at least one."""
    there = open_cells(panel.outline, panel.taping)
    if not there:
        raise ValueRefused(
            "No cell fits on the panel within its outline.",
            where=f"panel {panel.name}",
            todo="Use smaller cells (more rows or columns), less margin, or keep less free.",
            kept="The panel is as it was.",
        )
    return there


def _tape(db: sqlite3.Connection, taping_id: int, panel: Panel) -> None:
    taping, there = panel.taping, _open(panel)
    db.executemany(
        'INSERT INTO cell(taping_id, row, "column") VALUES (?,?,?)'
        ' ON CONFLICT(taping_id, row, "column") DO NOTHING',
        [(taping_id, r, c) for r in range(taping.rows) for c in range(taping.columns)],
    )
    db.execute(
        'UPDATE cell SET put_away = (row >= ? OR "column" >= ?) WHERE taping_id=?',
        (taping.rows, taping.columns, taping_id),
    )
    off = [
        (taping_id, r, c)
        for r in range(taping.rows)
        for c in range(taping.columns)
        if (r, c) not in there
    ]
    db.executemany('UPDATE cell SET put_away = 1 WHERE taping_id=? AND row=? AND "column"=?', off)


def panels(db: sqlite3.Connection, trial_id: int, *, away: bool = False) -> list[Panel]:
    """Return a trial's panels in the order they came."""
    rows = db.execute(
        f"{_ROWS} WHERE t.trial_id=? AND t.put_away=? ORDER BY t.id", (trial_id, int(away))
    )
    return [panel for row in rows if (panel := _panel(row)) is not None]


def present(db: sqlite3.Connection, trial_id: int, panels: Collection[int]) -> list[int]:
    """Return which of some panels the trial has just now."""
    rows = db.execute("SELECT id FROM taping WHERE trial_id=? AND put_away=0", (trial_id,))
    return sorted({row[0] for row in rows} & set(panels))


ON_GRID = ' AND c.row >= 0 AND c."column" >= 0 AND c.row < t.rows AND c."column" < t.columns'
"""A condition on cells ``c`` of tapings ``t`` that leaves out those that no panel has."""


def hidden(db: sqlite3.Connection, trial_id: int) -> str:
    """Return a condition on tapings ``t`` that leaves out the panels that cannot be shown."""
    every = _ROWS.replace(" JOIN", " LEFT JOIN")  # also those whose panel is not there
    rows = db.execute(f"{every} WHERE t.trial_id=? AND t.put_away=0", (trial_id,))
    unknown = [str(int(row[0])) for row in rows if _panel(row) is None]
    return f" AND t.id NOT IN ({','.join(unknown)})" if unknown else ""


@lru_cache(maxsize=4096)
def _panel(r: tuple[object, ...]) -> Panel | None:
    """Build a panel from its row; one that cannot be is left where it is and not shown."""
    try:
        build, outline = build_of(str(r[12])), outline_of(str(r[13]))
        taping = Taping(*r[4:10])  # type: ignore[arg-type]
        of = r[0], r[1], r[2], r[3], taping, r[10], r[11], build, outline
        return Panel(*of, facts_of(r[14]))  # type: ignore[arg-type]
    except ValueRefused:
        return None


def unreadable_panels(db: sqlite3.Connection) -> list[str]:
    """Return the names of panels that this version cannot show."""
    rows = db.execute(
        f"{_ROWS} JOIN trial x ON x.id = t.trial_id WHERE x.put_away <> ?", (COMING_IN,)
    )
    return [str(row[2])[:60] for row in rows if _panel(row) is None]


def workshop_panels(db: sqlite3.Connection) -> list[WorkshopPanel]:
    """Return the physical panels of the workshop, each in its newest version."""
    used: dict[int, list[str]] = {}
    for physical, trial in db.execute(
        "SELECT DISTINCT v.panel_id, x.name FROM taping t"
        " JOIN panel_version v ON v.id = t.panel_version_id JOIN trial x ON x.id = t.trial_id"
        " WHERE t.put_away=0 AND x.put_away=0 ORDER BY x.id"
    ):
        used.setdefault(physical, []).append(trial)
    rows = db.execute(
        "SELECT v.panel_id, v.name, v.hardness, v.paint, v.width_mm, v.height_mm, v.build,"
        " v.outline, v.facts FROM panel_version v JOIN panel p ON p.id = v.panel_id"
        " WHERE p.put_away=0"
        " AND v.id = (SELECT max(id) FROM panel_version WHERE panel_id = p.id) ORDER BY v.name"
    )
    return [
        WorkshopPanel(
            r[0],
            r[1],
            r[2],
            r[3],
            r[4],
            r[5],
            tuple(used.get(r[0], ())),
            _build(r[6]),
            _outline(r[7]),
            facts_of(r[8]),
        )
        for r in rows
    ]


def _build(text: str) -> FilmBuild:
    """Return a build record; one that this version does not know counts as nothing known."""
    try:
        return build_of(text)
    except ValueRefused:
        return FilmBuild()


def _outline(text: str) -> Outline:
    """Return an outline; one that this version does not know counts as a plain rectangle."""
    try:
        return outline_of(text)
    except ValueRefused:
        return Outline()
