"""How strongly marks answer, before and after, with everything that is no mark taken out.

A groove lights up where its side throws the lamp into the camera, so lit marks run round the lamp
spot. Noise, metallic flake and texture have no such direction. So the second derivative across
(along the radius from the lamp) carries marks and noise, the one along carries noise alone, and
the difference of their products is what marks give: S(b, a) = sum of (b_r a_r - b_t a_t). Noise
and flake cancel in the mean, whatever they are, and no threshold picks pixels.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from loam.core.photo.frame import Mask, both
from loam.core.stats.reduce import FloatArray

SIGMA = 2.0
"""Width of the filter, px: as wide as marks are seen."""


@dataclass(frozen=True)
class Answers:
    """Second derivatives across and along the circles round the lamp, of both photographs."""

    before_across: FloatArray
    before_along: FloatArray
    after_across: FloatArray
    after_along: FloatArray


def answers(before: FloatArray, after: FloatArray, lamp: tuple[float, float]) -> Answers:
    """Filter both photographs in the frame of the lamp."""
    h, w = before.shape
    y = np.arange(h, dtype=np.float32)[:, None] - np.float32(lamp[1])
    x = np.arange(w, dtype=np.float32)[None, :] - np.float32(lamp[0])
    square = np.maximum(x * x + y * y, 1.0)
    cc, cs, ss = x * x / square, x * y / square, y * y / square

    def filtered(light: FloatArray) -> tuple[FloatArray, FloatArray]:
        xx, yy, xy = (
            ndimage.gaussian_filter(light, SIGMA, order=o) for o in ((0, 2), (2, 0), (1, 1))
        )
        turned = 2.0 * cs * xy
        return -(cc * xx + turned + ss * yy), -(ss * xx - turned + cc * yy)

    first, second = both(filtered, before, after)
    return Answers(*first, *second)


@dataclass(frozen=True)
class Blocks:
    """Sums over the blocks of a region: (k,) each.

    Attributes
    ----------
    bb, ba, aa : (k,)
        Products before-before, before-after, after-after, along taken from across.
    raw : (k,)
        Before-before across alone: marks and noise.
    count : (k,)
        Pixels.
    """

    bb: FloatArray
    ba: FloatArray
    aa: FloatArray
    raw: FloatArray
    count: FloatArray


def blocks(
    found: Answers, usable: Mask, box: tuple[slice, slice], rows: int, columns: int
) -> Blocks:
    """Sum up a region in blocks, so that its own scatter tells its error."""
    b, c = found.before_across[box], found.before_along[box]
    a, d = found.after_across[box], found.after_along[box]
    ok = usable[box].astype(np.float32)
    h, w = ok.shape
    row_at = np.unique(np.linspace(0, h, rows + 1).astype(int))[:-1]
    column_at = np.unique(np.linspace(0, w, columns + 1).astype(int))[:-1]

    def summed(values: FloatArray) -> FloatArray:
        part = np.add.reduceat((values * ok).astype(np.float64), row_at, axis=0)
        return np.asarray(np.add.reduceat(part, column_at, axis=1).ravel())

    return Blocks(
        summed(b * b - c * c),
        summed(b * a - c * d),
        summed(a * a - d * d),
        summed(b * b),
        summed(np.ones_like(ok)),
    )
