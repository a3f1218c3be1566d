"""Readings that look like a slip of the decimal point, or of two digits."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np

from loam.core.readings import BY_KEY
from loam.core.readings.kind import ReadingKind
from loam.core.readings.slip import swapped_digits
from loam.core.scale import Scale, scale_for
from loam.core.snapshot import Columns, FloatArray, IntArray
from loam.core.trial import PHASES

OnScale = Callable[[FloatArray], FloatArray]
LEAST = 3
"""Readings of a cell from which one can be told to be odd."""
DECIMAL_SD, SWAP_SD, NEAR_SD = 6.0, 8.0, 4.0
"""Robust standard deviations: so far off, and so near once it is mended."""
TAILS = 4.0
"""Degrees of freedom of the t as which readings are taken to scatter, with heavy tails."""
_FACTORS = (0.1, 10.0, 0.01, 100.0)


@dataclass(frozen=True)
class Slipped:
    """A reading by its row, what it likely was, and the chance of being so far off by itself."""

    row: int
    meant: float
    p: float


def slips(columns: Columns, alpha: float) -> list[Slipped]:
    """Return the readings that another figure of the same digits fits, and they do not."""
    found: list[Slipped] = []
    for m, measurand in enumerate(columns.measurands):
        kind = BY_KEY.get(measurand)
        if kind is None:
            continue
        for phase in range(len(PHASES)):
            rows = np.flatnonzero((columns.measurand == m) & (columns.phase == phase))
            if rows.size < LEAST:
                continue
            values = columns.value[rows]
            scale = scale_for(kind, values, columns.scales[int(columns.scale[rows[0]])])
            step = max(10.0**-kind.decimals, 1e-6)
            repeat = 0.5 * max(kind.repeatability, step)
            if scale.ratio:
                repeat = dict(kind.usual).get("residual", repeat)
            on_scale = _within(scale, kind)
            least = 0.0 if scale.ratio else 0.02
            found += _of(columns, rows, kind, repeat, alpha, on_scale, least)
    return found


def _within(scale: Scale, kind: ReadingKind) -> OnScale:
    """Return how figures are brought onto the scale; what cannot be read lies at its ends."""

    def on_scale(values: FloatArray) -> FloatArray:
        return scale.to(np.clip(values, kind.low, kind.high))

    return on_scale


def _of(
    columns: Columns,
    rows: IntArray,
    kind: ReadingKind,
    repeat: float,
    alpha: float,
    on_scale: OnScale,
    least: float,
) -> Iterable[Slipped]:
    """Look through the readings of one measurand in one phase.

    A figure far off that only happens to have a slip near its cell is rare in the measure in which
    that slip is nearer than the figure: by that its chance is less.
    """
    from scipy.special import stdtr

    stage = columns.stage[rows]
    key = columns.cell[rows] * (int(stage.max()) + 1) + stage
    seen = on_scale(columns.value)
    rows = rows[np.lexsort((seen[rows], key))]
    key = np.sort(key)
    starts = np.flatnonzero(np.r_[True, key[1:] != key[:-1]])
    sizes = np.diff(np.r_[starts, key.size])
    off, odd = [], []
    for size in np.unique(sizes[sizes >= LEAST]):
        own = rows[starts[sizes == size][:, None] + np.arange(size)]
        values = seen[own]
        off.append((values - np.median(values, axis=1, keepdims=True)).ravel())
        odd.append((own.ravel(), values.ravel(), _without_each(values).ravel()))
    if not odd:
        return
    all_off = np.concatenate(off)
    moved = all_off[all_off != 0.0]
    usual = float(np.median(np.abs(moved))) if moved.size else 0.0
    # of few readings half of those that differ from their cell's middle may be slips
    usual = min(usual, 1.5 * float(np.median(np.abs(all_off))))
    spread = max(1.4826 * usual, repeat)
    row, value, middle = (np.concatenate(each) for each in zip(*odd, strict=True))
    wide = np.maximum(spread, least * np.abs(middle))
    z = np.abs(value - middle) / wide
    p = row.size * 2.0 * stdtr(TAILS, -z)
    for i in np.flatnonzero(z >= DECIMAL_SD):
        shown = float(columns.value[row[i]])
        meant = _meant(shown, float(middle[i]), float(wide[i]), float(z[i]), kind, on_scale)
        if meant is None:
            continue
        figure, near = meant
        far = float(z[i] * wide[i])
        chance = float(p[i]) * min(1.0, 2.0 * (near + float(wide[i])) / far)
        if chance < alpha:
            yield Slipped(int(row[i]), round(figure, kind.decimals), max(chance, 1e-15))


def _without_each(values: FloatArray) -> FloatArray:
    """Return the median of the others of each value (G, n), sorted by row."""
    n = values.shape[1]
    at = np.arange(n)
    low, high = (n - 2) // 2, (n - 1) // 2  # the middle of n - 1, once or twice
    return 0.5 * (values[:, low + (at <= low)] + values[:, high + (at <= high)])


def _meant(
    value: float, middle: float, wide: float, z: float, kind: ReadingKind, on_scale: OnScale
) -> tuple[float, float] | None:
    """Return what a reading likely was, and how far that is off; None where no slip explains it."""
    likely = [value * f for f in _FACTORS]
    if z >= SWAP_SD:
        likely += swapped_digits(value, kind.decimals)
    likely = [v for v in likely if kind.low <= v <= kind.high]
    places = on_scale(np.array(likely, float))
    fits = [
        (abs(float(place) - middle), v)
        for v, place in zip(likely, places, strict=True)
        if abs(float(place) - middle) <= NEAR_SD * wide
    ]
    if not fits:
        return None
    near, figure = min(fits)
    return figure, near
