"""Whether a result moves with something beside the combination: a pad's sets, order, place, heat.

Each is one covariate more in the judgement's model (its variances integrated over again), so that
what panels, people and cells explain is not counted twice. Told is what it comes to from its least
to its largest value, on the scale, with the 90 % interval.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from loam.core.errors import LoamError
from loam.core.judging.model import fit_model
from loam.core.prior import Priors
from loam.core.scale import Scale
from loam.core.stats.posterior import FEW_POINTS
from loam.core.stats.reduce import FloatArray
from loam.core.trial_rows import TrialData

DRAWS = 8192
LEAST_CELLS = 6


@dataclass(frozen=True)
class Trend:
    """How much a result moves over the range of a covariate, on the scale as measured.

    Attributes
    ----------
    least, most : float
        The covariate's range.
    sure : bool
        Whether the 99 % interval leaves nothing out: several are looked at.
    """

    key: str
    middle: float
    low: float
    high: float
    least: float
    most: float
    sure: bool


def trend(
    key: str,
    data: TrialData,
    scale: Scale,
    priors: Priors,
    x: FloatArray,
    rng: np.random.Generator,
) -> Trend | None:
    """Return how a result moves with a covariate; None where the readings do not carry it.

    Parameters
    ----------
    x : (n,)
        By reading; it must be known everywhere, and not be the same in all.
    """
    if x.size != data.y.size or not np.isfinite(x).all():
        return None
    cells = data.factors["cell"].codes if "cell" in data.factors else np.arange(x.size)
    span = float(np.ptp(x))
    if span <= 0.0 or np.unique(cells).size < LEAST_CELLS:
        return None
    try:
        model = fit_model(data, scale, priors, (x - x.mean()) / span, FEW_POINTS)
    except LoamError:
        return None
    mixture = model.mixture
    spread = np.sqrt(np.maximum(mixture.shape[:, -1, -1], 0.0) * mixture.sigma2)
    if not np.isfinite(spread).all() or float(spread.max()) <= 0.0:
        return None
    point = rng.choice(mixture.weight.size, size=DRAWS, p=mixture.weight)
    drawn = mixture.beta[point, -1] + spread[point] * rng.standard_t(mixture.df, DRAWS)
    ends = np.quantile(drawn, (0.005, 0.05, 0.5, 0.95, 0.995))
    sure = bool(ends[0] > 0.0 or ends[4] < 0.0)
    low, middle, high = (float(v) for v in ends[1:4])
    return Trend(key, middle, low, high, float(x.min()), float(x.max()), sure)


def concordance(claimed: Sequence[float], drawn: FloatArray) -> tuple[float, float, float]:
    """Return Kendall's tau-b of what is claimed with what was measured: middle, 5 and 95 %.

    Parameters
    ----------
    claimed : sequence of float
        K figures.
    drawn : (D, K)
        Draws of what was measured.
    """
    c = np.sign(np.subtract.outer(claimed, claimed))
    upper = np.triu_indices(len(claimed), 1)
    signs = c[upper]
    pairs = np.sign(drawn[:, upper[0]] - drawn[:, upper[1]])
    scale = np.sqrt(float((signs != 0).sum()) * np.maximum((pairs != 0).sum(axis=1), 1))
    tau = (pairs @ signs) / np.maximum(scale, 1.0)
    low, middle, high = np.quantile(tau, (0.05, 0.5, 0.95))
    return float(middle), float(low), float(high)
