"""Measure a before-and-after pair of photographs, as the window does."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from loam.app.headless.common import FAILED, answer, complain
from loam.app.headless.common import as_json as json_text
from loam.core.errors import LoamError, ValueRefused
from loam.core.photo import PAINTS, PhotoResult, Region, measure
from loam.core.words.photo import photo_words
from loam.store.picture_file import read_picture


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="loam photo", description="Defects removed, from photographs before and after work."
    )
    parser.add_argument("before", type=Path, metavar="BEFORE")
    parser.add_argument("after", type=Path, metavar="AFTER")
    parser.add_argument("--paint", required=True, choices=tuple(PAINTS))
    for name, what in (("cell", "the worked cell"), ("strip", "the untouched strip")):
        parser.add_argument(
            f"--{name}", required=True, metavar="X,Y,W,H", help=f"{what}, px in BEFORE"
        )
    parser.add_argument(
        "--outside",
        action="append",
        default=[],
        metavar="X,Y,W,H",
        help="where a scratch catches the nail, px in BEFORE: not counted (may be given again)",
    )
    parser.add_argument("--json", action="store_true", help="print JSON instead of text")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run ``loam photo`` and return the exit status: 0, or 2 after an error on stderr.

    A pair that is refused is an answer, with its reason, and no error.
    """
    options = _parser().parse_args(arguments)
    try:
        found = measure(
            read_picture(options.before),
            read_picture(options.after),
            options.paint,
            region_of(options.cell, "cell"),
            region_of(options.strip, "strip"),
            outside=[region_of(text, "outside") for text in options.outside],
        )
    except LoamError as error:
        complain(error, options.before.name)
        return FAILED
    answer(json_text(as_json(found)) if options.json else photo_words(found))
    return 0


def region_of(text: str, what: str) -> Region:
    """Read X,Y,W,H.

    Raises
    ------
    ValueRefused
    """
    try:
        x, y, width, height = (int(part) for part in text.split(","))
    except ValueError:
        raise ValueRefused(
            f"{text[:60]!r} is no rectangle.", where=f"--{what}", todo="Give X,Y,W,H in px."
        ) from None
    return Region(x, y, width, height)


def as_json(found: PhotoResult) -> dict[str, Any]:
    """Return a result as plain values."""
    return {
        "removed_pct": found.removed_pct,
        "error_points": found.error_points,
        "refused": found.refused,
        "reason": found.reason,
        "warnings": list(found.warnings),
        "shift_px": list(found.shift),
        "turn_deg": found.turn_deg,
        "gain": found.gain,
        "measure": "loss of brightness-weighted mark length",
    }
