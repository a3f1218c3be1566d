"""What remains by eye and by squares, each class, light and method by itself."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from loam.app.presenters.inspecting import look_from
from loam.app.questions.question import Asked, Tell
from loam.core.errors import NotEnough
from loam.core.inspection import BY_KEY, LIGHTS, METHODS
from loam.core.seen import Key, SeenClass, SeenIn, judge_seen, leads_words
from loam.core.seen_doubts import seen_doubts
from loam.core.snapshot import Snapshot
from loam.core.text import listed
from loam.core.trial import HARDNESSES
from loam.store import noted
from loam.store.database import reading_apart
from loam.store.snapshot import load_snapshot

_HOW = {"eye": "by eye", "grid": "by the grid"}


@dataclass(frozen=True)
class SeenPicture:
    """What inspections found.

    Attributes
    ----------
    classes : tuple of SeenClass
        By kind of inspection, then by hardness.
    deep : int
        Cells with a scratch that catches the nail: out of scope.
    doubts : tuple of str
        What is doubted of what was seen, in words.
    """

    classes: tuple[SeenClass, ...]
    deep: int
    doubts: tuple[str, ...] = ()

    def said(self) -> tuple[str, ...]:
        """Return what is said of each kind and hardness."""
        told = [f"{head_of(c)}: {leads_words(c.seen)}." for c in self.classes]
        told += self.doubts
        if self.deep:
            cells = f"{self.deep} cell{'s have' if self.deep > 1 else ' has'}"
            told.append(f"{cells} a scratch that catches the nail: out of scope, no failure.")
        return tuple(told)

    def table(self) -> list[list[str]]:
        """Return it as a table, its heading first."""
        rows = [
            [
                "defect",
                "light",
                "method",
                "hardness",
                "combination",
                "cells",
                "remains, %",
                "low",
                "high",
                "least, %",
                "readers",
            ]
        ]
        for c in self.classes:
            for s in c.seen:
                figures = (s.share, s.low, s.high, s.p_best)
                rows.append(
                    [
                        *_key_words(c.key),
                        c.hardness,
                        s.combination,
                        str(s.cells),
                        *(f"{100 * f:.1f}" for f in figures),
                        ", ".join(c.readers),
                    ]
                )
        return rows


def _key_words(key: Key) -> tuple[str, str, str]:
    defect, light, method = key
    return BY_KEY[defect].label, dict(LIGHTS)[light], dict(METHODS)[method]


def head_of(found: SeenClass) -> str:
    """Say of what kind an inspection is, and on which hardness."""
    defect, light, method = found.key
    said = f"{BY_KEY[defect].label}, {dict(LIGHTS)[light]}, {_HOW[method]}, {found.hardness}"
    return said[:1].upper() + said[1:]


def found_in(db: sqlite3.Connection, trial_id: int, snapshot: Snapshot) -> list[SeenIn]:
    """Return the inspections of a trial's cells that have a combination with stages."""
    combinations = {c.id: c for c in snapshot.combinations if not c.control}
    hardness = {p.id: p.hardness for p in snapshot.panels}
    cells = {c.id: c for c in snapshot.cells if c.combination_id in combinations}
    found = []
    for note in noted.of_trial(db, trial_id, noted.INSPECTION):
        look, cell = look_from(note.facts), cells.get(note.cell_id or 0)
        if look is not None and cell is not None:
            code = combinations[cell.combination_id or 0].code
            found.append(SeenIn(cell.id, hardness[cell.panel_id], code, look, note.person))
    return found


def doubts_in(found: list[SeenIn], snapshot: Snapshot) -> tuple[str, ...]:
    """Say what is doubted of what was seen."""
    panel = {p.id: p.name for p in snapshot.panels}
    called = {c.id: f"{panel[c.panel_id]} {c.code}" for c in snapshot.cells}
    return tuple(d.words(called.get(d.cell, "")) for d in seen_doubts(found))


def head(asked: Asked) -> str:
    """Return what its part of the report is called."""
    return "What the eye still sees"


def answer(asked: Asked, tell: Tell) -> SeenPicture:
    """Judge what was inspected."""
    with reading_apart(asked.path) as db:
        snapshot = load_snapshot(db, asked.trial.id, [])
        found = found_in(db, asked.trial.id, snapshot)
    deep = len({i.cell for i in found if BY_KEY[i.look.defect].out_of_scope or i.look.out})
    order = {h: i for i, h in enumerate(HARDNESSES)}
    classes = sorted(judge_seen(found), key=lambda c: (c.key, order.get(c.hardness, 9)))
    if not classes:
        raise NotEnough(
            "Nobody has inspected a worked cell yet.",
            todo="In Read (F7), I inspects by eye or by squares: several cells a combination.",
        )
    return SeenPicture(tuple(classes), deep, doubts_in(found, snapshot))


def never_mixed() -> str:
    """Say what is not mixed, and what is assumed."""
    return (
        "Each class of defect, light and method stands by itself, never with measured removal."
        " Squares are counts that scatter from cell to cell; a percent by eye counts as if of 20"
        " squares (assumed). In brackets the likely range, nine times in ten."
    )


def readers_words(found: SeenClass) -> str:
    """Say who looked."""
    return f"Seen by {listed(list(found.readers))}." if found.readers else "Nobody is named."
