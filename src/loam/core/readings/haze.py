"""Reflection haze (ISO 13803, ASTM E430), on a linear or a logarithmic scale."""

import numpy as np
import numpy.typing as npt

from loam.core.readings.kind import OFFSET, Doubted, ReadingKind, TileLimits

HAZE = ReadingKind(
    key="haze",
    label="haze",
    short="haze",
    unit="HU",
    decimals=1,
    low=0.0,
    high=2000.0,
    higher_is_better=False,
    repeatability=1.0,
    scales=("log", "linear"),
    scale="log1p",
    matters=1.10,
    usual={
        "panel": 0.08,
        "panel:combination": 0.04,
        "operator": 0.04,
        "reader": 0.03,
        "day": 0.04,
        "cell": 0.06,
        "residual": 0.06,
    },
    columns=("haze", "haze_after", "haze_hu", "hu"),
    before_columns=("baseline_haze", "haze_before", "haze_baseline"),
    doubted=Doubted(0.14, 0.1, 0.03),
    tile=TileLimits(3.0, 6.0, how=OFFSET),
    flattered=True,
    aim="finish",
    claims={"finish": 1},
    scale_column="scale",
    abroad={
        "de": ("schleier", "glanzschleier"),
        "fr": ("voile",),
        "es": ("velo", "turbidez"),
    },
    says=("has {} more haze", "has {} less haze"),
)

LOG_SCALE = "log"
_FACTOR, _UNIT = 1285.0, 20.0


def to_log_haze(linear: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """Turn linear haze into logarithmic: 1285 log10(H / 20 + 1).

    The usual definition for such meters; an assumption, as makers may differ.
    """
    return np.asarray(_FACTOR * np.log10(linear / _UNIT + 1.0), float)


def from_log_haze(log: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """Turn logarithmic haze into linear; the inverse of `to_log_haze`."""
    return np.asarray(_UNIT * (10.0 ** (log / _FACTOR) - 1.0), float)
