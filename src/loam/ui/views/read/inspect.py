"""Inspection by eye: light, angle and defect, and how much remains, in % or in squares."""

from __future__ import annotations

from loam.app.presenters.inspecting import agreed, facts_of, inspections, looked_at
from loam.core.errors import LoamError
from loam.core.inspection import (
    ANGLES,
    BY_KEY,
    DEFECTS,
    EYE,
    GRID,
    GRID_SIDE,
    LIGHTS,
    METHODS,
    Looked,
    advice,
    pale_words,
)
from loam.core.units import parse_number
from loam.store import noted
from loam.ui.views.base import Key
from loam.ui.views.read.modes import Asks, Reads, Squares, turned
from loam.ui.widgets.big import Piece, Shown

_FRESH: list[bool | None] = [None] * GRID_SIDE**2


class InspectMode(Asks):
    """Looks at one cell after the other; what was chosen stays for the next."""

    def __init__(self, view: Reads) -> None:
        super().__init__(view)
        self.light, self.angle, self.defect, self.method = "point", "several", "swirls", EYE
        self.at, self.marks, self.out = 0, list(_FRESH), set[int]()
        self.cell = self._cell()

    def _cell(self) -> int:
        state = self.view.state
        return state.cell.id if state is not None else 0

    def follow(self) -> None:
        """Begin the squares anew where another cell was turned to."""
        if self._cell() != self.cell:
            self.cell, self.at = self._cell(), 0
            self.marks, self.out = list(_FRESH), set()

    @property
    def types(self) -> bool:  # type: ignore[override]
        """By eye a figure is typed."""
        return self.method == EYE and not BY_KEY[self.defect].out_of_scope

    @property
    def squares(self) -> Squares | None:  # type: ignore[override]
        """By the grid squares are gone through."""
        self.follow()
        by_grid = self.method == GRID and not BY_KEY[self.defect].out_of_scope
        return (self.at, self.marks, self.out) if by_grid else None

    @property
    def estimates(self) -> bool:  # type: ignore[override]
        """Marks that are estimated by eye are held against patches."""
        return self.types and BY_KEY[self.defect].light == "point"

    def shown(self) -> Shown:
        """Return what the board shows."""
        self.follow()
        state = self.view.state
        defect = BY_KEY[self.defect]
        code = f"{state.panel.name} {state.cell.code}" if state is not None else ""
        pieces = [
            Piece("D", "defect", defect.label, chosen=True),
            Piece("L", "light", f"{dict(LIGHTS)[self.light]}", chosen=True),
            Piece("A", "from", dict(ANGLES)[self.angle], chosen=True),
            Piece("G", "how", dict(METHODS)[self.method], chosen=True),
        ]
        if defect.out_of_scope:
            pieces = [pieces[0], Piece("Enter", "", "note it: out of scope")]
        found = [i for i in inspections(self.view.session) if i.cell_id == self.cell]
        here = [i.words() for i in found if i.look.defect == self.defect]
        foot = here[-1] + "." if here else ""
        both = agreed(inspections(self.view.session), self.defect, self.light, self.method)
        if both is not None:
            foot = f"{foot} {both.words()}".strip()
        warn = advice(self.defect, self.light, self.angle)
        pale = pale_words(state.panel.build.lightness) if state is not None else ""
        warn = " ".join(filter(None, (warn, pale)))
        said = " ".join(filter(None, (warn, foot)))
        return Shown(code, self._sentence(), pieces, said, care=bool(warn))

    def _sentence(self) -> str:
        if BY_KEY[self.defect].out_of_scope:
            return (
                "A scratch that catches the nail goes too deep to polish out: it is noted and not"
                " counted as failure."
            )
        if self.method == EYE:
            return "How much remains, in % of what was there? Type it, then Enter."
        done = sum(m is not None for m in self.marks)
        hits = sum(bool(m) for m in self.marks)
        if done == len(self.marks):
            counted = done - len(self.out)
            return f"{hits} of {counted} squares show a mark.{self._aside()} Enter keeps it."
        return f"Square {self.at + 1} of {len(self.marks)}: does a mark still show? {hits} so far."

    def _aside(self) -> str:
        count = len(self.out)
        return f" {count} not counted: the nail catches there." if count else ""

    def keys(self) -> list[Key]:
        """Return the keys of the board."""
        keys: list[Key] = []
        if self.squares is not None:
            keys = [
                ("1", "shows a mark", None),
                ("0", "none", None),
                ("N", "the nail catches: not counted", None),
                ("E", "the rest none", None),
                ("Backspace", "one back", None),
            ]
        return [
            *keys,
            ("Enter", "keep, next cell", None),
            ("D L A G", "turn", None),
            *([] if keys else [("arrows", "cell beside", None)]),
            ("Esc", "read on", self.view.leave_mode),
        ]

    def key(self, key: str) -> None:
        """Turn a choice, or answer for a square."""
        self.follow()
        if key == "D":
            self.defect = turned([d.key for d in DEFECTS], self.defect)
        elif key == "L":
            self.light = turned([k for k, _ in LIGHTS], self.light)
        elif key == "A":
            self.angle = turned([k for k, _ in ANGLES], self.angle)
        elif key == "G":
            self.method = turned([EYE, GRID], self.method)
        elif key in ("ENTER", "ESC"):
            self.enter("") if key == "ENTER" else self.view.leave_mode()
        elif self.squares is not None:
            self._answer(key)

    def _answer(self, key: str) -> None:
        n, side = len(self.marks), GRID_SIDE
        if key in ("1", " ", "0", "N"):
            at = min(self.at, n - 1)
            self.marks[at] = key in ("1", " ")
            self.out = self.out | {at} if key == "N" else self.out - {at}
            self.at = min(self.at + 1, n)
        elif key == "E":
            self.marks = [False if m is None else m for m in self.marks]
            self.at = n
        elif key in ("left", "right", "up", "down"):
            step = {"left": -1, "right": 1, "up": -side, "down": side}[key]
            self.at = self.at + step if 0 <= self.at + step < n else self.at
        elif key.lower().startswith("square "):
            at = int(key.split()[1])
            self.at = at
            self.marks[at] = not self.marks[at]
            self.out.discard(at)

    def back(self) -> None:
        """Take the last answer back."""
        if self.squares is not None and self.at > 0:
            self.at -= 1
            self.marks[self.at] = None
            self.out.discard(self.at)

    def look(self, text: str) -> Looked | None:
        """Return what was found; None (said) where it is not complete.

        Raises
        ------
        LoamError
            When what was typed cannot be.
        """
        if BY_KEY[self.defect].out_of_scope:
            return Looked(self.defect, self.light, self.angle, "")
        if self.method == EYE:
            if not text:
                self.view.complain("Type how much remains: 0 for nothing, 100 for all of it.")
                return None
            remains = parse_number(text)
            return Looked(self.defect, self.light, self.angle, EYE, remains=remains)
        left = sum(m is None for m in self.marks)
        if left:
            self.view.complain(f"{left} squares are not answered yet: 1, 0, or E for the rest.")
            return None
        if len(self.out) == len(self.marks):
            self.view.complain("Nothing is left to count: D turns to a deep scratch, note that.")
            return None
        hits = sum(bool(m) for m in self.marks)
        counted, out = len(self.marks) - len(self.out), tuple(sorted(self.out))
        return Looked(self.defect, self.light, self.angle, GRID, None, hits, counted, out)

    def enter(self, text: str) -> bool:
        """Keep what was found and turn to the next cell that was not looked at."""
        self.follow()
        try:
            found = self.look(text)
        except LoamError as error:
            self.view.complain(f"{error.what} {error.todo}".strip())
            return False
        if found is None or not self.cell:
            return True
        if self.note(noted.INSPECTION, facts_of(found), self.cell):
            self.view.go_on_to(self.todo())
        return True

    def todo(self) -> set[int]:
        """Return the cells that this reader has not looked at so."""
        session, reader = self.view.session, self.view.reader_name
        own = looked_at(session, self.defect, self.light, self.method, reader)
        return set(session.order()) - own
