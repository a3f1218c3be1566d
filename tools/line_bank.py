"""The photo method that came with the reference, for comparison: a bank of oriented line filters.

Signed responses along marks that run round the lamp, less those across, where BEFORE exceeds a
threshold (tests/reference/optics/photo-method.md). Gain by the strip alone.
"""

import numpy as np

from loam.core.photo.frame import frame_of
from loam.core.photo.register import laid_over, register

ORIENTATIONS, ACROSS, ALONG = 16, 1.4, 7.0
FAN = np.deg2rad(35.0)


def kernel(angle):
    """Return one filter: a second derivative across, a Gaussian along; zero mean, unit energy."""
    reach = int(3 * ALONG)
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    v, u = x * np.cos(angle) + y * np.sin(angle), -x * np.sin(angle) + y * np.cos(angle)
    k = (1 - (u / ACROSS) ** 2) * np.exp(-0.5 * ((u / ACROSS) ** 2 + (v / ALONG) ** 2))
    k -= k.mean()
    return (k / np.sqrt((k**2).sum())).astype(np.float32)


def removed_pct(before, after, cell, strip, q=2.0):
    """Measure a pair as the notes do."""
    from scipy.signal import oaconvolve

    b, a = frame_of(before), frame_of(after)
    light = laid_over(a.light, register(b, a)[-1])
    h, w = b.light.shape
    y, x = np.mgrid[:h, :w].astype(np.float32)
    tangent = np.arctan2(y - b.lamp[1], x - b.lamp[0]) + np.pi / 2
    usable = ~b.glare & (np.hypot(x - b.lamp[0], y - b.lamp[1]) > 90)
    best = {k: np.full((h, w), -np.inf, np.float32) for k in ("round", "radial")}
    then = {k: np.zeros((h, w), np.float32) for k in best}
    for i in range(ORIENTATIONS):
        angle = np.pi * i / ORIENTATIONS
        first, second = (oaconvolve(m, kernel(angle), mode="same") for m in (b.light, light))
        off = np.abs((angle - tangent + np.pi / 2) % np.pi - np.pi / 2)
        for name, in_fan in (("round", off <= FAN), ("radial", off >= np.pi / 2 - FAN)):
            better = in_fan & (first > best[name])
            best[name][better], then[name][better] = first[better], second[better]
    sigma = 1.4826 * np.median(np.abs(best["radial"][usable]))

    def ratio(region):
        box = region.box()
        ok = usable[box]
        sums = [
            sum(
                s * (m[k][box] * (ok & (best[k][box] > q * sigma))).sum()
                for k, s in (("round", 1.0), ("radial", -1.0))
            )
            for m in (best, then)
        ]
        return sums[1] / sums[0]

    return 100.0 * (1.0 - ratio(cell) / ratio(strip))
