"""The orbit-averaged footprint of a pad: pressure times sliding speed over the ground.

With the pad's centre at c(th) = e (cos th, sin th) from the machine's,
K(x) = mean over th of p(x - c) |v(x, th)|, p the pressure on the pad and
v = (-Omega e sin th - omega v', Omega e cos th + omega u') with (u', v') = x - c.
Even pressure, or loading at the edge, depends on the radius alone; a tilted rotary needs no
mean; a tilted orbital is averaged in two dimensions. The arm's own speed is left out: 25 mm/s
beside metres per second. Source: Preston's removal = Kp x pressure x distance.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from loam.core.dose.settings import SectionSettings
from loam.core.stats.reduce import FloatArray

_PHASES, _RADII, _SUB = 720, 512, 6
_TILTED_PHASES, _TILTED_SUB = 64, 4


@lru_cache(maxsize=64)
def contact_from(tilt: float) -> float:
    """Return where the contact of a tilted pad begins, in radii from its middle (-1: all of it).

    A tilted pad presses like a wedge, p / p0 = tilt (x / R - c) where that is above 0, and carries
    the same force: up to a tilt of 1 all of it is in contact (c = -1 / tilt), beyond it a part,
    whose c makes the mean of (x - c)+ over the disc 1 / tilt,
    (2/3 (1 - c^2)^(3/2) - c (acos c - c (1 - c^2)^(1/2))) / pi.
    """
    if tilt <= 1.0:
        return -1.0 / tilt if tilt > 0.0 else -math.inf
    low, high = -1.0, 1.0
    for _ in range(60):
        c = 0.5 * (low + high)
        root = math.sqrt(max(1.0 - c * c, 0.0))
        mean = (2.0 / 3.0 * root**3 - c * (math.acos(c) - c * root)) / math.pi
        low, high = (c, high) if mean > 1.0 / tilt else (low, c)
    return 0.5 * (low + high)


def contact_share(tilt: float) -> float:
    """Return the share of a tilted pad's area that touches the paint."""
    c = max(contact_from(tilt), -1.0)
    return (math.acos(c) - c * math.sqrt(max(1.0 - c * c, 0.0))) / math.pi


def _wedge(along: FloatArray, tilt: float) -> FloatArray:
    """Return a tilted pad's pressure over the even one, at places along the tilt in radii."""
    return np.maximum(tilt * (along - contact_from(tilt)), 0.0)


@dataclass(frozen=True)
class Footprint:
    """A pad's footprint for a force of 1 N.

    Attributes
    ----------
    kernel : (m, m)
        Pressure times speed, in Pa m/s, on the grid; m is odd, the machine's centre in the middle.
    speed : float
        Pressure-weighted mean sliding speed, m/s.
    """

    kernel: FloatArray
    speed: float


def footprint(settings: SectionSettings) -> Footprint:
    """Return the footprint of a stage's pad and machine for 1 N, kept for the next call."""
    return _footprint(
        settings.pad_mm,
        settings.eccentricity_mm,
        settings.orbit_rad_s,
        settings.turn_rad_s,
        settings.tilt,
        settings.azimuth_deg,
        settings.edge_loading,
        settings.grid_mm,
    )


def mean_speed(settings: SectionSettings) -> float:
    """Pressure-weighted mean sliding speed over the pad, m/s.

    For even pressure (2 / R^2) int_0^R (2 / pi) (a + b) E(m) r dr with a = Omega e,
    b = |omega| r, m = 4 a b / (a + b)^2 and E the complete elliptic integral.
    """
    return _mean_speed(
        settings.radius_mm,
        settings.eccentricity_mm,
        settings.orbit_rad_s,
        settings.turn_rad_s,
        settings.tilt,
        settings.edge_loading,
    )


def _around(radius_mm: FloatArray, e_mm: float, orbit: float, turn: float) -> FloatArray:
    """Mean speed over an orbit at points of the pad, m/s."""
    from scipy.special import ellipe

    a, b = orbit * e_mm * 1e-3, np.abs(turn) * radius_mm * 1e-3
    total = np.maximum(a + b, 1e-300)
    m = np.minimum(4.0 * a * b / total**2, 1.0)
    return np.asarray(2.0 / math.pi * total * ellipe(m), float)


def _mean_speed(
    radius: float, e_mm: float, orbit: float, turn: float, tilt: float, edge: float
) -> float:
    nodes, weights = np.polynomial.legendre.leggauss(96)
    share = 0.5 * (nodes + 1.0)
    along = _around(share * radius, e_mm, orbit, turn) * share * weights
    angle = 2.0 * math.pi * (np.arange(360) + 0.5) / 360
    bent = edge * (2.0 * share**2 - 1.0)
    flat = _wedge(share[:, None] * np.cos(angle), tilt) if tilt else np.ones((96, 1))
    load = np.maximum(bent[:, None] + flat, 0.0).mean(axis=1)
    return float((along * load).sum())


def _pressure(u: FloatArray, v: FloatArray, radius: float, load: tuple[float, ...]) -> FloatArray:
    """Pressure on the pad at 1 N, Pa; 0 off it. Lengths in mm."""
    tilt, azimuth, edge = load
    square = (u * u + v * v) / radius**2
    shape = edge * (2.0 * square - 1.0)
    if tilt:
        shape = shape + _wedge((u * math.cos(azimuth) + v * math.sin(azimuth)) / radius, tilt)
    else:
        shape = shape + 1.0
    on_pad = square <= 1.0
    return np.where(on_pad, np.maximum(shape, 0.0), 0.0) / (math.pi * (radius * 1e-3) ** 2)


def _power(
    x: FloatArray, y: FloatArray, phase: FloatArray, pad: tuple[float, ...], load: tuple[float, ...]
) -> FloatArray:
    """Pressure times speed at points (n,) over phases (q,), averaged: (n,) Pa m/s."""
    radius, e_mm, orbit, turn = pad
    cos, sin = np.cos(phase), np.sin(phase)
    u, v = x[:, None] - e_mm * cos, y[:, None] - e_mm * sin
    vx = (-orbit * e_mm * sin - turn * v) * 1e-3
    vy = (orbit * e_mm * cos + turn * u) * 1e-3
    return np.asarray((_pressure(u, v, radius, load) * np.hypot(vx, vy)).mean(axis=1), float)


@lru_cache(maxsize=64)
def _footprint(
    pad_mm: float,
    e_mm: float,
    orbit: float,
    turn: float,
    tilt: float,
    azimuth_deg: float,
    edge: float,
    grid: float,
) -> Footprint:
    radius = 0.5 * pad_mm
    reach = radius + e_mm
    half = math.ceil(reach / grid + 0.5)
    pad, load = (radius, e_mm, orbit, turn), (tilt, math.radians(azimuth_deg), edge)
    sub = _SUB if not tilt or e_mm == 0 else _TILTED_SUB
    fine = (np.arange((2 * half + 1) * sub) + 0.5) / sub * grid - (half + 0.5) * grid
    if tilt and e_mm:
        phases = 2.0 * math.pi * (np.arange(_TILTED_PHASES) + 0.5) / _TILTED_PHASES
        rows = [_power(fine, np.full(fine.size, y), phases, pad, load) for y in fine]
        dense = np.stack(rows)
    elif tilt:
        x, y = np.meshgrid(fine, fine)
        dense = _power(x.ravel(), y.ravel(), np.zeros(1), pad, load).reshape(x.shape)
    else:
        dense = _radial(fine, reach, pad, load)
    side = 2 * half + 1
    kernel = dense.reshape(side, sub, side, sub).mean(axis=(1, 3))
    kernel.setflags(write=False)
    return Footprint(kernel, _mean_speed(radius, e_mm, orbit, turn, tilt, edge))


def _radial(
    fine: FloatArray, reach: float, pad: tuple[float, ...], load: tuple[float, ...]
) -> FloatArray:
    """Look a footprint that depends on the radius alone up on a fine square grid."""
    phases = 2.0 * math.pi * (np.arange(_PHASES) + 0.5) / _PHASES
    radii = np.linspace(0.0, reach, _RADII)
    table = _power(radii, np.zeros(_RADII), phases, pad, load)
    r = np.hypot(fine[:, None], fine[None, :])
    return np.where(r <= reach, np.interp(r, radii, table), 0.0)
