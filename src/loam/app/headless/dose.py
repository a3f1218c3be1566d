"""The dose of one section from a file of settings, as the dose view shows it."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from loam.app.headless.common import FAILED, answer, as_json, complain
from loam.core.dose import SectionDose, SectionSettings, section_dose
from loam.core.errors import LoamError, ValueRefused
from loam.core.machines import KINDS
from loam.store.json_file import REQUIRED, Fields, read_json

PROFILE = (0, 20, 40, 60, 80)
APERTURES = (6, 10)


def run(arguments: Sequence[str]) -> int:
    """Run ``loam dose`` and return the exit status: 0, or 2 after an error on stderr."""
    parser = argparse.ArgumentParser(
        prog="loam dose", description="The dose that a stage's settings give a section."
    )
    parser.add_argument("file", type=Path, metavar="CASE.json")
    parser.add_argument("--json", action="store_true", help="print JSON instead of text")
    options = parser.parse_args(arguments)
    try:
        figures = figures_of(section_dose(settings_of(read_json(options.file, "the case"))))
    except LoamError as error:
        complain(error)
        return FAILED
    if options.json:
        answer(as_json(figures))
    else:
        answer("\n".join(f"{name}: {value}" for name, value in figures.items()))
    return 0


def settings_of(case: Fields) -> SectionSettings:
    """Build settings from a case: its fields, or those under ``inputs``.

    Raises
    ------
    ValueRefused
        For a field that is missing, unknown, or cannot be.
    """
    given = case.inner("inputs") if case.has("inputs") else case
    if given is not case:
        case.drop("id", "expected", "note", "notes")
        case.done()
    given.drop("id")
    word = given.text("machine").strip().lower()
    kind = next((k for k in KINDS if word == k.key or word in k.words), None)
    if kind is None:
        raise ValueRefused(
            f"{word!r} is no kind of machine.", where=given.where, todo="Use free, forced, rotary."
        )
    rotary = kind.key == "rotary"
    pad = given.number("pad_mm")
    width, height = given.pair("section_mm")
    settings = SectionSettings(
        machine=kind.key,
        pad_mm=pad,
        throw_mm=given.number("throw_mm", 0.0 if rotary else REQUIRED),
        orbits_per_min=given.number("orbits_per_min", 0.0 if rotary else REQUIRED),
        rotation_rpm=given.number("pad_rotation_rpm", REQUIRED if rotary else 0.0),
        force_n=given.number("force_N"),
        width_mm=width,
        height_mm=height,
        overlap=given.number("overlap", 0.5),
        passes=given.whole("section_passes"),
        arm_mm_s=given.number("arm_mm_s", 25.0),
        inset_mm=given.number("inset_mm", 0.5 * pad),
        half_line_shift=given.yes("half_line_shift", False),
        tilt=given.number("tilt", 0.0),
        azimuth_deg=given.number("tilt_azimuth_deg", 0.0),
        edge_loading=given.number("edge_loading", 0.0),
        grid_mm=given.number("grid_mm", 2.0),
    )
    given.done()
    return settings


def figures_of(dose: SectionDose) -> dict[str, Any]:
    """Return the figures of a dose as plain values."""
    low, high = dose.quantile(0.05), dose.quantile(0.95)
    profile = dose.edge_profile(np.array(PROFILE, float))
    return {
        "lines_per_pass": [int(way.at_mm.size) for way in dose.ways],
        "line_spacing_mm": [round(way.spacing_mm, 6) for way in dose.ways],
        "path_length_mm": dose.length_mm,
        "total_time_s": dose.time_s,
        "mean_speed_m_s": dose.speed_m_s,
        "power_per_mu_W": dose.power_w,
        "plateau_analytic_kPa_m": dose.wide_plateau,
        "plateau_kPa_m": dose.plateau,
        "cv": dose.cv,
        "p5_over_plateau": low,
        "p95_over_plateau": high,
        "p5_p95": low / high if high > 0 else 0.0,
        "min_over_plateau": dose.quantile(0.0),
        "max_over_plateau": dose.quantile(1.0),
        "usable_circle_mm": dose.circle_mm,
        **{f"aperture_area_{a}": dose.aperture_share(a) for a in APERTURES},
        "section_mean_over_plateau": dose.mean_share,
        "edge_profile_at_mm_over_plateau": {
            str(at): float(value) for at, value in zip(PROFILE, profile, strict=True)
        },
        "removed_um_at_10nm_per_kPa_m": dose.removed_um(),
    }
