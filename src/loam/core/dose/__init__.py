"""What a stage's settings do to a section: the path, the footprint of the pad, and the dose."""

from loam.core.dose.section import SectionDose, section_dose
from loam.core.dose.settings import SectionSettings

__all__ = ["SectionDose", "SectionSettings", "section_dose"]
