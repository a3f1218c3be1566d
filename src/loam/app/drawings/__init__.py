"""Where the parts of a drawing lie, and what lies at a point: geometry without painting."""

from loam.app.drawings.rect import Rect

__all__ = ["Rect"]
