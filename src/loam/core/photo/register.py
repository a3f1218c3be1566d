"""Lay one photograph over the other: shift, turn and scale, from marks, tape and texture.

The whole frame gives a shift (cross-power spectrum of ridge maps, divided by the root of its
modulus); tiles that were laid over each other by it give small shifts of their own, and a
similarity through these gives the turn and the scale.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import fft, ndimage

from loam.core.photo.frame import Frame, Mask, both
from loam.core.stats.reduce import FloatArray

SEARCH_PX = 40
TILES = 5
ROUNDS = 2
_SIGMA = 1.5
_BRIGHT = 0.997
_TILE_SEARCH = 12
_FLAT = 1e-12
_LEAST_TILES = 6


@dataclass(frozen=True)
class Fit:
    """How AFTER lies over BEFORE: BEFORE(p) = AFTER(matrix p + offset), p as (row, column).

    Attributes
    ----------
    shift : (x, y)
        In the middle of the frame, px, to be undone.
    turn_deg, scale : float
    at_limit : bool
        The shift lies at the end of what is searched.
    """

    matrix: FloatArray
    offset: FloatArray
    shift: tuple[float, float]
    turn_deg: float
    scale: float
    at_limit: bool


def register(before: Frame, after: Frame) -> list[Fit]:
    """Find how AFTER lies over BEFORE: turned and scaled, and shifted alone; the same once."""
    a, b = both(_ridges, before, after)
    middle = np.array(a.shape) / 2.0
    x, y, limit = _shift(a, b, SEARCH_PX)
    matrix, at = np.eye(2), np.array([y, x])
    # BEFORE(p) = AFTER(M (p - middle) + middle - at)
    plain = _fit(matrix, at, middle, limit)
    under, start = b, (round(y), round(x))
    for number in range(ROUNDS):
        centres, moves = _tiles(a, under, start)
        if len(centres) < _LEAST_TILES:
            break
        turned, move = _similarity(centres, moves)
        if number == 0:
            matrix, at = turned, move
        else:  # what is left over after the first turn
            matrix, at = matrix @ turned, at + matrix @ move
        if np.array_equal(matrix, np.eye(2)):
            break
        under = ndimage.affine_transform(b, matrix, middle - at - matrix @ middle, order=1)
        start = (0, 0)
    if np.array_equal(matrix, np.eye(2)):
        return [plain]
    return [_fit(matrix, at, middle, limit), plain]


def _fit(matrix: FloatArray, at: FloatArray, middle: FloatArray, limit: bool) -> Fit:
    offset = middle - at - matrix @ middle
    turn = float(np.degrees(np.arctan2(matrix[1, 0], matrix[0, 0])))
    scale = float(np.hypot(matrix[0, 0], matrix[1, 0]))
    return Fit(matrix, offset, (float(at[1]), float(at[0])), turn, scale, limit)


def _tiles(a: FloatArray, b: FloatArray, start: tuple[int, int]) -> tuple[FloatArray, FloatArray]:
    """Return middles of tiles, from the frame's middle, and how far each of them has moved."""
    h, w = a.shape
    centres, moves = [], []
    tall, wide = h // TILES, w // TILES
    if min(tall, wide) >= 4 * _TILE_SEARCH:
        for i in range(TILES):
            for j in range(TILES):
                part = (slice(i * tall, (i + 1) * tall), slice(j * wide, (j + 1) * wide))
                own = _moved(b, part, *start)
                if own is None:
                    continue
                x, y, edge = _shift(a[part], own, _TILE_SEARCH)
                if not edge:
                    centres.append(((i + 0.5) * tall - h / 2, (j + 0.5) * wide - w / 2))
                    moves.append((start[0] + y, start[1] + x))
    return np.array(centres), np.array(moves)


def laid_over(light: FloatArray, fit: Fit) -> FloatArray:
    """Return AFTER as it lies over BEFORE."""
    still = np.allclose(fit.matrix, np.eye(2), atol=2e-5)
    if still and max(abs(s) for s in fit.shift) < 0.02:
        return light
    if still:
        y, x = fit.shift[1], fit.shift[0]
        return np.asarray(ndimage.shift(light, (y, x), order=3, mode="nearest"), np.float32)
    return np.asarray(
        ndimage.affine_transform(light, fit.matrix, fit.offset, order=3, mode="nearest"),
        np.float32,
    )


def _ridges(frame: Frame) -> FloatArray:
    """Return how much of a ridge, bright or dark, lies at each pixel; glare is blank."""
    yy, xx, xy = (
        ndimage.gaussian_filter(frame.light, _SIGMA, order=o) for o in ((2, 0), (0, 2), (1, 1))
    )
    half = 0.5 * (yy - xx)
    ridge = np.abs(0.5 * (yy + xx)) + np.sqrt(half * half + xy * xy)
    ridge = np.minimum(ridge, np.quantile(ridge[::4, ::4], _BRIGHT))
    ridge[frame.glare] = 0.0
    return np.asarray(ridge - ridge.mean(), np.float32)


def _window(n: int) -> FloatArray:
    return np.asarray(np.hanning(n + 2)[1:-1] ** 0.25, np.float32)


def _shift(a: FloatArray, b: FloatArray, search: int) -> tuple[float, float, bool]:
    """Return the shift (x, y) that lays ``b`` over ``a``, and whether it is at the limit."""
    window = _window(a.shape[0])[:, None] * _window(a.shape[1])[None, :]
    size = [fft.next_fast_len(n, real=True) for n in a.shape]
    one, other = (fft.rfft2(m * window, s=size, workers=2) for m in (a, b))
    cross = one * np.conj(other)
    cross /= np.sqrt(np.abs(cross)) + _FLAT
    peak = fft.irfft2(cross, s=size, workers=2)
    peak = np.roll(peak, (search, search), (0, 1))[: 2 * search + 1, : 2 * search + 1]
    i, j = (int(k) for k in np.unravel_index(int(peak.argmax()), peak.shape))
    edge = i in (0, 2 * search) or j in (0, 2 * search)
    if edge:
        return float(j - search), float(i - search), True
    y = i - search + _parabola(peak[i - 1 : i + 2, j])
    x = j - search + _parabola(peak[i, j - 1 : j + 2])
    return x, y, False


def _parabola(three: FloatArray) -> float:
    bend = float(three[0] - 2.0 * three[1] + three[2])
    return 0.0 if bend == 0.0 else 0.5 * float(three[0] - three[2]) / bend


def _moved(b: FloatArray, part: tuple[slice, slice], down: int, across: int) -> FloatArray | None:
    """Return the tile of ``b`` that lies under ``part`` once it is shifted; None over the edge."""
    rows, columns = part
    top, left = rows.start - down, columns.start - across
    bottom, right = rows.stop - down, columns.stop - across
    top, left = max(top, 0), max(left, 0)
    tall, wide = rows.stop - rows.start, columns.stop - columns.start
    bottom, right = min(bottom, b.shape[0]), min(right, b.shape[1])
    if bottom - top < tall or right - left < wide:
        return None
    return b[top:bottom, left:right]


def _similarity(centres: FloatArray, moves: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Fit shift, turn and scale to the tiles, those that stray left out; small ones are none."""
    keep = np.ones(len(centres), dtype=bool)
    middle: FloatArray = np.asarray(np.median(moves, axis=0))
    turn = grow = 0.0
    shift: FloatArray = middle
    for _ in range(4):
        if keep.sum() < _LEAST_TILES:
            return np.eye(2), middle
        y, x = centres[keep].T
        rows = np.zeros((2 * y.size, 4))
        rows[: y.size] = np.column_stack([np.ones_like(y), np.zeros_like(y), y, x])
        rows[y.size :] = np.column_stack([np.zeros_like(y), np.ones_like(y), x, -y])
        found, *_ = np.linalg.lstsq(rows, moves[keep].T.ravel(), rcond=None)
        shift = np.asarray(found[:2], float)
        grow, turn = float(found[2]), float(found[3])
        y, x = centres.T
        told = np.column_stack([shift[0] + grow * y + turn * x, shift[1] + grow * x - turn * y])
        stray = np.hypot(*(moves - told).T)
        keep = stray <= max(1.0, 2.5 * float(np.median(stray)))
    reach = float(np.abs(centres).max())
    if max(abs(grow), abs(turn)) * reach < 0.25:  # less than a quarter of a pixel at the edge
        return np.eye(2), shift
    # a point of BEFORE at c lies in AFTER at c - move(c)
    return np.array([[1.0 - grow, -turn], [turn, 1.0 - grow]]), shift


def masks_over(mask: Mask, fit: Fit) -> Mask:
    """Return a mask of AFTER as it lies over BEFORE."""
    if not mask.any():
        return mask
    if np.array_equal(fit.matrix, np.eye(2)):
        across, down = (round(s) for s in fit.shift)
        return np.asarray(ndimage.shift(mask, (down, across), order=0, mode="nearest"))
    moved = ndimage.affine_transform(
        mask.astype(np.float32), fit.matrix, fit.offset, order=1, mode="nearest"
    )
    return np.asarray(moved > 0.01)
