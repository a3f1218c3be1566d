"""The variances of a trial, integrated over instead of taken at their best value.

Every variance has a scaled inverse chi-square prior (`core.prior`). With the ratios
gamma = sigma_j^2 / sigma^2 the residual variance integrates out in closed form, so that given
the ratios the fixed effects are multivariate t. The ratios are integrated by importance over a
fixed low-discrepancy set around their mode, in gamma^(-1/3), where a chi-square is nearly normal
(Wilson and Hilferty 1931). Formulas: `docs/statistics.md`, section 4.
"""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass

import numpy as np

from loam.core.stats.dense import MOST_UNITS, Dense, Slopes
from loam.core.stats.likelihood import Likelihood, Point, Points
from loam.core.stats.prior import Prior, df_of_log_variance
from loam.core.stats.reduce import FloatArray

POINTS, FEW_POINTS = 64, 8
_WIDER = 1.35
_LEAST_POWER = 0.02
"""gamma^(-1/3) in units of its mode is kept above this: a ratio 125,000 times its mode."""


@dataclass(frozen=True)
class Mixture:
    """The posterior as a weighted set of multivariate t's.

    Attributes
    ----------
    weight : (S,)
        Adding up to 1.
    gamma : (S, k)
        Variance ratios of the random terms.
    sigma2 : (S,)
        Scale of the residual variance: sigma^2 ~ df * sigma2 / chi-square(df).
    df : float
    beta : (S, p)
        Fixed effects.
    shape : (S, p, p)
        Their covariance at sigma^2 = 1.
    information : (k,)
        Posterior df of each random term, from the width of its log variance.
    points : int
        Evaluations of the likelihood.
    """

    weight: FloatArray
    gamma: FloatArray
    sigma2: FloatArray
    df: float
    beta: FloatArray
    shape: FloatArray
    information: FloatArray
    points: int

    @property
    def log_variances(self) -> FloatArray:
        """Log of each random term's variance (S, k)."""
        return np.log(self.gamma * self.sigma2[:, None])

    def sd(self) -> FloatArray:
        """Return the geometric mean of each random term's standard deviation (k,)."""
        return np.asarray(np.exp(0.5 * self.weight @ self.log_variances), float)

    @property
    def residual_sd(self) -> float:
        """Standard deviation of repeat readings."""
        return float(np.exp(0.5 * self.weight @ np.log(self.sigma2)))


class _Objective:
    """Minus the log posterior of u = log gamma, in the measure of gamma^(-1/3)."""

    def __init__(self, likelihood: Likelihood, priors: Sequence[Prior], residual: Prior) -> None:
        self.likelihood = likelihood
        few = likelihood.k > 0 and likelihood.units.count.size <= MOST_UNITS
        self.dense = Dense(likelihood) if few else None
        self.nu = np.array([p.df for p in priors])
        self.scale = np.array([p.df * p.sd**2 for p in priors])
        self.own = residual.df * residual.sd**2
        self.df = likelihood.n - likelihood.p + residual.df + float(self.nu.sum())
        self.count = 0
        self.expected_curvature = np.ones(likelihood.k)

    def at(self, u: FloatArray) -> tuple[float, FloatArray]:
        """Return the value and its slope."""
        self.count += 1
        gamma = np.exp(u)
        point = self._slopes(gamma)
        total = point.r2 + self.own + float((self.scale / gamma).sum())
        value = 0.5 * (point.logdet + float(self.nu @ u) + self.df * np.log(total)) - u.sum() / 3.0
        pull = gamma * point.norm + self.scale / gamma
        levels = np.array(self.likelihood.levels)
        seen = np.clip(gamma * point.trace / levels, 0.05, 1.0)
        self.expected_curvature = 0.5 * (levels * seen**2 + self.nu)
        slope = 0.5 * (gamma * point.trace + self.nu - self.df * pull / total) - 1.0 / 3.0
        return float(value), slope

    def _slopes(self, gamma: FloatArray) -> Point | Slopes:
        if self.dense is not None and self.dense.holds(gamma):
            with suppress(np.linalg.LinAlgError):
                return self.dense.at(gamma)
        return self.likelihood.at(gamma)

    def bent(self, u: FloatArray) -> FloatArray | None:
        """Return the second derivatives (k, k) in u; None where there are too many units."""
        gamma = np.exp(u)
        if self.dense is None or not self.dense.holds(gamma):
            return None
        try:
            point = self.dense.bends(gamma)
        except np.linalg.LinAlgError:
            return None
        self.count += 1
        total = point.r2 + self.own + float((self.scale / gamma).sum())
        pull = gamma * point.norm + self.scale / gamma
        both = gamma[:, None] * gamma
        of_pull = np.diag(gamma * point.norm - self.scale / gamma) - 2.0 * both * point.norms
        of_logdet = np.diag(gamma * point.trace) - both * point.traces
        bend = of_pull / total + np.outer(pull, pull) / total**2
        return np.asarray(0.5 * (of_logdet - self.df * bend), float)

    def many(self, u: FloatArray) -> tuple[FloatArray, Points, FloatArray]:
        """Return values (S,), the likelihood and the scales of sigma^2 (S,) at many u (S, k)."""
        self.count += u.shape[0]
        points = self.likelihood.many(np.exp(u))
        total = points.r2 + self.own + (self.scale * np.exp(-u)).sum(axis=1)
        value = 0.5 * (points.logdet + u @ self.nu + self.df * np.log(total)) - u.sum(axis=1) / 3.0
        return value, points, total / self.df


def _curvature(objective: _Objective, u: FloatArray, slope: FloatArray) -> FloatArray:
    """The exact curvature where it costs one evaluation; else forward differences of the slope."""
    exact = objective.bent(u)
    if exact is not None:
        return exact
    k = u.size
    h = np.empty((k, k))
    for i in range(k):
        moved = u.copy()
        moved[i] += 1e-4
        h[i] = (objective.at(moved)[1] - slope) / 1e-4
    return 0.5 * (h + h.T)


def _mode(
    objective: _Objective, u: FloatArray, enough: float
) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Quasi-Newton (BFGS) with halved steps: the mode, the slope left there, a rough curvature.

    It is a rough mode, within ``enough`` of the log posterior; the integration forgives that.
    """
    value, slope = objective.at(u)
    inverse = np.diag(1.0 / objective.expected_curvature)
    for _ in range(60):
        step = -inverse @ slope
        step *= min(1.0, 2.0 / max(float(np.abs(step).max()), 1e-300))
        decrement = float(-slope @ step)
        if decrement < enough:
            break
        length = 1.0
        there = objective.at(u + step)
        while there[0] > value - 1e-4 * length * decrement and length > 1e-4:
            length *= 0.5
            there = objective.at(u + length * step)
        moved, turned = length * step, there[1] - slope
        u, value, slope = u + moved, there[0], there[1]
        bent = float(moved @ turned)
        if bent > 1e-10:
            push = np.eye(u.size) - np.outer(moved, turned) / bent
            inverse = push @ inverse @ push.T + np.outer(moved, moved) / bent
    return u, slope, np.asarray(np.linalg.inv(inverse), float)


def low_discrepancy(count: int, k: int) -> FloatArray:
    """Return standard normal points (count, k), in pairs z and -z around the middle.

    Roberts' additive recurrence (the generalised golden ratio) through the normal quantile.
    """
    from scipy.special import ndtri

    g = 2.0
    for _ in range(40):
        g = (1.0 + g) ** (1.0 / (k + 1.0))
    steps = g ** -np.arange(1.0, k + 1.0)
    half = (0.5 + np.arange(1, count // 2 + 1)[:, None] * steps) % 1.0
    z = ndtri(np.clip(half, 1e-4, 1.0 - 1e-4))
    return np.vstack([z, -z])


def integrate(
    likelihood: Likelihood, priors: Sequence[Prior], residual: Prior, points: int = POINTS
) -> Mixture:
    """Integrate over the variances.

    Parameters
    ----------
    likelihood : Likelihood
        Of units, with k random factors.
    priors : sequence of Prior
        One a random factor, in its order.
    residual : Prior
        Of repeat readings.
    points : int
        Even; fewer do where the readings know the variances well.
    """
    objective = _Objective(likelihood, priors, residual)
    k = likelihood.k
    if not k:
        _, found, sigma2 = objective.many(np.zeros((1, 0)))
        return Mixture(
            np.ones(1),
            np.zeros((1, 0)),
            sigma2,
            objective.df,
            found.beta,
            found.inverse,
            np.zeros(0),
            1,
        )
    start = np.array([2.0 * np.log(p.sd / residual.sd) for p in priors])
    u, slope, h = _mode(objective, start, 0.01 if points > FEW_POINTS else 0.1)
    if points > FEW_POINTS:
        h = _curvature(objective, u, slope)
    slope_of_v = 3.0 * np.exp(u / 3.0)
    values, vectors = np.linalg.eigh(h * slope_of_v[:, None] * slope_of_v)
    # the symmetric root: it does not hang on the signs that a library gives its vectors
    wide = np.sqrt(np.maximum(values, 1e-3 * max(float(values.max()), 1e-300)))
    root = (vectors / wide) @ vectors.T
    z = low_discrepancy(points, k)
    mode_v = np.exp(-u / 3.0)
    v = np.maximum(mode_v + _WIDER * z @ root.T, _LEAST_POWER * mode_v)
    values, found, sigma2 = objective.many(-3.0 * np.log(v))
    log_weight = 0.5 * (z * z).sum(axis=1) - values
    weight = np.exp(log_weight - log_weight.max())
    weight /= weight.sum()
    keep = np.flatnonzero(weight > 1e-4)
    weight, scales = weight[keep] / weight[keep].sum(), sigma2[keep]
    gamma = v[keep] ** -3.0
    logs = np.log(gamma * scales[:, None])
    variance = weight @ (logs - weight @ logs) ** 2 + 2.0 / objective.df
    return Mixture(
        weight,
        gamma,
        scales,
        objective.df,
        found.beta[keep],
        found.inverse[keep],
        df_of_log_variance(variance),
        objective.count,
    )
