"""The dose of a section: work per unit area and friction, kPa m, on a map, and what it shows."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from loam.core.dose.footprint import footprint, mean_speed
from loam.core.dose.path import Pass, occupancy, passes
from loam.core.dose.settings import SectionSettings
from loam.core.stats.reduce import BoolArray, FloatArray

BAND = 0.05
"""Even ground: the dose lies within this share of the plateau's."""
PROFILE_MM = 40.0
"""The profile across an edge is taken over its middle, this far to either side."""
REFERENCE_KP = 10.0
"""nm removed per kPa m: heavy cutting; assumed until measured."""


def _smooth_size(n: int) -> int:
    """Return the least product of 2, 3 and 5 that is at least n: quick to transform."""
    best = 1 << (n - 1).bit_length()
    five = 1
    while five < best:
        three = five
        while three < best:
            best = min(best, three << max(0, (-(-n // three) - 1).bit_length()))
            three *= 3
        five *= 5
    return best


@dataclass(frozen=True)
class SectionDose:
    """The dose of one stage on one section.

    Attributes
    ----------
    settings : SectionSettings
    ways : list of Pass
    whole : (rows, columns)
        Dose in kPa m of the section and ``margin`` grid steps around it; rows along the height.
    margin : int
    """

    settings: SectionSettings
    ways: list[Pass]
    whole: FloatArray
    margin: int

    @cached_property
    def section(self) -> FloatArray:
        """The dose inside the section."""
        m = self.margin
        return self.whole[m : self.whole.shape[0] - m, m : self.whole.shape[1] - m]

    @property
    def length_mm(self) -> float:
        """Length of the whole way."""
        return sum(way.length_mm for way in self.ways)

    @property
    def time_s(self) -> float:
        """Time on the paint: the way at the arm's speed, without turning pauses."""
        return self.length_mm / self.settings.arm_mm_s

    @cached_property
    def speed_m_s(self) -> float:
        """Pressure-weighted mean sliding speed of the pad."""
        return mean_speed(self.settings)

    @property
    def power_w(self) -> float:
        """Power for a coefficient of friction of 1."""
        return self.settings.force_n * self.speed_m_s

    @property
    def wide_plateau(self) -> float:
        """Dose in the middle of a very wide section of the same lines, kPa m."""
        return wide_plateau(self.settings, self.ways)

    @cached_property
    def even(self) -> BoolArray:
        """Where the whole pad has passed: the zone that the plateau is taken over."""
        s = self.settings
        step = (1.0 - s.overlap) * s.pad_mm
        rows, columns = self.section.shape
        inside = []
        for size, count in ((s.height_mm, rows), (s.width_mm, columns)):
            centre = (np.arange(count) + 0.5) * s.grid_mm
            low, high = s.inset + s.radius_mm, size - s.inset - s.radius_mm
            if high - low < step:
                low, high = 0.5 * (size - step), 0.5 * (size + step)
            inside.append((centre >= low) & (centre <= high))
        if not inside[0].any() or not inside[1].any():  # a grid coarser than the zone
            inside = [np.arange(n) == n // 2 for n in (rows, columns)]
        return inside[0][:, None] & inside[1][None, :]

    @cached_property
    def plateau(self) -> float:
        """Mean dose over the even zone, kPa m."""
        return float(self.section[self.even].mean())

    @property
    def cv(self) -> float:
        """Ripple: standard deviation over mean in the even zone."""
        return float(self.section[self.even].std()) / self.plateau

    def quantile(self, share: float) -> float:
        """Quantile of the dose in the even zone, over the plateau."""
        return float(np.quantile(self.section[self.even], share)) / self.plateau

    @cached_property
    def room(self) -> FloatArray:
        """From every point of the section to the nearest that is out of band, mm; 0 out of it."""
        from scipy.ndimage import distance_transform_edt

        near = np.abs(self.section / self.plateau - 1.0) <= BAND
        framed = np.pad(near, 1)
        distance = distance_transform_edt(framed, sampling=self.settings.grid_mm)
        return np.asarray(distance, float)[1:-1, 1:-1]

    @property
    def circle_mm(self) -> float:
        """Diameter of the largest circle of even ground: where a meter may be put down."""
        return max(0.0, 2.0 * (float(self.room.max()) - 0.5 * self.settings.grid_mm))

    @property
    def circle_at_mm(self) -> tuple[float, float]:
        """Where the middle of that circle lies, x and y from the section's corner."""
        row, column = np.unravel_index(int(self.room.argmax()), self.room.shape)
        h = self.settings.grid_mm
        return (float(column) + 0.5) * h, (float(row) + 0.5) * h

    def aperture_share(self, aperture_mm: float) -> float:
        """Share of the section where a round aperture lies on even ground alone."""
        return float((self.room - 0.5 * self.settings.grid_mm >= 0.5 * aperture_mm).mean())

    @property
    def mean_share(self) -> float:
        """Mean dose of the section over the plateau."""
        return float(self.section.mean()) / self.plateau

    def edge_profile(self, at_mm: FloatArray) -> FloatArray:
        """Dose over the plateau at distances from the left edge, over the middle 80 mm of it."""
        h = self.settings.grid_mm
        centre = (np.arange(self.section.shape[0]) + 0.5) * h
        rows = np.abs(centre - 0.5 * self.settings.height_mm) <= max(PROFILE_MM, 0.5 * h)
        line = self.whole[self.margin : self.whole.shape[0] - self.margin][rows].mean(axis=0)
        centre = (np.arange(line.size) - self.margin + 0.5) * h
        return np.asarray(np.interp(at_mm, centre, line) / self.plateau, float)

    def removed_um(self, kp: float = REFERENCE_KP) -> float:
        """Clear removed on the plateau by Preston's law, for Kp in nm per kPa m."""
        return self.plateau * kp * 1e-3


def wide_plateau(settings: SectionSettings, ways: list[Pass]) -> float:
    """Return the dose in the middle of a very wide section of the same lines, kPa m."""
    inverse = {way.upright: 1.0 / way.spacing_mm for way in ways}
    mean = sum(inverse.values()) / len(inverse)
    power = settings.force_n * mean_speed(settings)
    return settings.passes * power * mean / settings.arm_mm_s * 1e3


def section_dose(settings: SectionSettings) -> SectionDose:
    """Compute the dose of a section: its path's occupancy convolved with the pad's footprint."""
    foot = footprint(settings)
    ways = passes(settings)
    h = settings.grid_mm
    half = foot.kernel.shape[0] // 2
    margin = half + max(0, math.ceil(-settings.inset / h))
    rows = round(settings.height_mm / h) + 2 * margin
    columns = round(settings.width_mm / h) + 2 * margin
    spent = occupancy(ways, settings, margin, (rows, columns))
    size = tuple(_smooth_size(n + half) for n in (rows, columns))
    power = np.fft.rfft2(spent, size) * np.fft.rfft2(foot.kernel, size)
    full = np.fft.irfft2(power, size)[half : half + rows, half : half + columns]
    scale = settings.force_n * (h * 1e-3) ** 2 * 1e-3  # Pa m to kPa m
    return SectionDose(settings, ways, np.maximum(full, 0.0) * scale, margin)
