"""How far a covariate moves a measurand: a quick look at plug-in variances, then the whole fit.

A covariate has one value a unit: a cell, or the part of it that one person read on one day. The
quick look keeps the variances of the fit without the covariate; what it passes is fitted with
the covariate among the fixed effects and the variances integrated over, so that an odd panel does
not hide behind the spread of panels that it makes.
"""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from loam.core.doubts.heavy import Contrast
from loam.core.doubts.quick import QuickLook
from loam.core.doubts.values import Moved
from loam.core.errors import LoamError
from loam.core.judging.model import Model, fit_model
from loam.core.prior import READER, Priors, default_priors
from loam.core.readings import kind_of
from loam.core.scale import Scale, scale_for
from loam.core.stats.posterior import FEW_POINTS
from loam.core.stats.reduce import FloatArray, IntArray
from loam.core.trial_rows import TrialData

MOST_UNITS = 1500
"""Cells up to which people are told apart at the fit's variances; beyond, each is fitted."""
USUAL_DF = {
    "panel": 5.0,
    "operator": 12.0,
    "reader": 12.0,
    "day": 6.0,
    "panel:combination": 6.0,
    "cell": 6.0,
}
"""How well it is taken to be known here how panels, people and days usually vary, in degrees of
freedom: what is unlike that is what is looked for. People are few, so that the readings say least
of them."""
READERS_DF = 8.0
"""How well it is taken to be known how readers differ: a meter leaves them little."""
_ALIASED = 1e-6


class Probe:
    """One measurand of a trial, ready to be asked about covariates."""

    def __init__(self, data: TrialData, priors: Priors | None = None) -> None:
        self.data = data
        self.kind = kind_of(data.measurand)
        self.known = {**default_priors(self.kind), **(priors or {})}
        self.priors = {
            term: replace(p, df=max(p.df, USUAL_DF.get(term, p.df)))
            for term, p in self.known.items()
        }
        self.scale: Scale = scale_for(self.kind, data.y, data.scale)
        self.model: Model = fit_model(data, self.scale, self.priors, points=FEW_POINTS)
        self.units = self.model.likelihood.units
        assert data.rows is not None
        self.rows: IntArray = data.rows[self.units.first]
        self._quick: QuickLook | None = None
        self._kept_effects: dict[str, tuple[int, FloatArray, FloatArray]] = {}
        self._fixed = self._columns()

    @property
    def better(self) -> float:
        """1 where more is better, else -1."""
        return 1.0 if self.data.higher_is_better else -1.0

    def _columns(self) -> FloatArray:
        """Return the fixed effects that a covariate may be the same as, by unit."""
        groups = self.model.groups[self.units.first]
        columns = np.zeros((groups.size, int(groups.max()) + 1))
        columns[np.arange(groups.size), groups] = 1.0
        return columns

    def mean(self, x: FloatArray) -> float:
        """Return the mean of a covariate over the readings."""
        return float(self.units.count @ x / self.units.count.sum())

    def by_unit(self, values: FloatArray) -> FloatArray:
        """Return one value a unit (N,) of something of each reading (n,): its mean."""
        total = np.bincount(self.units.of_row, weights=values, minlength=self.units.count.size)
        return np.asarray(total / self.units.count, float)

    def free(self, x: FloatArray) -> bool:
        """Tell whether a covariate varies within the combinations, in more than one cell."""
        groups = self.model.groups[self.units.first]
        mean = np.bincount(groups, x) / np.maximum(np.bincount(groups), 1)
        rest = x - mean[groups]
        spread = float((x - x.mean()) @ (x - x.mean()))
        return spread > 0.0 and float(rest @ rest) > _ALIASED * spread

    def glance(self, x: FloatArray) -> Moved | None:
        """Return what the quick look says of a covariate; None where it cannot be told."""
        if self._quick is None:
            self._quick = QuickLook(self.model)
        return self._quick.moved(x - x.mean())

    def contrast(
        self,
        x: FloatArray,
        codes: IntArray,
        term: str = "operator",
        beside: IntArray | None = None,
    ) -> Contrast | None:
        """Return one person, or panel, against the others; None where it cannot be told.

        Parameters
        ----------
        x : (N,)
            1 for the units of the one that is looked at, else 0.
        codes : (N,) int
            Which one each unit belongs to.
        term : str
            ``operator``, ``reader`` or ``panel``.
        beside : (N,) int, optional
            Group within which it is held against the others: the class of a panel.
        """
        units = self.units
        present = np.unique(codes)
        if present.size < 2 or not self.free(x):
            return None
        own = int(codes[x > 0][0])
        others = present[present != own]
        if beside is not None:
            mine = beside[x > 0][0]
            others = np.unique(codes[(beside == mine) & (codes != own)])
        if not others.size:
            return None
        apart = math.sqrt(1.0 + 1.0 / others.size)
        known = self.known[term]
        if units.count.size > MOST_UNITS:
            whole = self.whole(x)
            if whole is None:
                return None
            differ = apart * self.model.spreads()[0][term]
            noise = math.sqrt(max(whole.error**2 - differ**2, (0.1 * whole.error) ** 2))
            if term == "panel":
                return Contrast(whole.estimate, noise, differ, self.model.spreads()[1][term])
            return Contrast(whole.estimate, noise, apart * known.sd, known.df)
        at, beta, cov = self._effects(codes, present, term)
        row = np.zeros(beta.size)
        weight = np.where(present == own, 1.0, 0.0)
        weight[np.isin(present, others)] = -1.0 / others.size
        row[at:] = weight
        residual = self.model.mixture.residual_sd
        noise = residual * math.sqrt(max(float(row @ cov @ row), 0.0))
        sd, df = known.sd, max(known.df, READERS_DF) if term == READER else known.df
        square, free = self._spread_of_others(
            beta[at:], residual**2 * cov[at:, at:], present, own, codes, beside
        )
        if term in ("panel", READER):
            sd, df = math.sqrt((df * sd**2 + square) / (df + free)), df + free
        return Contrast(float(row @ beta), noise, apart * sd, df, square / known.sd**2, free)

    def _effects(
        self, codes: IntArray, present: IntArray, term: str
    ) -> tuple[int, FloatArray, FloatArray]:
        """Return where the effects of a term start, all fixed effects and their covariance.

        By generalised least squares with the term's effects as fixed ones. Kept for the next.
        """
        if term not in self._kept_effects:
            columns = np.hstack([self._fixed, (codes[:, None] == present).astype(float)])
            inverse = np.linalg.inv(self._variance(leave=term))
            through = inverse @ columns
            cov = np.linalg.pinv(columns.T @ through, rcond=1e-9)
            beta = cov @ (through.T @ self.units.mean)
            self._kept_effects[term] = (self._fixed.shape[1], beta, cov)
        return self._kept_effects[term]

    @staticmethod
    def _spread_of_others(
        beta: FloatArray,
        cov: FloatArray,
        present: IntArray,
        own: int,
        codes: IntArray,
        beside: IntArray | None,
    ) -> tuple[float, float]:
        """Return the sum of squares of how the others differ within their groups, and its df."""
        total = df = 0.0
        group = beside if beside is not None else np.zeros_like(codes)
        of = {int(c): int(group[codes == c][0]) for c in present}
        for g in set(of.values()):
            at = np.array([i for i, c in enumerate(present) if of[int(c)] == g and c != own])
            if at.size < 2:
                continue
            around = np.eye(at.size) - 1.0 / at.size
            dev = around @ beta[at]
            noise = float(np.trace(around @ cov[np.ix_(at, at)] @ around))
            total += max(float(dev @ dev) - noise, 0.0)
            df += at.size - 1
        return total, df

    def _variance(self, leave: str = "") -> FloatArray:
        """Return the variance of the units' means over that of a reading, without one term."""
        model, units = self.model, self.units
        v = np.diag(1.0 / units.count)
        gamma = np.exp(model.mixture.weight @ np.log(model.mixture.gamma))
        for term, g in zip(model.terms, gamma, strict=True):
            if leave not in term.names:
                codes = term.codes[units.first]
                v += g * (codes[:, None] == codes[None, :])
        return v

    def whole(self, x: FloatArray) -> Moved | None:
        """Return what the whole fit says of a covariate; None where it cannot be told."""
        from scipy.special import stdtr

        if not self.free(x):
            return None
        x = x[self.units.of_row]
        spread = float(x.std())
        try:
            found = fit_model(
                self.data, self.scale, self.priors, (x - x.mean()) / spread, points=FEW_POINTS
            ).mixture
        except LoamError:
            return None
        beta = found.beta[:, -1]
        sd = np.sqrt(found.shape[:, -1, -1] * found.sigma2)
        mean = float(found.weight @ beta)
        above = float(found.weight @ stdtr(found.df, beta / sd))
        error = math.sqrt(float(found.weight @ (sd**2 + (beta - mean) ** 2)))
        return Moved(mean / spread, error / spread, min(max(above, 1e-15), 1.0 - 1e-15))
