"""How hard a machine is usually pressed, where a stage does not say.

The trade's usual figures, assumed and shown as such: free orbitals 20 to 40 N on pads of 125 to
150 mm, forced ones 25 to 50, a rotary its own weight, small machines 5 to 20. The pressure stays
about the same over pads of other sizes; finishing and sanding press less than cutting.
"""

from __future__ import annotations

import math

G = 9.80665
NEWTON_PER_POUND = 4.4482216
OWN_MASS_KG = 2.5
"""Of a machine whose mass nobody said: assumed."""
FULL_MM, SMALL_MM, LARGE_MM = 150.0, 80.0, 120.0
SMALL_N = (5.0, 20.0)
SANDING = "sanding"
_USUAL_N: dict[str, tuple[float, float, float]] = {
    "free-orbital": (30.0, 20.0, 40.0),
    "forced-orbital": (38.0, 25.0, 50.0),
    "rotary": (OWN_MASS_KG * G, 20.0, 30.0),
}
"""On a pad of 150 mm, and between which it lies on pads of 125 to 150 mm."""
_SHARE: dict[str, float] = {"coarse": 1.0, "polish": 0.9, "fine": 0.75, SANDING: 0.6}


def usual_force_n(machine_kind: str, pad_mm: float, compound_class: str = "") -> float:
    """Return the usual force, N, on a pad of some diameter.

    Parameters
    ----------
    machine_kind : str
        Key of its motion; of one that is not known as a free orbital.
    compound_class : str
        Of the compound, or `SANDING`.
    """
    full, low, high = _USUAL_N.get(machine_kind, _USUAL_N["free-orbital"])
    force = full * (pad_mm / FULL_MM) ** 2 * _SHARE.get(compound_class, 0.9)
    if pad_mm <= SMALL_MM:
        low, high = SMALL_N
    elif pad_mm < LARGE_MM:  # between the two the range goes over
        share = (pad_mm - SMALL_MM) / (LARGE_MM - SMALL_MM)
        low = SMALL_N[0] + share * (low - SMALL_N[0])
        high = SMALL_N[1] + share * (high - SMALL_N[1])
    return round(min(max(force, low), high))


STIFFNESS: dict[str, float] = {
    "foam-soft": 0.5,
    "foam": 0.8,
    "foam-firm": 1.2,
    "microfibre": 2.5,
    "wool": 1.0,
    "wool-foam": 1.0,
    SANDING: 4.0,
}
"""kPa for each mm that a pad is pressed in, by material: assumed."""
USUAL_STIFFNESS = 0.9


def tilt_of(tilt_deg: float, pad_mm: float, force_n: float, material: str) -> float:
    """Return the wedge of a tilted pad: its pressure's gradient over a radius, in mean pressures.

    The pad is pressed in by tan(tilt) for each mm across, and presses back by its stiffness.
    """
    radius = 0.5 * pad_mm
    mean_kpa = force_n / (math.pi * radius**2) * 1e3
    rise = STIFFNESS.get(material, USUAL_STIFFNESS) * radius * math.tan(math.radians(tilt_deg))
    return rise / mean_kpa


def weight_n(mass_kg: float | None) -> float:
    """Return the weight of a machine, N; of a usual one where its mass is not known."""
    return G * (OWN_MASS_KG if mass_kg is None else mass_kg)


def kilos_words(force_n: float) -> str:
    """Say a force, N, as a weight that presses as hard, to half a kilogram: about 4 kg."""
    kilos = force_n / G
    if kilos < 0.95:
        return f"about {kilos:.1f} kg"
    return f"about {round(2 * kilos) / 2 if kilos < 9.75 else round(kilos):g} kg"
