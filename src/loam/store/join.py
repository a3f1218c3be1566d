"""A file for exchange joined to the trial that is here already: what is new of it comes."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from loam.core.errors import LoamError
from loam.core.record import GROWING, READING, STRIKE
from loam.store import cells as cell_store
from loam.store import combinations as combination_store
from loam.store import panels as panel_store
from loam.store import trials as trial_store
from loam.store.arrivals import in_local_names, people_in, things_in
from loam.store.choices import key_here
from loam.store.differs import ABSENT, AWAY, Differs
from loam.store.draft import TrialDraft
from loam.store.identity import AGAIN, also_called, name_rows
from loam.store.job_travel import jobs_in
from loam.store.latest import LATEST, held
from loam.store.merge import Plan, merge
from loam.store.origins import taken_in
from loam.store.settings import remember
from loam.store.take_in import (
    Arrival,
    as_used,
    cells_in,
    changes_in,
    lay_in,
    physical_of,
    tape_in,
    unlogged,
)
from loam.store.take_out import Known, taken_out

_EARLY = ("raw", "work")


@dataclass(frozen=True)
class Joined:
    """What joining a file came to.

    Attributes
    ----------
    added : mapping of str to int
        Rows that came, by what they are counted as.
    changed : int
        Choices, cells and the like that were taken from the file.
    conflicts : tuple of Differs
        What both have changed; then nothing was written.
    """

    added: Mapping[str, int] = field(default_factory=dict)
    changed: int = 0
    conflicts: tuple[Differs, ...] = ()


@dataclass(frozen=True)
class Here:
    """A trial as it stood at one moment: so that nobody waits while it is gone through."""

    mine: TrialDraft
    known: Known
    moment: int

    @classmethod
    def of(cls, db: sqlite3.Connection, trial_id: int) -> Here:
        """Go through a trial of the workshop."""
        return cls(*taken_out(db, trial_id), _moment(db))

    def again(self, db: sqlite3.Connection, trial_id: int) -> Here:
        """Go through it again, unless nothing was written since."""
        return self if self.moment == _moment(db) else Here.of(db, trial_id)


def _moment(db: sqlite3.Connection) -> int:
    """Return how many transactions have been counted in the workshop."""
    return int(db.execute("SELECT commits FROM mark").fetchone()[0])


class BothChanged(LoamError):
    """Something was changed in both, and nobody said which holds."""

    def __init__(self, conflicts: tuple[Differs, ...]) -> None:
        self.conflicts = conflicts
        more = f", and {len(conflicts) - 5} more" if len(conflicts) > 5 else ""
        super().__init__(
            "Changed both here and in the file: "
            + "; ".join(str(c) for c in conflicts[:5])
            + more
            + ".",
            todo="Say which holds: --mine or --theirs.",
            kept="Nothing was joined.",
        )


def trial_here(db: sqlite3.Connection, draft: TrialDraft) -> int | None:
    """Return the trial of the workshop that a file is of, None where it is not here."""
    row = also_called(db, "trial").get(draft.uid) if draft.uid else None
    shown = {t.id for t in trial_store.trials(db)}
    return row if row in shown else None


def join(
    db: sqlite3.Connection,
    trial_id: int,
    theirs: TrialDraft,
    now: str,
    choose: str | Mapping[str, str] = "",
    here: Here | None = None,
) -> Joined:
    """Join a file to a trial inside the caller's transaction: nothing twice, however often.

    Parameters
    ----------
    here : Here, optional
        The trial as it stood a moment ago; gone through again where something was written since.

    Raises
    ------
    BothChanged
        When something was changed in both and ``choose`` does not say which holds.
    ValueRefused
        When what the file changed cannot be here.
    """
    theirs = in_local_names(db, theirs)
    if not taken_in(db, trial_id):  # what is assumed of the workshop's own trials is known here
        rows = tuple(r for r in theirs.rest.get("choice", ()) if r["key"] != "assumed")
        theirs = replace(theirs, rest={**theirs.rest, "choice": rows})
    here = Here.of(db, trial_id) if here is None else here.again(db, trial_id)
    mine, known = here.mine, here.known
    plan = merge(mine, theirs, choose)
    if plan.conflicts:
        raise BothChanged(tuple(plan.conflicts))
    came = Arrival(db, theirs, trial_id, now, here=_inverse(known.uid))
    came.here["trial"] = also_called(db, "trial")
    came.here["board"] = also_called(db, "board")
    with unlogged(db):
        people_in(db, theirs)
        came.rows["thing"] = things_in(db, theirs)
        back = _combinations(came, plan)
        back = _panels(came, plan) or back
        cells_in(came)
        _cells(came, plan)
        _further(came, plan)
    if back:  # what was put away and stands again has its own rows
        came.here |= {
            s: _inverse(taken_out(db, trial_id)[1].uid)[s]
            for s in came.here
            if s not in ("trial", "board")
        }
    _grow(came)
    for key, count in jobs_in(db, theirs.rest).items():
        came.added[key] += count
    _say_anew(came, mine, theirs)
    came.keep_identities()
    changes_in(came, [{"of": of, "uid": uid, "at": at} for of, uid, at in plan.log])
    return Joined(
        {k: n for k, n in sorted(came.added.items()) if n}, len(plan.take) + len(plan.rename)
    )


def _inverse(uids: Mapping[str, Mapping[int, str]]) -> dict[str, dict[str, int]]:
    return {sort: {uid: row for row, uid in rows.items()} for sort, rows in uids.items()}


def _grow(came: Arrival) -> None:
    for key in _EARLY:
        for _ in came.grow(next(s for s in GROWING if s.key == key)):
            pass
    for _ in came.readings():
        pass
    for sort in GROWING:
        if sort not in (READING, STRIKE) and sort.key not in _EARLY:
            for _ in came.grow(sort):
                pass


def _say_anew(came: Arrival, mine: TrialDraft, theirs: TrialDraft) -> None:
    """Let the row that holds come last, where two workshops added some each."""
    for sort in LATEST:
        for _, entry in held(mine, theirs, sort):
            row = came.here.get(sort.key, {}).get(entry.uid)
            if row is None:
                continue
            columns = ", ".join(f.stored for f in sort.fields if f.stored != "-")
            again = came.db.execute(
                f"INSERT INTO {sort.table}({columns}) SELECT {columns} FROM {sort.table}"
                " WHERE id = ?",
                (row,),
            ).lastrowid
            name_rows(came.db, sort.key, [(int(again or 0), f"{AGAIN}{entry.uid}", entry.made)])


def _combinations(came: Arrival, plan: Plan) -> bool:
    """Add the combinations that are new, change those that were changed; tell if any came back."""
    rows, back = came.rows.setdefault("combination", {}), False
    known = {c.id: c for c in combination_store.combinations(came.db, came.trial_id)}
    for own_row, code in _told_apart(came, plan, "combination"):
        own = replace(known[own_row], code=code)
        combination_store.change_combination(came.db, own, came.now)
    _away(came, plan, "combination")
    for i, c in enumerate(came.draft.combinations):
        uid = str(came.draft.beside("combination", "uid", i))
        key = f"combination:{uid}"
        row = came.here.get("combination", {}).get(uid)
        own = replace(c, code=plan.rename.get(key, c.code))
        if row is None:
            row = combination_store.add_combination(
                came.db, came.trial_id, replace(own, id=0), came.now
            )
            as_used(came, c, row)
            came.call("combination", row, uid, came.draft.beside("combination", "made", i))
            came.added["combination"] += 1
            came.added["stage"] += len(own.stages)
        elif key in plan.take:
            back = _shown(came, "combination", row) or back
            combination_store.change_combination(came.db, replace(own, id=row), came.now)
            as_used(came, c, row)
        rows[c.id] = row
    return back


def _told_apart(came: Arrival, plan: Plan, sort: str) -> list[tuple[int, str]]:
    """Return the new names of what stands here and keeps its values else."""
    found = []
    for key, name in plan.rename.items():
        row = came.here.get(sort, {}).get(key.partition(":")[2])
        if key.startswith(f"{sort}:") and row is not None and key not in plan.take:
            found.append((row, name))
    return found


def _panels(came: Arrival, plan: Plan) -> bool:
    """Tape the panels that are new, change those that were changed; tell if any came back."""
    rows, back = came.rows.setdefault("panel", {}), False
    known = {p.id: p for p in panel_store.panels(came.db, came.trial_id)}
    for own_row, name in _told_apart(came, plan, "panel"):
        panel_store.change_panel(came.db, replace(known[own_row], name=name), came.now)
    _away(came, plan, "panel")
    for i, p in enumerate(came.draft.panels):
        uid = str(came.draft.beside("panel", "uid", i))
        key = f"panel:{uid}"
        row = came.here.get("panel", {}).get(uid)
        own = replace(p, name=plan.rename.get(key, p.name))
        if row is None:
            tape_in(came, own, came.here["board"], trial_store.SHOWN)
            came.added["panel"] += 1
            came.added["cell"] += sum(c.panel_id == p.id for c in came.draft.cells)
            continue
        if key in plan.take:
            back = _shown(came, "panel", row) or back
            panel_store.change_panel(
                came.db, replace(own, id=row, trial_id=came.trial_id), came.now
            )
        if _is_shown(came, row):
            rows[p.id] = row
            came.rows.setdefault("board", {})[p.id] = physical_of(came.db, row)
    return back


def _shown(came: Arrival, sort: str, row: int) -> bool:
    """Bring a thing back that was put away; tell whether it was."""
    table = "taping" if sort == "panel" else "combination"
    away = came.db.execute(f"SELECT put_away FROM {table} WHERE id = ?", (row,)).fetchone()[0]
    if away:
        trial_store.put_away(came.db, sort, row, False)
    return bool(away)


def _is_shown(came: Arrival, taping: int) -> bool:
    """Tell whether a panel is shown: one that was put away here takes nothing in."""
    row = came.db.execute("SELECT put_away FROM taping WHERE id = ?", (taping,)).fetchone()
    return not row[0]


def _away(came: Arrival, plan: Plan, sort: str) -> None:
    for key, value in plan.take.items():
        if value == AWAY and key.startswith(f"{sort}:"):
            row = came.here.get(sort, {}).get(key.partition(":")[2])
            if row is not None:
                trial_store.put_away(came.db, sort, row, True)


def _cells(came: Arrival, plan: Plan) -> None:
    """Give cells what the file says they got, where that holds; and their readings before work."""
    draft, panel = came.draft, came.draft.side.get("panel", {}).get("uid", ())
    taken = {k.partition(":")[2] for k in plan.take if k.startswith("cell:")}
    numbers = [
        c.id
        for c in draft.cells
        if c.id in came.rows["cell"]
        and f"{panel[c.panel_id - 1]}.{c.row + 1}.{c.column + 1}" in taken
    ]
    for key, value in plan.take.items():
        sort, _, rest = key.partition(":")
        uid, _, measurand = rest.partition(":")
        row = came.here["cell"].get(uid)
        if sort == "baseline" and row is not None:
            gone = came.db.execute(
                "DELETE FROM baseline WHERE cell_id = ? AND measurand = ?", (row, measurand)
            ).rowcount
            if value is not ABSENT:
                cell_store.set_baselines(came.db, [(row, measurand, value)])
                came.added["baseline"] += not gone
    lay_in(came, numbers)


def _further(came: Arrival, plan: Plan) -> None:
    """Take over what was changed of the trial itself, and what was chosen."""
    for key, value in plan.take.items():
        sort, _, rest = key.partition(":")
        if sort == "trial":
            trial_store.change_trial(came.db, replace(came.draft.trial, id=came.trial_id))
        elif sort == "choice":
            chosen: Any = None if value is ABSENT else came.chosen(rest, str(value))
            here = key_here(rest, came.trial_id)
            before = came.db.execute("SELECT 1 FROM setting WHERE key = ?", (here,)).fetchone()
            remember(came.db, here, chosen)
            came.added["choice"] += before is None
