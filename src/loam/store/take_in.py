"""A trial taken into the workshop with all that belongs to it: anew, or what is new of it."""

from __future__ import annotations

import sqlite3
from collections import Counter
from collections.abc import Generator, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar

from loam.core.record import (
    BY_KEY,
    DECISION,
    GROWING,
    LINE,
    NOTE,
    OBJECT,
    READING,
    STRIKE,
    WORK,
    Field,
    Sort,
)
from loam.core.record.trial import USED
from loam.core.trial import Combination, Panel, Reading
from loam.store import cells as cell_store
from loam.store import combinations as combination_store
from loam.store import readings as reading_store
from loam.store import trials as trial_store
from loam.store.arrivals import people_in, things_in
from loam.store.choices import key_here, named_within, renamed
from loam.store.draft import Row, TrialDraft
from loam.store.facts_text import facts_of, value_of
from loam.store.identity import also_called, cell_uid, is_uid, name_rows
from loam.store.job_travel import jobs_in
from loam.store.origins import keep_origin
from loam.store.panels import add_panel
from loam.store.people import person_id, session_id
from loam.store.rows import insert_sql, own_fields
from loam.store.settings import remember
from loam.store.take_out import as_object, line_bytes

_T = TypeVar("_T")
PORTION = 1000
"""Rows written in one step: a few milliseconds, so that typing beside it never waits long."""
_EARLY = (LINE, WORK)
"""What readings refer to."""
_HAND = (READING, STRIKE)


@dataclass
class Arrival:
    """Rows of a draft on their way into a trial of the workshop.

    Attributes
    ----------
    rows : dict
        By sort, the row here of every number in the draft.
    here : dict
        By sort, the row here of every identity.
    added : Counter
        How many rows came, by what they are counted as.
    """

    db: sqlite3.Connection
    draft: TrialDraft
    trial_id: int
    now: str
    rows: dict[str, dict[int, int]] = field(default_factory=dict)
    here: dict[str, dict[str, int]] = field(default_factory=dict)
    added: Counter[str] = field(default_factory=Counter)
    named: list[tuple[str, int, str, str]] = field(default_factory=list)
    _days: dict[str, int | None] = field(default_factory=dict)

    def row_of(self, sort: str, uid: Any) -> Any:
        """Return the row of an identity; itself where there is none."""
        return self.here.get(sort, {}).get(uid, uid) if isinstance(uid, str) else uid

    def call(self, sort: str, row: int, uid: str, made: str = "") -> None:
        """Let a row have the identity that it came with."""
        if is_uid(uid):
            self.named.append((sort, row, uid, made))
            self.here.setdefault(sort, {})[uid] = row

    def keep_identities(self) -> None:
        """Write down which identities came."""
        by_sort: dict[str, list[tuple[int, str, str]]] = {}
        for sort, *entry in self.named:
            by_sort.setdefault(sort, []).append(tuple(entry))  # type: ignore[arg-type]
        for sort, entries in by_sort.items():
            name_rows(self.db, sort, entries)
        self.named.clear()

    def grow(self, sort: Sort) -> Iterator[int]:
        """Add the rows of a sort that are not here yet, portion by portion."""
        there = self.here.setdefault(sort.key, {})
        own, sql = own_fields(sort), insert_sql(sort)
        numbers = self.rows.setdefault(sort.key, {})
        for portion in portions(self.draft.rest.get(sort.key, ()), PORTION):
            for row in portion:
                number, uid = int(row.get("id", 0)), str(row.get("uid", ""))
                if uid in there:
                    numbers[number] = there[uid]
                    continue
                if any(self._lost(f, row[f.name]) for f in own):
                    continue
                values = [self._inside(f, row[f.name]) for f in own]
                if sort is DECISION:
                    self._decided(values, own)
                if sort in (NOTE, DECISION):
                    values.append(self.trial_id)
                row_id = int(self.db.execute(sql, values).lastrowid or 0)
                numbers[number] = row_id
                self.call(sort.key, row_id, uid, str(row.get("made", "")))
                self.added[sort.counted_as(row)] += 1
            yield 0

    def _lost(self, field: Field, value: Any) -> bool:
        known = (field.of in BY_KEY and field.of not in ("person", "trial")) or field.of == "board"
        return known and value is not None and value not in self.rows.get(field.of, {})

    def _inside(self, field: Field, value: Any) -> Any:
        """Return a value as the workshop has it."""
        if field.of == "person":
            return person_id(self.db, value)
        if field.of == "day":
            return self.day(value)
        if field.of:
            return None if value is None else self.rows[field.of][value]
        if field.stored == "image":
            return self.draft.images.get(value, b"")
        if field.name == "line":
            return line_bytes(value)
        if field.holds == OBJECT:
            facts = facts_of(value)
            if any(key in facts for key in field.within):
                return as_object(named_within(facts, field.within, self.row_of))
            return value or "{}"
        return value

    def day(self, value: str) -> int | None:
        """Return the session of a day."""
        if value not in self._days:
            self._days[value] = session_id(self.db, value, self.now)
        return self._days[value]

    def _decided(self, values: list[Any], fields: Sequence[Field]) -> None:
        """Put a decision in the words of this workshop."""
        at = {f.name: i for i, f in enumerate(fields)}
        key = str(values[at["key"]])
        values[at["value"]] = as_object(self.chosen(key, str(values[at["value"]])))
        values[at["key"]] = key_here(key, self.trial_id)

    def chosen(self, key: str, text: str) -> Any:
        """Return a choice of a file with the rows of this workshop."""
        return renamed(key, value_of(text), self.row_of, lambda uid: uid)

    def readings(self) -> Iterator[int]:
        """Add the readings that are not here yet, then the strikes; yield how many are done."""
        draft, there = self.draft, self.here.setdefault("reading", {})
        clerk = reading_store.Clerk(self.db, self.now)
        numbers, cells = self.rows.setdefault("reading", {}), self.rows["cell"]
        lines, things = self.rows.get(LINE.key, {}), self.rows.get("thing", {})
        done = 0
        for portion in portions(draft.readings, PORTION):
            base = int(self.db.execute("SELECT coalesce(max(id), 0) FROM reading").fetchone()[0])
            new: list[tuple[Reading, int | None, int | None]] = []
            for r in portion:
                uid = draft.beside("reading", "uid", r.id - 1)
                if uid in there:
                    numbers[r.id] = there[uid]
                elif r.cell_id in cells:
                    row = base + len(new) + 1
                    line = lines.get(draft.beside("reading", "line", r.id - 1, None))
                    meter = things.get(draft.beside("reading", "meter_as_used", r.id - 1, None))
                    new.append((replace(r, id=row, cell_id=cells[r.cell_id]), line, meter))
                    numbers[r.id] = row
                    self.call("reading", row, uid)
            clerk.add_with(new)
            self.added["reading"] += len(new)
            done += len(portion)
            yield done
        yield from self._strikes(done)

    def _strikes(self, done: int) -> Iterator[int]:
        there = self.here.setdefault("strike", {})
        numbers = self.rows["reading"]
        for start in range(0, len(self.draft.strikes), PORTION):
            for i, s in enumerate(self.draft.strikes[start : start + PORTION], start):
                uid = self.draft.beside("strike", "uid", i)
                if uid in there or s.reading_id not in numbers:
                    continue
                row = reading_store.strike_one(
                    self.db, numbers[s.reading_id], s.reason, s.at, s.struck
                )
                self.call("strike", row, uid, self.draft.beside("strike", "made", i))
                self.added["strike"] += 1
            yield done

    def choices(self, rows: Iterable[Row]) -> None:
        """Keep what was chosen."""
        for row in rows:
            key = str(row["key"])
            remember(self.db, key_here(key, self.trial_id), self.chosen(key, str(row["value"])))

    def baselines(self, numbers: Iterable[int]) -> list[tuple[int, str, float]]:
        """Return the readings before work of some cells of the draft, by their rows here."""
        cells = self.draft.cells
        return [
            (self.rows["cell"][n], m, v) for n in numbers for m, v in cells[n - 1].baseline.items()
        ]


def draft_steps(db: sqlite3.Connection, draft: TrialDraft, now: str) -> Generator[int, None, int]:
    """Write a draft as a new trial, step by step, and return the trial's id.

    The caller may end its transaction at every yield (which carries the readings written so
    far): until the last step the trial is "coming in", and nobody sees it. A trial that is here
    already stands a second time then, with identities of its own.
    """
    trial_id = trial_store.add_trial(
        db, replace(draft.trial, id=0), draft.created_at or now, trial_store.COMING_IN
    )
    came = Arrival(db, draft, trial_id, now)
    came.here["trial"] = also_called(db, "trial")
    twice = not draft.uid or draft.uid in also_called(db, "trial")
    people_in(db, draft)
    came.rows["thing"] = things_in(db, draft)
    yield 0
    rows = came.rows["combination"] = {}
    for portion in portions(draft.combinations, 50):
        for c in portion:
            rows[c.id] = combination_store.add_combination(db, trial_id, replace(c, id=0), now)
            as_used(came, c, rows[c.id])
            came.call(
                "combination",
                rows[c.id],
                draft.beside("combination", "uid", c.id - 1),
                draft.beside("combination", "made", c.id - 1),
            )
        yield 0
    boards = {} if twice else also_called(db, "board")
    for panel in draft.panels:
        tape_in(came, panel, boards, trial_store.COMING_IN)
        yield 0
    cells_in(came)
    for numbers in portions([c.id for c in draft.cells if c.id in came.rows["cell"]], PORTION):
        lay_in(came, numbers)
        yield 0
    for sort in _EARLY:
        yield from came.grow(sort)
    yield from came.readings()
    for sort in GROWING:
        if sort not in (*_EARLY, *_HAND):
            for _ in came.grow(sort):
                pass  # at once, with the last step: what was noted cannot be cleared away again
    jobs_in(db, draft.rest)
    with unlogged(db):
        came.choices(draft.rest.get("choice", ()))
    if not twice:
        came.call("trial", trial_id, draft.uid)
        came.keep_identities()
        changes_in(came, draft.rest.get("change", ()))
    db.execute(
        "UPDATE panel SET put_away=0 WHERE id IN (SELECT v.panel_id FROM taping t"
        " JOIN panel_version v ON v.id = t.panel_version_id WHERE t.trial_id=?)",
        (trial_id,),
    )
    db.execute("UPDATE trial SET put_away=0 WHERE id=?", (trial_id,))
    keep_origin(db, trial_id, draft.workshop)
    return trial_id


@contextmanager
def unlogged(db: sqlite3.Connection) -> Iterator[None]:
    """Log no change of what is written meanwhile: it was changed elsewhere, and is logged so."""
    last = db.execute("SELECT coalesce(max(id), 0) FROM change").fetchone()[0]
    yield
    db.execute("DELETE FROM change WHERE id > ?", (last,))


def as_used(came: Arrival, combination: Combination, row: int) -> None:
    """Let the stages of a combination name the very versions of things that they used."""
    things = came.rows.get("thing", {})
    for i in range(len(combination.stages)):
        used = came.draft.used_by(combination, i + 1)
        for what, number in zip(USED, used, strict=True):
            if number in things:
                came.db.execute(
                    f"UPDATE stage SET {what}_id = ? WHERE combination_id = ? AND position = ?",
                    (things[number], row, i),
                )


def tape_in(came: Arrival, panel: Panel, boards: Mapping[str, int], state: int) -> int:
    """Tape a panel of the draft for its trial; on the same board where that is here already."""
    db, draft = came.db, came.draft
    board = str(draft.beside("panel", "board", panel.id - 1))
    known = boards.get(board) or came.here.get("board", {}).get(board, 0)
    new = replace(panel, id=0, trial_id=came.trial_id, physical=known)
    row = add_panel(db, new, came.now, state=state, check=False)
    came.rows.setdefault("panel", {})[panel.id] = row
    came.call(
        "panel",
        row,
        draft.beside("panel", "uid", panel.id - 1),
        draft.beside("panel", "made", panel.id - 1),
    )
    physical = physical_of(db, row)
    came.rows.setdefault("board", {})[panel.id] = physical
    if not known:
        came.call("board", physical, board)
    return row


def physical_of(db: sqlite3.Connection, taping_id: int) -> int:
    """Return the panel as a thing of the workshop."""
    row = db.execute(
        "SELECT v.panel_id FROM taping t JOIN panel_version v ON v.id = t.panel_version_id"
        " WHERE t.id=?",
        (taping_id,),
    ).fetchone()
    return int(row[0])


def cells_in(came: Arrival) -> None:
    """Find the row here of every cell of the draft whose panel is here."""
    taped = came.rows.get("panel", {})
    uid = {p.id: str(came.draft.beside("panel", "uid", p.id - 1)) for p in came.draft.panels}
    at = {
        (taping, row, column): cell
        for cell, taping, row, column in came.db.execute(
            'SELECT c.id, c.taping_id, c.row, c."column" FROM cell c'
            " JOIN taping t ON t.id = c.taping_id WHERE t.trial_id=? AND c.put_away=0"
            " AND t.put_away=0",
            (came.trial_id,),
        )
    }
    rows, here = came.rows.setdefault("cell", {}), came.here.setdefault("cell", {})
    for c in came.draft.cells:
        row = at.get((taped.get(c.panel_id, 0), c.row, c.column))
        if row is not None:
            rows[c.id] = row
            here[cell_uid(uid[c.panel_id], c.row, c.column)] = row


def lay_in(came: Arrival, numbers: Sequence[int]) -> None:
    """Give cells what the draft says they got, and their readings before work."""
    cells, db = [came.draft.cells[n - 1] for n in numbers], came.db
    row = came.rows["cell"]
    combination: dict[int | None, int | None] = {None: None}
    combination |= {number: own for number, own in came.rows["combination"].items()}
    cell_store.assign(db, [(row[c.id], combination[c.combination_id], c.run_order) for c in cells])
    cell_store.name_cells(db, [(row[c.id], c.name) for c in cells if c.name])
    cell_store.set_baselines(db, came.baselines(numbers))


def changes_in(came: Arrival, rows: Iterable[Row]) -> None:
    """Keep which changes were seen, in their order; one that is known moves to its place."""
    listed = []
    for row in rows:
        sort, _, rest = str(row["of"]).partition(":")
        uid, _, part = rest.partition(":")
        if sort == "choice":
            listed.append((row["uid"], sort, 0, key_here(uid, came.trial_id), row["at"]))
            continue
        found = came.row_of("cell" if sort == "baseline" else sort, uid)
        if isinstance(found, int):
            listed.append((row["uid"], sort, found, part, row["at"]))
    came.db.executemany("DELETE FROM change WHERE uid = ?", [(r[0],) for r in listed])
    came.db.executemany("INSERT INTO change(uid, sort, row, part, at) VALUES (?,?,?,?,?)", listed)


def portions(items: Sequence[_T], size: int) -> Iterator[Sequence[_T]]:
    """Cut a list into portions."""
    for start in range(0, len(items), size):
        yield items[start : start + size]


def write_draft(db: sqlite3.Connection, draft: TrialDraft, now: str) -> int:
    """Add a draft to the workshop inside the caller's transaction and return the trial's id."""
    steps = draft_steps(db, draft, now)
    while True:
        try:
            next(steps)
        except StopIteration as end:
            return int(end.value)
