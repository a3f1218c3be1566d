"""Reflection haze (ISO 13803, ASTM E430), on a linear or a logarithmic scale."""

from loam.core.readings.kind import ReadingKind

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
    columns=("haze", "haze_after", "haze_hu", "hu"),
    before_columns=("baseline_haze", "haze_before", "haze_baseline"),
)
