"""Numbers as people type and read them: decimal comma or point, sensible digits."""

from __future__ import annotations

import math

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


def fixed(value: float, decimals: int) -> str:
    """Write a number with a fixed count of decimals, a real minus and no minus zero."""
    text = f"{value:.{decimals}f}"
    if text.startswith("-"):
        text = text[1:] if float(text) == 0 else MINUS + text[1:]
    return text


def thousands(count: int) -> str:
    """Write a count with thin spaces between thousands from 10 000 on."""
    return f"{count:,}".replace(",", THIN) if abs(count) >= 10_000 else str(count)


def percent(share: float) -> str:
    """Write a probability as a percentage that never claims certainty."""
    if share > 0.995:
        return "over 99 %"
    if 0 <= share < 0.005:
        return "under 1 %"
    return f"{100 * share:.0f} %"
