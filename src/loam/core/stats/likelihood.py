"""Restricted likelihood of a mixed model with random intercepts, as a function of variance ratios.

y = X beta + sum_j Z_j u_j + e,  u_j ~ N(0, gamma_j sigma^2 I),  e ~ N(0, sigma^2 I).

The nested factors are absorbed in closed form (`chain`); the crossed ones stay in one dense
matrix with the fixed effects, scaled by the root of their ratios so that zero is a valid value.
The criterion is -2 log restricted likelihood with sigma^2 profiled out, in the coding of X given
(group means and slopes), as in the open-source R package lme4:
log|V| + log|X'V^-1X| + (n-p)(1 + log(2 pi r^2 / (n-p))).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt

from loam.core.errors import NotEnough
from loam.core.stats.chain import Chain, split_chain
from loam.core.stats.reduce import FloatArray, IntArray, Units, compact

MORE_READINGS = "Take more readings, or more cells of each combination."


def few_readings(readings: int, averages: int) -> str:
    """Say that the readings do not suffice for the averages."""
    return f"{readings} readings cannot carry {averages} averages."


@dataclass(frozen=True)
class Point:
    """The likelihood at one set of variance ratios.

    Attributes
    ----------
    criterion : float
        Profiled REML criterion.
    logdet : float
        log|V| + log|X'V^-1X| at sigma^2 = 1.
    r2 : float
        Penalised residual sum of squares r^2; sigma^2 is r2 / (n - p).
    trace, norm : (k,)
        trace(Z_j'PZ_j) and |Z_j'Py|^2 by factor (sigma^2 = 1).
    inverse : (c+p, c+p)
        Inverse of the absorbed mixed-model matrix, crossed factors first.
    solution : (c+p,)
        Scaled predictions of the crossed factors, then the fixed effects.
    cross : (q, q)
        M'V^-1M of the nested part alone.
    squares : list
        (Z_l'V^-1M)'(Z_l'V^-1M) of the nested levels.
    """

    gamma: FloatArray
    criterion: float
    logdet: float
    r2: float
    trace: FloatArray
    norm: FloatArray
    inverse: FloatArray
    solution: FloatArray
    cross: FloatArray
    squares: list[FloatArray]


@dataclass(frozen=True)
class Points:
    """The likelihood at many sets of variance ratios.

    Attributes
    ----------
    logdet, r2 : (S,)
    beta : (S, p)
        Fixed effects.
    inverse : (S, p, p)
        (X'V^-1X)^-1 at sigma^2 = 1.
    """

    logdet: FloatArray
    r2: FloatArray
    beta: FloatArray
    inverse: FloatArray


def triangular_inverses(lower: npt.NDArray[np.floating[Any]]) -> FloatArray:
    """Invert lower triangular matrices (S, n, n) with a positive diagonal."""
    from scipy.linalg.lapack import dtrtri

    out = np.empty(lower.shape)
    for i, each in enumerate(lower):  # the transpose is what LAPACK reads without a copy
        out[i] = dtrtri(each.T, lower=0)[0].T
    return out


class Likelihood:
    """Restricted likelihood on units.

    Parameters
    ----------
    units : Units
        Reduced readings.
    groups : (N,) int
        Fixed group of each unit, coded 0..g-1, each present.
    covariates : (N, v) float
        Slopes' columns on units.
    factors : sequence of (N,) int
        Random factors on units.
    held : (v,) float, optional
        How strongly each slope is held at nothing: a slope that is beforehand N(0, s^2) counts as
        one more row of the fit, of weight sigma^2 / s^2; 0 leaves it free.

    Raises
    ------
    NotEnough
        When there are fewer readings than fixed effects.
    """

    def __init__(
        self,
        units: Units,
        groups: IntArray,
        covariates: FloatArray,
        factors: Sequence[IntArray],
        held: FloatArray | None = None,
    ) -> None:
        self.units = units
        self.held = np.zeros(int(groups.max()) + 1 + covariates.shape[1])
        if held is not None:
            self.held[int(groups.max()) + 1 :] = held
        self.n = int(units.count.sum()) + int(np.count_nonzero(self.held))
        codings = [compact(f)[0] for f in factors]
        self.k = len(codings)
        self.levels = [int(c.max()) + 1 for c in codings]
        self.chain_at, self.crossed_at = split_chain(codings)
        g = int(groups.max()) + 1
        self.x = np.zeros((units.count.size, g + covariates.shape[1]))
        self.x[np.arange(groups.size), groups] = 1.0
        self.x[:, g:] = covariates
        self.p = self.x.shape[1]
        if self.n < self.p:
            raise NotEnough(few_readings(self.n, self.p), todo=MORE_READINGS)
        blocks = []
        self._span: list[slice] = []
        at = 0
        for j in self.crossed_at:
            dummies = np.zeros((units.count.size, self.levels[j]))
            dummies[np.arange(units.count.size), codings[j]] = 1.0
            blocks.append(dummies)
            self._span.append(slice(at, at + self.levels[j]))
            at += self.levels[j]
        self.c = at
        columns = np.hstack([*blocks, self.x, units.mean[:, None]])
        self._fixed = slice(self.c, self.c + self.p)
        nested = [codings[j] for j in self.chain_at]
        self.chain = Chain(units.count, columns, nested, groups, slice(self.c, self.c + g))
        self.codings = codings

    @cached_property
    def typical(self) -> FloatArray:
        """Information a level holds on its own effect, as a count of finer units (k,)."""
        out = np.empty(self.k)
        for place, j in enumerate(self.chain_at):
            finer = self.n if place == 0 else self.levels[self.chain_at[place - 1]]
            out[j] = finer / self.levels[j]
        for j in self.crossed_at:
            out[j] = self.units.count.size / self.levels[j]
        return np.maximum(out, 1.0)

    def many(self, gamma: FloatArray) -> Points:
        """Evaluate at many points gamma (S, k) at once, without slopes."""
        raw, logdet = self.chain.many(gamma[:, self.chain_at])
        q = self.c + self.p
        scale = np.ones((gamma.shape[0], q))
        for span, j in zip(self._span, self.crossed_at, strict=True):
            scale[:, span] = np.sqrt(gamma[:, j : j + 1])
        matrix = raw[:, :q, :q] * scale[:, :, None] * scale[:, None, :]
        matrix[:, np.arange(self.c), np.arange(self.c)] += 1.0
        fixed = np.arange(self.c, q)
        matrix[:, fixed, fixed] += self.held
        lower = np.linalg.cholesky(matrix)
        half = triangular_inverses(lower)
        z = (half @ (raw[:, :q, q] * scale)[:, :, None])[:, :, 0]
        own = half[:, :, self._fixed]
        r2 = np.maximum(raw[:, q, q] - (z * z).sum(axis=1), 0.0) + self.units.within_ss
        logdet = logdet + 2.0 * np.log(np.diagonal(lower, axis1=1, axis2=2)).sum(axis=1)
        beta = (z[:, None, :] @ own)[:, 0]
        return Points(logdet, r2, beta, own.transpose(0, 2, 1) @ own)

    def at(self, gamma: FloatArray) -> Point:
        """Evaluate at variance ratios gamma (k,), all >= 0."""
        nested = self.chain.at(gamma[self.chain_at])
        q = self.c + self.p
        scale = np.ones(q)
        for span, j in zip(self._span, self.crossed_at, strict=True):
            scale[span] = np.sqrt(gamma[j])
        raw = nested.cross
        matrix = raw[:q, :q] * scale[:, None] * scale[None, :]
        matrix[np.arange(self.c), np.arange(self.c)] += 1.0
        matrix[np.arange(self.c, q), np.arange(self.c, q)] += self.held
        right = raw[:q, q] * scale
        lower = np.linalg.cholesky(matrix)
        half = triangular_inverses(lower[None])[0]
        inverse = half.T @ half
        z = half @ right
        solution = half.T @ z
        r2 = max(float(raw[q, q] - z @ z), 0.0) + self.units.within_ss
        dof = self.n - self.p
        logdet = nested.logdet + 2.0 * float(np.log(np.diag(lower)).sum())
        floor = np.finfo(float).tiny
        mean_square = max(r2, floor) / max(dof, 1)
        criterion = logdet + dof * (1.0 + np.log(2.0 * np.pi * mean_square))
        trace, norm = self._pieces(nested.trace, nested.squares, raw, scale, inverse, solution)
        return Point(
            gamma,
            float(criterion),
            logdet,
            r2,
            trace,
            norm,
            inverse,
            solution,
            raw,
            nested.squares,
        )

    def _pieces(
        self,
        nested_trace: FloatArray,
        squares: list[FloatArray],
        raw: FloatArray,
        scale: FloatArray,
        inverse: FloatArray,
        solution: FloatArray,
    ) -> tuple[FloatArray, FloatArray]:
        q = self.c + self.p
        trace, norm = np.empty(self.k), np.empty(self.k)
        direction = np.append(-solution * scale, 1.0)
        scaled = inverse * scale[:, None] * scale[None, :]
        for place, j in enumerate(self.chain_at):
            square = squares[place]
            trace[j] = nested_trace[place] - float((scaled * square[:q, :q]).sum())
            norm[j] = max(float(direction @ square @ direction), 0.0)
        for span, j in zip(self._span, self.crossed_at, strict=True):
            wide = raw[span, :q] * scale
            trace[j] = float(np.trace(raw[span, span])) - float(((wide @ inverse) * wide).sum())
            score = raw[span, q] - wide @ solution
            norm[j] = float(score @ score)
        return trace, norm

    def sigma2(self, point: Point) -> float:
        """Residual variance at a point."""
        return float(point.r2 / (self.n - self.p))

    def gradient(self, point: Point, sigma2: float | None = None) -> FloatArray:
        """Derivative of the criterion in gamma (k,); sigma^2 profiled unless given."""
        s2 = self.sigma2(point) if sigma2 is None else sigma2
        return point.trace - point.norm / s2

    def fixed(self, point: Point) -> tuple[FloatArray, FloatArray]:
        """Return the fixed effects (p,) and (X'V^-1X)^-1 (p, p) at sigma^2 = 1."""
        return point.solution[self._fixed], point.inverse[self._fixed, self._fixed]

    def information(self, point: Point, j: int) -> FloatArray:
        """X'V^-1 Z_j Z_j' V^-1 X (p, p) at sigma^2 = 1, with the whole V."""
        q = self.c + self.p
        scale = np.ones(self.c)
        for span, i in zip(self._span, self.crossed_at, strict=True):
            scale[span] = np.sqrt(point.gamma[i])
        raw = point.cross
        through = np.eye(q)[:, self.c :]
        if self.c:
            inner = raw[: self.c, : self.c] * scale[:, None] * scale
            inner[np.arange(self.c), np.arange(self.c)] += 1.0
            coupling = scale[:, None] * raw[: self.c, self.c : q]
            through[: self.c] = -scale[:, None] * np.linalg.solve(inner, coupling)
        if j in self.chain_at:
            square = point.squares[self.chain_at.index(j)][:q, :q]
            return through.T @ square @ through
        wide = raw[self._span[self.crossed_at.index(j)], :q] @ through
        return wide.T @ wide

    def predictions(self, point: Point, j: int) -> tuple[FloatArray, FloatArray]:
        """Best linear unbiased predictions of factor j and their conditional SD.

        Returns
        -------
        values, sd : (levels,)
            In the order of the factor's codes. The SD ignores the uncertainty of the fixed
            effects.
        """
        q = self.c + self.p
        gamma, s2 = float(point.gamma[j]), self.sigma2(point)
        values, variance = np.zeros(self.levels[j]), np.zeros(self.levels[j])
        scale = np.ones(q)
        for span, i in zip(self._span, self.crossed_at, strict=True):
            scale[span] = np.sqrt(point.gamma[i])
        inner = point.cross[: self.c, : self.c] * scale[: self.c, None] * scale[: self.c]
        inner[np.arange(self.c), np.arange(self.c)] += 1.0
        middle = np.linalg.inv(inner) if self.c else inner
        if j in self.chain_at:
            place = self.chain_at.index(j)
            b, diagonal = self.chain.scores(point.gamma[self.chain_at], place)
            groups = self.chain.groups[place]
            values[groups] = gamma * (b @ np.append(-point.solution * scale, 1.0))
            wide = b[:, : self.c] * scale[: self.c]
            information = diagonal - ((wide @ middle) * wide).sum(axis=1)
            variance[groups] = s2 * (gamma - gamma**2 * information)
        else:
            span = self._span[self.crossed_at.index(j)]
            values[:] = np.sqrt(gamma) * point.solution[span]
            variance[:] = s2 * gamma * np.diag(middle)[span]
        return values, np.sqrt(np.maximum(variance, 0.0))
