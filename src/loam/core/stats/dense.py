"""The restricted likelihood of few units, from one dense Cholesky factor of V.

What `Likelihood.at` gives in closed form, level by level, costs the same for ten thousand units
as for a hundred. For a hundred most of that is the number of its steps: here there are few.

With V = D + sum_j gamma_j Z_j Z_j' = L L', W = L^-1 [X y Z] and R'R = W_X'W_X, the projection
on X is H = R'^-1 W_X' W, and Z_j'P[y Z_j] follows from what W holds beyond H.
"""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass

import numpy as np

from loam.core.stats.likelihood import Likelihood
from loam.core.stats.reduce import FloatArray

MOST_UNITS = 96
_STEEPEST = 1e8
"""Ratios beyond this times the least weight would lose digits in V."""


@dataclass(frozen=True)
class Slopes:
    """What a slope of the likelihood needs, as in `likelihood.Point`: trace and norm (k,)."""

    logdet: float
    r2: float
    trace: FloatArray
    norm: FloatArray


@dataclass(frozen=True)
class Bends(Slopes):
    """Slopes, and how they change: -d trace_j / d gamma_i and -d norm_j / 2 d gamma_i (k, k)."""

    traces: FloatArray
    norms: FloatArray


class Dense:
    """The likelihood of at most `MOST_UNITS` units.

    Parameters
    ----------
    likelihood : Likelihood
        Of N units with k random factors.
    """

    def __init__(self, likelihood: Likelihood) -> None:
        units = likelihood.units
        n = units.count.size
        self._p, self._within = likelihood.p, units.within_ss
        self._held = np.diag(likelihood.held)
        self._starts = np.cumsum([0, *likelihood.levels[:-1]])
        wide = np.zeros((n, sum(likelihood.levels)))
        for start, codes in zip(self._starts, likelihood.codings, strict=True):
            wide[np.arange(n), start + codes] = 1.0
        self._columns = np.asfortranarray(np.hstack([likelihood.x, units.mean[:, None], wide]))
        self._same = np.stack([c[:, None] == c for c in likelihood.codings]).reshape(-1, n * n)
        self._same = self._same.astype(float)
        self._weight = 1.0 / units.count
        self._log_count = float(np.log(units.count).sum())

    def holds(self, gamma: FloatArray) -> bool:
        """Tell whether V keeps its digits at these ratios (k,)."""
        return float(gamma.max()) < _STEEPEST * float(self._weight.min())

    def at(self, gamma: FloatArray) -> Slopes:
        """Evaluate at variance ratios gamma (k,), all >= 0, for which it `holds`.

        Raises
        ------
        LinAlgError
            When V or the fixed effects are singular to working precision.
        """
        return self._slopes(*self._projected(gamma))

    def bends(self, gamma: FloatArray) -> Bends:
        """Evaluate with second derivatives: with Q = Z'PZ, tr(P S_i P S_j) is |Q_ij|^2.

        Raises
        ------
        LinAlgError
            When V or the fixed effects are singular to working precision.
        """
        logdet, w, h = self._projected(gamma)
        found = self._slopes(logdet, w, h)
        q = w[:, 1:].T @ w[:, 1:] - h[:, 1:].T @ h[:, 1:]
        score = w[:, 0] @ w[:, 1:] - h[:, 0] @ h[:, 1:]
        traces, norms = (
            np.add.reduceat(np.add.reduceat(x, self._starts, axis=0), self._starts, axis=1)
            for x in (q * q, score[:, None] * q * score)
        )
        return Bends(found.logdet, found.r2, found.trace, found.norm, traces, norms)

    def _projected(self, gamma: FloatArray) -> tuple[float, FloatArray, FloatArray]:
        """Return log|V| + log|X'V^-1X|, L^-1 [y Z], and what of it lies in X: H."""
        p = self._p
        lower, w = self._solved(gamma)
        root = np.linalg.cholesky(w[:, :p].T @ w[:, :p] + self._held)
        h = _solve(np.asarray(root, float), w[:, :p].T @ w[:, p:])
        logdet = 2.0 * float(np.log(lower.diagonal()).sum() + np.log(root.diagonal()).sum())
        return logdet + self._log_count, w[:, p:], h

    def _slopes(self, logdet: float, w: FloatArray, h: FloatArray) -> Slopes:
        score = w[:, 0] @ w[:, 1:] - h[:, 0] @ h[:, 1:]
        rest = np.einsum("ij,ij->j", w, w) - np.einsum("ij,ij->j", h, h)
        return Slopes(
            logdet,
            max(float(rest[0]), 0.0) + self._within,
            np.add.reduceat(rest[1:], self._starts),
            np.add.reduceat(score * score, self._starts),
        )

    def information(self, gamma: FloatArray, terms: Sequence[int]) -> list[FloatArray]:
        """Return X'V^-1 Z_j Z_j' V^-1 X (p, p) of some terms at sigma^2 = 1, as `Likelihood` does.

        Raises
        ------
        LinAlgError
            When V is singular to working precision.
        """
        p, w = self._p, self._solved(gamma)[1]
        through = w[:, :p].T @ w[:, p + 1 :]
        ends = [*self._starts[1:], through.shape[1]]
        own = [through[:, self._starts[j] : ends[j]] for j in terms]
        return [each @ each.T for each in own]

    def _solved(self, gamma: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Return L (n, n) and W = L^-1 [X y Z]."""
        n = self._weight.size
        v = (gamma @ self._same).reshape(n, n)
        v[np.arange(n), np.arange(n)] += self._weight
        lower = np.linalg.cholesky(v)
        return lower, _solve(lower, self._columns)


def information(
    likelihood: Likelihood, gamma: FloatArray, terms: Sequence[int]
) -> list[FloatArray]:
    """Return X'V^-1 Z_j Z_j' V^-1 X (p, p) of some terms at sigma^2 = 1, the quicker way."""
    if likelihood.units.count.size <= MOST_UNITS:
        few = Dense(likelihood)
        if few.holds(gamma):
            with suppress(np.linalg.LinAlgError):
                return few.information(gamma, terms)
    point = likelihood.at(gamma)
    return [likelihood.information(point, j) for j in terms]


def _solve(lower: FloatArray, columns: FloatArray) -> FloatArray:
    from scipy.linalg.lapack import dtrtrs

    return np.asarray(dtrtrs(lower.T, columns, lower=0, trans=1)[0], float)
