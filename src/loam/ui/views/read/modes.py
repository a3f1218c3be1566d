"""What Read asks beside readings: the round, what was wiped, the meter's tile."""

from __future__ import annotations

from typing import Protocol

from loam.app.commands import CorrectReadings, Note, StrikeReadings
from loam.app.presenters.reading import progress
from loam.app.presenters.rounds import (
    AS_PLANNED,
    ORDER_WORDS,
    PHASE_AFTER,
    PHASE_WORDS,
    WAITED,
    WASHED,
    WIPED,
    last_wipe,
    longest_flash_s,
    most_wipes,
    open_round,
    phases_of,
    planned_wipes,
    usual_flash_min,
)
from loam.app.presenters.tiles import (
    CORRECTED,
    NAMELESS,
    Drifted,
    check_words,
    checks,
    drift_words,
    drifted,
    printed,
)
from loam.core.dates import seconds_of
from loam.core.errors import LoamError
from loam.core.tiles import GOOD, LEAST, LIMITS, TileCheck, check_tile
from loam.core.trial import DAY, WASH
from loam.store import kit, noted
from loam.ui.views.base import Key
from loam.ui.views.read.owner import Owner
from loam.ui.views.read.wired import Wired
from loam.ui.widgets.big import Piece, Shown
from loam.ui.widgets.drift_line import Drift

Squares = tuple[int, list[bool | None], set[int]]
"""Which is next, what was answered, and over which the nail catches."""


class Reads(Owner, Protocol):
    """The view, with its meters."""

    wired: Wired


def turned(choices: list[str], now: str) -> str:
    """Return the choice after the one at hand, around."""
    return choices[(choices.index(now) + 1) % len(choices)] if now in choices else choices[0]


class Asks:
    """What every mode has: nothing is typed, no squares, Esc goes back."""

    types = False
    squares: Squares | None = None
    estimates = False
    drift: Drift | None = None

    def __init__(self, view: Reads) -> None:
        self.view = view

    @property
    def trial_id(self) -> int:
        """The trial at hand."""
        return self.view.session.trial_id or 0

    def key(self, key: str) -> None:
        """Do nothing."""

    def enter(self, text: str) -> bool:
        """Nothing is typed."""
        return True

    def back(self) -> None:
        """Nothing is there to take back."""

    def note(self, sort: str, facts: dict[str, object], cell: int | None = None) -> bool:
        """Note something."""
        view = self.view
        day = view.session.workshop.now()[:10]
        return view.act(Note(self.trial_id, sort, facts, cell, view.reader_name, day))


class RoundMode(Asks):
    """Opens a round, or says how the open one stands and closes it."""

    def __init__(self, view: Reads) -> None:
        super().__init__(view)
        self.phase, self.order, self.blind = view.phase, "walk", True

    def shown(self) -> Shown:
        """Return what the board shows."""
        opened = open_round(self.view.session)
        if opened is not None:
            done, count = progress(self.view.session, self.view.measurand, opened.phase)
            label = self.view.session.kind(self.view.measurand).label
            since = f"since {opened.at[11:16]}" + (f", {opened.reader}" if opened.reader else "")
            uncovers = " Closing it uncovers which combination is where." if opened.blind else ""
            return Shown(
                "The round",
                f"{opened.words()}, {since}. {done} of {count} cells read for {label}.",
                [Piece("C", "", "close it"), Piece("Esc", "", "read on")],
                uncovers.strip(),
            )
        pieces = [
            Piece("1", "read", PHASE_WORDS[self.phase], chosen=True),
            Piece("2", "order", ORDER_WORDS[self.order], chosen=True),
            Piece(
                "3",
                "blind",
                "combinations covered" if self.blind else "nothing covered",
                chosen=True,
            ),
            Piece("Enter", "", "begin"),
        ]
        foot = (
            "Until the round is closed, Ask, Lay out, Work and Judge stay covered; a look all the"
            " same is possible, noted, and told beside the result."
            if self.blind
            else "Whoever knows the combination leans: blind is better."
        )
        return Shown("A round", "Every cell is read once through.", pieces, foot)

    def keys(self) -> list[Key]:
        """Return the keys of the board."""
        if open_round(self.view.session) is not None:
            return [("C", "close the round", self.close), ("Esc", "read on", self.view.leave_mode)]
        return [
            ("1–3", "turn", None),
            ("Enter", "begin", self.begin),
            ("Esc", "no round", self.view.leave_mode),
        ]

    def key(self, key: str) -> None:
        """Turn to the next choice, or close."""
        if open_round(self.view.session) is not None:
            if key == "C":
                self.close()
            elif key == "ESC":
                self.view.leave_mode()
            return
        if key == "1":
            self.phase = turned([k for k, _ in phases_of(self.view.session)], self.phase)
        elif key == "2":
            self.order = turned(list(ORDER_WORDS), self.order)
        elif key == "3":
            self.blind = not self.blind
        elif key in (" ", "ENTER"):
            self.begin()

    def enter(self, text: str) -> bool:
        """Begin."""
        if open_round(self.view.session) is None:
            self.begin()
        else:
            self.view.leave_mode()
        return True

    def begin(self) -> None:
        """Open the round and read its first cell."""
        trial = self.view.session.trial
        seed = (trial.seed if trial else 1) + len(
            noted.of_trial(self.view.session.workshop.connection, self.trial_id, noted.ROUND)
        )
        facts: dict[str, object] = {
            "phase": self.phase,
            "order": self.order,
            "blind": self.blind,
            "seed": seed,
        }
        if self.note(noted.ROUND, facts):
            self.view.turn_phase(self.phase)
            self.view.leave_mode()

    def close(self) -> None:
        """Close the round: what was covered is seen."""
        opened = open_round(self.view.session)
        if opened is not None and self.note(noted.CLOSED, {"of": opened.id}):
            self.view.shell.say("The round is closed.")
            self.view.leave_mode()


MOST_DRAWN = 12
_WITH = ("panel wipe", "alcohol mix", "tar remover", "water and soap")
_OFTEN = ("once", "twice")
_CLOTH = ("a fresh cloth each cell", "a fresh side each cell", "one cloth a panel")
_FLASH = (1, 2, 5, 10, 0)


class WipeMode(Asks):
    """What was done to the panel before it is read: wiped, washed, or a day has passed."""

    def __init__(self, view: Reads) -> None:
        super().__init__(view)
        shelf = [t.name for t in kit.things(view.session.workshop.connection, kit.WIPE)]
        state = view.state
        self.planned = planned_wipes(view.session, state.panel.id) if state is not None else {}
        self.choices = list(dict.fromkeys([*reversed(shelf), *_WITH]))
        if self.planned:
            self.choices.insert(0, AS_PLANNED)
        several = list(PHASE_AFTER)[3 : 2 + most_wipes(view.session)]
        self.whats = [*several, WIPED, WASHED, WAITED]
        self.what = next((w for w, p in PHASE_AFTER.items() if p == view.phase), self.whats[0])
        if several and state is not None and PHASE_AFTER[self.what] not in (DAY, WASH):
            panel = state.panel.id
            undone = (w for w in several if not last_wipe(view.session, panel, PHASE_AFTER[w]))
            self.what = next(undone, WIPED)
        self.wipe, self.often, self.cloth = self.choices[0], "twice", _CLOTH[0]
        self.flash = self._usual_flash()
        self.all_panels = False

    def _usual_flash(self) -> int:
        """Return how long what is wiped with flashes off, as a choice: by its kind."""
        session = self.view.session
        if self.wipe == AS_PLANNED:
            wanted = longest_flash_s(session) / 60.0
        else:
            wanted = usual_flash_min(session, self.wipe)
        return next((m for m in sorted(_FLASH) if m and m >= wanted), max(_FLASH))

    def shown(self) -> Shown:
        """Return what the board shows."""
        state = self.view.state
        words = {WIPED: "wiped", WASHED: "washed", WAITED: "a day has passed"}
        pieces = [Piece("1", "what", words.get(self.what, self.what), chosen=True)]
        if self.what != WAITED:
            pieces.append(Piece("2", "with", self.wipe, chosen=True))
            if self.wipe != AS_PLANNED:
                pieces.append(Piece("3", "how often", self.often, chosen=True))
            pieces += [
                Piece("4", "cloth", self.cloth, chosen=True),
                Piece("5", "flash", f"{self.flash} min" if self.flash else "no wait", chosen=True),
            ]
        where = "every panel" if self.all_panels else f"panel {state.panel.name}" if state else ""
        pieces += [Piece("6", "where", where, chosen=True), Piece("Enter", "", "done now")]
        care = (
            "Solvents burn and are breathed in: air the room, wear gloves, keep sparks away, put"
            " rags where they cannot catch fire. Follow the product's safety data sheet."
        )
        sentence = "Residue off while wet, then the wipe; what falls back was masked."
        if self.wipe == AS_PLANNED and self.what not in (WASHED, WAITED):
            told = [f"{how}: {', '.join(cells)}" for how, cells in self.planned.items()]
            sentence = "; ".join(told) + "."
        if self.what == WAITED:
            sentence = "What falls back overnight was masked too."
        return Shown(
            "Wipe", sentence, pieces, care if self.what not in (WASHED, WAITED) else "", care=True
        )

    def keys(self) -> list[Key]:
        """Return the keys of the board."""
        return [
            ("1–6", "turn", None),
            ("Enter", "done now", self.done),
            ("Esc", "not now", self.view.leave_mode),
        ]

    def key(self, key: str) -> None:
        """Turn to the next choice."""
        if key == "1":
            self.what = turned(self.whats, self.what)
        elif key == "2":
            self.wipe = turned(self.choices, self.wipe)
            self.flash = self._usual_flash()
        elif key == "3":
            self.often = turned(list(_OFTEN), self.often)
        elif key == "4":
            self.cloth = turned(list(_CLOTH), self.cloth)
        elif key == "5":
            self.flash = _FLASH[(_FLASH.index(self.flash) + 1) % len(_FLASH)]
        elif key == "6":
            self.all_panels = not self.all_panels
        elif key in (" ", "ENTER"):
            self.done()

    def enter(self, text: str) -> bool:
        """It is done."""
        self.done()
        return True

    def done(self) -> None:
        """Note it, and read what follows."""
        state = self.view.state
        facts: dict[str, object] = {"what": self.what}
        if self.what != WAITED:
            facts |= {
                "with": self.wipe,
                "often": "" if self.wipe == AS_PLANNED else self.often,
                "cloth": self.cloth,
                "flash_min": self.flash,
            }
        if not self.all_panels and state is not None:
            facts["panels"] = [state.panel.id]
        if self.note(noted.WIPE, facts):
            self.view.turn_phase(PHASE_AFTER[self.what])
            self.view.leave_mode()


class TileMode(Asks):
    """Checks the tile of the meter at hand, and says what its drift did."""

    types = True

    def __init__(self, view: Reads) -> None:
        super().__init__(view)
        self.read: list[float] = []
        self.calibrated = False
        known = printed(view.session, view.meter_name, view.measurand)
        self.naming, self.named = known is None, known or 0.0
        self.last: TileCheck | None = None

    @property
    def drift(self) -> Drift:  # type: ignore[override]
        """The checks so far."""
        session, view = self.view.session, self.view
        kind = session.kind(view.measurand)
        known = checks(session, view.meter_name, view.measurand)[-MOST_DRAWN:]
        timed = [(seconds_of(c.at), c) for c in known]
        found = self._drifted()
        taken = [seconds_of(r.at) for r in found.readings] if found is not None else []
        start = timed[0][0] if timed else 0.0
        return Drift(timed, [t for t in taken if t >= start], kind.unit, kind.span(1.0))

    def _drifted(self) -> Drifted | None:
        return drifted(self.view.session, self.view.meter_name, self.view.measurand)

    def shown(self) -> Shown:
        """Return what the board shows."""
        kind = self.view.session.kind(self.view.measurand)
        found = self._drifted()
        meter = self.view.meter_name or NAMELESS
        name = (kind.tile.called if kind.tile is not None else "tile").capitalize()
        if self.naming:
            now = f" Now {kind.write(self.named)} {kind.unit}." if self.named else ""
            return Shown(
                f"{name} check",
                f"{meter}, {kind.label}: which value is printed on the {name.lower()}?{now}",
                [],
            )
        pieces = [
            Piece("V", "printed", f"{kind.write(self.named)} {kind.unit}", chosen=True),
            Piece(
                "C",
                "before it",
                "calibrated just now" if self.calibrated else "as it was",
                chosen=True,
            ),
        ]
        sentence = (
            f"{meter}, {kind.label}. Clean it without rubbing, let it take the panel's warmth, then"
            f" read it {LEAST} times."
        )
        foot, care = "", False
        if self.read:
            taken = "  ".join(kind.write(v) for v in self.read)
            sentence = f"{meter}, {kind.label}: {taken}"
        elif self.last is not None:
            off = kind.write_span(self.last.off, 1)
            sign = "+" if self.last.off > 0 else ""
            sentence = f"Off by {sign}{off} {kind.unit}. {check_words(self.last)}"
            care = self.last.verdict != GOOD
        if found is not None and not self.read:
            foot, care = drift_words(found), True
            if found.values:
                pieces.append(
                    Piece("D", "", f"correct {len(found.values)} for drift, even in time")
                )
            pieces.append(Piece("X", "", f"leave {len(found.readings)} out"))
            pieces.append(Piece("Esc", "", "keep them, and say that they are doubtful"))
        return Shown(f"{name} check", sentence, pieces, foot, care=care)

    def keys(self) -> list[Key]:
        """Return the keys of the board."""
        found = self._drifted()
        keys: list[Key] = [("Enter", "keep, or let the meter read", None)]
        if found is not None and found.values:
            keys.append(("D", "correct for drift", self.correct))
        if found is not None:
            keys.append(("X", "leave them out", self.leave_out))
        return [
            *keys,
            ("V", "printed value", None),
            ("C", "calibrated", None),
            ("Esc", "read on", self.view.leave_mode),
        ]

    def key(self, key: str) -> None:
        """Turn to a choice, or settle what drifted."""
        if key == "C":
            self.calibrated = not self.calibrated
        elif key == "V":
            self.naming = not self.naming or not self.named
        elif key == "D":
            self.correct()
        elif key == "X":
            self.leave_out()
        elif key == "ESC":
            self.view.leave_mode()

    def enter(self, text: str) -> bool:
        """Take the printed value, or a reading of the tile; the last one ends the check."""
        if not text:
            if self.last is not None and not self.read:
                self.view.leave_mode()
            elif self.naming:
                self.view.complain("Type the value that is printed beside or under it.")
            elif not self.view.wired.ask_tile(self.named):
                self.view.complain("Type what the meter shows on the tile.")
            return True
        try:
            value = self.view.session.kind(self.view.measurand).parse(text)
        except LoamError as error:
            self.view.complain(f"{error.what} {error.todo}".strip())
            return False
        if self.naming:
            if value <= 0.0:
                self.view.complain("A printed value is above 0.")
                return False
            self.named, self.naming = value, False
            return True
        return self.take(value)

    def take(self, value: float) -> bool:
        """Take a reading of the tile."""
        self.read.append(round(value, 3))
        if len(self.read) < LEAST:
            return True
        view = self.view
        read, self.read = self.read, []
        try:
            check_tile(view.measurand, self.named, read)
        except LoamError as error:
            view.complain(f"{error.what} {error.todo}".strip())
            return False
        meter = view.meter_name or NAMELESS
        facts: dict[str, object] = {
            "meter": meter,
            "measurand": view.measurand,
            "named": self.named,
            "read": read,
            "calibrated": self.calibrated,
        }
        if self.note(noted.TILE, facts):
            known = checks(view.session, view.meter_name, view.measurand)
            self.last, self.calibrated = known[-1] if known else None, False
        return True

    def back(self) -> None:
        """Take the last reading of the tile back."""
        if self.read:
            self.read.pop()

    def correct(self) -> None:
        """Correct what drifted."""
        found = self._drifted()
        if found is not None and found.values:
            self.view.act(CorrectReadings(self.trial_id, found.values, CORRECTED, found.cells))

    def leave_out(self) -> None:
        """Leave out what drifted."""
        found = self._drifted()
        if found is not None:
            ids = [r.id for r in found.readings]
            act = StrikeReadings(self.trial_id, ids, "meter off its tile", of_cells=found.cells)
            act.name = f"leave out {len(ids)} readings"
            self.view.act(act)


def tile_mode(view: Reads) -> TileMode | None:
    """Return the check of the meter at hand, None (said) where there is no tile."""
    if view.measurand not in LIMITS:
        label = view.session.kind(view.measurand).label
        view.shell.say(f"There is no tile for {label}: tiles are for gloss, haze and film.")
        return None
    return TileMode(view)
