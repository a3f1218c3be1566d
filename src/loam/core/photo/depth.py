"""From products of marks to marks: how much brightness-weighted length is gone.

Polishing takes the same depth off everywhere, so a mark of depth d is left with max(d - c, 0), and
its brightness with it. Depths of marks scatter log-normally about their middle. The mean of d
times what is left of it, over the mean of d squared (that is what the products give), then fixes
the cut c, and with it the share of the sum of depths that is gone.
"""

from __future__ import annotations

import math

from scipy.optimize import brentq
from scipy.special import ndtr

SPREAD, SPREAD_SD = 0.45, 0.07
"""Spread of the logarithm of depths, and how well that is known: assumed."""


def left(cut: float, spread: float) -> tuple[float, float, float]:
    """Return what is left of the mean depth, of the product with it, and of its square.

    Parameters
    ----------
    cut : float
        In middle depths.
    spread : float
        Standard deviation of the logarithm of depth.
    """
    if cut <= 0.0:
        return 1.0, 1.0, 1.0
    first, second = math.exp(spread**2 / 2.0), math.exp(2.0 * spread**2)
    k = -math.log(cut) / spread
    p0, p1, p2 = ndtr(k), first * ndtr(k + spread), second * ndtr(k + 2.0 * spread)
    return (
        float((p1 - cut * p0) / first),
        float((p2 - cut * p1) / second),
        float((p2 - 2.0 * cut * p1 + cut**2 * p0) / second),
    )


def removed(product: float, spread: float = SPREAD) -> float:
    """Return the share of brightness-weighted mark length that is gone.

    Parameters
    ----------
    product : float
        Mean of before times after, over the mean of before squared; above 1 nothing is gone, and
        below nothing all is.
    """
    if product >= 1.0:
        return 0.0
    most = 1e3
    if product <= left(most, spread)[1]:
        return 1.0
    cut = float(brentq(lambda c: left(c, spread)[1] - product, 1e-9, most, xtol=1e-10))
    return 1.0 - left(cut, spread)[0]
