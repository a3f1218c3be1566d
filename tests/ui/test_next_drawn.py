"""What to test next, drawn at several sizes: no words lie on others."""

from itertools import combinations

import pytest
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QImage, QPainter

from helpers.hands import press
from loam.ui.views.judge.next_test.paint import draw_next

K = Qt.Key


class _Words(QPainter):
    """Keeps where words are drawn."""

    def __init__(self, image):
        super().__init__(image)
        self.boxes = []

    def drawText(self, area, flags, said):
        super().drawText(area, flags, said)
        if len(said) > 2:
            box = self.fontMetrics().boundingRect(area.toRect(), int(flags.value), said)
            self.boxes.append((said, QRectF(box)))


@pytest.mark.parametrize("size", [(976, 350), (1232, 500), (1800, 800)])
def test_no_words_lie_on_others(open_window, wait_for, size):
    window = open_window(demo=True)
    window.go("judge")
    wait_for(window)
    press(window, K.Key_N)
    wait_for(window)
    page = window.view.questions.page
    image = QImage(*size, QImage.Format.Format_ARGB32)
    painter = _Words(image)
    spots = draw_next(painter, QRectF(0, 0, *size), page.found, 1)
    painter.end()
    assert len(spots) == 9
    settles = [said for said, _ in painter.boxes if "likely to settle it" in said]
    assert len(settles) == 9, "every tile says its time and its chance"
    for (a, first), (b, second) in combinations(painter.boxes, 2):
        assert not first.adjusted(1, 3, -1, -3).intersects(second.adjusted(1, 3, -1, -3)), (a, b)
