"""A quick look at covariates: their slopes at the variances of a fit without them.

With W the counts of the units, A = [X Z] their fixed groups and random terms and G the ratios,
Henderson's equations give for a covariate x, with C = A'WA + diag(0, 1/G) (sparse, factored once),

    x'Px = x'Wx - (A'Wx)' C^-1 (A'Wx),    x'Py = x'Wy - (A'Wx)' C^-1 (A'Wy),

P = V^-1 - V^-1 X (X'V^-1 X)^-1 X'V^-1; the slope is x'Py / x'Px, its variance sigma^2 / x'Px.
"""

from __future__ import annotations

import math

import numpy as np

from loam.core.doubts.values import Moved
from loam.core.judging.model import Model
from loam.core.stats.reduce import FloatArray

_LEAST_RATIO = 1e-9
_ALIASED = 1e-9


class QuickLook:
    """Looks at covariates of one fitted model, one after the other.

    Parameters
    ----------
    model : Model
        Fitted without them; slopes of a reading before work are left out.
    """

    def __init__(self, model: Model) -> None:
        from scipy.sparse import csc_array, diags_array, hstack
        from scipy.sparse.linalg import splu

        units = model.likelihood.units
        n, line = units.count.size, np.arange(units.count.size)
        gamma = np.exp(model.mixture.weight @ np.log(model.mixture.gamma))
        codings = [model.groups[units.first], *(t.codes[units.first] for t in model.terms)]
        widths = [int(c.max()) + 1 for c in codings]
        ones = np.ones(n)
        rows = [
            csc_array((ones, (line, c)), shape=(n, w)) for c, w in zip(codings, widths, strict=True)
        ]
        own = [np.zeros(widths[0])]
        own += [
            np.full(w, 1.0 / max(float(g), _LEAST_RATIO))
            for w, g in zip(widths[1:], gamma, strict=True)
        ]
        a = hstack(rows, format="csc")
        self._weight, self._y = units.count, units.count * units.mean
        self._turned = a.T.tocsr()
        matrix = self._turned @ (diags_array(units.count) @ a) + diags_array(np.concatenate(own))
        self._solve = splu(
            matrix.tocsc(),
            permc_spec="MMD_AT_PLUS_A",
            diag_pivot_thresh=0.0,
            options={"SymmetricMode": True},
        ).solve
        self._through = self._turned @ self._y
        self._sigma2 = model.mixture.residual_sd**2

    def moved(self, x: FloatArray) -> Moved | None:
        """Return what a covariate on units (N,) moves; None where the groups hide it."""
        from scipy.special import ndtr

        weighed = self._weight * x
        through = self._turned @ weighed
        solved = self._solve(through)
        whole = float(weighed @ x)
        under = whole - float(through @ solved)
        if under <= _ALIASED * whole:
            return None
        slope = float(x @ self._y - self._through @ solved) / under
        error = math.sqrt(self._sigma2 / under)
        return Moved(slope, error, float(np.clip(ndtr(slope / error), 1e-15, 1.0 - 1e-15)))
