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
from loam.core.judgement import TrialData
from loam.core.judging.model import Model, fit_model
from loam.core.prior import Priors, default_priors
from loam.core.readings import kind_of
from loam.core.scale import Scale, scale_for
from loam.core.stats.posterior import FEW_POINTS
from loam.core.stats.reduce import FloatArray, IntArray

MOST_UNITS = 1500
"""Cells up to which people are told apart at the fit's variances; beyond, each is fitted."""
USUAL_DF = {"panel": 5.0, "operator": 12.0, "day": 6.0, "panel:combination": 6.0, "cell": 6.0}
"""How well it is taken to be known here how panels, people and days usually vary, in degrees of
freedom: what is unlike that is what is looked for. People are few, so that the readings say least
of them."""
_ALIASED = 1e-6


class Probe:
    """One measurand of a trial, ready to be asked about covariates."""

    def __init__(self, data: TrialData, priors: Priors | None = None) -> None:
        self.data = data
        self.kind = kind_of(data.measurand)
        self.known = priors or default_priors(self.kind)
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

    def contrast(self, x: FloatArray, people: IntArray) -> Contrast | None:
        """Return one person against the mean of the others; None where it cannot be told.

        Parameters
        ----------
        x : (N,)
            1 for the person's units, else 0.
        people : (N,) int
            Who each unit's cell was worked by.
        """
        units = self.units
        present = np.unique(people)
        if present.size < 2 or not self.free(x):
            return None
        apart = math.sqrt(1.0 + 1.0 / (present.size - 1))
        usual = apart * self.known["operator"].sd
        df = self.known["operator"].df
        if units.count.size > MOST_UNITS:
            whole = self.whole(x)
            if whole is None:
                return None
            differ = apart * self.model.spreads()[0]["operator"]
            noise = math.sqrt(max(whole.error**2 - differ**2, (0.1 * whole.error) ** 2))
            return Contrast(whole.estimate, noise, usual, df)
        columns = np.hstack([self._fixed, (people[:, None] == present[1:]).astype(float)])
        inverse = np.linalg.inv(self._variance(leave="operator"))
        through = inverse @ columns
        cov = np.linalg.pinv(columns.T @ through)
        beta = cov @ (through.T @ units.mean)
        own = present == people[x > 0][0]
        row = np.zeros(beta.size)
        weight = np.where(own, 1.0, -1.0 / (present.size - 1))
        row[self._fixed.shape[1] :] = weight[1:]
        noise = self.model.mixture.residual_sd * math.sqrt(max(float(row @ cov @ row), 0.0))
        return Contrast(float(row @ beta), noise, usual, df)

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
