"""The reflection of a small lamp in a worked cell, made from its readings.

Not a photograph: a drawing whose core tightens with gloss, whose halo grows with haze and whose
arcs are the marks that are left. It is the same for the same readings on every screen, and each
part changes one way with its reading.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from loam.core.stats.reduce import FloatArray

ARCS = 220
LOW_GLOSS, HIGH_GLOSS, MUCH_HAZE = 55.0, 95.0, 60.0


@dataclass(frozen=True)
class Light:
    """What a reflection shows.

    Attributes
    ----------
    sharp : float
        0 to 1, from gloss.
    haze : float
        0 to 1, from haze.
    left : float
        0 to 1, share of the marks that are left.
    """

    sharp: float = 0.85
    haze: float = 0.2
    left: float = 0.0


def light_of(gloss: float | None, haze: float | None, removed: float | None) -> Light:
    """Return the light of some readings: gloss in GU, linear haze, defects removed in %."""
    plain = Light()
    return Light(
        plain.sharp if gloss is None else _unit((gloss - LOW_GLOSS) / (HIGH_GLOSS - LOW_GLOSS)),
        plain.haze if haze is None else _unit(haze / MUCH_HAZE),
        plain.left if removed is None else _unit(1.0 - removed / 100.0),
    )


STEP = 0.005
"""No eye sees less than a fifth of a gloss unit: a light that is as good as another is the same."""


def _unit(value: float) -> float:
    return round(min(max(value, 0.0), 1.0) / STEP) * STEP


@lru_cache(8)
def _ground(size: int) -> tuple[FloatArray, npt.NDArray[np.float32]]:
    """Return the distance from the middle (96 across) and the arcs of marks (ARCS, n)."""
    at = (np.arange(size) + 0.5) / size * 96.0 - 48.0
    x, y = np.meshgrid(at, at)
    r, turn = np.hypot(x, y), np.arctan2(y, x)
    rng = np.random.default_rng(20)
    arcs = np.empty((ARCS, size * size), dtype=np.float32)
    width = max(0.55, 48.0 / size)
    for i in range(ARCS):
        radius = 6.0 + 40.0 * rng.random() ** 0.8
        start, span = rng.uniform(-np.pi, np.pi), rng.uniform(0.08, 0.45)
        across = np.exp(-(((r - radius) / width) ** 2))
        along = np.abs((turn - start + np.pi) % (2 * np.pi) - np.pi) < span / 2
        arcs[i] = (across * along * np.exp(-radius / 26.0) * rng.uniform(0.5, 0.9)).ravel()
    return np.asarray(r, float), arcs


@lru_cache(256)
def _marks(left: float, size: int) -> FloatArray:
    """Return the brightness of the marks that are left (size, size)."""
    _, arcs = _ground(size)
    shown = np.clip(left * ARCS - np.arange(ARCS), 0.0, 1.0).astype(np.float32)
    return np.asarray((shown @ arcs).reshape(size, size), float)


@lru_cache(512)
def reflection(light: Light, size: int) -> FloatArray:
    """Return the brightness of each point (size, size), 0 to 1."""
    r, _ = _ground(size)
    core = (0.5 + 0.5 * light.sharp) * np.exp(-((r / (3.4 + 8.0 * (1.0 - light.sharp))) ** 2))
    halo = 0.8 * light.haze * np.exp(-r / 15.0) + 0.05 * np.exp(-r / 30.0)
    marks = _marks(light.left, size)
    return np.asarray(1.0 - np.exp(-1.6 * (core + halo + 1.1 * marks)), float)
