"""Photographs of a cell: loaded, their tape found, measured, and what is kept of them."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from loam.app.presenters.reading import EntryState
from loam.core.film import FilmBuild
from loam.core.inspection import GRID_SIDE
from loam.core.photo import PAINTS, Found, PhotoResult, Region, find_tape, measure
from loam.core.readings import BY_KEY
from loam.core.stats.reduce import FloatArray
from loam.core.trial import Reading
from loam.core.words.photo import photo_words
from loam.store.about import Taken
from loam.store.picture_file import read_picture
from loam.store.safe_files import open_regular

PREVIEW_PX = 900
SCALE = "photograph"
PAINT_WORDS = {"black": "black or dark solid", "silver": "silver or metallic", "white": "white"}


@dataclass(frozen=True)
class Photo:
    """A photograph that was loaded.

    Attributes
    ----------
    values : (h, w)
        sRGB, 0 to 1.
    preview : (m, n) uint8
        Small, to be shown; ``scale`` pixels of the whole are one of it.
    found : Found or None
        Cell and strip, where the tape was found.
    """

    path: Path
    sha256: str
    values: FloatArray
    preview: np.ndarray[Any, np.dtype[np.uint8]]
    scale: int
    found: Found | None


@dataclass(frozen=True)
class Pair:
    """What is to be measured: both photographs, the regions in BEFORE, and the paint.

    ``nail`` is where a scratch catches the nail: out of scope, and not counted.
    """

    before: Photo
    after: Photo
    cell: Region
    strip: Region
    paint: str
    nail: Region | None = None


def load_photo(path: Path) -> Photo:
    """Load a photograph and look for its tape; made for a worker thread.

    Raises
    ------
    LoamError
        When it cannot be read.
    """
    values = read_picture(path)
    with open_regular(path) as file:
        sha256 = hashlib.sha256(file.read()).hexdigest()
    scale = max(1, -(-max(values.shape) // PREVIEW_PX))
    preview = np.asarray(np.rint(values[::scale, ::scale] * 255.0), np.uint8)
    return Photo(path, sha256, values, np.ascontiguousarray(preview), scale, find_tape(values))


def usual_regions(photo: Photo) -> tuple[Region, Region]:
    """Return cell and strip as found, or where they usually lie."""
    if photo.found is not None:
        return photo.found.cell, photo.found.strip
    h, w = photo.values.shape
    side = round(0.04 * min(h, w))
    cut = round(0.22 * h)
    strip = Region(side, side, w - 2 * side, cut - 2 * side)
    return Region(side, cut, w - 2 * side, h - cut - side), strip


def paint_of(build: FilmBuild) -> str:
    """Return the kind of paint that a panel's build suggests."""
    colour = f"{build.colour} {build.lightness}".lower()
    if any(word in colour for word in ("silver", "metallic", "flake")):
        return "silver"
    if any(word in colour for word in ("white", "light", "pale")):
        return "white"
    return next(iter(PAINTS))


def measure_pair(pair: Pair, told: Callable[[float], None]) -> PhotoResult:
    """Measure; made for a worker thread. ``told`` may raise to stop it."""

    def tell(share: float) -> bool:
        told(share)
        return True

    return measure(
        pair.before.values,
        pair.after.values,
        pair.paint,
        pair.cell,
        pair.strip,
        tell,
        keep=True,
        outside=_outside(pair),
    )


def _outside(pair: Pair) -> list[Region]:
    return [pair.nail] if pair.nail is not None else []


def nail_region(cell: Region, squares: Sequence[int] = ()) -> Region:
    """Return where in a cell the nail catches: about the squares of the grid, else its middle."""
    rows, columns = [i // GRID_SIDE for i in squares], [i % GRID_SIDE for i in squares]
    if not squares:
        rows, columns = [3, 4], [3, 4]
    top, left = min(rows) / GRID_SIDE, min(columns) / GRID_SIDE
    down, across = (max(rows) + 1) / GRID_SIDE, (max(columns) + 1) / GRID_SIDE
    return Region(
        cell.x + round(left * cell.width),
        cell.y + round(top * cell.height),
        max(round((across - left) * cell.width), 8),
        max(round((down - top) * cell.height), 8),
    )


def moved(region: Region, across: int, down: int, *, size: bool, shape: tuple[int, ...]) -> Region:
    """Return a region moved, or made larger, within the picture."""
    h, w = shape
    if size:
        wide = min(max(region.width + across, 16), w - region.x)
        high = min(max(region.height + down, 16), h - region.y)
        return replace(region, width=wide, height=high)
    x = min(max(region.x + across, 0), w - region.width)
    y = min(max(region.y + down, 0), h - region.height)
    return replace(region, x=x, y=y)


def result_words(found: PhotoResult) -> str:
    """Say what was measured, or why it was refused."""
    return photo_words(found)


def facts_of(pair: Pair, found: PhotoResult) -> dict[str, Any]:
    """Return what is kept of a pair."""

    def box(r: Region) -> list[int]:
        return [r.x, r.y, r.width, r.height]

    return {
        "before": pair.before.path.name[:120],
        "before_sha256": pair.before.sha256,
        "after": pair.after.path.name[:120],
        "after_sha256": pair.after.sha256,
        "paint": pair.paint,
        "cell": box(pair.cell),
        "strip": box(pair.strip),
        **({"outside": [box(o) for o in _outside(pair)]} if pair.nail is not None else {}),
        "removed_pct": found.removed_pct,
        "error_points": found.error_points,
        "refused": found.refused,
        "reason": found.reason,
        "warnings": " ".join(found.warnings),
        "measure": "loss of brightness-weighted mark length",
    }


def reading_of(
    state: EntryState, found: PhotoResult, photo: Photo, reader: str, day: str
) -> Reading:
    """Return the measured removal as a reading of the cell, on the scale of photographs.

    A loss below nothing (more marks than before) is kept as 0: the exact figure is with the pair.
    """
    kind = BY_KEY["defects"]
    value = min(max(round(found.removed_pct or 0.0, 1), kind.low), kind.high)
    return Reading(
        0,
        state.cell.id,
        kind.key,
        value,
        "after",
        state.next_ordinal,
        1,
        SCALE,
        "",
        day,
        reader=reader,
        about=Taken(photo=photo.sha256).as_text(),
        mark=f"± {found.error_points:.0f} points" if found.error_points else "",
    )
