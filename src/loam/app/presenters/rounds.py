"""The round that is read: in which order, by whom, blind or not; what was wiped before it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace

from loam.app.session import Session
from loam.core.dates import minutes_between
from loam.core.trial import AFTER, BEFORE, BETWEEN, BETWEEN_WIPES, DAY, UNWIPED, WASH
from loam.core.walk import RANDOM, WALK, drawn, shortest_walk, spot
from loam.core.wipes import Wipe, flash_s, singles
from loam.core.wipes import said as wipes_said
from loam.core.words.dose import ROOM_MM
from loam.store import kit, noted
from loam.store.cells import grid
from loam.store.noted import Noted

PHASES = (
    (AFTER, "after the wipe"),
    (UNWIPED, "before the wipe"),
    (BEFORE, "before work"),
    (DAY, "a day later"),
    (WASH, "after a wash"),
    *((phase, f"after stage {phase[5:]}") for phase in BETWEEN),
    *((phase, f"after wipe {phase[4:]}") for phase in BETWEEN_WIPES),
)
PHASE_WORDS = dict(PHASES)


def phases_of(session: Session) -> tuple[tuple[str, str], ...]:
    """Return what can be read in the trial at hand: between stages, and between wipes,
    only where there are several.
    """
    most = max((len(c.stages) for c in session.combinations() if c.stages), default=1)
    lacking = (*BETWEEN[most - 1 :], *BETWEEN_WIPES[max(most_wipes(session) - 1, 0) :])
    return tuple(p for p in PHASES if p[0] not in lacking)


ORDER_WORDS = {WALK: "by the shortest walk", RANDOM: "in random order"}
INSET = 1.25
"""Of the pad's diameter: the dose reaches 95 % so far inside both edges together."""
COVERED = ("ask", "layout", "work", "judge")
"""Steps that show which combination is where, or how it came out."""
WIPED = "wiped"
WASHED, WAITED = "washed", "waited"
PHASE_AFTER = {
    WIPED: AFTER,
    WASHED: WASH,
    WAITED: DAY,
    **{f"wipe {i} of several": phase for i, phase in enumerate(BETWEEN_WIPES, 1)},
}
AS_PLANNED = "as planned"
"""What a panel is wiped with whose cells say it each for themselves."""


@dataclass(frozen=True)
class Round:
    """A round that is open.

    Attributes
    ----------
    order : str
        walk or random; ``seed`` draws the latter.
    blind : bool
        Combinations are covered until it is closed.
    peeks : int
        How often somebody looked all the same.
    """

    id: int
    phase: str
    order: str
    seed: int
    blind: bool
    reader: str
    at: str
    peeks: int

    def words(self) -> str:
        """Say it."""
        said = f"Round {PHASE_WORDS.get(self.phase, self.phase)}, {ORDER_WORDS[self.order]}"
        peeked = f", peeked {self.peeks} times" if self.peeks > 1 else ", peeked once"
        said += ", blind" + (peeked if self.peeks else "") if self.blind else ", not blind"
        return said


def notes_of(session: Session) -> list[Noted]:
    """Return what is noted of the trial at hand."""
    db, trial = session.workshop.connection, session.trial_id or 0
    found: list[Noted] = session.cached("noted", lambda: noted.of_trial(db, trial))
    return found


def open_round(session: Session) -> Round | None:
    """Return the round that is open in the trial at hand."""
    return session.cached("round", lambda: round_in(notes_of(session)))  # type: ignore[no-any-return]


def round_in(notes: list[Noted]) -> Round | None:
    """Return the last round that was opened and not closed."""
    closed = {n.facts.get("of") for n in notes if n.sort == noted.CLOSED}
    opened = [n for n in notes if n.sort == noted.ROUND and n.id not in closed]
    if not opened:
        return None
    last = opened[-1]
    f = last.facts
    peeks = sum(n.sort == noted.PEEK and n.facts.get("of") == last.id for n in notes)
    order = f.get("order")
    return Round(
        last.id,
        str(f.get("phase", AFTER)),
        order if order in ORDER_WORDS else WALK,
        int(f.get("seed", 1)),
        bool(f.get("blind", True)),
        last.person,
        last.at,
        peeks,
    )


def covered(session: Session) -> bool:
    """Tell whether combinations are covered because a blind round is open."""
    opened = open_round(session)
    return opened is not None and opened.blind


def reading_order(session: Session) -> Mapping[int, int]:
    """Return the number of each laid-out cell in the order in which it is read, from 0."""
    opened = open_round(session)
    if opened is None:
        return session.order()
    key = f"cells:round {opened.id}"
    found: Mapping[int, int] = session.cached(key, lambda: _order(session, opened))
    return found


def _order(session: Session, opened: Round) -> dict[int, int]:
    of_panel: dict[int, list[tuple[int, int, int]]] = {}
    for cell_id, panel_id, row, column in grid(session.workshop.connection, session.trial_id or 0):
        of_panel.setdefault(panel_id, []).append((cell_id, row, column))
    panels = [p for p in session.panels() if p.id in of_panel]
    walk: list[int] = []
    if opened.order == RANDOM:
        for panel_id in drawn([p.id for p in panels], opened.seed):
            walk += drawn([i for i, _, _ in of_panel[panel_id]], opened.seed + panel_id)
    else:
        for panel in panels:
            t = panel.taping
            across, down = t.cell_width_mm + t.gap_mm, t.cell_height_mm + t.gap_mm
            walk += shortest_walk(of_panel[panel.id], across, down)
    return {cell: i for i, cell in enumerate(walk)}


def zone_mm(session: Session, panel_id: int) -> float:
    """Return the diameter of even ground in a panel's cells, mm.

    The least of all combinations of the trial, so that it tells nothing of the one in a cell; at
    least what a meter covers.
    """
    panel = next(p for p in session.panels() if p.id == panel_id)
    side = min(panel.taping.cell_width_mm, panel.taping.cell_height_mm)
    pads = [s.pad_mm for c in session.combinations() for s in c.stages if s.pad_mm]
    return max(side - INSET * max(pads, default=0.4 * side), min(ROOM_MM, side))


def next_spot(session: Session, panel_id: int, number: int) -> tuple[tuple[float, float], int]:
    """Return where in a cell a reading is taken, mm from its middle, and the meter's turn."""
    return spot(number, zone_mm(session, panel_id))


def last_wipe(session: Session, panel_id: int, phase: str) -> Noted | None:
    """Return what was done to a panel last that readings of a phase follow."""
    for note in reversed(notes_of(session)):
        if note.sort != noted.WIPE or PHASE_AFTER.get(str(note.facts.get("what"))) != phase:
            continue
        panels = note.facts.get("panels")
        if not panels or panel_id in panels:
            return note
    return None


def wipe_words(note: Noted | None) -> str:
    """Say what was done."""
    if note is None:
        return ""
    f = note.facts
    if f.get("what") == WAITED:
        return "a day has passed"
    parts = [str(f.get(k, "")) for k in ("with", "often", "cloth")]
    return ", ".join(p for p in parts if p)


def planned_wipes(session: Session, panel_id: int) -> dict[str, list[str]]:
    """Return the cells of a panel by how their combinations say that they are wiped at the end."""
    combinations = {c.id: c for c in session.combinations()}
    found: dict[str, list[str]] = {}
    for cell in session.cells_of(panel_id):
        own = combinations.get(cell.combination_id or 0)
        if own is not None and own.stages and own.stages[-1].wipes:
            found.setdefault(wipes_said(own.stages[-1].wipes), []).append(cell.code)
    return found


def most_wipes(session: Session) -> int:
    """Return how many single wipes a combination of the trial at hand plans at most."""
    stages = [c.stages[-1] for c in session.combinations() if c.stages]
    return max((len(singles(s.wipes)) for s in stages), default=0)


def longest_flash_s(session: Session) -> float:
    """Return the longest flash that the wipes of the trial at hand take, s."""
    wipes = [w for c in session.combinations() if c.stages for w in c.stages[-1].wipes]
    return max((flash_s(w, made) for w, made in _made(session, wipes)), default=0.0)


def _made(session: Session, wipes: Iterable[Wipe]) -> list[tuple[Wipe, str]]:
    shelf = {t.name.casefold(): t.facts for t in kit.things(session.workshop.connection, kit.WIPE)}
    found = []
    for wipe in wipes:
        facts = shelf.get(wipe.name.casefold(), {})
        own = facts.get("flash_s")
        timed = replace(wipe, flash_s=own) if wipe.flash_s is None and own else wipe
        found.append((timed, str(facts.get("made", ""))))
    return found


def usual_flash_min(session: Session, name: str) -> float:
    """Return how long a wipe of a name flashes off, minutes: as the shelf says, else as usual."""
    ((wipe, made),) = _made(session, [Wipe(name)])
    return flash_s(wipe, made) / 60.0


def wiped_with(notes: list[Noted], panels: Iterable[int]) -> dict[int, str]:
    """Return what each panel was wiped with first, where that was noted."""
    found: dict[int, str] = {}
    for n in notes:
        planned = n.facts.get("with") == AS_PLANNED  # each cell by itself
        if n.sort == noted.WIPE and n.facts.get("what") == WIPED and not planned:
            for panel in n.facts.get("panels") or panels:
                found.setdefault(int(panel), wipe_words(n))
    return found


def flash_left(note: Noted | None, now: str) -> float:
    """Return the minutes until what was wiped has flashed off."""
    if note is None:
        return 0.0
    minutes = note.facts.get("flash_min", 0)
    wait = float(minutes) if isinstance(minutes, int | float) else 0.0
    return max(0.0, wait - minutes_between(note.at, now))


def peek_words(notes: list[Noted]) -> str:
    """Say how blind the reading was; "" where no round was blind."""
    rounds = [n for n in notes if n.sort == noted.ROUND and n.facts.get("blind")]
    if not rounds:
        return ""
    peeks = [n for n in notes if n.sort == noted.PEEK]
    if not peeks:
        return "Read blind: nobody looked which combination was where."
    who = ", ".join(sorted({n.person for n in peeks if n.person}))
    often = "once" if len(peeks) == 1 else f"{len(peeks)} times"
    by = f" by {who}" if who else ""
    return f"Read blind, but peeked {often}{by}: what was read after it may lean."


def place_words(session: Session, cell_id: int) -> str:
    """Say which cell it is."""
    cell = session.cell(cell_id)
    if cell is None:
        return ""
    panel = next(p for p in session.panels() if p.id == cell.panel_id)
    return f"{panel.name} {cell.code}"
