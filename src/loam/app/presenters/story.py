"""A cell's story: what was done to it, read of it, struck and corrected, in the order of time."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import groupby

from loam.app.presenters.inspecting import look_from
from loam.app.presenters.rounds import PHASE_WORDS, covered, notes_of, wipe_words
from loam.app.session import Session
from loam.core.prepare import BY_KEY as GATES
from loam.core.prepare import SKIPPED
from loam.core.trial import Cell, Panel, Reading
from loam.core.units import fixed
from loam.store import noted, preparation, raw_lines, work
from loam.store import readings as reading_store
from loam.store.about import taken_from
from loam.store.noted import Noted
from loam.store.work import Work


@dataclass(frozen=True)
class Event:
    """Something that happened to a cell.

    Attributes
    ----------
    at : str
        When, ISO 8601; "" where nobody noted it.
    title, below : str
        What, and who, with what, how.
    lines : tuple of str
        Each reading with its raw line, spot and times.
    struck : bool
        It counts no more.
    picture : int
        The note whose small picture belongs to it; 0 for none.
    """

    at: str
    title: str
    below: str = ""
    lines: tuple[str, ...] = ()
    struck: bool = False
    picture: int = 0


def story(session: Session, cell: Cell) -> list[Event]:
    """Return a cell's story, oldest first."""
    panel = next(p for p in session.panels() if p.id == cell.panel_id)
    events = [
        *_planned(session, cell),
        *_prepared(session, panel),
        *_worked(session, cell),
        *_noted(session, cell, panel),
        *_read(session, cell),
    ]
    return sorted(events, key=lambda e: e.at)


def _planned(session: Session, cell: Cell) -> Iterable[Event]:
    combination = next((c for c in session.combinations() if c.id == cell.combination_id), None)
    if combination is None:
        yield Event("", "free", "No combination was laid here.")
    elif covered(session):
        yield Event("", "planned", "The combination is covered while the round is open.")
    else:
        order = f"no. {cell.run_order} in the order of work" if cell.run_order else ""
        yield Event("", f"planned: {combination.code}, {combination.words()}", order)
    for measurand, value in sorted(cell.baseline.items()):
        kind = session.kind(measurand)
        yield Event(
            "", f"before work: {kind.label} {kind.write(value, 1)} {kind.unit}", "cell mean"
        )


def _prepared(session: Session, panel: Panel) -> Iterable[Event]:
    passed = preparation.passed(session.workshop.connection, session.trial_id or 0)
    for p in passed.get(panel.id, ()):
        name = GATES[p.gate].name if p.gate in GATES else p.gate
        left = p.what == SKIPPED
        how = ", ".join(str(v) for v in p.facts.values() if v)
        yield Event(p.at, f"left out: {name}" if left else name, _with(p.person, how))


def _with(*parts: str) -> str:
    return " · ".join(p for p in parts if p)


def _worked(session: Session, cell: Cell) -> Iterable[Event]:
    db = session.workshop.connection
    own = [w for w in work.paced(db, session.trial_id or 0) if w.cell_id == cell.id]
    for stage, noted_work in groupby(sorted(own, key=lambda w: (w.stage, w.id)), lambda w: w.stage):
        yield from _stage(session, stage, list(noted_work))


def _stage(session: Session, stage: int, own: list[Work]) -> Iterable[Event]:
    passes = [w for w in own if w.what == work.PASS]
    if passes:
        seconds = sum(float(w.facts.get("seconds", 0.0)) for w in passes)
        count = "1 section pass" if len(passes) == 1 else f"{len(passes)} section passes"
        pad = "" if covered(session) else passes[-1].pad
        how = _with(passes[-1].person, pad, f"{seconds:.0f} s")
        yield Event(passes[0].at, f"stage {stage}: {count}", how)
    for w in own:
        if w.what == work.MARK:
            said = str(w.facts.get("words") or w.facts.get("mark") or "")
            yield Event(w.at, f"marked: {said}", _with(w.person, f"stage {stage}"))
        elif w.what == work.HEAT:
            unit = session.unit("temperature")
            celsius = w.facts.get("panel_c")
            if isinstance(celsius, int | float):
                yield Event(
                    w.at, f"panel at {fixed(unit.shown(celsius), 0)} {unit.symbol}", w.person
                )


def _noted(session: Session, cell: Cell, panel: Panel) -> Iterable[Event]:
    for n in notes_of(session):
        if n.sort == noted.WIPE and (not n.facts.get("panels") or panel.id in n.facts["panels"]):
            yield Event(n.at, str(n.facts.get("what", "wiped")), _with(wipe_words(n), n.person))
        elif n.cell_id == cell.id and n.sort == noted.INSPECTION:
            look = look_from(n.facts)
            if look is not None:
                yield Event(n.at, f"by eye: {look.words()}", n.person)
        elif n.cell_id == cell.id and n.sort == noted.PHOTOGRAPH:
            yield _photographed(n)


def _photographed(n: Noted) -> Event:
    f = n.facts
    names = f"{f.get('before', '')} and {f.get('after', '')}"
    hashes = tuple(f"{k}: SHA-256 {f.get(f'{k}_sha256', '')}" for k in ("before", "after"))
    removed, error = f.get("removed_pct"), f.get("error_points")
    if isinstance(removed, int | float) and isinstance(error, int | float):
        said = f"photographs: {removed:.0f} % ± {error:.0f} of the mark length removed"
    else:
        said = f"photographs, refused: {f.get('reason', '')}"
    return Event(n.at, said, _with(names, n.person), hashes, picture=n.id)


def _read(session: Session, cell: Cell) -> Iterable[Event]:
    db = session.workshop.connection
    found = reading_store.readings_of_cells(db, [cell.id])

    def key(r: Reading) -> tuple[str, str, str, str, str]:
        return r.phase, r.measurand, r.reader, r.scale, r.taken_at[:13]

    for _, group in groupby(sorted(found, key=lambda r: (*key(r), r.id)), key):
        yield _readings(session, list(group))


def _readings(session: Session, own: list[Reading]) -> Event:
    first = own[0]
    kind = session.kind(first.measurand)
    counted = [r for r in own if r.struck is None]
    figures = "  ".join(
        kind.write(r.value, 1 if r.mark.startswith("corrected") else 0)
        + ("" if r.struck is None else " (struck)")
        for r in own
    )
    title = f"{kind.label}, {PHASE_WORDS.get(first.phase, first.phase)}: {figures} {kind.unit}"
    about = taken_from(first.about)
    light = {"out": "lights out", "on": "lights on"}.get(about.light, about.light)
    below = _with(
        f"read by {first.reader}" if first.reader else "",
        first.meter,
        f"{first.scale} scale" if first.scale else "",
        light,
    )
    db = session.workshop.connection
    lines = []
    for r in own:
        taken = taken_from(r.about)
        where = ""
        if taken.spot is not None:
            where = f"spot {taken.spot[0]:g}, {taken.spot[1]:g} mm, turned {taken.turn or 0}°"
        raw = raw_lines.of_reading(db, r.id)
        line = f"line {raw.line}" if raw is not None else "typed"
        if raw is not None:
            line += f", the meter's {raw.device_s:g} s"
        photo = f"photograph {taken.photo[:12]}…" if taken.photo else ""
        why = f"struck: {r.struck}" if r.struck is not None else ""
        lines.append(
            _with(kind.write(r.value, 1), r.taken_at[11:19], where, photo or line, r.mark, why)
        )
    return Event(first.taken_at, title, below, tuple(lines), struck=not counted)
