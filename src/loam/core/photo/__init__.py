"""Defects removed from a photograph before work and one after, with a control strip in both."""

from loam.core.photo.measure import PAINTS, Counted, PhotoResult, Region, measure
from loam.core.photo.tape import Found, find_tape

__all__ = ["PAINTS", "Counted", "Found", "PhotoResult", "Region", "find_tape", "measure"]
