"""What a measurand is: its unit, its step, its range and which way is better."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from loam.core.errors import ValueRefused
from loam.core.units import Unit, fixed, parse_number

OFFSET, GAIN = "offset", "gain"


@dataclass(frozen=True)
class TileLimits:
    """What a tile may be off: absolutely, or as a share of its value, whichever is more.

    ``how`` the drift acts: a gauge of film is off by so much (offset), a meter of gloss by such a
    share (gain). ``usual`` is the value of the tile that is offered until its own is typed.
    ``called`` is what it is: a tile, or a foil.
    """

    calibrate: float
    doubtful: float
    share: float = 0.0
    how: str = GAIN
    usual: float | None = None
    called: str = "tile"


@dataclass(frozen=True)
class Doubted:
    """Usual sizes, on the scale, of what is looked for where a measurand is doubted: assumed.

    Attributes
    ----------
    harder : float
        What a harder clear does; measurands are weighed by it.
    faded : float
        What a pad does that has faded.
    heavy : float
        What a heavy hand does: more clear and more marks go, and haze comes.
    drifts : bool
        Whether its meter may drift over a day.
    masked : bool
        Whether it is doubted where fillers flattered it.
    """

    harder: float
    faded: float
    heavy: float
    drifts: bool = True
    masked: bool = True


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
    doubted : Doubted or None
        What is looked for where it is doubted; None where it is not.
    tile : TileLimits or None
        How far the meter may be off on its tile; None where there is none.
    flattered : bool
        Whether fillers can make it look better than it is.
    aim : str
        Which corner of the priorities it belongs to.
    claims : mapping of str to int
        Makers' scales that it is held against, and how gladly (1 first).
    tells_hardness : bool
        Whether the panel's hardness shows in it.
    scale_column : str
        The meaning of the column of a table that holds its scale.
    one_by_one : bool
        Whether it is read before work reading by reading, to be paired with those after.
    abroad : mapping of str to tuple of str
        Names in tables by language: de, fr, es.
    says : (str, str)
        What one that reads more, and one that reads less, does: "shines {} more"; none: it reads
        so much more or less.
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
    doubted: Doubted | None = None
    tile: TileLimits | None = None
    flattered: bool = False
    aim: str = ""
    claims: Mapping[str, int] = field(default_factory=dict)
    tells_hardness: bool = False
    scale_column: str = ""
    one_by_one: bool = False
    abroad: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    says: tuple[str, ...] = ()

    @property
    def said_more(self) -> tuple[str, str]:
        """Words for one that reads more and for one that reads less, with a place for how much."""
        usual = (f"reads {{}} more {self.short}", f"reads {{}} less {self.short}")
        return (self.says[0], self.says[1]) if self.says else usual

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
