"""The settings of one stage on one section, checked."""

from __future__ import annotations

import math
from dataclasses import dataclass, fields

from loam.core.errors import ValueRefused
from loam.core.machines import BY_KEY

MOST_SECTION_MM = 3000.0
MOST_GRID_CELLS = 4_000_000
_LIMITS: dict[str, tuple[float, float, str]] = {
    "pad_mm": (10.0, 400.0, "mm"),
    "throw_mm": (0.0, 60.0, "mm"),
    "orbits_per_min": (0.0, 20_000.0, "per minute"),
    "rotation_rpm": (-5_000.0, 5_000.0, "per minute"),
    "force_n": (0.1, 500.0, "N"),
    "width_mm": (10.0, MOST_SECTION_MM, "mm"),
    "height_mm": (10.0, MOST_SECTION_MM, "mm"),
    "overlap": (0.0, 0.95, ""),
    "arm_mm_s": (0.5, 2_000.0, "mm/s"),
    "inset_mm": (-200.0, MOST_SECTION_MM, "mm"),
    "tilt": (0.0, 200.0, ""),
    "azimuth_deg": (-3_600.0, 3_600.0, "degrees"),
    "edge_loading": (-1.0, 1.0, ""),
    "grid_mm": (0.25, 20.0, "mm"),
}


@dataclass(frozen=True)
class SectionSettings:
    """One stage on one rectangular section.

    Parameters
    ----------
    machine : str
        Key of the kind of machine: free-orbital, forced-orbital or rotary.
    pad_mm, throw_mm : float
        Diameters of the pad and of its orbit.
    orbits_per_min, rotation_rpm : float
        Orbits, and the pad's own turns as the bench sees them.
    force_n : float
        Down-force.
    width_mm, height_mm : float
        The section; lines of odd passes run along the height.
    overlap : float
        Share of the pad's width by which lines overlap, 0 to 0.95.
    passes : int
        Section passes.
    arm_mm_s : float
        Speed of the arm.
    inset_mm : float, optional
        From the section's edge to the outermost line; half the pad otherwise.
    half_line_shift : bool
        Whether passes 3, 4, 7, 8, ... run between the lines of the others.
    tilt, azimuth_deg, edge_loading : float
        Uneven pressure: a wedge across the pad towards a direction, its gradient over a radius
        as a multiple of the mean pressure (above 1 a part of the pad is in the air); more at the
        rim.
    grid_mm : float
        Of the map.

    Raises
    ------
    ValueRefused
        Naming the figure, its limits, and where it stands.
    """

    machine: str
    pad_mm: float
    throw_mm: float
    orbits_per_min: float
    rotation_rpm: float
    force_n: float
    width_mm: float
    height_mm: float
    overlap: float = 0.5
    passes: int = 4
    arm_mm_s: float = 25.0
    inset_mm: float | None = None
    half_line_shift: bool = False
    tilt: float = 0.0
    azimuth_deg: float = 0.0
    edge_loading: float = 0.0
    grid_mm: float = 2.0

    def __post_init__(self) -> None:
        if self.machine not in BY_KEY:
            raise ValueRefused(
                f"{self.machine!r} is no kind of machine.", todo="Use " + ", ".join(BY_KEY) + "."
            )
        for field in fields(self):
            limits = _LIMITS.get(field.name)
            value = getattr(self, field.name)
            if limits is None or value is None:
                continue
            low, high, unit = limits
            if not low <= value <= high:  # a NaN is refused too
                raise ValueRefused(
                    f"{value:g} {unit} cannot be.".replace("  ", " "),
                    where=field.name,
                    todo=f"It lies between {low:g} and {high:g}.",
                )
        if not (isinstance(self.passes, int) and 1 <= self.passes <= 40):
            raise ValueRefused(f"{self.passes} section passes cannot be.", todo="1 to 40.")
        if 2.0 * self.inset >= max(self.width_mm, self.height_mm):
            raise ValueRefused(
                f"A pad of {self.pad_mm:g} mm has no way to go in a section of"
                f" {self.width_mm:.0f} by {self.height_mm:.0f} mm.",
                where="the section",
                todo="Take a smaller pad, or a larger section.",
            )
        wide = self.pad_mm + self.throw_mm
        cells = (self.width_mm + wide) * (self.height_mm + wide) / self.grid_mm**2
        if cells > MOST_GRID_CELLS:
            raise ValueRefused(
                f"A map of {cells:,.0f} points is too large.",
                where="grid_mm",
                todo="Choose a coarser grid.",
            )

    @property
    def radius_mm(self) -> float:
        """Radius of the pad."""
        return 0.5 * self.pad_mm

    @property
    def eccentricity_mm(self) -> float:
        """Radius of the orbit; a rotary has none."""
        return 0.0 if self.machine == "rotary" else 0.5 * self.throw_mm

    @property
    def inset(self) -> float:
        """From the section's edge to the outermost line, mm."""
        return self.radius_mm if self.inset_mm is None else self.inset_mm

    @property
    def orbit_rad_s(self) -> float:
        """Angular speed of the orbit; a rotary has none."""
        return 0.0 if self.machine == "rotary" else 2.0 * math.pi * self.orbits_per_min / 60.0

    @property
    def turn_rad_s(self) -> float:
        """Angular speed of the pad's own turns."""
        return 2.0 * math.pi * self.rotation_rpm / 60.0
