"""What is said of the cell that is worked: its place in the run, a warm panel, a loaded pad."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from loam.app.presenters.pace import pace_words
from loam.app.presenters.path import MOST_PACED
from loam.app.presenters.preparing import gates_noted
from loam.app.presenters.run_sheet import cells_to_work, turn_of
from loam.app.presenters.working import Working, noted, pads_retired, step_at_hand
from loam.app.session import Session
from loam.core.design.steps import steps_of
from loam.core.prepare import BY_KEY
from loam.core.units import thousands
from loam.core.wipes import said as wiped
from loam.store.work import WORKED


def work_table(session: Session) -> list[list[str]]:
    """Return what was prepared and worked as a table, its heading first, in the order of time."""
    panels = {p.id: p.name for p in session.panels()}
    cells = {c.id: c for c in session.cells()}
    rows = [
        [
            p.at,
            panels.get(panel, ""),
            "",
            "",
            BY_KEY[p.gate].name if p.gate in BY_KEY else p.gate,
            p.what,
            p.person,
            _facts(p.facts),
        ]
        for panel, own in gates_noted(session).items()
        for p in own
    ]
    for w in noted(session):
        cell = cells.get(w.cell_id)
        if cell is not None:
            rows.append(
                [
                    w.at,
                    panels[cell.panel_id],
                    cell.code,
                    str(w.stage),
                    w.what,
                    w.pad,
                    w.person,
                    _facts(w.facts),
                ]
            )
    head = ["when", "panel", "cell", "stage", "what", "how, or pad", "who", "more"]
    return [head, *sorted(rows)] if rows else []


def _facts(facts: Mapping[str, Any]) -> str:
    return "; ".join(f"{key} {value}" for key, value in facts.items())


def nothing_words(session: Session) -> str:
    """Say why there is no cell to work."""
    laid = len(session.order())
    if not laid:
        return "Nothing is laid out yet: give each cell its combination first (F5)."
    if laid > MOST_PACED:
        said = f"{thousands(laid)} cells are too many to pace ({MOST_PACED} at most)."
        return said + " What is read is taken as worked (F7)."
    return "Every cell is worked. Read them (F7)."


def lead_words(session: Session, state: Working, worker: str) -> str:
    """Say what is to be known before the cell is begun."""
    said = f"Cell {state.done + 1} of {state.wanted}."
    step = step_at_hand(session, state)
    if step is not None:
        said = f"Step {step.number} of {step.of} on {state.panel.name}, {step.words}:"
        said += f" {step.done + 1} of {step.cells}."
    if state.refusal:
        return f"{said} {state.refusal}"
    if heat_left(session, state):
        return f"{said} {heat_words(session, state)}"
    if state.pad is not None and not state.pad.life.usable:
        said += f" No clean pad is left: {state.pad.name} is {state.pad.life.state}."
    if state.pad is None and pads_retired(session, state.now.pad):
        said += f" No {state.now.pad} is left on the shelf: put one there (Kit, Ctrl+T)."
    if not worker:
        whose = f", for {state.planned_worker}" if state.planned_worker else ""
        said += f" Nobody is named yet: P says who works{whose}."
    elif state.planned_worker and state.planned_worker != worker:
        said += f" {state.panel.name} is {state.planned_worker}'s to work (P hands over)."
    return f"{said} {pace_words(session)}".strip()


def then_wiped(session: Session, cell_id: int, stage: int) -> str:
    """Say what is wiped now that a stage of a cell is worked; "" where nothing is.

    Stage by stage the whole panel is wiped once its step is through. What comes after the last
    stage belongs to the readings.
    """
    cells = cells_to_work(session)
    cell = next((c for c in cells if c.id == cell_id), None)
    combinations = {c.id: c.stages for c in session.combinations()}
    stages = combinations.get(cell.combination_id or 0, ()) if cell is not None else ()
    if cell is None or stage >= len(stages):
        return ""
    wipes = stages[stage - 1].wipes
    with_ = f" with {wiped(wipes)}" if wipes else ""
    if turn_of(session, cells) is None:
        return f"Wipe it{with_}." if wipes else ""
    worked = {(w.cell_id, w.stage) for w in noted(session) if w.what == WORKED}
    step = steps_of(stages)[stage - 1]
    left = [
        c.id
        for c in cells
        if c.panel_id == cell.panel_id
        for number, own in enumerate(steps_of(combinations[c.combination_id or 0]), 1)
        if own == step and (c.id, number) not in worked
    ]
    return "" if left else f"This step is through: wipe the panel{with_}."


def care_words(state: Working) -> str:
    """Say the usual caution of a stage; "" where there is none beyond those of every day."""
    if state.now.disc:
        return (
            "Sanding dust: wear eye and breathing protection; no mains tool on wet ground. Follow"
            " local rules."
        )
    if state.now.machine_kind == "rotary":
        return (
            "Rotary: it heats edges and grips loose clothing; keep it moving. Follow local rules."
        )
    return ""


def heat_left(session: Session, state: Working | None) -> float:
    """Return how long the panel still has to cool, s."""
    if state is None or state.heat is None:
        return 0.0
    return state.heat.left_s(session.workshop.clock())


def heat_short(session: Session, state: Working | None) -> str:
    """Say in a few words how warm the panel is."""
    unit = session.unit("temperature")
    if state is None or state.heat is None:
        return "not read"
    warm = f"{unit.shown(state.heat.panel_c):.0f} {unit.symbol}"
    left = heat_left(session, state)
    if not left:
        return f"{warm}, cool enough"
    return f"{warm}, let it cool" if math.isinf(left) else f"{warm}, wait {clock_words(left)}"


def clock_words(seconds: float) -> str:
    """Say a time as on a clock: 2:10."""
    return f"{int(seconds) // 60}:{int(seconds) % 60:02d}"


def heat_words(session: Session, state: Working | None) -> str:
    """Say how warm the panel was read, and how long it needs; "" when it was not."""
    unit = session.unit("temperature")
    if state is None or state.heat is None:
        return ""
    warm = f"{state.panel.name} was read at {unit.shown(state.heat.panel_c):.0f} {unit.symbol}"
    left = heat_left(session, state)
    if not left:
        return f"{warm}: cool enough."
    if math.isinf(left):
        return f"{warm}: let it cool to the room."
    return f"{warm}: wait about {clock_words(left)}, then read it again (T)."
