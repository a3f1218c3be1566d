"""What matters, said as a piece of tape; pressed or with W it is typed where it stands."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from loam.app.questions.ranking.picture import RankingPicture
from loam.core.errors import LoamError
from loam.core.matter import RATIO, parse_matters
from loam.core.units import fixed
from loam.core.words.verdict import unit_of
from loam.ui.widgets.fields import Chips, TypedLine, words
from loam.ui.widgets.slot import Slot

TRIAL, WORKSHOP = "trial", "workshop"


class _Typed(TypedLine):
    """Enter keeps what is typed, Esc leaves it."""

    left = pyqtSignal()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        else:
            super().keyPressEvent(event)


class MattersBar(QWidget):
    """``typed`` carries the value (None takes the choice back) and whose it is; ``left`` tells
    that the keyboard can go elsewhere.
    """

    typed = pyqtSignal(object, str)
    left = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("matters")
        self._picture: RankingPicture | None = None
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        self.before = words("What matters:", "quiet")
        self.slot = Slot("matters")
        self.line = _Typed()
        self.line.setObjectName("matters_line")
        self.line.setFixedWidth(72)
        self.unit = words("", "quiet")
        self.whose = Chips("", "matters_whose", [(TRIAL, "this trial"), (WORKSHOP, "every trial")])
        self.error = words("", "care")
        for part in (self.before, self.slot, self.line, self.unit, self.whose, self.error):
            row.addWidget(part)
        self.slot.clicked.connect(self.open)
        self.line.returnPressed.connect(self._take)
        self.line.left.connect(self.close_again)
        self.whose.set_value(TRIAL)
        self.whose.chosen.connect(self.whose.set_value)
        self.whose.chosen.connect(lambda _key: self.line.setFocus())
        self.setMinimumHeight(self.slot.sizeHint().height())  # nothing moves when it opens
        self._turn(open_=False)

    def show_picture(self, picture: RankingPicture) -> None:
        """Show what matters in a ranking."""
        if self._picture is None or self._picture.measurand != picture.measurand:
            self._turn(open_=False)
        self._picture = picture
        self.slot.show_part(
            picture.matters, empty=picture.judgement.matters.source == "default", open_=False
        )
        ratio = picture.judgement.matters.kind == RATIO
        self.unit.setText("times" if ratio else unit_of(picture.kind))
        self.slot.setAccessibleName(f"what matters: {picture.matters}; press to change it")

    def open(self) -> None:
        """Let it be typed."""
        if self._picture is None:
            return
        chosen, kind = self._picture.judgement.matters, self._picture.kind
        shown = chosen.value if chosen.kind == RATIO else kind.span(chosen.value)
        self.line.setText(fixed(shown, 2 if chosen.kind == RATIO else max(kind.decimals, 1)))
        self.line.setAccessibleName("what matters; Enter keeps it, nothing typed takes it back")
        self._turn(open_=True)
        self.line.setFocus()
        self.line.selectAll()

    def close_again(self) -> None:
        """Leave it as it was."""
        self._turn(open_=False)
        self.left.emit()

    def pending(self) -> bool:
        """Whether something typed was refused and still stands."""
        return self.line.isVisibleTo(self) and bool(self.error.text())

    def _turn(self, *, open_: bool) -> None:
        self.error.setText("")
        for part in (self.line, self.unit, self.whose):
            part.setVisible(open_)
        self.slot.setVisible(not open_)
        self.error.setVisible(False)

    def _take(self) -> None:
        assert self._picture is not None
        text, whose = self.line.text().strip(), self.whose.value()[0]
        try:
            value = parse_matters(self._picture.kind, text, whose).value if text else None
        except LoamError as error:
            self.error.setText(f"{error.what} {error.todo}")
            self.error.setVisible(True)
            return
        self._turn(open_=False)
        self.typed.emit(value, whose)
        self.left.emit()
