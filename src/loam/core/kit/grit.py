"""How coarse a sanding disc is, and how much it takes off.

Preston's constant grows with the grain's size: K = K(P1200) (d / 15.3 µm)², damp 0.7 of dry. The
median grain of the P grades up to P2500 is their standard's (FEPA 43-1; up to P220 by sieve);
of finer ones their makers'. The exponent, K(P1200), what damp does and the finest grains are
assumptions, with a factor of two either way.
"""

from __future__ import annotations

import math
import re

from loam.core.errors import ValueRefused

GRAINS: dict[int, float] = {
    60: 269.0,
    80: 201.0,
    120: 125.0,
    180: 82.0,
    220: 68.0,
    240: 58.5,
    320: 46.2,
    400: 35.0,
    500: 30.2,
    600: 25.8,
    800: 21.8,
    1000: 18.3,
    1200: 15.3,
    1500: 12.6,
    2000: 10.3,
    2500: 8.4,
    3000: 6.0,
    5000: 4.0,
}
"""Median grain, µm, by P grade."""
COARSEST, FINEST = 16, 10_000
KP_P1200 = 12.0
"""nm removed per kPa m by a dry P1200: assumed."""
EITHER_WAY = 2.0
DAMP = 0.7
USUAL = 1200
"""What is assumed of a disc whose grit nobody said."""
_MARKED = re.compile(r"(?<![A-Za-z0-9])[pP]\s?(\d{2,5})(?!\d)")
_PLAIN = re.compile(r"(?<![\d.,])(\d{3,5})(?![\d.,]*\s*mm)(?!\d)")
LEAST_PLAIN = 400
"""A smaller number without a P may be a disc's size."""


def grain_um(grit: float) -> float:
    """Return the median grain of a P grade, µm: between and beyond the known ones by their logs.

    Raises
    ------
    ValueRefused
        For what is no grit: below 16, above 10,000, or no number.
    """
    if not COARSEST <= grit <= FINEST:
        raise ValueRefused(
            f"P{grit:g} is no grit.", todo=f"It lies between P{COARSEST} and P{FINEST}."
        )
    known = sorted(GRAINS.items())
    upper = next((i for i, (p, _) in enumerate(known) if p >= grit), len(known) - 1)
    (p0, d0), (p1, d1) = known[max(upper, 1) - 1], known[max(upper, 1)]
    share = math.log(grit / p0) / math.log(p1 / p0)
    return d0 * math.exp(share * math.log(d1 / d0))


def grit_named(name: str) -> int | None:
    """Return the grit that a disc's name says, as in "P1500 film"; None where it says none."""
    marked = [int(found) for found in _MARKED.findall(name)]
    plain = [grit for found in _PLAIN.findall(name) if (grit := int(found)) >= LEAST_PLAIN]
    return next((g for g in (*marked, *plain) if COARSEST <= g <= FINEST), None)


def grit_of(disc: str, grit: float | None) -> float | None:
    """Return the grit of a disc: as it is said, else as its name says; None where neither does."""
    return grit_named(disc) if grit is None else grit


def sanding_kp(grit: float | None, *, damp: bool) -> tuple[float, float]:
    """Return what sanding takes off before it is measured, nm per kPa m, from and to.

    Raises
    ------
    ValueRefused
        For what is no grit.
    """
    middle = KP_P1200 * (grain_um(USUAL if grit is None else grit) / GRAINS[USUAL]) ** 2
    if damp:
        middle *= DAMP
    return middle / EITHER_WAY, middle * EITHER_WAY


def finer(grit: float | None) -> int:
    """Return the usual next finer grit of a ladder; the first one after none."""
    ladder = (800, 1200, 1500, 2000, 3000, 5000)
    if grit is None:
        return 1500
    return next((g for g in ladder if g >= 1.35 * grit), ladder[-1])
