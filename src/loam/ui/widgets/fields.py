"""Small parts of forms: words, a line to type on, a choice of chips."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QEvent, QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QPainter, QPaintEvent, QPen, QPolygonF, QWheelEvent
from PyQt6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLayout,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from loam.core.words.plain import plain
from loam.ui.theme import look
from loam.ui.theme.look import SMALL, paint_caret, tip
from loam.ui.widgets.explains import Words
from loam.ui.widgets.flow import Flow


def unbroken(text: str) -> str:
    """Say it in plain words, and keep a figure and its sign of percentage on one line."""
    return plain(text).replace(" %", "\u00a0%")


def words(
    text: str, role: str = "", parent: QWidget | None = None, *, wrap: bool = False
) -> QLabel:
    """Make a label; ``role`` is title, lead, head, quiet, small, figure or care."""
    label = Words(text, parent)
    label.setTextFormat(Qt.TextFormat.PlainText)
    if role:
        label.setProperty("role", role)
    label.setWordWrap(wrap)
    return label


def set_role(label: QLabel, role: str) -> None:
    """Give a label another role."""
    if label.property("role") != role:
        label.setProperty("role", role)
        polish(label)


def polish(widget: QWidget) -> None:
    """Let the style sheet see that a property of a widget has changed."""
    style = widget.style()
    if style is not None:
        style.unpolish(widget)
        style.polish(widget)


class TypedLine(QLineEdit):
    """A line that keeps undo and cut for itself only while something is being typed in it.

    ``reached`` is emitted when it gets the keyboard.
    """

    reached = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.names: Callable[[], Sequence[str]] | None = None
        self.offered: list[str] = []
        self._at = -1
        self.textEdited.connect(self._look_up)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self._look_up("")
        self.reached.emit()

    def _look_up(self, typed: str) -> None:
        """Find the names that hold what is typed; all of them while nothing is."""
        low = typed.strip().casefold()
        names = self.names() if self.names is not None else ()
        self.offered = [n for n in names if low in n.casefold() and n.casefold() != low]
        self._at = -1

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        steps = {int(Qt.Key.Key_Down): 1, int(Qt.Key.Key_Up): -1}
        if event.key() in steps and self.offered:
            self._at = (
                max(self._at, -1 if event.key() == Qt.Key.Key_Down else 0) + steps[event.key()]
            ) % len(self.offered)
            self.setText(self.offered[self._at])
            self.setModified(True)
            return
        super().keyPressEvent(event)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            event.accept()  # it was for this line: what lies behind must not take it for its own

    @property
    def hint(self) -> str:
        """What Down would put here, while something is typed."""
        following = self._at + 1
        if not self.hasFocus() or following >= len(self.offered):
            return ""
        return f"↓ {self.offered[following]}" if self.isModified() or not self.text() else ""

    def _paint_hint(self) -> None:
        """Say at the right end what Down would put here."""
        painter = QPainter(self)
        painter.setFont(look.words(SMALL))
        painter.setPen(look.quiet)
        room = self.width() - self.fontMetrics().horizontalAdvance(self.text()) - 24
        said = painter.fontMetrics().elidedText(self.hint, Qt.TextElideMode.ElideRight, room)
        if room > 40:
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(self.rect().adjusted(0, 0, -6, 0), right, said)

    def event(self, event: QEvent | None) -> bool:
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.ShortcutOverride
            and self.leaves(event)
        ):
            event.ignore()
            return False
        return super().event(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if self.hasFocus() and not self.isReadOnly():
            paint_caret(self, self.cursorRect())
            if self.hint:
                self._paint_hint()

    def leaves(self, event: QKeyEvent) -> bool:
        """Tell whether a key belongs to the window rather than to the line."""
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        return control and event.key() == Qt.Key.Key_Z and not self.isModified()


class Field(QWidget):
    """A labelled line: what it is, what stands there, its unit, and what is wrong with it.

    ``kept`` is emitted with the text when Enter is pressed or the field is left changed;
    ``entered`` after Enter, once what was typed is kept or refused.
    """

    kept = pyqtSignal(str)
    entered = pyqtSignal()

    def __init__(
        self, label: str, name: str, *, unit: str = "", placeholder: str = "", width: int = 0
    ) -> None:
        super().__init__()
        self.setObjectName(f"field_{name}")
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(1)
        self.label = words(label, "small")
        box.addWidget(self.label)
        row = QHBoxLayout()
        row.setSpacing(5)
        self.line = TypedLine()
        self.line.setObjectName(name)
        self.line.setAccessibleName(f"{label}, {unit}" if unit else label)
        self.line.setPlaceholderText(placeholder)
        if width:
            self.line.setFixedWidth(look.px(width))
        row.addWidget(self.line)
        if unit:
            row.addWidget(words(unit, "quiet"))
        if width:
            row.addStretch(1)
        box.addLayout(row)
        self.error = words("", "care", wrap=True)
        self.error.hide()
        box.addWidget(self.error)
        self._before = self._stood = ""
        self.line.editingFinished.connect(self._finish)
        self.line.returnPressed.connect(self._enter)

    def offer(self, names: Callable[[], Sequence[str]]) -> None:
        """Offer names while one is typed: Down and Up go through those that hold it."""
        self.line.names = names

    def set_label(self, label: str) -> None:
        """Say otherwise what it is."""
        self.label.setText(label)
        self.line.setAccessibleName(label)

    def set_text(self, text: str) -> None:
        """Show a value without keeping it."""
        self._before = self._stood = text
        if self.line.text() != text:
            self.line.setText(text)
            self.line.setCursorPosition(0 if not self.line.hasFocus() else len(text))
        self.complain("")

    def text(self) -> str:
        """Return what stands there, trimmed."""
        return self.line.text().strip()

    @property
    def refused(self) -> bool:
        """Whether something stands here that was not kept."""
        return bool(self.error.text()) and bool(self.text()) and self.text() != self._stood

    def complain(self, said: str) -> None:
        """Say what is wrong, in place; "" takes it back."""
        self.error.setText(said)
        self.error.setVisible(bool(said))
        self.line.setProperty("wrong", "true" if said else "false")
        polish(self.line)

    def _enter(self) -> None:
        self._finish()
        self.entered.emit()

    def _finish(self) -> None:
        if self.line.text() != self._before:
            self._before = self.line.text()
            self.line.setModified(False)
            self.kept.emit(self.text())


class FigureButton(QPushButton):
    """A figure that leads to the readings behind it."""

    def __init__(self, text: str, said: str) -> None:
        super().__init__()
        self.show_figure(text, said)
        self.setFlat(True)
        self.setProperty("role", "figure")
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def show_figure(self, text: str, said: str) -> None:
        """Show another figure, and what it is."""
        self.setText(text)
        self.setMinimumHeight(look.px(25) if look.scale < 1.2 else self.fontMetrics().height())
        self.setAccessibleName(said)
        self.setToolTip(tip(said))


class Choice(QComboBox):
    """A choice out of a list; the wheel passes by unless it has the keyboard."""

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMaxVisibleItems(24)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None:
            if self.hasFocus():
                super().wheelEvent(event)
            else:
                event.ignore()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(look.quiet, 1.6))
        x, y = self.width() - 14.0, self.height() / 2 - 1.0
        painter.drawPolyline(
            QPolygonF([QPointF(x - 4, y - 2), QPointF(x, y + 3), QPointF(x + 4, y - 2)])
        )


class Chip(QPushButton):
    """One chip: arrows go to its neighbours, and the keyboard shows on a pressed one too."""

    def __init__(self, text: str, chips: Chips) -> None:
        super().__init__(text)
        self._chips = chips
        self.setObjectName("chip")
        self.setCheckable(True)
        self.setMinimumHeight(look.px(28))
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        step = _STEPS.get(event.key())
        if step is not None:
            self._chips.step(self, step)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.click()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if self.hasFocus():
            painter = QPainter(self)
            painter.setPen(QPen(look.on_chip if self.isChecked() else look.strong, 2))
            painter.drawRect(self.rect().adjusted(3, 3, -4, -4))


_STEPS = {
    int(Qt.Key.Key_Left): -1,
    int(Qt.Key.Key_Up): -1,
    int(Qt.Key.Key_Right): 1,
    int(Qt.Key.Key_Down): 1,
}


class Chips(QWidget):
    """A choice: square chips in a row, one (or several) pressed.

    Tab comes to the pressed one, arrows go through them all, Space or Enter presses. Those that
    flow run on in another line where there is no room.
    """

    chosen = pyqtSignal(str)

    def __init__(
        self,
        label: str,
        name: str,
        choices: Sequence[tuple[str, str]],
        *,
        several: bool = False,
        columns: int = 0,
        flows: bool = False,
    ) -> None:
        super().__init__()
        self.setObjectName(name)
        self.several = several
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(3)
        if label:
            box.addWidget(words(label, "small"))
        self._grid = QGridLayout()
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setSpacing(4)
        self._flow = Flow(4, 4) if flows else None
        self._held: QLayout = self._grid if self._flow is None else self._flow
        box.addLayout(self._held)
        self._group = QButtonGroup(self)
        self._group.setExclusive(not several)
        self.label = label
        self.buttons: dict[str, Chip] = {}
        self._columns = columns
        self.set_choices(choices)

    def set_choices(self, choices: Sequence[tuple[str, str]]) -> None:
        """Replace the chips: (key, words) each."""
        if [(k, b.text()) for k, b in self.buttons.items()] == list(choices):
            return
        for button in self.buttons.values():
            self._group.removeButton(button)
            self._held.removeWidget(button)
            button.hide()
            button.deleteLater()
        self.buttons = {}
        columns = self._columns or max(len(choices), 1)
        for i, (key, text) in enumerate(choices):
            button = Chip(text, self)
            button.setAccessibleName(f"{self.label}: {text}" if self.label else text)
            button.clicked.connect(lambda _c=False, k=key: self.chosen.emit(k))
            self._group.addButton(button)
            if self._flow is not None:
                self._flow.addWidget(button)
            else:
                self._grid.addWidget(button, i // columns, i % columns)
            self.buttons[key] = button
        self._grid.setColumnStretch(columns, 1)
        self._one_stop()

    def set_value(self, *keys: str) -> None:
        """Press these chips and no others."""
        self._group.setExclusive(False)
        for key, button in self.buttons.items():
            button.setChecked(key in keys)
        self._group.setExclusive(not self.several)
        self._one_stop()

    def _one_stop(self) -> None:
        """Let Tab come to one chip only: the first pressed one, else the first."""
        chips = list(self.buttons.values())
        stop = next((b for b in chips if b.isChecked()), chips[0] if chips else None)
        for button in chips:
            policy = Qt.FocusPolicy.StrongFocus if button is stop else Qt.FocusPolicy.ClickFocus
            button.setFocusPolicy(policy)

    def step(self, chip: Chip, by: int) -> None:
        """Go from a chip to the one before or after."""
        chips = list(self.buttons.values())
        if chip in chips:
            chips[(chips.index(chip) + by) % len(chips)].setFocus(Qt.FocusReason.TabFocusReason)

    def value(self) -> list[str]:
        """Return the keys of the pressed chips."""
        return [key for key, button in self.buttons.items() if button.isChecked()]
