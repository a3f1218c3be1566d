"""The cell that is worked now: what it gets, what changed since the last, how far it has come."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from loam.app.commands.work import MARK_WORDS
from loam.app.presenters.kit import facts_of
from loam.app.presenters.laying import rules_at_hand
from loam.app.presenters.run_sheet import cells_to_work, force_words, turn_of
from loam.app.presenters.shelf import Single, singles_by_kind
from loam.app.presenters.shelf_supply import at_hand, shaken_by
from loam.app.session import Session
from loam.core.cooling import HOTTEST_C, LIMIT_C, ROOM_C, slowness, wait_s
from loam.core.design.steps import all_steps, step_words, steps_of
from loam.core.dose.stage import StageSettings, settings_for
from loam.core.errors import LoamError
from loam.core.kit.facts import CLEAN, RETIRED
from loam.core.kit.life import SETS_DISC, said, worn_out
from loam.core.kit.product import drops, grams
from loam.core.sanding import former_marks
from loam.core.stage_settings import word_of
from loam.core.trial import Cell, Combination, Panel, Stage
from loam.core.units import fixed
from loam.core.vibration import ACTION, LIMIT, daily_exposure, points
from loam.store import work
from loam.store.work import HEAT, LOST, MARK, PASS, WORKED, Work

NEAR_ACTION = 0.8
"""From this share of the action value on it is said quietly."""
NEAR_LIMIT = 0.85


@dataclass(frozen=True)
class CardLine:
    """One thing that is set up for a stage; ``new`` is what changed since the stage before."""

    what: str
    value: str
    new: bool


@dataclass(frozen=True)
class Heat:
    """How warm a panel was, and how long it needs from then until it may be worked, s."""

    panel_c: float
    at: str
    wait_s: float

    def left_s(self, now: datetime) -> float:
        """Return how long it still needs."""
        return max(self.wait_s - (now - datetime.fromisoformat(self.at)).total_seconds(), 0.0)


@dataclass(frozen=True)
class Working:
    """What is worked now.

    Attributes
    ----------
    stage : int
        From 1.
    done_passes : int
        Passes of it that are done already.
    lines : tuple of CardLine
        The set-up, in the order of doing.
    marks : tuple of str
        What was marked on this cell.
    done, wanted : int
        Cells worked, and cells with stages in all.
    planned_worker : str
        Who is to work this panel; "" for whoever is free.
    heat : Heat or None
        How warm the panel was read last, since it was worked last.
    """

    cell: Cell
    panel: Panel
    combination: Combination
    stage: int
    settings: StageSettings | None
    refusal: str
    done_passes: int
    lines: tuple[CardLine, ...]
    pad: Single | None
    marks: tuple[str, ...]
    done: int
    wanted: int
    planned_worker: str = ""
    heat: Heat | None = None

    @property
    def former(self) -> str | None:
        """Whose marks are to be gone after the stage; None where that is not asked."""
        return former_marks(self.combination.stages, self.stage)

    @property
    def now(self) -> Stage:
        """The stage that is worked."""
        return self.combination.stages[self.stage - 1]


def noted(session: Session) -> list[Work]:
    """Return what was noted of the trial at hand."""
    if session.trial_id is None:
        return []
    trial_id, db = session.trial_id, session.workshop.connection
    found: list[Work] = session.cached("work", lambda: work.paced(db, trial_id))
    return found


@dataclass(frozen=True)
class StepAtHand:
    """Where a panel stands that is worked stage by stage.

    Attributes
    ----------
    number, of : int
        The step, and how many there are.
    words : str
        What is done on it.
    done, cells : int
        Stages of cells on it: worked, and in all.
    """

    number: int
    of: int
    words: str
    done: int
    cells: int


@dataclass(frozen=True)
class Wish:
    """What a bench asks for.

    Attributes
    ----------
    chosen : int or None
        A cell; by itself the next in the order of work.
    taken : Cell or None
        The cell of the other bench: never offered, and its panel's others last.
    pad : int or None
        A single pad that was taken instead of the one that is proposed.
    person : str
        Who works: what changed is told against what they worked last.
    """

    chosen: int | None = None
    taken: Cell | None = None
    pad: int | None = None
    person: str = ""


def working(session: Session, wish: Wish | None = None) -> Working | None:
    """Return the cell that is next for a bench; None when nothing is left for it."""
    wish = wish or Wish()
    combinations = {c.id: c for c in session.combinations() if c.stages}
    cells = cells_to_work(session)
    seen = noted(session)
    worked = {(w.cell_id, w.stage) for w in seen if w.what == WORKED}
    read = {cell for cell, _ in session.counts()}
    lost = _lost(seen)

    def open_stage(cell: Cell) -> int | None:
        """Return the stage that is next; a cell that was read is done."""
        stages = combinations[cell.combination_id or 0].stages
        if cell.id in lost:
            return None
        if cell.id in read and not any(w.cell_id == cell.id for w in seen):
            return None
        return next((i for i in range(1, len(stages) + 1) if (cell.id, i) not in worked), None)

    left = [(c, s) for c in cells if (s := open_stage(c)) is not None]
    undone = len(left)
    turn = turn_of(session, cells)
    if turn is not None:
        left.sort(key=lambda p: turn(*p))
    if wish.taken is not None:
        taken = wish.taken
        left = [p for p in left if p[0].id != taken.id]
        left.sort(key=lambda p: p[0].panel_id == taken.panel_id)
    at = next((p for p in left if p[0].id == wish.chosen), left[0] if left else None)
    if at is None:
        return None
    cell, stage = at
    own = [w for w in seen if w.what == WORKED and w.person == wish.person]
    before = _before(own, combinations, {c.id: c for c in cells})
    last_pad = own[-1].pad if own else ""
    panel = next(p for p in session.panels() if p.id == cell.panel_id)
    combination = combinations[cell.combination_id or 0]
    now = combination.stages[stage - 1]
    settings, refusal = None, ""
    try:
        settings = settings_for(now, panel.taping.cell_width_mm, panel.taping.cell_height_mm)
    except LoamError as error:
        refusal = str(error)
    pad = _pad(session, now.pad, wish.pad)
    mine = [w for w in seen if w.cell_id == cell.id]
    return Working(
        cell,
        panel,
        combination,
        stage,
        settings,
        refusal,
        sum(w.what == PASS and w.stage == stage for w in mine),
        _lines(session, now, before, pad, last_pad, _disc(session, now, own, combinations)),
        pad,
        marks_of(session, cell.id),
        len(cells) - undone,
        len(cells),
        rules_at_hand(session).worker(cell.panel_id),
        _heat(session, seen, cell.panel_id),
    )


def step_at_hand(session: Session, state: Working) -> StepAtHand | None:
    """Return the step that a cell's stage belongs to; None where the trial is worked cell by cell.

    Counted over the cells of its panel that are worked.
    """
    cells = [c for c in cells_to_work(session) if c.panel_id == state.panel.id]
    if turn_of(session, cells) is None:
        return None
    combinations = {c.id: c.stages for c in session.combinations()}
    own = [combinations[c.combination_id or 0] for c in cells]
    steps = all_steps(own)
    now = steps_of(state.combination.stages)[state.stage - 1]
    worked = {(w.cell_id, w.stage) for w in noted(session) if w.what == WORKED}
    lost = _lost(noted(session))
    on_it = [
        (cell.id, number)
        for cell, stages in zip(cells, own, strict=True)
        if cell.id not in lost
        for number, step in enumerate(steps_of(stages), 1)
        if step == now
    ]
    done = sum(pair in worked for pair in on_it)
    return StepAtHand(steps.index(now) + 1, len(steps), step_words(now, own), done, len(on_it))


def _lost(seen: Sequence[Work]) -> set[int]:
    return {w.cell_id for w in seen if w.facts.get("mark") == LOST}


def cells_left(session: Session) -> list[int]:
    """Return the cells that are still to be worked, in their order."""
    worked = {(w.cell_id, w.stage) for w in noted(session) if w.what == WORKED}
    gone = {cell for cell, _ in session.counts()} | _lost(noted(session))
    stages = {c.id: len(c.stages) for c in session.combinations()}
    return [
        c.id
        for c in cells_to_work(session)
        if c.id not in gone and (c.id, stages[c.combination_id or 0]) not in worked
    ]


def _before(
    seen: Sequence[Work], combinations: dict[int, Combination], cells: dict[int, Cell]
) -> Stage | None:
    """Return the stage that was worked last."""
    for w in reversed(seen):
        cell = cells.get(w.cell_id)
        if cell is not None:
            stages = combinations[cell.combination_id or 0].stages
            return stages[w.stage - 1] if w.stage <= len(stages) else None
    return None


def heat_limit(session: Session) -> float:
    """Return the warmth above which a panel is left to cool, °C."""
    kept = session.recall("heat_limit_c")
    usable = isinstance(kept, int | float) and not isinstance(kept, bool)
    return float(kept) if usable and ROOM_C < kept <= HOTTEST_C else LIMIT_C


def _heat(session: Session, seen: Sequence[Work], panel_id: int) -> Heat | None:
    """Return the panel's last warmth; what was read before it was worked last tells nothing."""
    places = session.panel_of()
    since: list[Work] = []
    for w in seen:
        if places.get(w.cell_id) == panel_id:
            if w.what == PASS:
                since.clear()
            elif w.what == HEAT:
                since.append(w)
    if not since:
        return None
    start = datetime.fromisoformat(since[0].at)
    read = [
        ((datetime.fromisoformat(w.at) - start).total_seconds(), float(w.facts["panel_c"]))
        for w in since
    ]
    wait = wait_s(read[-1][1], heat_limit(session), ROOM_C, slowness(read))
    return Heat(read[-1][1], since[-1].at, wait)


def pads_for(session: Session, kind: str) -> list[Single]:
    """Return the single pads of a kind that are not retired, by name."""
    own = singles_by_kind(session).get(kind.casefold(), ())
    return sorted((s for s in own if s.life.state != RETIRED), key=lambda s: s.name)


def pads_retired(session: Session, kind: str) -> bool:
    """Whether single pads of a kind are known, and none may be worked any more."""
    own = singles_by_kind(session).get(kind.casefold(), ())
    return bool(own) and all(s.life.state == RETIRED for s in own)


def _pad(session: Session, kind: str, wished: int | None) -> Single | None:
    """Return the single pad to take: the one that is wished, else a clean one, least worked."""
    own = pads_for(session, kind)
    taken = next((s for s in own if s.item_id == wished), None)
    if taken is not None:
        return taken
    clean = [s for s in own if s.life.state == CLEAN]
    facts = facts_of(session, "pad", kind)
    fit = [s for s in clean if not worn_out(facts, s.life)]
    pool = fit or clean or own
    return min(pool, key=lambda s: (s.life.sets, s.name)) if pool else None


def _disc(
    session: Session, now: Stage, own: Sequence[Work], combinations: dict[int, Combination]
) -> str:
    """Say which disc a stage sands with, and how far the one at hand is worn.

    Parameters
    ----------
    own : sequence of Work
        Stages that whoever works has done.
    """
    if not now.disc:
        return ""
    cells = {c.id: combinations.get(c.combination_id or 0) for c in session.cells()}
    cut = 0
    for w in own:
        found = cells.get(w.cell_id)
        stages = found.stages if found is not None else ()
        if w.stage <= len(stages) and stages[w.stage - 1].disc == now.disc:
            cut += max(int(w.facts.get("sets", 1)), 1)
    each = at_hand(session.workshop.connection).discs.get(now.disc.casefold(), 0) or SETS_DISC
    used = "" if now.damp is None else ", damp" if now.damp else ", dry"
    worn = cut % each
    life = f"set {worn + 1} of {each}" if worn else "take a new one"
    return f"{now.disc}{used}: {life}"


def _lines(
    session: Session,
    now: Stage,
    before: Stage | None,
    pad: Single | None,
    last_pad: str,
    disc: str,
) -> tuple[CardLine, ...]:
    force, size = session.unit("force"), session.unit("size")
    wide = f", {size.shown(now.pad_mm):.3g} {size.symbol}" if now.pad_mm else ""
    speed = f" = {now.speed:.0f}/min" if now.speed else ""
    bursts = f" bursts of {now.burst_s:g} s each" if now.burst_s else ""
    name = pad.name if pad is not None else now.pad or ("" if now.disc else "a pad")
    found = [
        ("pad", name and name + wide, "pad"),
        ("its age", _age(session, now.pad, pad), ""),
        ("disc", disc, "disc"),
        ("compound", _compound(now, pad), "compound"),
        ("machine", now.machine or "machine", "machine"),
        ("dial", (now.dial or "–") + speed if now.dial or speed else "", "dial"),
        (
            "force",
            force_words(now, force),
            "force_n",
        ),
        ("arm", f"{now.arm_mm_s:.3g} mm/s" if now.arm_mm_s and not now.burst_s else "", "arm_mm_s"),
        ("passes", f"{now.passes}{bursts}" if now.passes else "", "passes"),
        ("tilt", _tilt(now), "tilt_deg"),
    ]
    other_pad = pad is not None and pad.name != last_pad
    return tuple(
        CardLine(
            what,
            value,
            before is None
            or (bool(fact) and getattr(before, fact) != getattr(now, fact))
            or (what in ("pad", "its age") and other_pad),
        )
        for what, value, fact in found
        if value
    )


def _age(session: Session, kind: str, pad: Single | None) -> str:
    if pad is None:
        return ""
    due = worn_out(facts_of(session, "pad", kind), pad.life)
    return f"{said(pad.life)}{': due, take a new one' if due else ''}"


def _compound(now: Stage, pad: Single | None) -> str:
    """Say what goes on the pad: more on a fresh one, which is primed first."""
    if now.disc and not now.compound:
        return ""
    fresh = pad is None or not pad.life.sets
    much = grams(now.pad_mm, now.primed, fresh=fresh)
    count = drops(now.pad_mm, now.primed, fresh=fresh)
    said = f"{now.compound or 'compound'}, {count} drops ({much:.1f} g)"
    if now.primed is not None:
        return f"{said}, {word_of('primed', now.primed)}"
    return f"{said}{', prime it' if fresh else ''}"


def _tilt(now: Stage) -> str:
    if now.machine_kind != "rotary":
        return ""
    return f"{now.tilt_deg:g}°" if now.tilt_deg else "flat"


def marks_of(session: Session, cell_id: int) -> tuple[str, ...]:
    """Return what was marked on a cell, in words."""
    own = [w for w in noted(session) if w.cell_id == cell_id and w.what == MARK]
    return tuple(_mark(w) for w in own)


def _mark(w: Work) -> str:
    said = (MARK_WORDS | {LOST: "given up"}).get(str(w.facts.get("mark", "")), "")
    return ": ".join(part for part in (said, str(w.facts.get("words", ""))) if part)


@dataclass(frozen=True)
class Exposure:
    """A person's vibration of a day; ``care`` says when it comes near a value."""

    minutes: float
    a8: float
    points: float
    unknown: bool
    care: str


def exposure(session: Session, person: str, day: str, running: tuple[str, float]) -> Exposure:
    """Add up a person's day from what the pacer noted, and what runs now: (machine, seconds)."""
    db = session.workshop.connection
    hand = session.cached("hand", lambda: at_hand(db))
    times: dict[str, float] = {}
    today: list[Work] = session.cached(f"work:{day}", lambda: work.of_day(db, day))
    for w in today:
        if w.what == PASS and w.person == person:
            machine = str(w.facts.get("machine", ""))
            times[machine] = times.get(machine, 0.0) + float(w.facts.get("seconds", 0.0))
    times[running[0]] = times.get(running[0], 0.0) + running[1]
    shaken = {m: shaken_by(hand, m) for m in times}
    known = [(shaken[m][0], t / 3600.0) for m, t in times.items()]
    unknown = any(t > 0 and not shaken[m][1] for m, t in times.items())
    value = daily_exposure(known)
    care = ""
    if value >= LIMIT:
        care = f"above the limit value of {LIMIT:g} m/s²: stop for today"
    elif value >= NEAR_LIMIT * LIMIT:
        care = f"near the limit value of {LIMIT:g} m/s²: hand the machine over now"
    elif value >= ACTION:
        care = f"above the action value of {ACTION:g} m/s²: hand over, or rest"
    elif value >= NEAR_ACTION * ACTION:
        care = f"near the action value of {ACTION:g} m/s²"
    return Exposure(sum(times.values()) / 60.0, value, points(known), unknown, care)


def exposure_words(person: str, found: Exposure) -> str:
    """Say a person's day."""
    who = person or "Nobody named"
    said = f"{who}: {found.minutes:.0f} min today, {fixed(found.a8, 1)} m/s², "
    worth = f"{found.points:.0f} point{'' if round(found.points) == 1 else 's'}"
    said += f"{worth} (declared values with their K)"
    if found.unknown:
        said += "; a machine without a declared value counts with a usual one (Kit)"
    return said + (f"; {found.care}. Local rules decide." if found.care else ".")
