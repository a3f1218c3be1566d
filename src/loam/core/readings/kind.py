"""What a measurand is: its unit, its step, its range and which way is better."""

from __future__ import annotations

from dataclasses import dataclass

from loam.core.errors import ValueRefused
from loam.core.units import fixed, parse_number


@dataclass(frozen=True)
class ReadingKind:
    """One measurand.

    Attributes
    ----------
    key : str
        Stable name in files and in the workshop.
    label, short : str
        Words on screen; ``short`` is used in sentences.
    unit : str
        Unit symbol; the value is always stored in it.
    decimals : int
        Decimals that the meter resolves.
    low, high : float
        Range of possible values, inclusive.
    higher_is_better : bool
        Direction of merit for ranking.
    repeatability : float
        Usual standard deviation of repeat readings, in the unit; a stated default until the
        trial's own repeat readings say better.
    scales : tuple of str
        Scales that must never be mixed; empty when there is only one.
    columns : tuple of str
        Names under which a file may carry the reading, lower case.
    before_columns : tuple of str
        Names of the reading before work (baseline).
    derived : bool
        True when it is computed from other readings and never typed.
    """

    key: str
    label: str
    short: str
    unit: str
    decimals: int
    low: float
    high: float
    higher_is_better: bool
    repeatability: float
    columns: tuple[str, ...]
    scales: tuple[str, ...] = ()
    before_columns: tuple[str, ...] = ()
    derived: bool = False
    rankable: bool = True

    def check(self, value: float, *, where: str = "") -> float:
        """Return the value if a meter can have shown it, else refuse it.

        Raises
        ------
        ValueRefused
            When the value lies outside ``low`` to ``high``.
        """
        if not self.low <= value <= self.high:  # a NaN is refused too
            raise ValueRefused(
                f"{self.label} of {value:g} {self.unit} is impossible: "
                f"it lies between {self.low:g} and {self.high:g} {self.unit}.",
                where=where,
                todo="Check the meter and the figure.",
            )
        return value

    def parse(self, text: str, *, where: str = "") -> float:
        """Read typed digits as a value of this measurand."""
        return self.check(parse_number(text, where=where), where=where)

    def write(self, value: float, extra: int = 0) -> str:
        """Write a value with the digits the meter resolves (plus ``extra`` for means)."""
        return fixed(value, self.decimals + extra)
