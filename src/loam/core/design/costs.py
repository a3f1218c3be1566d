"""What a laid-out trial costs before it is worked: time, pads, compound and clear."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache

from loam.core.design.plan import Place
from loam.core.dose.path import passes
from loam.core.dose.section import wide_plateau
from loam.core.dose.stage import removed_range, settings_for
from loam.core.errors import ValueRefused
from loam.core.kit import product
from loam.core.panel import Taping
from loam.core.removal import Known, recipe_of
from loam.core.trial import Stage

SET_UP_S = 60.0
"""To clean or swap the pad, prime it and spread the compound, a stage: assumed."""
WIPE_S = 60.0
READ_S = 5.0
"""A wipe, and a reading: assumed."""


@dataclass(frozen=True)
class Costs:
    """What a trial costs.

    Attributes
    ----------
    work_s, read_s : float
        Working with its set-ups, and wiping and reading.
    pads : mapping of (name, mm) to int
        Sets that each pad is worked.
    grams : mapping of str to float
        By compound.
    discs : mapping of str to int
        Sets that each sanding disc cuts.
    trigger_s : mapping of str to float
        Time that each machine runs on the paint.
    clear_um : (low, high) or None
        Off the cell that loses most; None when nothing is worked.
    worst : mapping of int to (str, float, float)
        By panel, from 0: the combination that takes most clear, from and to, µm.
    unknown : int
        Cells whose time could not be worked out.
    measured : bool
        Whether what the cell loses that loses most rests on a measured Kp.
    """

    work_s: float
    read_s: float
    pads: Mapping[tuple[str, float], int]
    grams: Mapping[str, float]
    trigger_s: Mapping[str, float]
    clear_um: tuple[float, float] | None
    worst: Mapping[int, tuple[str, float, float]]
    unknown: int
    measured: bool = False
    discs: Mapping[str, int] = field(default_factory=dict)


def costs(
    assigned: Mapping[Place, str],
    stages: Mapping[str, Sequence[Stage]],
    panels: Sequence[tuple[Taping, str]],
    readings: int,
    known: Known | None = None,
) -> Costs:
    """Add up a trial.

    Parameters
    ----------
    assigned : mapping
        What each place has, a control too.
    stages : mapping
        Stages of each combination; controls have none.
    panels : sequence of (Taping, hardness)
    readings : int
        Readings a cell, all measurands together.
    known : mapping, optional
        Measured Kp by recipe and hardness, instead of what is assumed by class of compound.
    """
    work = 0.0
    unknown = 0
    pads: Counter[tuple[str, float]] = Counter()
    discs: Counter[str] = Counter()
    grams: dict[str, float] = {}
    trigger: dict[str, float] = {}
    clear: tuple[float, float] | None = None
    worst: dict[int, tuple[str, float, float]] = {}
    measured = False
    alike: dict[tuple[str, Taping, str], Counter[int]] = {}
    for place, what in assigned.items():
        alike.setdefault((what, *panels[place[0]]), Counter())[place[0]] += 1
    for (what, taping, hardness), where in alike.items():
        own, cells = stages.get(what, ()), where.total()
        try:
            running, low, high = cell_work(own, taping, hardness, known or {})
        except ValueRefused:
            unknown += cells
            continue
        work += (sum(running) + SET_UP_S * len(own)) * cells
        for stage, seconds in zip(own, running, strict=True):
            trigger[stage.machine] = trigger.get(stage.machine, 0.0) + seconds * cells
            _used(stage, cells, pads, discs, grams)
        if not own:
            continue
        for panel in where:
            if panel not in worst or high > worst[panel][2]:
                worst[panel] = (what, low, high)
        if clear is None or high > clear[1]:
            clear = (low, high)
            measured = (recipe_of(own), hardness) in (known or {})
    read = len(assigned) * (WIPE_S + readings * READ_S)
    return Costs(work, read, dict(pads), grams, trigger, clear, worst, unknown, measured, discs)


def _used(
    stage: Stage,
    cells: int,
    pads: Counter[tuple[str, float]],
    discs: Counter[str],
    grams: dict[str, float],
) -> None:
    """Count what a stage uses up on some cells; what carries a disc does not load."""
    if stage.disc:
        discs[stage.disc] += cells
    if not stage.disc or stage.compound:
        size = stage.pad_mm or 0.0
        pads[stage.pad or "a pad", size] += cells
        name = stage.compound or "compound"
        grams[name] = grams.get(name, 0.0) + cells * product.grams(stage.pad_mm, stage.primed)


def running(stages: Sequence[Stage], taping: Taping) -> list[float]:
    """Return how long the machine runs in one cell, s, stage by stage.

    Raises
    ------
    ValueRefused
        When a stage does not say enough of itself.
    """
    seconds = []
    for stage in stages:
        section = settings_for(stage, taping.cell_width_mm, taping.cell_height_mm).section
        seconds.append(sum(way.length_mm for way in passes(section)) / section.arm_mm_s)
    return seconds


def cell_work(
    stages: Sequence[Stage], taping: Taping, hardness: str, known: Known
) -> tuple[list[float], float, float]:
    """Return seconds of each stage, and clear taken off from and to, of one cell.

    Raises
    ------
    ValueRefused
        When a stage does not say enough of itself.
    """
    seconds = running(stages, taping)
    size = taping.cell_width_mm, taping.cell_height_mm
    low, high, _ = taken_off(stages, size, hardness, known)
    return seconds, low, high


@lru_cache(maxsize=512)
def plateau(stage: Stage, width_mm: float, height_mm: float) -> float:
    """Return the dose of a stage in the even ground of a section, kPa m."""
    section = settings_for(stage, width_mm, height_mm).section
    return wide_plateau(section, passes(section))


def taken_off(
    stages: Sequence[Stage], size_mm: tuple[float, float], hardness: str, known: Known
) -> tuple[float, float, int]:
    """Return what all stages take off a section, from and to in µm, and on how many cells that
    was measured (0 where some of it is assumed by class of compound, or by grit).

    A stage that was measured by itself counts as measured where that tells more than what is
    assumed of it.

    Raises
    ------
    ValueRefused
        When a stage does not say enough of itself.
    """
    low = high = dose = 0.0
    cells: list[int] = []
    for stage in stages:
        own = plateau(stage, *size_mm)
        less, more = removed_range(stage, own, hardness)
        measured = known.get((recipe_of([stage]), hardness))
        if measured is not None:
            from_, to = measured.removed_um(own)
            if to - from_ < more - less:
                less, more = from_, to
                cells.append(measured.cells)
        low, high, dose = low + less, high + more, dose + own
    kp = known.get((recipe_of(stages), hardness))
    if kp is not None:
        return (*kp.removed_um(dose), kp.cells)
    return low, high, min(cells) if stages and len(cells) == len(stages) else 0
