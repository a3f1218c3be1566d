"""The line on which the bench answers: words, a count of passes, warmth, a reason, a number."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import pyqtSignal

from loam.core.cooling import check_temperature
from loam.core.errors import ValueRefused
from loam.core.units import Unit, parse_number
from loam.ui.widgets.fields import Field

WORDS, PASSES, HEAT, REASON, MOST = "words", "passes", "heat", "reason", "most"
Answer = Callable[[object], bool]


class AskLine(Field):
    """Hidden until something is asked; ``left`` says that it is hidden again."""

    left = pyqtSignal()

    def __init__(self) -> None:
        super().__init__("What else happened", "work_words")
        self.asking = WORDS
        self._answer: Answer | None = None
        self.unit: Unit | None = None
        self.kept.connect(self._take)
        self.entered.connect(self.leave)
        self.hide()

    def ask(self, what: str, label: str, answer: Answer, unit: Unit | None = None) -> None:
        """Ask for one of the kinds; ``answer`` takes it and says whether it was kept."""
        self.asking, self._answer, self.unit = what, answer, unit
        self.set_label(label)
        self.set_text("")
        self.show()
        self.line.setFocus()

    def _take(self, text: str) -> None:
        answer = self._answer
        if not text or answer is None:
            return
        try:
            value = self.read(text)
        except ValueRefused as error:
            self.complain(f"{error.what} {error.todo}".strip())
            return
        if answer(value):
            self.complain("")
            self.set_text("")

    def read(self, text: str) -> object:
        """Read what was typed as what was asked for.

        Raises
        ------
        ValueRefused
            When it cannot be.
        """
        if self.asking in (PASSES, MOST):
            least, most = (0, 99) if self.asking == PASSES else (1, 100_000)
            count = parse_number(text)
            if count != int(count) or not least <= count <= most:
                raise ValueRefused(f"It is counted whole, {least} to {most}.")
            return int(count)
        if self.asking == HEAT:
            return self._warmth(text)
        return text

    def _warmth(self, text: str) -> dict[str, float]:
        values = [parse_number(part) for part in text.split()]
        if len(values) > 2:
            raise ValueRefused("One figure for the panel, one for the pad.")
        facts = {}
        for (key, what), value in zip(
            (("panel_c", "panel"), ("pad_c", "pad")), values, strict=False
        ):
            celsius = self.unit.stored(value) if self.unit is not None else value
            check_temperature(celsius, what)
            facts[key] = round(celsius, 2)
        return facts

    def leave(self) -> None:
        """Hide it, unless what stands there was refused."""
        if not self.error.text():
            self.set_text("")
            self.hide()
            self.left.emit()
