"""Where only the last of several rows holds, and two workshops added some each.

A reading is struck, counts again, is struck: the last row holds. What one workshop has seen of the
other comes before what it says itself. Where each said something that the other has not seen, the
row that was made last holds, in whichever order files are joined; it is then said anew, under an
identity that stays here.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from loam.core.record import BY_KEY, Sort
from loam.store.draft import TrialDraft

LATEST: tuple[Sort, ...] = tuple(s for s in BY_KEY.values() if s.latest)


@dataclass(frozen=True)
class Entry:
    """One row: its identity, when it was made, and the values that say it anew."""

    uid: str
    made: str
    says: Any


def held(mine: TrialDraft, theirs: TrialDraft, sort: Sort) -> list[tuple[str, Entry]]:
    """Return, by the identity of what they are about, rows that hold where that must be said anew.

    It must where the row that comes last when the file's new ones are added is not the one.
    """
    ours, others = _entries(mine, sort), _entries(theirs, sort)
    found = []
    for about, file in others.items():
        own = ours.get(about, [])
        seen, known = {e.uid for e in own}, {e.uid for e in file}
        new = [e for e in file if e.uid not in seen]
        if not new:
            continue
        behind = seen <= known
        holds = file[-1] if behind else max([*own, *new], key=lambda e: (e.made, e.uid))
        if new[-1].uid != holds.uid:
            found.append((about, holds))
    return found


def _entries(draft: TrialDraft, sort: Sort) -> dict[str, list[Entry]]:
    found: dict[str, list[Entry]] = {}
    for about, entry in _listed(draft, sort):
        found.setdefault(about, []).append(entry)
    return found


def _listed(draft: TrialDraft, sort: Sort) -> Iterable[tuple[str, Entry]]:
    if sort.key == "strike":
        for i, s in enumerate(draft.strikes):
            about = str(draft.beside("reading", "uid", s.reading_id - 1))
            made = str(draft.beside("strike", "made", i))
            yield about, Entry(str(draft.beside("strike", "uid", i)), made, s)
        return
    of = sort.field(sort.latest).of
    named = _uids(draft, of)
    for row in draft.rest.get(sort.key, ()):
        about = named[int(row[sort.latest]) - 1]
        yield about, Entry(str(row["uid"]), str(row["made"]), row)


def _uids(draft: TrialDraft, of: str) -> Sequence[str]:
    """Return the identities of what rows refer to, in the order of its numbers."""
    if of == "board":
        return tuple(str(u) for u in draft.side.get("panel", {}).get("board", ()))
    return tuple(str(r["uid"]) for r in draft.rest.get(of, ()))
