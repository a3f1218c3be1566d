"""Loam: plans, reads and judges controlled test panels for paint correction."""

__version__ = "0.1.0"
