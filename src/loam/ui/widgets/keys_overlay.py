"""One sheet that lists every key, over the window."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from loam.core.words.plain import GLOSSARY
from loam.ui.paint.words import LEFT, broken, wrapped
from loam.ui.theme import look
from loam.ui.theme.look import BODY, LEAD, SMALL
from loam.ui.widgets.tape import paint_tape

Group = tuple[str, list[tuple[str, str]]]


class KeysOverlay(QWidget):
    """Lists keys in groups; F1 turns to the words, any other key or a click closes it."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("keys_overlay")
        self.setAccessibleName("all keys")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.groups: list[Group] = []
        self.words = False
        self._back: QWidget | None = None
        self.hide()

    def show_groups(self, groups: list[Group], back: QWidget | None) -> None:
        """Show the keys; ``back`` gets the keyboard again."""
        self.groups, self._back, self.words = groups, back, False
        parent = self.parentWidget()
        if parent is not None:
            self.setGeometry(parent.rect())
        said = "; ".join(f"{k}: {w}" for _, keys in groups for k, w in keys)
        self.setAccessibleDescription(said)
        self.show()
        self.raise_()
        self.setFocus()

    def leave(self) -> None:
        """Close the sheet."""
        self.hide()
        if self._back is not None:
            self._back.setFocus()

    def turn_to_words(self) -> None:
        """Show the glossary in place of the keys."""
        self.words = True
        said = "; ".join(f"{w.plain} ({w.term}): {w.means}" for w in GLOSSARY)
        self.setAccessibleDescription(said)
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_F1 and not self.words:
            self.turn_to_words()
        else:
            self.leave()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.leave()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        veil = QColor(look.ground)
        veil.setAlpha(225)
        painter.fillRect(self.rect(), veil)
        if self.words:
            self._paint_words(painter)
            return
        rows = max(len(keys) for _, keys in self.groups) if self.groups else 1
        count = max(len(self.groups), 1)
        width = min(280.0 * count + 60, self.width() - 40.0)
        height = min(rows * look.px(32) + 110.0, self.height() - 24.0)
        pitch = min(float(look.px(32)), (height - 76) / rows)
        tall = min(float(look.px(24)), pitch - 2)
        sheet = QRectF((self.width() - width) / 2, (self.height() - height) / 2, width, height)
        painter.fillRect(sheet, look.sheet)
        step = (width - 60) / count
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        for g, (title, keys) in enumerate(self.groups):
            x, y = sheet.left() + 30 + g * step, sheet.top() + 24
            painter.setPen(look.ink)
            painter.setFont(look.words(LEAD, bold=True))
            painter.drawText(QPointF(x, y + 16), title)
            y += 36
            for i, (key, words) in enumerate(keys):
                painter.setFont(look.words(SMALL, bold=True))
                wide = painter.fontMetrics().horizontalAdvance(key) + 18
                paint_tape(painter, QRectF(x, y, wide, tall), seed=i + g)
                painter.setPen(look.on_tape)
                painter.drawText(QRectF(x + 7, y, wide, tall), left, key)
                painter.setPen(look.ink)
                painter.setFont(look.words(BODY))
                room = step - wide - 10
                said = painter.fontMetrics().elidedText(
                    words, Qt.TextElideMode.ElideRight, int(room)
                )
                painter.drawText(QRectF(x + wide + 6, y, room, tall), left, said)
                y += pitch

    def _paint_words(self, painter: QPainter) -> None:
        """The plain words of the screen, their terms, and what they mean, in two columns."""
        width = min(1120.0, self.width() - 40.0)
        height = min(look.px(620), self.height() - 24.0)
        sheet = QRectF((self.width() - width) / 2, (self.height() - height) / 2, width, height)
        painter.fillRect(sheet, look.sheet)
        painter.setPen(look.ink)
        painter.setFont(look.words(LEAD, bold=True))
        painter.drawText(QPointF(sheet.left() + 30, sheet.top() + 40), "The words of the screen")
        column = (width - 90) / 2
        half = -(-len(GLOSSARY) // 2)
        each = (height - 70) / half
        for i, w in enumerate(GLOSSARY):
            x = sheet.left() + 30 + i // half * (column + 30)
            y = sheet.top() + 58 + i % half * each
            painter.setPen(look.ink)
            painter.setFont(look.words(BODY, bold=True))
            wide = painter.fontMetrics().horizontalAdvance(w.plain)
            high = painter.fontMetrics().height()
            painter.drawText(QRectF(x, y, column, high), LEFT, w.plain)
            if w.term != w.plain:
                painter.setPen(look.quiet)
                painter.setFont(look.words(SMALL))
                painter.drawText(QRectF(x + wide + 12, y, column - wide - 12, high), LEFT, w.term)
            painter.setPen(look.ink)
            painter.setFont(look.words(SMALL))
            lines = max(int((each - high) / painter.fontMetrics().height()), 1)
            lines = min(lines, len(broken(painter, w.means, column)))
            wrapped(painter, QRectF(x, y + high, column, each), w.means, lines)
