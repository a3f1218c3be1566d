"""The columns of a file: what stands in each, and a piece of tape that says what it means."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QListView,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
)

from loam.app.presenters.incoming import ColumnRow, column_row
from loam.store.table_file import TableFile
from loam.ui.paint.words import LEFT
from loam.ui.theme import look
from loam.ui.theme.look import BODY, SMALL
from loam.ui.widgets.tape import paint_tape


class _Model(QAbstractListModel):
    """Draws a column up only when it comes into sight: a file may have thousands."""

    def __init__(self) -> None:
        super().__init__()
        self.file: TableFile | None = None
        self.mapping: Mapping[str, str] = {}

    def show(self, file: TableFile | None, mapping: Mapping[str, str]) -> None:
        """Show the columns of a file; of the same file only their meaning changes."""
        same = file is not None and self.file is not None and file.header == self.file.header
        if same:
            self.file, self.mapping = file, mapping
            self.dataChanged.emit(self.index(0), self.index(self.rowCount() - 1))
            return
        self.beginResetModel()
        self.file, self.mapping = file, mapping
        self.endResetModel()

    def row(self, at: int) -> ColumnRow:
        """Return a column as it is shown."""
        assert self.file is not None
        return column_row(self.file, self.mapping, at)

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:  # noqa: B008
        return len(self.file.header) if self.file is not None else 0

    def data(self, index: QModelIndex, role: int = 0) -> object:
        if role == Qt.ItemDataRole.AccessibleTextRole:
            row = self.row(index.row())
            return f"column {row.name} is {row.meaning or 'left out'}"
        return None


class _Delegate(QStyledItemDelegate):
    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(200, look.px(42))

    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        model = index.model()
        if painter is None or not isinstance(model, _Model):
            return
        row = model.row(index.row())
        painter.save()
        area = QRectF(option.rect).adjusted(0, 1, 0, -1)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        if chosen:
            painter.fillRect(area, look.sheet)
        half = area.width() * 0.52
        text = QRectF(area.left() + 10, area.top(), half - 14, area.height())
        upper = QRectF(text.left(), text.top() + 2, text.width(), text.height() * 0.55)
        lower = QRectF(text.left(), text.center().y(), text.width(), text.height() * 0.45)
        painter.setPen(look.ink if row.meaning else look.quiet)
        painter.setFont(look.figures(BODY - 1))
        self._line(painter, upper, row.name)
        painter.setPen(look.quiet)
        painter.setFont(look.figures(SMALL - 3))
        self._line(painter, lower, row.samples)
        painter.setFont(look.words(BODY, bold=bool(row.meaning)))
        said = row.meaning or "left out"
        room = area.right() - area.left() - half - 6
        wide = min(room, painter.fontMetrics().horizontalAdvance(said) + 24.0)
        tape = QRectF(area.left() + half, area.top() + 6, wide, area.height() - 12)
        if row.meaning:
            paint_tape(painter, tape, seed=index.row() % 13, depth=5)
            painter.setPen(look.on_tape)
        else:
            painter.setPen(QPen(look.faint, 1, Qt.PenStyle.DashLine))
            painter.drawRect(tape.adjusted(0, 0, -6, 0))
            painter.setPen(look.quiet)
        self._line(painter, tape.adjusted(8, 0, -8, 0), said)
        if chosen and option.state & QStyle.StateFlag.State_HasFocus:
            painter.setPen(QPen(look.strong, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(area.adjusted(1, 1, -1, -1))
        painter.restore()

    def _line(self, painter: QPainter, area: QRectF, text: str) -> None:
        cut = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(area.width()))
        painter.drawText(area, LEFT, cut)


class Columns(QListView):
    """``opened`` asks what a column means (with what was typed); ``dropped`` leaves it out."""

    opened = pyqtSignal(str, str)
    dropped = pyqtSignal(str)
    entered_key = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("columns")
        self.setAccessibleName("columns of the file; type what one means, Del leaves it out")
        self._model = _Model()
        self.setModel(self._model)
        self.setItemDelegate(_Delegate(self))
        self.setUniformItemSizes(True)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        look.changed.connect(self._repaint)

    def _repaint(self) -> None:
        port = self.viewport()
        if port is not None:
            port.update()

    def show_file(self, file: TableFile | None, mapping: Mapping[str, str]) -> None:
        """Show the columns of a file."""
        self._model.show(file, mapping)

    def choose(self, column: str) -> None:
        """Mark a column."""
        file = self._model.file
        if file is not None and column in file.header:
            self.setCurrentIndex(self._model.index(file.header.index(column)))

    @property
    def column(self) -> str:
        """The column that is marked."""
        at, file = self.currentIndex().row(), self._model.file
        return file.header[at] if file is not None and 0 <= at < len(file.header) else ""

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if self.column:
            self.opened.emit(self.column, "")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        typed = event.text()
        plain = not event.modifiers() & Qt.KeyboardModifier.ControlModifier
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.entered_key.emit()
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self.column:
            self.dropped.emit(self.column)
        elif event.key() == Qt.Key.Key_Space and self.column:
            self.opened.emit(self.column, "")
        elif plain and typed and typed.isprintable() and self.column:
            self.opened.emit(self.column, typed)
        else:
            super().keyPressEvent(event)
