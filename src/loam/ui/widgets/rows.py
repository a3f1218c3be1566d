"""A list of named things: a title, a quiet line below it, perhaps a combination's mark."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QModelIndex, QPointF, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QPainter, QResizeEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from loam.core.trial import Combination
from loam.ui.theme import look
from loam.ui.theme.look import LEAD, SMALL, tip
from loam.ui.widgets.mark import mark_size, paint_mark
from loam.ui.widgets.tape import paint_tape

_ROW = Qt.ItemDataRole.UserRole + 1


@dataclass(frozen=True)
class ListRow:
    """One row: ``code`` stands in the figures' face before the title."""

    id: int
    title: str
    below: str = ""
    code: str = ""
    combination: Combination | None = None
    right: str = ""


_WRAP = (
    Qt.AlignmentFlag.AlignLeft.value
    | Qt.AlignmentFlag.AlignVCenter.value
    | Qt.TextFlag.TextWrapAnywhere.value
)
_BREAK = Qt.AlignmentFlag.AlignLeft.value | Qt.TextFlag.TextWordWrap.value
_START, _END, _MARK = 16, 10, 13.0


class _Delegate(QStyledItemDelegate):
    def __init__(self, parent: QListWidget) -> None:
        super().__init__(parent)
        self._list = parent

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        row: ListRow = index.data(_ROW)
        stages = len(row.combination.stages) if row.combination else 1
        lines = row.below.count("\n") + 1 if row.below else 0
        high = look.px(36)
        if row.below or row.combination:
            high = max(look.px(52), 26 + 15 * stages, look.px(34) + lines * _low_line())
        port = self._list.viewport()
        room = self._room(row, port.width() if port is not None else 120)
        return QSize(120, high + _more(row.title, room))

    @staticmethod
    def _room(row: ListRow, width: float) -> float:
        """Width that is left for the title; names are never cut, they take another line."""
        if row.code:
            width -= max(26, look.width(row.code, LEAD + 2, bold=True, figures=True) + 10)
        if row.combination is not None:
            width -= mark_size(row.combination, _MARK)[0] + 12
        if row.right:
            width -= look.width(row.right, SMALL, figures=True) + 8
        return width - _START - _END

    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        if painter is None:
            return
        row: ListRow = index.data(_ROW)
        painter.save()
        area = QRectF(option.rect)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        focus = bool(option.state & QStyle.StateFlag.State_HasFocus)
        if chosen:
            painter.fillRect(area.adjusted(0, 1, 0, -1), look.sheet)
            strip = QRectF(area.left(), area.top() + 5, 7, area.height() - 10)
            paint_tape(painter, strip, seed=index.row() + 2, torn="bottom", depth=3)
        if chosen and focus:
            painter.setPen(look.strong)
            painter.drawRect(area.adjusted(0, 1, -1, -2))
        self._words(painter, area.adjusted(_START, 0, -_END, 0), row)
        painter.restore()

    def _words(self, painter: QPainter, area: QRectF, row: ListRow) -> None:
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        x = area.left()
        if row.code:
            painter.setFont(look.figures(LEAD + 2, bold=True))
            painter.setPen(look.ink)
            width = max(26, painter.fontMetrics().horizontalAdvance(row.code) + 10)
            painter.drawText(QRectF(x, area.top(), width, area.height()), left, row.code)
            x += width
        if row.combination is not None:
            wide, height = mark_size(row.combination, _MARK)
            at = QPointF(x, area.center().y() - height / 2)
            paint_mark(painter, at, row.combination, _MARK, look.ink)
            x += wide + 12
        rest = QRectF(x, area.top(), area.right() - x, area.height())
        painter.setFont(look.figures(SMALL))
        painter.setPen(look.quiet)
        if row.right:
            painter.drawText(rest, right, row.right)
            rest.setRight(rest.right() - painter.fontMetrics().horizontalAdvance(row.right) - 8)
        top = rest
        if row.below:
            more = _more(row.title, rest.width())
            lines = row.below.split("\n")
            half = (rest.height() - more) / 2
            foot = half - 3 if len(lines) == 1 else len(lines) * _low_line() + 3
            top = QRectF(rest.left(), rest.top() + 4, rest.width(), rest.height() - foot - 6)
            low = QRectF(rest.left(), rest.bottom() - foot - 4, rest.width(), foot)
            painter.setFont(look.words(SMALL))
            for i, line in enumerate(lines):
                each = low if len(lines) == 1 else QRectF(low)
                if len(lines) > 1:
                    each.setTop(low.top() + i * _low_line())
                    each.setHeight(_low_line())
                self._line(painter, each, line)
        painter.setPen(look.ink)
        painter.setFont(look.words(LEAD - 1, bold=True))
        painter.drawText(top, _flags(painter.fontMetrics(), row.title, top.width()), row.title)

    def _line(self, painter: QPainter, area: QRectF, text: str) -> None:
        metrics: QFontMetrics = painter.fontMetrics()
        cut = metrics.elidedText(text, Qt.TextElideMode.ElideRight, int(area.width()))
        painter.drawText(area, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, cut)


def _low_line() -> int:
    """Height of a quiet line below a title."""
    return QFontMetrics(look.words(SMALL)).lineSpacing()


def _flags(face: QFontMetrics, text: str, width: float) -> int:
    """Break between words, and inside one only when it is longer than the line."""
    longest = max((face.horizontalAdvance(w) for w in text.split()), default=0)
    return _WRAP if longest > width else _BREAK | Qt.AlignmentFlag.AlignVCenter.value


def _more(text: str, width: float) -> int:
    """Height of the lines that a title takes beyond its first."""
    if width <= 0 or look.width(text, LEAD - 1, bold=True) <= width:
        return 0
    face = QFontMetrics(look.words(LEAD - 1, bold=True))
    box = QRect(0, 0, max(int(width), 30), 10_000)
    flags = _flags(face, text, width) & ~Qt.AlignmentFlag.AlignVCenter.value
    return max(0, face.boundingRect(box, flags, text).height() - face.lineSpacing())


class RowList(QListWidget):
    """A list whose choice is told by ``row_chosen`` with the row's id."""

    row_chosen = pyqtSignal(int)

    def __init__(self, name: str, said: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName(name)
        self.setAccessibleName(said)
        self.setItemDelegate(_Delegate(self))
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMouseTracking(True)
        self.currentRowChanged.connect(self._tell)
        look.changed.connect(self._repaint)

    def _repaint(self) -> None:
        port = self.viewport()
        if port is not None:
            port.update()

    def show_rows(self, rows: Sequence[ListRow], chosen: int | None) -> None:
        """Show rows and which one is chosen, without telling."""
        self.blockSignals(True)
        self.clear()
        for i, row in enumerate(rows):
            item = QListWidgetItem()
            item.setData(_ROW, row)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, f"{row.code} {row.title}, {row.below}")
            item.setToolTip(tip(row.title, row.below))
            self.addItem(item)
            if row.id == chosen:
                self.setCurrentRow(i)
        self.blockSignals(False)
        self._repaint()

    def show_at_least(self, rows: int) -> None:
        """Take at least the height of so many rows, where there are as many."""
        shown = min(rows, self.count())
        high = sum(self.sizeHintForRow(i) for i in range(shown))
        self.setMinimumHeight(high + 4 if shown else 0)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if event is not None and event.oldSize().width() != event.size().width():
            self.scheduleDelayedItemsLayout()  # another width, other lines

    def marked(self) -> int | None:
        """Return the id of the row that is marked."""
        item = self.currentItem()
        return item.data(_ROW).id if item is not None else None

    def _tell(self, at: int) -> None:
        item = self.item(at)
        if item is not None:
            row: ListRow = item.data(_ROW)
            self.row_chosen.emit(row.id)
