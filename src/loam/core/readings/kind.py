"""What a measurand is: its unit, its step, its range and which way is better."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from loam.core.errors import ValueRefused
from loam.core.units import Unit, fixed, parse_number


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
    quantity : str
        Which of `units.QUANTITIES` it is, where it can be shown in other units; "" elsewhere.
    shown_as : Unit or None
        The unit it is shown and typed in, when that is not the stored one (see `in_unit`).
    least, most : float or None
        Range that a true value can have, where that is narrower than what a meter can show.
    scale : str
        Scale on which scatter is even: ``identity``, ``log1p`` (log of the value and 1) or
        ``logit`` (log odds).
    matters : float
        Difference that matters by default: in the unit on ``identity``, else a ratio (of the
        value and 1, or of the odds).
    usual : mapping of str to float
        Usual standard deviations on the scale, by random term and ``residual``: stated
        assumptions, used where a trial cannot say (see `core.prior`).
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
    quantity: str = ""
    shown_as: Unit | None = None
    least: float | None = None
    most: float | None = None
    scale: str = "identity"
    matters: float = 1.0
    usual: Mapping[str, float] = field(default_factory=dict)

    def in_unit(self, unit: Unit) -> ReadingKind:
        """Return this measurand as it is shown and typed in another unit."""
        if unit.symbol == self.unit:
            return self
        decimals = self.decimals + unit.finer
        return replace(self, unit=unit.symbol, decimals=decimals, shown_as=unit)

    def shown(self, value: float) -> float:
        """Turn a stored value into the unit it is shown in."""
        return value if self.shown_as is None else self.shown_as.shown(value)

    def span(self, difference: float) -> float:
        """Turn a stored difference into the unit it is shown in."""
        return difference if self.shown_as is None else difference * self.shown_as.factor

    def check(self, value: float, *, where: str = "") -> float:
        """Return the value if a meter can have shown it, else refuse it.

        Raises
        ------
        ValueRefused
            When the value lies outside ``low`` to ``high``.
        """
        if not self.low <= value <= self.high:  # a NaN is refused too
            raise ValueRefused(
                f"{self.label} of {self.shown(value):g} {self.unit} is impossible: it lies between"
                f" {self.shown(self.low):g} and {self.shown(self.high):g} {self.unit}.",
                where=where,
                todo="Check the meter and the figure.",
            )
        return value

    def parse(self, text: str, *, where: str = "") -> float:
        """Read typed digits as a value of this measurand."""
        typed = parse_number(text, where=where)
        value = typed if self.shown_as is None else self.shown_as.stored(typed)
        return self.check(value, where=where)

    def write(self, value: float, extra: int = 0) -> str:
        """Write a value with the digits the meter resolves (plus ``extra`` for means)."""
        return fixed(self.shown(value), self.decimals + extra)

    def write_span(self, difference: float, extra: int = 0) -> str:
        """Write a difference with the digits the meter resolves (plus ``extra`` for means)."""
        return fixed(self.span(difference), self.decimals + extra)
