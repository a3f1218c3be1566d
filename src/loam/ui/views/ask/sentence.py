"""The question as a sentence whose pieces of tape are its slots; each opens where it stands."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QLabel, QVBoxLayout, QWidget

from loam.app.presenters.asking import Part
from loam.core.question import KINDS as QUESTIONS
from loam.core.readings import KINDS
from loam.core.trial import HARDNESSES
from loam.ui.theme import look
from loam.ui.theme.look import TITLE
from loam.ui.widgets.fields import Chips, Field, words
from loam.ui.widgets.flow import Flow
from loam.ui.widgets.scroll_stack import Stack
from loam.ui.widgets.slot import Slot

_ORDER = ("kind", "subject", "clear", "reads", "times")


class Sentence(QWidget):
    """Shows the parts of a question and lets each slot be chosen.

    Signals carry what was chosen: ``kind`` a way to ask, ``subject`` its words, ``clear`` a
    hardness class, ``reads`` whatever is pressed, ``times`` the text of a count. While there is no
    trial it is ``asleep``: a slot only emits ``woken``.
    """

    kind = pyqtSignal(str)
    subject = pyqtSignal(str)
    clear = pyqtSignal(str)
    reads = pyqtSignal()
    times = pyqtSignal(str)
    woken = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.open_slot = ""
        self.asleep = False
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(10)
        self._line = QWidget()
        self._flow = Flow(across=7, down=8)
        self._line.setLayout(self._flow)
        box.addWidget(self._line)
        self.slots: dict[str, Slot] = {key: Slot(key) for key in _ORDER}
        for key, slot in self.slots.items():
            slot.clicked.connect(lambda _c=False, k=key: self.toggle(k))
        self._words: list[QLabel] = []
        self.drawer = Stack()
        self.pages: dict[str, QWidget] = {}
        self._make_pages()
        box.addWidget(self.drawer)
        self.drawer.hide()

    def _make_pages(self) -> None:
        ways = [(k.key, k.label) for k in QUESTIONS]
        self.kinds = Chips("How it is asked", "question_kinds", ways, columns=3)
        self.kinds.chosen.connect(self.kind.emit)
        self.question = Field("What is asked of", "question")
        self.question.line.setAccessibleName("the question of this trial")
        self.question.kept.connect(self.subject.emit)
        self.question.entered.connect(lambda: self.go_on("subject"))
        self.classes = Chips(
            "Hardness classes; pressing one more adds a panel of it",
            "classes",
            [(h, h) for h in HARDNESSES],
            several=True,
        )
        self.classes.chosen.connect(self.clear.emit)
        self.measurands = Chips(
            "What is read",
            "measurands",
            [(k.key, k.label) for k in KINDS if not k.derived],
            several=True,
            columns=4,
        )
        self.measurands.chosen.connect(lambda _key: self.reads.emit())
        self.count = Field("Readings a cell", "readings_per_cell", width=90)
        self.count.kept.connect(self.times.emit)
        self.count.entered.connect(lambda: self.go_on("times"))
        for key, page in zip(
            _ORDER,
            (self.kinds, self.question, self.classes, self.measurands, self.count),
            strict=True,
        ):
            self.pages[key] = page
            self.drawer.addWidget(page)

    def show_parts(self, parts: list[Part]) -> None:
        """Show a question."""
        while self._flow.count():
            item = self._flow.takeAt(0)
            widget = item.widget() if item is not None else None
            if isinstance(widget, QLabel):
                widget.hide()
                widget.deleteLater()
        self._words = []
        shown: set[str] = set()
        for part in parts:
            if part.slot:
                slot = self.slots[part.slot]
                slot.show_part(part.text, empty=part.empty, open_=part.slot == self.open_slot)
                self._flow.addWidget(slot)
                slot.show()
                shown.add(part.slot)
                continue
            for word in part.text.split():
                label = words(word)
                label.setProperty("tight", word in "?.")
                label.setFont(look.words(TITLE - 2))
                label.setMinimumHeight(self.slots["kind"].sizeHint().height())
                label.setSizePolicy(self.slots["kind"].sizePolicy())
                self._flow.addWidget(label)
                label.show()
                self._words.append(label)
        for key, slot in self.slots.items():
            slot.setVisible(key in shown)
        self.setAccessibleName("question: " + " ".join(p.text for p in parts))
        self._flow.invalidate()
        self._line.updateGeometry()

    def toggle(self, key: str) -> None:
        """Open a slot where it stands, or close it."""
        if self.asleep:
            self.woken.emit()
            return
        if self.open_slot == key:
            self.close_slot()
            return
        self.open_slot = key
        page = self.pages[key]
        self.drawer.setCurrentWidget(page)
        self.drawer.show()
        for name, slot in self.slots.items():
            slot.open = name == key
            slot.update()
        self._focus(page)

    def _focus(self, page: QWidget) -> None:
        if isinstance(page, Field):
            page.line.setFocus()
            page.line.selectAll()
        elif isinstance(page, Chips):
            pressed = page.value()
            chip = page.buttons[pressed[0]] if pressed else next(iter(page.buttons.values()))
            chip.setFocus(Qt.FocusReason.TabFocusReason)

    def close_slot(self) -> None:
        """Close the slot that is open and give the keyboard back to its tape."""
        key, self.open_slot = self.open_slot, ""
        self.drawer.hide()
        if key:
            self.slots[key].open = False
            self.slots[key].update()
            self.slots[key].setFocus(Qt.FocusReason.TabFocusReason)

    def go_on(self, key: str) -> None:
        """Close a slot once its text is kept; one that was refused stays open."""
        page = self.pages[key]
        if isinstance(page, Field) and not page.refused:
            self.close_slot()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape and self.open_slot:
            self.close_slot()
        else:
            super().keyPressEvent(event)
