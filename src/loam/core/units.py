"""Numbers as people type and read them: decimal comma or point, sensible digits."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from loam.core.errors import ValueRefused

MINUS = "\u2212"
THIN = "\u202f"


def parse_number(text: str, *, where: str = "") -> float:
    """Read one number with a decimal point or comma.

    Parameters
    ----------
    text : str
        What was typed, for example ``"84,6"``, ``" 84.6 "`` or ``"-1.2"``.
    where : str
        The place to name in the refusal.

    Returns
    -------
    float
        A finite number.

    Raises
    ------
    ValueRefused
        For text, thousands separators, infinities and blanks.
    """
    cleaned = text.strip().replace(MINUS, "-")
    if not cleaned:
        raise ValueRefused("Nothing was typed.", where=where, todo="Type a number.")
    if cleaned.count(",") + cleaned.count(".") > 1:
        raise ValueRefused(
            f"{text.strip()!r} has more than one decimal mark.",
            where=where,
            todo="Leave out thousands separators.",
        )
    allowed = set("0123456789+-.,eE")
    try:
        if not set(cleaned) <= allowed:
            raise ValueError(cleaned)
        value = float(cleaned.replace(",", "."))
    except ValueError:
        raise ValueRefused(
            f"{text.strip()!r} is not a number.", where=where, todo="Type digits, like 84.6."
        ) from None
    if not math.isfinite(value):
        raise ValueRefused(f"{text.strip()!r} is too large to be a reading.", where=where)
    return value


@dataclass(frozen=True)
class Unit:
    """A unit that a quantity can be shown in; it is always stored in its first unit.

    Attributes
    ----------
    symbol : str
    factor, offset : float
        Shown value = stored value x factor + offset.
    finer : int
        Further decimals that keep the same step visible.
    """

    symbol: str
    factor: float = 1.0
    offset: float = 0.0
    finer: int = 0

    def shown(self, value: float) -> float:
        """Turn a stored value into a shown one."""
        return value * self.factor + self.offset

    def stored(self, value: float) -> float:
        """Turn a shown value into a stored one."""
        return (value - self.offset) / self.factor


QUANTITIES: dict[str, tuple[Unit, ...]] = {
    "film": (Unit("µm"), Unit("mil", 1 / 25.4, finer=2)),
    "size": (Unit("mm"), Unit("in", 1 / 25.4, finer=2)),
    "force": (Unit("N"), Unit("kgf", 1 / 9.80665, finer=1), Unit("lbf", 1 / 4.4482216152605)),
    "temperature": (Unit("°C"), Unit("°F", 1.8, 32.0)),
}
"""What each quantity can be shown in. Factors are exact: inch, kilogram-force and pound-force by
definition (ISO 80000-3, -4)."""


def chosen_unit(quantity: str, choice: Mapping[str, object]) -> Unit:
    """Return the unit that a person chose for a quantity, its own where none (or none known)."""
    known = QUANTITIES[quantity]
    return next((u for u in known if u.symbol == choice.get(quantity)), known[0])


class Figure(str):
    """A number as it is written, that still knows what it is: the last writer may have all of it.

    Attributes
    ----------
    value : float
        The number, not rounded; not a number where only the words may be said.
    share : bool
        Whether it is a share that is written as a percentage.
    """

    value: float
    share: bool

    def __new__(cls, text: str, value: float, *, share: bool = False) -> Figure:
        """Write a number."""
        made = super().__new__(cls, text)
        made.value, made.share = float(value), share
        return made


def fixed(value: float, decimals: int) -> Figure:
    """Write a number with a fixed count of decimals, a real minus and no minus zero."""
    text = f"{value:.{decimals}f}"
    if text.startswith("-"):
        text = text[1:] if float(text) == 0 else MINUS + text[1:]
    return Figure(text, value)


def signed(value: float, decimals: int) -> Figure:
    """Write a number as `fixed` does, with a plus where it is above nothing."""
    text = fixed(value, decimals)
    return Figure(f"+{text}", value) if value > 0 and float(text) else text


def thousands(count: int) -> str:
    """Write a count with thin spaces between thousands from 10 000 on."""
    return f"{count:,}".replace(",", THIN) if abs(count) >= 10_000 else str(count)


def percent(share: float) -> Figure:
    """Write a probability as a percentage that never claims certainty."""
    value = share
    if share > 0.995:
        return Figure("over 99 %", math.nan, share=True)
    if 0 <= share < 0.005:
        return Figure("under 1 %", math.nan, share=True)
    if 0.945 <= share < 0.95 or 0.045 <= share < 0.05:
        share = math.floor(100 * share) / 100  # what misses a verdict never reads as its limit
    return Figure(f"{100 * share:.0f} %", value, share=True)
