"""How far a covariate moves a measurand: a quick look at plug-in variances, then the whole fit.

The quick look keeps the variances of the fit without the covariate; what it passes is fitted with
the covariate among the fixed effects and the variances integrated over, so that an odd panel does
not hide behind the spread of panels that it makes.
"""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from scipy.special import stdtr

from loam.core.doubts.heavy import Contrast
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
"""Cells up to which the quick look is taken; beyond, every covariate is fitted."""
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
        self._dense: tuple[FloatArray, FloatArray, FloatArray, float] | None = None
        self._fixed = self._columns()

    @property
    def better(self) -> float:
        """1 where more is better, else -1."""
        return 1.0 if self.data.higher_is_better else -1.0

    def _columns(self) -> FloatArray:
        """Return the fixed effects that a covariate may be the same as, by unit."""
        units = self.model.likelihood.units
        groups = self.model.groups[units.first]
        columns = np.zeros((units.first.size, int(groups.max()) + 1))
        columns[np.arange(units.first.size), groups] = 1.0
        return columns

    def free(self, x: FloatArray) -> bool:
        """Tell whether a covariate varies within the combinations, in more than one cell."""
        units = self.model.likelihood.units
        own = x[units.first]
        size = self._fixed.sum(axis=0)
        mean = (self._fixed.T @ own) / np.maximum(size, 1.0)
        rest = own - self._fixed @ mean
        spread = float((own - own.mean()) @ (own - own.mean()))
        return spread > 0.0 and float(rest @ rest) > _ALIASED * spread

    def glance(self, x: FloatArray) -> float:
        """Return the quick z of a covariate; NaN where no quick look is taken."""
        units = self.model.likelihood.units
        if units.count.size > MOST_UNITS:
            return math.nan
        if self._dense is None:
            self._dense = self._inverse()
        inverse, projected, y, sigma2 = self._dense
        own = x[units.first] - x[units.first].mean()
        through = inverse @ own
        under = float(own @ through) - float(
            (projected.T @ own) @ np.linalg.lstsq(self._fixed.T @ projected, projected.T @ own,
                                                  rcond=None)[0]
        )  # fmt: skip
        if under <= 1e-12:
            return 0.0
        return float(own @ y) / math.sqrt(under * sigma2)

    def contrast(self, x: FloatArray, people: IntArray) -> Contrast | None:
        """Return one person against the mean of the others; None where it cannot be told.

        Parameters
        ----------
        x : (n,)
            1 for the person's readings, else 0.
        people : (n,) int
            Who each reading's cell was worked by.
        """
        units = self.model.likelihood.units
        who = people[units.first]
        present = np.unique(who)
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
        columns = np.hstack([self._fixed, (who[:, None] == present[1:]).astype(float)])
        inverse = np.linalg.inv(self._variance(leave="operator"))
        through = inverse @ columns
        cov = np.linalg.pinv(columns.T @ through)
        beta = cov @ (through.T @ units.mean)
        own = present == who[x[units.first] > 0][0]
        row = np.zeros(beta.size)
        weight = np.where(own, 1.0, -1.0 / (present.size - 1))
        row[self._fixed.shape[1] :] = weight[1:]
        noise = self.model.mixture.residual_sd * math.sqrt(max(float(row @ cov @ row), 0.0))
        return Contrast(float(row @ beta), noise, usual, df)

    def _variance(self, leave: str = "") -> FloatArray:
        """Return the variance of the units' means over that of a reading, without one term."""
        model, units = self.model, self.model.likelihood.units
        v = np.diag(1.0 / units.count)
        gamma = np.exp(model.mixture.weight @ np.log(model.mixture.gamma))
        for term, g in zip(model.terms, gamma, strict=True):
            if leave not in term.names:
                codes = term.codes[units.first]
                v += g * (codes[:, None] == codes[None, :])
        return v

    def _inverse(self) -> tuple[FloatArray, FloatArray, FloatArray, float]:
        """Return V^-1, V^-1 X, P y and the residual variance at the fitted variances."""
        model, units = self.model, self.model.likelihood.units
        inverse: FloatArray = np.asarray(np.linalg.inv(self._variance()), np.float64)
        projected = inverse @ self._fixed
        through = inverse @ units.mean
        beta = np.linalg.lstsq(self._fixed.T @ projected, projected.T @ units.mean, rcond=None)[0]
        return inverse, projected, through - projected @ beta, model.mixture.residual_sd**2

    def whole(self, x: FloatArray) -> Moved | None:
        """Return what the whole fit says of a covariate; None where it cannot be told."""
        if not self.free(x):
            return None
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


def by_unit(probe: Probe, codes: FloatArray) -> FloatArray:
    """Return one value a cell of something that varies within it: its mean."""
    units = probe.model.likelihood.units
    size = np.bincount(units.of_row, minlength=units.count.size)
    mean = np.bincount(units.of_row, weights=codes, minlength=units.count.size) / size
    return np.asarray(mean[units.of_row])
