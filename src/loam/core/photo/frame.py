"""A photograph as light: decoded, its lamp spot found, what is too bright left out."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from scipy import ndimage

from loam.core.stats.reduce import FloatArray

CLIPPED = 250.0 / 255.0
LEAST_SPOT_PX = 150
GLARE_RADII = 2.2
GROWN_PX = 12
"""Pixels as bright as the lamp are left out with what lies this near."""
T = TypeVar("T")
R = TypeVar("R")
Mask = np.ndarray[tuple[int, int], np.dtype[np.bool_]]


def linear(values: FloatArray) -> FloatArray:
    """Decode sRGB, 0 to 1, to linear light."""
    v = np.asarray(values, dtype=np.float32)
    low = v / np.float32(12.92)
    high = ((v + np.float32(0.055)) / np.float32(1.055)) ** np.float32(2.4)
    return np.where(v <= 0.04045, low, high).astype(np.float32)


@dataclass(frozen=True)
class Frame:
    """One photograph.

    Attributes
    ----------
    light : (h, w)
        Linear, 0 to 1.
    lamp : (x, y, radius) or None
        The largest spot that is as bright as the picture can show.
    glare : (h, w) bool
        The lamp and its surroundings, and whatever else is as bright.
    clipped : (h, w) bool
        As bright as the picture can show.
    """

    light: FloatArray
    lamp: tuple[float, float, float] | None
    glare: Mask
    clipped: Mask


def frame_of(values: FloatArray) -> Frame:
    """Look at a photograph, sRGB values 0 to 1 of shape (h, w)."""
    clipped: Mask = np.asarray(values >= CLIPPED)
    lamp = _lamp(clipped)
    glare = _grown(clipped)
    if lamp is not None:
        x, y, radius = lamp
        h, w = clipped.shape
        down, across = np.ogrid[:h, :w]
        glare |= (across - x) ** 2 + (down - y) ** 2 < (GLARE_RADII * radius) ** 2
    return Frame(linear(values), lamp, glare, clipped)


def _lamp(clipped: Mask) -> tuple[float, float, float] | None:
    label, count = ndimage.label(clipped)
    if not count:
        return None
    sizes = np.bincount(label.ravel())
    sizes[0] = 0
    best = int(sizes.argmax())
    if sizes[best] <= LEAST_SPOT_PX:
        return None
    y, x = ndimage.center_of_mass(label == best)
    return float(x), float(y), float(np.sqrt(sizes[best] / np.pi))


def _grown(clipped: Mask) -> Mask:
    """Return what lies near clipped pixels, in a square."""
    if not clipped.any():
        return np.zeros_like(clipped)
    size = 2 * GROWN_PX + 1
    rows = ndimage.maximum_filter1d(clipped.view(np.uint8), size, axis=0, mode="constant")
    return np.asarray(ndimage.maximum_filter1d(rows, size, axis=1, mode="constant") > 0)


def both(act: Callable[[T], R], first: T, second: T) -> tuple[R, R]:
    """Do the same to both photographs, side by side: filters let go of the interpreter."""
    with ThreadPoolExecutor(2) as pool:
        one, other = pool.submit(act, first), pool.submit(act, second)
        return one.result(), other.result()
