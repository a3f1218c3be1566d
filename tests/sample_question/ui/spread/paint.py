"""What a question from a test draws."""

from PyQt6.QtCore import QRectF

from loam.ui.theme import look
from loam.ui.widgets.drawn import Target


def draw_spread(painter, area, found):
    box = QRectF(area.left(), area.top(), area.width() / 2, 40)
    painter.fillRect(box, look.tape)
    return [Target(box, "spread", found.said()[0])]


def figures(found):
    return [(60.0, lambda p, a: draw_spread(p, a, found))]
