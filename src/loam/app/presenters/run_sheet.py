"""The plan on paper: tape marks, the order of work, the order of reading, and what is needed."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from loam.app.presenters.laying import rules_at_hand
from loam.app.presenters.outlook import cost_lines
from loam.app.presenters.shelf_supply import at_hand
from loam.app.session import Session
from loam.core.design.costs import Costs
from loam.core.design.steps import Step, lot, step_words, steps_of
from loam.core.dose.force import kilos_words
from loam.core.kit.life import discs_worn
from loam.core.panel import Taping
from loam.core.trial import Cell, Combination, Stage
from loam.core.units import Unit


@dataclass(frozen=True)
class Job:
    """One line of the order of work, or of reading.

    ``worker`` is who is to work it, ``settings`` how the machine is set, stage by stage.
    """

    cell: int
    number: int | None
    where: str
    combination: Combination
    worker: str = ""
    settings: str = ""


@dataclass(frozen=True)
class Ruler:
    """Where tape goes along one edge of a panel.

    Attributes
    ----------
    edge : str
        ``width`` or ``height``.
    length_mm : float
    cells : tuple of (from, to)
        Free ground between the tapes, mm from the corner.
    panels : tuple of str
        Names of the panels that are taped like this.
    """

    edge: str
    length_mm: float
    cells: tuple[tuple[float, float], ...]
    panels: tuple[str, ...]


def cells_to_work(session: Session) -> list[Cell]:
    """Return the cells with a combination that has stages, in the order of work.

    Where several cells have the same number, it counts on each panel by itself.
    """
    staged = {c.id for c in session.combinations() if c.stages}
    cells = [c for c in session.cells() if c.combination_id in staged]
    numbers = [c.run_order for c in cells if c.run_order is not None]
    panel_by_panel = len(set(numbers)) < len(numbers)
    at = {p.id: i for i, p in enumerate(session.panels())}

    def place(cell: Cell) -> tuple[int, int, int]:
        panel = at[cell.panel_id]
        number = 1_000_000 if cell.run_order is None else cell.run_order
        return (panel, number, cell.id) if panel_by_panel else (number, panel, cell.id)

    return sorted(cells, key=place)


def work_order(session: Session) -> list[Job]:
    """Return the worked cells in the order of work."""
    jobs = {j.cell: j for j in _jobs(session)}
    return [jobs[c.id] for c in cells_to_work(session)]


def work_steps(session: Session) -> list[tuple[str, list[Job]]]:
    """Return the order of work under headings: one a step of a panel, one in all cell by cell."""
    jobs = {j.cell: j for j in _jobs(session)}
    cells = cells_to_work(session)
    turn = turn_of(session, cells)
    if turn is None:
        return [("", [jobs[c.id] for c in cells])] if cells else []
    combinations = {c.id: c.stages for c in session.combinations()}
    names = {p.id: p.name for p in session.panels()}
    stages = [(c, n) for c in cells for n in range(1, 1 + len(combinations[c.combination_id or 0]))]
    found: list[tuple[str, list[Job]]] = []
    at: tuple[object, ...] = ()
    for cell, number in sorted(stages, key=lambda p: turn(*p)):
        panel, step, _ = turn(cell, number)
        if (panel, step) != at:
            at = (panel, step)
            own = [
                combinations[c.combination_id or 0] for c in cells if c.panel_id == cell.panel_id
            ]
            found.append((f"{names[cell.panel_id]}: {step_words(step, own)}", []))
        stage = combinations[cell.combination_id or 0][number - 1]
        own_settings = settings_words(session, stage)
        job = replace(jobs[cell.id], number=len(found[-1][1]) + 1, settings=own_settings)
        found[-1][1].append(job)
    return found


Turn = Callable[[Cell, int], tuple[int, Step, bytes]]


def turn_of(session: Session, cells: Sequence[Cell]) -> Turn | None:
    """Return when a stage of a cell is worked, as what can be sorted; None where cell by cell.

    Stage by stage each panel is gone over once a step; panels come as in the order of work.
    """
    rules, trial = rules_at_hand(session), session.trial
    if not rules.by_stage or trial is None:
        return None
    panels = {p: i for i, p in enumerate(dict.fromkeys(c.panel_id for c in cells))}
    steps = {c.id: steps_of(c.stages) for c in session.combinations()}
    places = {c.id: i for i, c in enumerate(cells)}
    seed = rules.seed(trial)

    def turn(cell: Cell, stage: int) -> tuple[int, Step, bytes]:
        step = steps[cell.combination_id or 0][stage - 1]
        place = places[cell.id] if cell.run_order is None else cell.run_order
        return panels[cell.panel_id], step, lot(seed, step, place)

    return turn


def reading_order(session: Session) -> list[Job]:
    """Return every cell that is read, in the order in which Loam asks for it."""
    return _jobs(session)


def _jobs(session: Session) -> list[Job]:
    combinations = {c.id: c for c in session.combinations()}
    panels = {p.id: p.name for p in session.panels()}
    workers = dict(rules_at_hand(session).workers)
    settings = {i: _all_settings(session, c) for i, c in combinations.items()}
    return [
        Job(
            c.id,
            c.run_order,
            f"{panels[c.panel_id]} {c.code}",
            combinations[c.combination_id],
            workers.get(c.panel_id, ""),
            settings[c.combination_id],
        )
        for c in session.cells()
        if c.combination_id in combinations
    ]


def force_words(now: Stage, unit: Unit) -> str:
    """Say how hard a stage is pressed; "" where it is not said."""
    said = f"{unit.shown(now.force_n):.3g} {unit.symbol}" if now.force_n else ""
    if now.force_n and unit.symbol == "N":
        said += f", {kilos_words(now.force_n)}"
    if not now.by_weight:
        return said
    return f"its own weight{f', {said}' if said else ''}"


def settings_words(session: Session, stage: Stage) -> str:
    """Say how a stage is set, in one line: dial, speed, force, arm, tilt; "" where nothing is."""
    arm = f"arm {stage.arm_mm_s:.3g} mm/s" if stage.arm_mm_s and not stage.burst_s else ""
    tilt = f"tilted {stage.tilt_deg:g}°" if stage.tilt_deg else ""
    parts = (
        f"dial {stage.dial}" if stage.dial else "",
        f"{stage.speed:.0f}/min" if stage.speed else "",
        force_words(stage, session.unit("force")),
        arm,
        f"bursts of {stage.burst_s:g} s" if stage.burst_s else "",
        tilt,
    )
    return ", ".join(p for p in parts if p)


def _all_settings(session: Session, combination: Combination) -> str:
    """Say how each stage is set; once where all are set alike."""
    each = [settings_words(session, stage) for stage in combination.stages]
    if len(set(each)) <= 1:
        return each[0] if each else ""
    return "; ".join(f"stage {i}: {words}" for i, words in enumerate(each, 1) if words)


def rulers(session: Session) -> list[Ruler]:
    """Return where tape goes, once for panels that are taped alike."""
    alike: dict[Taping, list[str]] = {}
    for panel in session.panels():
        alike.setdefault(panel.taping, []).append(panel.name)
    found = []
    for taping, names in alike.items():
        cells = taping.cells()
        across = [(c.x_mm, c.x_mm + c.width_mm) for c in cells if c.row == 0]
        down = [(c.y_mm, c.y_mm + c.height_mm) for c in cells if c.column == 0]
        found.append(Ruler("width", taping.width_mm, tuple(across), tuple(names)))
        found.append(Ruler("height", taping.height_mm, tuple(down), tuple(names)))
    return found


def kit_list(session: Session, costs: Costs | None) -> list[tuple[str, str]]:
    """Return what is to be laid out before work: what, and how much."""
    cells = session.tally.cells_by
    machines: Counter[str] = Counter()
    for c in session.combinations():
        for stage in c.stages:
            dial = f", dial {stage.dial}" if stage.dial else ""
            machines[f"{stage.machine or 'a machine'}{dial}"] += cells[c.id]
    lines = []
    if costs is not None:
        lines += [
            (f"{name}{f' {mm:.0f} mm' if mm else ''}", f"{n} sets")
            for (name, mm), n in sorted(costs.pads.items())
        ]
        hand = at_hand(session.workshop.connection)
        lines += [
            (name, f"{discs_worn(n, hand.discs.get(name.casefold(), 0))} discs, {n} sets")
            for name, n in sorted(costs.discs.items())
        ]
        lines += [(name, f"about {g:.0f} g") for name, g in sorted(costs.grams.items())]
    lines += [(name, f"{n} times") for name, n in sorted(machines.items()) if n]
    if costs is not None:
        lines += [
            (f"in all: {what}", f"{value}, {how}")
            for what, value, how in cost_lines(costs, hand, session.coat)
        ]
    return lines
