"""Inspection by eye: which light shows what, how much remains, counted squares, readers agreed.

How much remains is an estimate in percent, or counted: an overlay of squares, and in how many of
them a mark still shows. Neither is a measured removal, and they never mix with one.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from loam.core.errors import NotEnough, ValueRefused
from loam.core.stats.reduce import FloatArray

LEVEL = 0.90
EYE, GRID = "eye", "grid"
METHODS: tuple[tuple[str, str], ...] = ((EYE, "by eye, in %"), (GRID, "by the grid"))
LIGHTS: tuple[tuple[str, str], ...] = (
    ("point", "point light"),
    ("strip", "strip light"),
    ("sun", "sun"),
)
ANGLES: tuple[tuple[str, str], ...] = (
    ("one", "one angle"),
    ("several", "several angles"),
    ("round", "all round"),
)
GRID_SIDE = 8
MOST_SQUARES = 10_000
LEAST_CELLS = 5
"""Cells under which the agreement of readers is not said."""


@dataclass(frozen=True)
class Defect:
    """A class of defect, and the light that shows it."""

    key: str
    label: str
    light: str
    out_of_scope: bool = False


DEFECTS: tuple[Defect, ...] = (
    Defect("swirls", "swirls", "point"),
    Defect("holograms", "holograms", "point"),
    Defect("sanding", "sanding marks", "point"),
    Defect("bloom", "haze bloom", "point"),
    Defect("texture", "sinkage and texture", "strip"),
    Defect("etching", "etching", "strip"),
    Defect("spots", "water spots", "strip"),
    Defect("deep", "a deep scratch: the nail catches", "point", True),
)
BY_KEY = {d.key: d for d in DEFECTS}
_LABELS = dict((*LIGHTS, *ANGLES, *METHODS))


def advice(defect: str, light: str, angle: str) -> str:
    """Say when another light or another angle would show more; "" when all is well."""
    wanted = BY_KEY[defect]
    if wanted.light == "strip" and light != "strip":
        return f"A strip light shows {wanted.label} better: look at the edge of its reflection."
    if wanted.light == "point" and light == "strip":
        return f"A point light, or the sun, shows {wanted.label} better."
    if defect == "holograms" and angle == "one":
        return "Holograms show from some sides only: look from more than one angle."
    return ""


def pale_words(lightness: str) -> str:
    """Say what eyes see on a pale panel, and which light helps; "" for others."""
    if lightness != "pale":
        return ""
    return (
        "On pale paint eyes see little: a point light in a dark room, close to its glare, shows"
        " swirls best; a strip light shows texture; a gloss or haze meter sees more than either."
    )


@dataclass(frozen=True)
class Looked:
    """One inspection of one cell.

    Attributes
    ----------
    defect, light, angle, method : str
    remains : float or None
        Percent by eye.
    marked, squares : int or None
        Squares that still show a mark, of how many, by the grid.
    out : tuple of int
        Squares of the grid, row by row from 0, over which a scratch catches the nail: out of
        scope, and in neither count.
    """

    defect: str
    light: str
    angle: str
    method: str
    remains: float | None = None
    marked: int | None = None
    squares: int | None = None
    out: tuple[int, ...] = ()

    def __post_init__(self) -> None:
        if any(not isinstance(i, int) or not 0 <= i < MOST_SQUARES for i in self.out):
            raise ValueRefused("Squares are numbered from 0, row by row.")
        self._check()

    def _check(self) -> None:
        if self.defect not in BY_KEY:
            raise ValueRefused(f"{self.defect!r} is no class of defect.")
        if self.light not in dict(LIGHTS) or self.angle not in dict(ANGLES):
            raise ValueRefused("An inspection says by which light and from how many angles.")
        if BY_KEY[self.defect].out_of_scope:
            if self.remains is not None or self.marked is not None:
                raise ValueRefused("A scratch that catches the nail is out of scope: no figure.")
            return
        if self.method == EYE:
            if self.remains is None or not 0.0 <= self.remains <= 100.0:
                raise ValueRefused("How much remains lies between 0 and 100 %.")
        elif self.method == GRID:
            whole = isinstance(self.marked, int) and isinstance(self.squares, int)
            if not whole or not 1 <= (self.squares or 0) <= MOST_SQUARES:
                raise ValueRefused("Squares are counted whole.")
            if not 0 <= (self.marked or 0) <= (self.squares or 0):
                raise ValueRefused(f"Of {self.squares} squares, 0 to {self.squares} show a mark.")
        else:
            raise ValueRefused("An inspection is by eye or by the grid.")

    @property
    def percent(self) -> float | None:
        """How much remains, in percent; None for what is out of scope."""
        if self.method == GRID and self.squares:
            return 100.0 * (self.marked or 0) / self.squares
        return self.remains

    def interval(self) -> tuple[float, float] | None:
        """Return the 90 % interval of a counted share, in percent; None for an estimate."""
        if self.method != GRID or not self.squares:
            return None
        low, high = jeffreys(self.marked or 0, self.squares)
        return 100.0 * low, 100.0 * high

    def words(self) -> str:
        """Say it."""
        defect = BY_KEY[self.defect]
        how = f"{_LABELS[self.light]}, {_LABELS[self.angle]}"
        if defect.out_of_scope:
            return f"{defect.label}: out of scope, not counted as failure"
        found = self.interval()
        if found is None:
            return f"{defect.label}: {self.percent:.0f} % remain by eye ({how})"
        said = (
            f"{defect.label}: {self.marked} of {self.squares} squares show a mark,"
            f" {self.percent:.0f} % ({found[0]:.0f} to {found[1]:.0f} %; {how})"
        )
        if not self.out:
            return said
        many = "s are" if len(self.out) > 1 else " is"
        return f"{said}; {len(self.out)} square{many} not counted, a scratch catches the nail there"


def jeffreys(hits: int, n: int, level: float = LEVEL) -> tuple[float, float]:
    """Return the Jeffreys interval of a share (Brown, Cai and DasGupta 2001, section 4.1).

    Its lower end is 0 for no hit, its upper end 1 for all.
    """
    from scipy.special import betaincinv

    tail = 0.5 * (1.0 - level)
    low = 0.0 if hits == 0 else float(betaincinv(hits + 0.5, n - hits + 0.5, tail))
    high = 1.0 if hits == n else float(betaincinv(hits + 0.5, n - hits + 0.5, 1.0 - tail))
    return low, high


@dataclass(frozen=True)
class Agreement:
    """How far readers agree on the same cells: the intraclass correlation for single readings.

    Two-way random effects, absolute agreement: ICC(2,1) of Shrout and Fleiss (1979), with the
    interval of McGraw and Wong (1996).
    """

    readers: tuple[str, ...]
    cells: int
    icc: float
    low: float
    high: float

    def words(self) -> str:
        """Say it."""
        names = " and ".join(self.readers) if len(self.readers) == 2 else ", ".join(self.readers)
        how = "well" if self.low >= 0.75 else "poorly" if self.high < 0.5 else "moderately"
        if self.low < 0.5 <= self.high and self.high - self.low > 0.5:
            how = "to an extent that so few cells do not settle"
        return (
            f"{names} agree {how} on {self.cells} cells: intraclass correlation"
            f" {self.icc:.2f} ({self.low:.2f} to {self.high:.2f})."
        )


def agreement(values: FloatArray, readers: Sequence[str] = (), level: float = LEVEL) -> Agreement:
    """Return how far readers agree.

    Parameters
    ----------
    values : (n, k)
        What each of k readers said of each of n cells.

    Raises
    ------
    NotEnough
        When there are fewer than 5 cells or 2 readers, or nothing differs at all.
    """
    x = np.asarray(values, float)
    n, k = x.shape
    if n < LEAST_CELLS or k < 2:
        raise NotEnough(
            "Agreement needs two readers and five cells.", todo="Let another read the same cells."
        )
    grand = x.mean()
    ms_cells = k * float(((x.mean(axis=1) - grand) ** 2).sum()) / (n - 1)
    ms_readers = n * float(((x.mean(axis=0) - grand) ** 2).sum()) / (k - 1)
    rest = x - x.mean(axis=1, keepdims=True) - x.mean(axis=0, keepdims=True) + grand
    ms_error = float((rest**2).sum()) / ((n - 1) * (k - 1))
    below = ms_cells + (k - 1) * ms_error + k * (ms_readers - ms_error) / n
    if below <= 0.0 or ms_cells == 0.0:
        raise NotEnough("All cells were found alike.", todo="Agreement shows where cells differ.")
    icc = (ms_cells - ms_error) / below
    if ms_error == 0.0 and ms_readers == 0.0:
        return Agreement(tuple(readers), n, 1.0, 1.0, 1.0)
    low, high = _interval(ms_cells, ms_readers, ms_error, n, k, icc, level)
    return Agreement(tuple(readers), n, icc, low, high)


def _interval(
    cells: float, readers: float, error: float, n: int, k: int, icc: float, level: float
) -> tuple[float, float]:
    from scipy.special import fdtri

    tail = 0.5 * (1.0 - level)
    a = k * icc / (n * (1.0 - icc)) if icc < 1.0 else math.inf
    b = 1.0 + k * icc * (n - 1) / (n * (1.0 - icc)) if icc < 1.0 else math.inf
    df = (a * readers + b * error) ** 2 / (
        (a * readers) ** 2 / (k - 1) + (b * error) ** 2 / ((n - 1) * (k - 1))
    )
    upper = float(fdtri(n - 1, df, 1.0 - tail))
    lower = float(fdtri(df, n - 1, 1.0 - tail))
    rest = k * readers + (k * n - k - n) * error
    low = n * (cells - upper * error) / (upper * rest + n * cells)
    high = n * (lower * cells - error) / (rest + n * lower * cells)
    return max(low, -1.0), min(high, 1.0)
