"""The restricted likelihood of few units, from one dense Cholesky factor of V.

What `Likelihood.at` gives in closed form, level by level, costs the same for ten thousand units
as for a hundred. For a hundred most of that is the number of its steps: here there are few.

With V = D + sum_j gamma_j Z_j Z_j' = L L', W = L^-1 [X y Z] and R'R = W_X'W_X, the projection
on X is H = R'^-1 W_X' W, and Z_j'P[y Z_j] follows from what W holds beyond H.
"""

from __future__ import annotations

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
        from scipy.linalg.lapack import dtrtrs

        p, n = self._p, self._weight.size
        v = (gamma @ self._same).reshape(n, n)
        v[np.arange(n), np.arange(n)] += self._weight
        lower = np.linalg.cholesky(v)
        w = dtrtrs(lower.T, self._columns, lower=0, trans=1)[0]
        root = np.linalg.cholesky(w[:, :p].T @ w[:, :p])
        h = dtrtrs(root.T, w[:, :p].T @ w[:, p:], lower=0, trans=1)[0]
        score = w[:, p] @ w[:, p + 1 :] - h[:, 0] @ h[:, 1:]
        rest = np.einsum("ij,ij->j", w[:, p:], w[:, p:]) - np.einsum("ij,ij->j", h, h)
        logdet = 2.0 * float(np.log(lower.diagonal()).sum() + np.log(root.diagonal()).sum())
        return Slopes(
            logdet + self._log_count,
            max(float(rest[0]), 0.0) + self._within,
            np.add.reduceat(rest[1:], self._starts),
            np.add.reduceat(score * score, self._starts),
        )
