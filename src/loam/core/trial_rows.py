"""Readings of one measurand as columns, one row a reading: what every judgement fits."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from loam.core.stats.reduce import FloatArray, IntArray


@dataclass(frozen=True)
class Coded:
    """A column of names: (n,) codes into ``names``."""

    codes: IntArray
    names: tuple[str, ...]


@dataclass(frozen=True)
class TrialData:
    """Readings of one measurand as columns, one row a reading.

    Attributes
    ----------
    measurand : str
        Its key or column name.
    y : (n,) float
        Readings in the measurand's unit.
    hardness, combination : Coded
        Class of the panel and combination of the cell.
    factors : mapping of str to Coded
        What may be random: cell, panel, operator, day.
    baseline : (n,) float or None
        Reading of the cell before work; for a judgement NaN where a cell has none.
    higher_is_better : bool
    scale : str
        Scale of the readings where a measurand has several (haze: log or linear).
    rows : (n,) int or None
        Rows of the trial's columns that they are, where they come from a trial.
    looked : bool
        Whether cells were added after a look at the result.
    """

    measurand: str
    y: FloatArray
    hardness: Coded
    combination: Coded
    factors: Mapping[str, Coded]
    baseline: FloatArray | None = None
    higher_is_better: bool = True
    scale: str = ""
    rows: IntArray | None = None
    looked: bool = False
