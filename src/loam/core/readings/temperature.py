"""Panel temperature, read after the last pass."""

from loam.core.readings.kind import ReadingKind

TEMPERATURE = ReadingKind(
    key="temperature",
    label="panel temperature",
    short="panel heat",
    unit="°C",
    quantity="temperature",
    decimals=1,
    low=-20.0,
    high=200.0,
    higher_is_better=False,
    repeatability=0.5,
    matters=2.0,
    usual={
        "panel": 2.0,
        "panel:combination": 0.5,
        "operator": 0.5,
        "reader": 0.3,
        "day": 0.5,
        "cell": 1.5,
        "residual": 0.5,
    },
    columns=("panel_temperature_c", "panel_temp_c", "temperature_c", "temperature", "temp_c"),
    before_columns=("temperature_before_c",),
)
