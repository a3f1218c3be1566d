"""From a stage as it is named to its dose; what is not said is assumed, and told."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from loam.core.dose.path import passes
from loam.core.dose.settings import SectionSettings
from loam.core.kit.grit import grit_of, sanding_kp
from loam.core.machines import BY_KEY as MACHINE_BY_KEY
from loam.core.trial import Stage

PAD_MM = 150.0
FORCE_N = 40.0
ARM_MM_S = 25.0
OVERLAP = 0.5
PASSES = 4
GRID_MM = 2.0
KP = {"coarse": (2.0, 14.0), "polish": (3.0, 8.0), "fine": (0.2, 2.5)}
"""nm removed per kPa m, from and to, by class of compound, before anything was measured."""
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
    throw = 0.0 if kind == "rotary" else said(stage.orbit_mm, orbit, f"an orbit of {orbit:g} mm")
    fast = said(stage.speed, speed, f"{speed:g} a minute")
    force = said(stage.force_n, FORCE_N, f"{FORCE_N:g} N")
    arm = said(stage.arm_mm_s, ARM_MM_S, f"{ARM_MM_S:g} mm/s")
    overlap = said(stage.overlap, OVERLAP, "half overlap")
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
        grid_mm=grid,
    )
    if stage.burst_s is not None:
        way = sum(w.length_mm for w in passes(section)) / section.passes
        section = replace(section, arm_mm_s=min(max(way / stage.burst_s, 0.5), 2_000.0))
        assumed = [what for what in assumed if not what.endswith("mm/s")]
    return StageSettings(section, tuple(assumed))


def _usual_pad(short_mm: float) -> float:
    """Return the pad that is assumed where none is said: a usual one, smaller on small cells."""
    if short_mm >= 1.25 * PAD_MM:
        return PAD_MM
    return max(25.0, 25.0 * int(short_mm / 2.5 / 25.0))


def removed_range(stage: Stage, dose: float, hardness: str) -> tuple[float, float]:
    """Return the clear that a dose (kPa m) may take off, µm, from and to, before it is measured."""
    if stage.disc:
        low, high = sanding_kp(grit_of(stage.disc, stage.grit), damp=bool(stage.damp))
    else:
        low, high = KP.get(stage.compound_class, (0.2, 14.0))
    factor = HARDNESS_FACTOR.get(hardness, 1.0)
    return dose * low * factor * 1e-3, dose * high * factor * 1e-3
