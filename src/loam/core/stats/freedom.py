"""Degrees of freedom of contrasts: Satterthwaite, and Kenward-Roger for small trials."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from loam.core.stats.fit import Fit
from loam.core.stats.reduce import FloatArray


@dataclass(frozen=True)
class Estimates:
    """Linear combinations of the fixed effects.

    Attributes
    ----------
    value, se, df : (m,)
        Estimate, standard error and degrees of freedom of each row.
    method : str
        ``satterthwaite`` or ``kenward-roger``; the standard error belongs to the method.
    """

    value: FloatArray
    se: FloatArray
    df: FloatArray
    method: str


class Satterthwaite:
    """Satterthwaite df from the observed information of the variances (zero ones left out).

    df = 2 f^2 / (g'Ag) with f = c'Cov(beta)c, g its gradient and A twice the inverse Hessian of
    the criterion, both in (gamma, sigma^2): a delta method, so the coordinates do not matter.
    """

    method = "satterthwaite"

    def __init__(self, fit: Fit) -> None:
        self._fit = fit
        self._free = [j for j, name in enumerate(fit.factors) if name not in fit.zero]

    @cached_property
    def variance(self) -> FloatArray:
        """Covariance of the free ratios and sigma^2 (m+1, m+1)."""
        like, point = self._fit.likelihood, self._fit.point
        s2 = like.sigma2(point)
        free, m = self._free, len(self._free)
        h = np.zeros((m + 1, m + 1))
        for row, j in enumerate(free):
            step = 1e-4 * (point.gamma[j] + 1e-3 / like.typical[j])
            up, down = point.gamma.copy(), point.gamma.copy()
            up[j] += step
            down[j] = max(down[j] - step, 0.0)
            difference = like.gradient(like.at(up), s2) - like.gradient(like.at(down), s2)
            h[row, :m] = difference[free] / (up[j] - down[j])
        h[:m, :m] = 0.5 * (h[:m, :m] + h[:m, :m].T)
        h[:m, m] = h[m, :m] = point.norm[free] / s2**2
        h[m, m] = (like.n - like.p) / s2**2
        # scaled to a unit diagonal: else df would depend on the unit that readings are given in
        size = np.sqrt(np.maximum(np.abs(np.diag(h)), np.finfo(float).tiny))
        inverse = np.linalg.pinv(h / np.outer(size, size), hermitian=True, rcond=1e-13)
        return np.asarray(2.0 * inverse / np.outer(size, size), float)

    @cached_property
    def _parts(self) -> list[FloatArray]:
        like, point = self._fit.likelihood, self._fit.point
        _, inverse = like.fixed(point)
        s2 = like.sigma2(point)
        parts = [s2 * inverse @ like.information(point, j) @ inverse for j in self._free]
        return [*parts, inverse]

    def estimates(self, rows: FloatArray) -> Estimates:
        """Estimate each row (m, p) of contrasts or means."""
        f = _quadratic(rows, self._fit.covariance)
        g = np.stack([_quadratic(rows, part) for part in self._parts], axis=1)
        spread = _quadratic(g, self.variance)
        df = 2.0 * f**2 / np.maximum(spread, np.finfo(float).tiny)
        return Estimates(rows @ self._fit.beta, np.sqrt(f), df, self.method)


class KenwardRoger:
    """Kenward-Roger (1997): small-sample covariance and df, on units, dense.

    For one contrast the F-matching reduces exactly to df = 2 / sum W_ij a_i a_j with
    a_i = c'Phi P_i Phi c / c'Phi c and W the inverse expected information of the variances.
    """

    method = "kenward-roger"

    def __init__(self, fit: Fit) -> None:
        self._fit = fit

    @cached_property
    def _pieces(self) -> tuple[FloatArray, list[FloatArray], FloatArray]:
        fit, like = self._fit, self._fit.likelihood
        count, x, s2 = like.units.count, like.x, fit.variances["residual"]
        n_units = count.size
        derivative = []
        for coding in like.codings:
            derivative.append((coding[:, None] == coding[None, :]).astype(float))
        derivative.append(np.diag(1.0 / count))
        theta = [fit.variances[name] for name in fit.factors] + [s2]
        v = sum(
            (t * d for t, d in zip(theta, derivative, strict=True)), np.zeros_like(derivative[-1])
        )
        v_inverse = np.linalg.inv(v)
        vx = v_inverse @ x
        phi = np.linalg.inv(x.T @ vx)
        projector = v_inverse - vx @ phi @ vx.T
        k = len(derivative)
        information = np.empty((k, k))
        pd = [projector @ d for d in derivative]
        for i in range(k):
            for j in range(i, k):
                information[i, j] = information[j, i] = float((pd[i] * pd[j].T).sum())
        information[-1, -1] += (like.n - n_units) / s2**2
        weights: FloatArray = 2.0 * np.asarray(np.linalg.pinv(information, hermitian=True), float)
        p = [-vx.T @ d @ vx for d in derivative]
        middle = np.zeros_like(phi)
        for i in range(k):
            left = vx.T @ derivative[i] @ v_inverse
            for j in range(k):
                q = left @ derivative[j] @ vx
                middle += weights[i, j] * (q - p[i] @ phi @ p[j])
        adjusted = phi + 2.0 * phi @ middle @ phi
        return weights, [phi @ part @ phi for part in p], adjusted

    def estimates(self, rows: FloatArray) -> Estimates:
        """Estimate each row (m, p) of contrasts or means."""
        weights, parts, adjusted = self._pieces
        plain = _quadratic(rows, self._fit.covariance)
        a = np.stack([_quadratic(rows, part) for part in parts], axis=1) / plain[:, None]
        df = 2.0 / _quadratic(a, weights)
        se = np.sqrt(_quadratic(rows, adjusted))
        return Estimates(rows @ self._fit.beta, se, df, self.method)


def _quadratic(rows: FloatArray, matrix: FloatArray) -> FloatArray:
    out: FloatArray = ((rows @ matrix) * rows).sum(axis=1)
    return out


KENWARD_ROGER_UNITS = 60


def freedom(fit: Fit) -> Satterthwaite | KenwardRoger:
    """Choose the method: Kenward-Roger up to 60 cells unless the fit is singular."""
    small = fit.n_units <= KENWARD_ROGER_UNITS
    return KenwardRoger(fit) if small and not fit.singular else Satterthwaite(fit)
