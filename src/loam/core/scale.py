"""Scales on which scatter is even: readings are fitted there and shown as measured."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from loam.core.readings.haze import LOG_SCALE, from_log_haze, to_log_haze
from loam.core.readings.kind import ReadingKind
from loam.core.stats.reduce import FloatArray

STEPS = (10.0, 5.0, 2.0, 1.0, 0.5, 0.2, 0.1, 0.05, 0.02, 0.01)
"""Steps in which people and meters give a percentage, coarsest first."""


@dataclass(frozen=True)
class Scale:
    """A monotonic scale.

    Attributes
    ----------
    name : str
        ``identity``, ``log1p`` or ``logit``.
    half : float
        Half a step of the readings, which keeps the log odds of 0 and 100 % finite.
    meter : str
        Scale of the meter: "log" for a logarithmic haze meter, else "".
    least, most : float
        Range that a true value can have, as measured.
    """

    name: str
    least: float
    most: float
    half: float = 0.0
    meter: str = ""

    def to(self, values: FloatArray) -> FloatArray:
        """Bring measured values (n,) onto the scale."""
        y = from_log_haze(values) if self.meter == LOG_SCALE else values
        if self.name == "log1p":
            return np.asarray(np.log1p(y), float)
        if self.name == "logit":
            return np.asarray(np.log((y + self.half) / (100.0 + self.half - y)), float)
        return np.asarray(y, float)

    def back(self, x: FloatArray) -> FloatArray:
        """Turn places on the scale into measured values; they stay inside the possible range."""
        y = np.asarray(x, float)
        if self.name == "log1p":
            y = np.expm1(np.minimum(y, 700.0))
        elif self.name == "logit":
            share = 0.5 * (1.0 + np.tanh(0.5 * y))
            y = share * (100.0 + 2.0 * self.half) - self.half
        if self.meter == LOG_SCALE:
            y = to_log_haze(np.maximum(y, 0.0))
        return np.asarray(np.clip(y, self.least, self.most), float)

    @property
    def ratio(self) -> bool:
        """Whether a difference on the scale is a ratio as measured."""
        return self.name != "identity"


def step_of(values: FloatArray) -> float:
    """Return the coarsest usual step of which every reading (n,) is a whole multiple."""
    for step in STEPS:
        count = values / step
        if bool(np.all(np.abs(count - np.round(count)) < 1e-6)):
            return step
    return STEPS[-1]


def scale_for(kind: ReadingKind, values: FloatArray, meter: str = "") -> Scale:
    """Choose the scale of a measurand for these readings (n,)."""
    least = kind.low if kind.least is None else kind.least
    most = kind.high if kind.most is None else kind.most
    half = 0.5 * step_of(values) if kind.scale == "logit" else 0.0
    return Scale(kind.scale, least, most, half, LOG_SCALE if meter == LOG_SCALE else "")
