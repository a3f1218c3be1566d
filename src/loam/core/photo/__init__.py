"""Defects removed from a photograph before work and one after, with a control strip in both."""

from loam.core.photo.measure import PAINTS, PhotoResult, Region, measure

__all__ = ["PAINTS", "PhotoResult", "Region", "measure"]
