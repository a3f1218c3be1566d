"""What is worth nothing and all, on the data: a strip of tape a criterion, moved by its ends."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter

from loam.app.commands import Act, Weigh
from loam.app.questions.priorities.find import PrioritiesPicture, kept_limits
from loam.app.session import Session
from loam.ui.views.base import Key, Shell
from loam.ui.views.judge.priorities.limits_paint import draw_limits
from loam.ui.widgets.drawn import Drawn, Target

STEP = 0.02
"""An end moves by a fiftieth of its strip."""


class LimitsLook(Drawn):
    """Keeps the limits that the trainer chose for a trial."""

    def __init__(self, shell: Shell, acting: Callable[[Act], bool]) -> None:
        super().__init__("limits", "what is worth nothing and all")
        self.shell, self.acting = shell, acting
        self.found: PrioritiesPicture | None = None
        self.at = 0
        self.pressed.connect(self._pick)

    @property
    def session(self) -> Session:
        """What is at hand."""
        return self.shell.session

    @property
    def _key(self) -> str:
        return f"worth:{self.session.trial_id or 0}"

    def kept(self) -> dict[str, tuple[float, float]]:
        """What is worth nothing and all, where the trainer chose it."""
        return kept_limits(self.session.recall(self._key, {}))

    def show_worth(self, found: PrioritiesPicture) -> None:
        """Show the limits of a map."""
        self.found = found
        self.show_drawing(self._draw, "; ".join(found.limits))

    def _draw(self, painter: QPainter, area: QRectF) -> list[Target]:
        if self.found is None:
            return []
        return draw_limits(painter, area, self.found, self.criterion)

    @property
    def criterion(self) -> str:
        """The criterion whose ends are moved."""
        keys = list(self.found.criteria) if self.found is not None else [""]
        return keys[self.at % len(keys)]

    def _pick(self, key: str) -> None:
        if self.found is not None:
            self.at = list(self.found.criteria).index(key)
            self.show_worth(self.found)

    def hands(self) -> list[Key]:
        """Return the keys of the limits."""
        return [
            ("↑ ↓", "which", None),
            ("← →", "what is worth nothing", None),
            ("Shift + ← →", "what is worth all", None),
            ("0", "as it was", self.reset),
        ]

    def hand(self, event: QKeyEvent) -> None:
        """Choose a criterion, or move an end of its tape."""
        key = event.key()
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.found is not None:
            self.at += 1 if key == Qt.Key.Key_Down else -1
            self.show_worth(self.found)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            full = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._move(1 if key == Qt.Key.Key_Right else -1, full=full)
        elif event.text() == "0":
            self.reset()

    def reset(self) -> None:
        """Let a limit be as it was."""
        self._keep(None)

    def _move(self, step: int, *, full: bool) -> None:
        found = self.found
        if found is None:
            return
        c = found.criteria[self.criterion]
        by = STEP * step * abs(c.full - c.nothing) * (1.0 if c.full > c.nothing else -1.0)
        ends = (c.nothing, c.full + by) if full else (c.nothing + by, c.full)
        if (ends[1] - ends[0]) * (c.full - c.nothing) > 0.0:
            nothing, all_ = (found.measured(self.criterion, e) for e in ends)
            if nothing != all_:
                self._keep((nothing, all_))

    def _keep(self, pair: tuple[float, float] | None) -> None:
        kept = {k: list(v) for k, v in self.kept().items()}
        kept.pop(self.criterion, None)
        if pair is not None:
            kept[self.criterion] = list(pair)
        here = self.session.trial_id or 0
        what = f"what is worth nothing and all in {self.criterion}"
        said = f"choose {what}" if pair is not None else f"{what}, as the trial's readings say"
        self.acting(Weigh(here, here, self._key, self.session.recall(self._key, {}), kept, said))
