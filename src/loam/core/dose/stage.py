"""From a stage as it is named to its dose; what is not said is assumed, and told."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from loam.core.dose.force import SANDING, tilt_of, usual_force_n, weight_n
from loam.core.dose.path import passes
from loam.core.dose.settings import SectionSettings
from loam.core.kit.grit import grit_of, sanding_kp
from loam.core.kit.sizes import orbits_for
from loam.core.machines import BY_KEY as MACHINE_BY_KEY
from loam.core.trial import Stage

PAD_MM = 150.0
ARM_MM_S = 25.0
OVERLAP = 0.5
PASSES = 4
GRID_MM = 2.0
KP = {"coarse": (2.0, 14.0), "polish": (3.0, 8.0), "fine": (0.2, 2.5)}
"""nm removed per kPa m, from and to, by class of compound, before anything was measured."""
PAD_PART: dict[str, tuple[float, float]] = {
    "foam-soft": (0.0, 0.5),
    "foam": (0.1, 0.65),
    "foam-firm": (0.3, 0.9),
    "wool-foam": (0.35, 0.95),
    "wool": (0.45, 1.0),
    "microfibre": (0.45, 1.0),
}
"""The part of that range, by its logarithm, that a pad of a material is assumed to lie in."""
HARDNESS_FACTOR = {"soft": 1.5, "medium": 1.0, "hard": 0.6}
"""Assumed."""


@dataclass(frozen=True)
class StageSettings:
    """Settings of a stage's dose on a section, and which of them are assumed."""

    section: SectionSettings
    assumed: tuple[str, ...]


def settings_for(stage: Stage, width_mm: float, height_mm: float) -> StageSettings:
    """Return the settings of a stage's dose on a section; a burst is a section pass of its time.

    Raises
    ------
    ValueRefused
        When a figure cannot be.
    """
    assumed: list[str] = []

    def said(value: float | None, usual: float, what: str) -> float:
        if value is None:
            assumed.append(what)
        return usual if value is None else value

    kind = stage.machine_kind or "free-orbital"
    if not stage.machine_kind:
        assumed.append("a free-spinning orbital")
    known = MACHINE_BY_KEY[kind]
    orbit, speed, turns = known.orbit_mm, known.speed, known.own_turns
    usual = _usual_pad(min(width_mm, height_mm))
    pad = said(stage.pad_mm, usual, f"a pad of {usual:g} mm")
    orbit = min(orbit, max(orbits_for(pad)))
    throw = 0.0 if kind == "rotary" else said(stage.orbit_mm, orbit, f"an orbit of {orbit:g} mm")
    fast = said(stage.speed, speed, f"{speed:g} a minute")
    force = _force(stage, kind, pad, assumed)
    arm = said(stage.arm_mm_s, ARM_MM_S, f"{ARM_MM_S:g} mm/s")
    overlap = said(stage.overlap, OVERLAP, "half overlap")
    tilt = 0.0
    if stage.tilt_deg:
        what = SANDING if stage.disc else stage.pad_material
        tilt = min(tilt_of(stage.tilt_deg, pad, force, what), 200.0)
        assumed.append("the pad's stiffness")
    if not stage.passes:
        assumed.append(f"{PASSES} passes")
    grid = max(GRID_MM, math.sqrt(width_mm * height_mm) / 400.0)
    section = SectionSettings(
        machine=kind,
        pad_mm=pad,
        throw_mm=throw,
        orbits_per_min=0.0 if kind == "rotary" else fast,
        rotation_rpm=fast * turns,
        force_n=force,
        width_mm=width_mm,
        height_mm=height_mm,
        overlap=overlap,
        passes=min(stage.passes or PASSES, 40),
        arm_mm_s=arm,
        half_line_shift=bool(stage.line_shift),
        tilt=tilt,
        grid_mm=grid,
    )
    if stage.burst_s is not None:
        way = sum(w.length_mm for w in passes(section)) / section.passes
        section = replace(section, arm_mm_s=min(max(way / stage.burst_s, 0.5), 2_000.0))
        assumed = [what for what in assumed if not what.endswith("mm/s")]
    return StageSettings(section, tuple(assumed))


def _force(stage: Stage, kind: str, pad_mm: float, assumed: list[str]) -> float:
    """Return how hard a stage presses, N; what is not said is assumed, and told."""
    if stage.force_n is not None:
        return stage.force_n
    if stage.by_weight:
        usual, whose = weight_n(None), "the machine's own weight as "
    else:
        grade = SANDING if stage.disc else stage.compound_class
        usual, whose = usual_force_n(kind, pad_mm, grade), ""
    assumed.append(f"{whose}{usual:.0f} N")
    return usual


def _usual_pad(short_mm: float) -> float:
    """Return the pad that is assumed where none is said: a usual one, smaller on small cells."""
    if short_mm >= 1.25 * PAD_MM:
        return PAD_MM
    return max(25.0, 25.0 * int(short_mm / 2.5 / 25.0))


def assumed_kp(compound_class: str, pad_material: str) -> tuple[float, float]:
    """Return what is assumed of Kp, nm per kPa m, from and to: all of it where little is known."""
    low, high = KP.get(compound_class, (0.2, 14.0))
    from_, to = PAD_PART.get(pad_material, (0.0, 1.0)) if compound_class in KP else (0.0, 1.0)
    return low * (high / low) ** from_, low * (high / low) ** to


FINE_GRIT = 2500.0
"""From here on a disc refines; coarser ones take clear off as a cutting compound does."""


def heavy_sets(stages: Sequence[Stage]) -> int:
    """Return how many heavy sets work a place: cutting compounds, and sanding below P2500.

    A set is as many passes as are usual; one begun counts whole.
    """
    count = 0
    for stage in stages:
        grit = grit_of(stage.disc, stage.grit) if stage.disc else None
        sands = bool(stage.disc) and (grit is None or grit < FINE_GRIT)
        if sands or (not stage.disc and stage.compound_class == "coarse"):
            count += math.ceil((stage.passes or PASSES) / PASSES)
    return count


def removed_range(stage: Stage, dose: float, hardness: str) -> tuple[float, float]:
    """Return the clear that a dose (kPa m) may take off, µm, from and to, before it is measured."""
    if stage.disc:
        low, high = sanding_kp(grit_of(stage.disc, stage.grit), damp=bool(stage.damp))
    else:
        low, high = assumed_kp(stage.compound_class, stage.pad_material)
    factor = HARDNESS_FACTOR.get(hardness, 1.0)
    return dose * low * factor * 1e-3, dose * high * factor * 1e-3
