"""A gauge study: how well a meter repeats, and whether readers agree.

Crossed study of p parts (spots), o readers, r repeats. Balanced: analysis of variance, parts and
readers tested against their interaction, which is pooled into the error where it is not seen.
Unbalanced: variances by REML. Checked against R's aov and lme4 (`tests/reference/gauge`, whose
SPEC.md has the formulas). Limits by ISO 5725.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from loam.core.errors import NotEnough, ValueRefused
from loam.core.stats.fit import fit_mixed
from loam.core.stats.reduce import FloatArray, IntArray

POOL = 0.25
"""Interaction whose p is above it is pooled into the repeats: a setting."""
LIMIT = 2.8
"""ISO 5725's rounding of 1.96 times the root of 2."""
LIMIT_EXACT = 1.959963984540054 * math.sqrt(2.0)
CATEGORIES = 1.41
STUDY = 6.0
ANOVA, REML = "anova", "reml"


@dataclass(frozen=True)
class AnovaRow:
    """One line of the analysis of variance; ``f`` is against ``against``, None for the error."""

    df: int
    ss: float
    ms: float
    f: float | None = None
    p: float | None = None


@dataclass(frozen=True)
class Table:
    """The analysis of variance with interaction; parts and readers against it, it against error."""

    part: AnovaRow
    reader: AnovaRow
    interaction: AnovaRow
    error: AnovaRow


@dataclass(frozen=True)
class Variances:
    """Variance components, in the unit squared."""

    repeatability: float
    interaction: float
    reader: float
    part: float

    def cut(self) -> Variances:
        """Return them with what is below nothing set to 0."""
        return Variances(
            max(self.repeatability, 0.0),
            max(self.interaction, 0.0),
            max(self.reader, 0.0),
            max(self.part, 0.0),
        )


@dataclass(frozen=True)
class Result:
    """Standard deviations that come of variances.

    Attributes
    ----------
    ev, av, grr, pv, tv : float
        Repeatability, reproducibility, both, parts, all.
    reader, interaction : float
    """

    variances: Variances

    @property
    def ev(self) -> float:
        """Repeatability."""
        return math.sqrt(self.variances.repeatability)

    @property
    def reader(self) -> float:
        """Of readers."""
        return math.sqrt(self.variances.reader)

    @property
    def interaction(self) -> float:
        """Of readers from part to part."""
        return math.sqrt(self.variances.interaction)

    @property
    def av(self) -> float:
        """Reproducibility: readers and their interaction."""
        return math.sqrt(self.variances.reader + self.variances.interaction)

    @property
    def grr(self) -> float:
        """Repeatability and reproducibility."""
        return math.hypot(self.ev, self.av)

    @property
    def pv(self) -> float:
        """Of parts."""
        return math.sqrt(self.variances.part)

    @property
    def tv(self) -> float:
        """Of everything."""
        return math.hypot(self.grr, self.pv)

    @property
    def categories(self) -> float:
        """Number of distinct categories, unrounded; infinite where nothing scatters."""
        return CATEGORIES * self.pv / self.grr if self.grr else math.inf

    @property
    def limit(self) -> float:
        """Repeatability limit: two readings of a spot differ by more in 5 % of cases."""
        return LIMIT * self.ev


@dataclass(frozen=True)
class Study:
    """A gauge study, judged.

    Attributes
    ----------
    method : str
        anova, or reml where readings are missing.
    table : Table or None
        None by REML.
    pool : float
    pooled : bool
        Whether the interaction was pooled.
    raw : Variances
        With interaction, not cut at 0.
    raw_pooled : Variances or None
    error_df : int
        Degrees of freedom of the repeatability.
    """

    parts: int
    readers: int
    repeats: int
    count: int
    mean: float
    method: str
    table: Table | None
    pool: float
    pooled: bool
    raw: Variances
    raw_pooled: Variances | None
    error_df: int

    @property
    def with_interaction(self) -> Result:
        """What comes of the variances with interaction."""
        return Result(self.raw.cut())

    @property
    def result(self) -> Result:
        """What is shown: pooled where the interaction was."""
        if self.pooled and self.raw_pooled is not None:
            return Result(self.raw_pooled.cut())
        return self.with_interaction

    def interval(self, share: float = 0.95) -> tuple[float, float]:
        """Return the interval of the repeatability that is shown."""
        return spread_interval(self.result.ev, self.error_df, share)


def spread_interval(sd: float, df: int, share: float = 0.95) -> tuple[float, float]:
    """Return the interval of a standard deviation by chi-square."""
    from scipy.special import chdtri

    tail = (1.0 - share) / 2.0
    low, high = float(chdtri(df, tail)), float(chdtri(df, 1.0 - tail))
    return sd * math.sqrt(df / low), sd * math.sqrt(df / high)


def critical_difference(sd: float, first: int, second: int) -> float:
    """Return by how much means of some readings of one spot differ in 5 % of cases (ISO 5725)."""
    return LIMIT * sd * math.sqrt(0.5 / first + 0.5 / second)


def readings_needed(sd: float, difference: float) -> int:
    """Return how many readings a cell tell two cells apart by a difference (ISO 5725).

    Their means differ by more in 5 % of cases when the cells are alike; 3 readings at least, since
    fewer show no outlier, and 12 at most.

    Parameters
    ----------
    sd : float
        Repeatability.
    difference : float
        Above 0, in the same unit.
    """
    return min(max(math.ceil((LIMIT * sd / difference) ** 2 - 1e-9), 3), 12)


def with_step(sd: float, step: float) -> tuple[float, bool]:
    """Return the repeatability with the display's step in it, and whether the step hides it."""
    hides = sd < 0.5 * step
    return (math.sqrt(sd**2 + step**2 / 12.0) if hides else sd), hides


def judge_study(
    part: Sequence[str], reader: Sequence[str], values: FloatArray, pool: float = POOL
) -> Study:
    """Judge a crossed gauge study.

    Parameters
    ----------
    part, reader : sequence of str
        Of each reading.
    values : (n,) float
    pool : float
        p of the interaction above which it is pooled, 0 to 1.

    Raises
    ------
    ValueRefused
        For a value that is no number, or a share outside 0 to 1.
    NotEnough
        With fewer than two parts, readers or repeats, or where nothing links readers.
    """
    if not 0.0 <= pool <= 1.0:
        raise ValueRefused(f"A share of {pool:g} to pool by cannot be.", todo="0 to 1.")
    y = np.asarray(values, dtype=float)
    if not np.isfinite(y).all():
        raise ValueRefused("A reading is no number.")
    parts, p = np.unique(np.asarray(part, dtype=object).astype(str), return_inverse=True)
    readers, o = np.unique(np.asarray(reader, dtype=object).astype(str), return_inverse=True)
    if parts.size < 2 or readers.size < 2:
        raise NotEnough(
            f"There {'is' if parts.size == 1 else 'are'} {parts.size} spot(s) and {readers.size}"
            " reader(s).",
            todo="A study crosses at least two spots with two readers.",
        )
    count = np.zeros((parts.size, readers.size), dtype=int)
    np.add.at(count, (p, o), 1)
    if count.max() < 2:
        raise NotEnough(
            "Nobody read a spot twice.", todo="Every reader reads every spot twice at least."
        )
    balanced = count.min() == count.max()
    if balanced:
        return _balanced(y, p.astype(np.intp), o.astype(np.intp), count, pool)
    return _unbalanced(y, p.astype(np.intp), o.astype(np.intp), count, pool, parts, readers)


@dataclass(frozen=True)
class Offset:
    """How a reader reads beside the others on the same spots, with its 90 % interval.

    Attributes
    ----------
    p : float
        Of so much on either side, for all readers together.
    """

    reader: str
    middle: float
    low: float
    high: float
    spots: int
    p: float


SURELY_APART = 0.05


def reads_apart(
    part: Sequence[str], reader: Sequence[str], values: Sequence[float] | FloatArray
) -> list[Offset]:
    """Return how each reader reads beside the others, over the spots that they share.

    On every spot the mean of a reader less the mean of the other readers' means; over the spots a
    paired t. Nothing is said of a reader who shares fewer than two spots.
    """
    from scipy.special import stdtr, stdtrit

    cells: dict[str, dict[str, list[float]]] = {}
    for spot, who, value in zip(part, reader, values, strict=True):
        cells.setdefault(spot, {}).setdefault(who, []).append(float(value))
    names = sorted({who for own in cells.values() for who in own})
    found = []
    for who in names:
        gaps = []
        for own in cells.values():
            others = [float(np.mean(read)) for name, read in own.items() if name != who]
            if who in own and others:
                gaps.append(float(np.mean(own[who])) - float(np.mean(others)))
        n = len(gaps)
        if n < 2:
            continue
        middle, error = float(np.mean(gaps)), float(np.std(gaps, ddof=1)) / math.sqrt(n)
        half = float(stdtrit(n - 1, 0.95)) * error
        if error > 0.0:
            p = 2.0 * float(stdtr(n - 1, -abs(middle) / error))
        else:
            p = 1.0 if middle == 0.0 else 0.0
        p = min(p * len(names), 1.0)
        found.append(Offset(who, middle, middle - half, middle + half, n, p))
    return found


def _balanced(y: FloatArray, p: IntArray, o: IntArray, count: IntArray, pool: float) -> Study:
    parts, readers = count.shape
    repeats = int(count[0, 0])
    mean = float(y.mean())
    centred = y - mean
    cell = np.zeros((parts, readers))
    np.add.at(cell, (p, o), centred)
    cell /= repeats
    of_part, of_reader = cell.mean(axis=1), cell.mean(axis=0)
    ss_part = readers * repeats * float(of_part @ of_part)
    ss_reader = parts * repeats * float(of_reader @ of_reader)
    rest = cell - of_part[:, None] - of_reader[None, :]
    ss_both = repeats * float((rest**2).sum())
    ss_error = float(((centred - cell[p, o]) ** 2).sum())
    df = (parts - 1, readers - 1, (parts - 1) * (readers - 1), parts * readers * (repeats - 1))
    ms = (ss_part / df[0], ss_reader / df[1], ss_both / df[2], ss_error / df[3])
    part = _tested(df[0], ss_part, ms[0], df[2], ms[2])
    reader = _tested(df[1], ss_reader, ms[1], df[2], ms[2])
    interaction = _tested(df[2], ss_both, ms[2], df[3], ms[3])
    raw = Variances(
        ms[3],
        (ms[2] - ms[3]) / repeats,
        (ms[1] - ms[2]) / (parts * repeats),
        (ms[0] - ms[2]) / (readers * repeats),
    )
    together = df[2] + df[3]
    error = (ss_both + ss_error) / together
    raw_pooled = Variances(
        error, 0.0, (ms[1] - error) / (parts * repeats), (ms[0] - error) / (readers * repeats)
    )
    pooled = interaction.p is None or interaction.p > pool
    return Study(
        parts,
        readers,
        repeats,
        int(y.size),
        mean,
        ANOVA,
        Table(part, reader, interaction, AnovaRow(df[3], ss_error, ms[3])),
        pool,
        pooled,
        raw,
        raw_pooled,
        together if pooled else df[3],
    )


def _tested(df: int, ss: float, ms: float, df_under: int, ms_under: float) -> AnovaRow:
    """Return a line tested against another; without scatter below it there is no test."""
    from scipy.special import fdtrc

    if ms_under <= 0.0:
        return AnovaRow(df, ss, ms)
    f = ms / ms_under
    return AnovaRow(df, ss, ms, f, float(fdtrc(df, df_under, f)))


def _unbalanced(
    y: FloatArray,
    p: IntArray,
    o: IntArray,
    count: IntArray,
    pool: float,
    parts: FloatArray,
    readers: FloatArray,
) -> Study:
    if not (count.sum(axis=0) > 0).all() or _pieces(count) > 1:
        raise NotEnough(
            "Some readers share no spot with the others.", todo="Let every reader read every spot."
        )
    both = p * readers.size + o
    present, cell = np.unique(both, return_inverse=True)
    fit = fit_mixed(
        y,
        np.zeros(y.size, dtype=np.intp),
        ["all"],
        {
            "part:reader": (cell.astype(np.intp), [str(i) for i in present]),
            "part": (p, [str(x) for x in parts]),
            "reader": (o, [str(x) for x in readers]),
        },
    )
    v = fit.variances
    raw = Variances(v["residual"], v["part:reader"], v["reader"], v["part"])
    df = int(y.size - present.size)
    return Study(
        parts.size,
        readers.size,
        int(count.max()),
        int(y.size),
        float(y.mean()),
        REML,
        None,
        pool,
        False,
        raw,
        None,
        df,
    )


def _pieces(count: IntArray) -> int:
    """Return into how many pieces readers fall that share no spot."""
    linked = (count.T @ count) > 0
    seen = np.zeros(count.shape[1], dtype=bool)
    seen[0] = True
    while True:
        more = linked[seen].any(axis=0) | seen
        if (more == seen).all():
            return 1 if seen.all() else 2
        seen = more
