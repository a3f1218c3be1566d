"""What the stage at hand does to a section, for the kit view."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from loam.core.design.costs import taken_off
from loam.core.dose import section_dose
from loam.core.dose.edge import Edge, edge_of
from loam.core.dose.stage import settings_for
from loam.core.errors import LoamError
from loam.core.film import CLEAR
from loam.core.removal import Known
from loam.core.stats.reduce import FloatArray
from loam.core.trial import Panel, Stage
from loam.core.words.dose import ROOM_MM, dose_words, edge_words, removed_words, time_words

SECTION_MM = 375.0


@dataclass(frozen=True)
class DoseView:
    """A dose as it is shown.

    Attributes
    ----------
    map : (rows, columns)
        The dose over the plateau.
    width_mm, height_mm : float
    circle : (x, y, diameter) or None
        Where to read, mm from the corner.
    facts, care : tuple of str
    seconds : float
    refusal : str
        Why there is none.
    """

    map: FloatArray
    width_mm: float
    height_mm: float
    circle: tuple[float, float, float] | None
    facts: tuple[str, ...]
    care: tuple[str, ...]
    seconds: float
    refusal: str = ""
    edge: Edge | None = None


def section_of(panels: Sequence[Panel]) -> tuple[float, float]:
    """Return the section that a stage works: a cell of the trial, or a usual section."""
    if panels:
        taping = panels[0].taping
        return taping.cell_width_mm, taping.cell_height_mm
    return SECTION_MM, SECTION_MM


def view_dose(
    stage: Stage,
    width_mm: float,
    height_mm: float,
    classes: Sequence[str],
    works_s: float | None = None,
    known: Known | None = None,
    coat: str = CLEAR,
    stages: Sequence[Stage] = (),
) -> DoseView:
    """Work out a stage's dose; made for a worker thread.

    ``works_s`` is how long the compound works, where the shelf knows it; ``known`` what was
    measured of Kp, by recipe and hardness; ``coat`` what it takes off; ``stages`` all stages of
    its combination: what they take off together is what is measured and planned by.
    """
    try:
        given = settings_for(stage, width_mm, height_mm)
        dose = section_dose(given.section)
    except LoamError as error:
        empty = np.zeros((1, 1))
        return DoseView(empty, width_mm, height_mm, None, (), (), 0.0, str(error))
    if stage.disc and not stage.compound:
        works_s = math.inf  # nothing on it dries
    said = dose_words(dose, given.assumed, stage.compound, works_s)
    edge = edge_of(dose)
    whole = stages if len(stages) > 1 else (stage,)
    try:
        ranges = [
            (h, *taken_off(whole, (width_mm, height_mm), h, known or {}))
            for h in classes or ("medium",)
        ]
        taken: tuple[str, ...] = (removed_words(ranges, coat, len(whole)),)
    except LoamError:
        taken = ()  # another of its stages does not say enough of itself
    circle = None
    if dose.circle_mm >= ROOM_MM:
        circle = (*dose.circle_at_mm, dose.circle_mm)
    size = f"{width_mm:.0f} × {height_mm:.0f} mm, pad {given.section.pad_mm:.0f} mm."
    facts = (size, *said.facts[:-1], edge_words(edge), *taken, said.facts[-1])
    return DoseView(
        dose.section / dose.plateau,
        width_mm,
        height_mm,
        circle,
        facts,
        said.care,
        dose.time_s,
        edge=edge,
    )


def spoken(view: DoseView) -> str:
    """Say a dose in one go, for a screen reader."""
    if view.refusal:
        return view.refusal
    return " ".join([*view.care, *view.facts, f"In all {time_words(view.seconds)}."])
