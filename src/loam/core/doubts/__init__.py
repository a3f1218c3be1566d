"""Doubts about a trial: what its readings say of panels, people, pads, meters and slips."""

from loam.core.doubts.find import doubts
from loam.core.doubts.records import Extras
from loam.core.doubts.values import Doubt
from loam.core.doubts.without import without

__all__ = ["Doubt", "Extras", "doubts", "without"]
