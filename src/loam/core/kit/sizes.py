"""Pads and orbits that exist together in the trade: usual, offered and never demanded."""

from __future__ import annotations

PAD_SIZES_MM: tuple[float, ...] = (30.0, 50.0, 75.0, 80.0, 100.0, 125.0, 130.0, 150.0, 165.0, 180.0)
SMALL_MM = 80.0
_SMALL: tuple[float, ...] = (3.0, 5.0, 8.0, 12.0)
_LARGE: tuple[float, ...] = (8.0, 12.0, 15.0, 21.0)


def orbits_for(pad_mm: float | None) -> tuple[float, ...]:
    """Return the orbits, mm, that machines for a pad have; of an unknown pad those of large."""
    return _SMALL if pad_mm is not None and pad_mm <= SMALL_MM else _LARGE
