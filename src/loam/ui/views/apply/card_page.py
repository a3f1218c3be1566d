"""The page of cards and sheets: which one, whose, and the sheet as it will be printed."""

from __future__ import annotations

import base64
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from loam.app.session import Session
from loam.core.errors import ValueRefused
from loam.store.picture_file import read_small
from loam.ui.paint.drawing import Drawing
from loam.ui.picture_out import A4_HEIGHT, A4_WIDTH, Picture, on_paper
from loam.ui.theme import BENCH, look
from loam.ui.views.apply.cards import Letterhead
from loam.ui.views.base import Key
from loam.ui.widgets.fields import Chips, Field, words

NAME, ADDRESS, PICTURE = "letterhead", "letterhead_address", "letterhead_picture"
MOST_BYTES, LONG_PX = 400_000, 600
Sheets = dict[str, tuple[str, Callable[[QPainter, QRectF], object]]]
"""By key: what a sheet is called, and what draws it."""


def letterhead(session: Session) -> Letterhead:
    """Return whose cards they are."""
    name, address = session.recall(NAME, ""), session.recall(ADDRESS, "")
    image = None
    kept = session.recall(PICTURE, "")
    if kept:
        found = QImage()
        if found.loadFromData(base64.b64decode(kept, validate=False)):
            image = found
    return Letterhead(name, address, image)


class _Paper(Drawing):
    """A sheet of paper, as large as there is room."""

    called = "the sheet"
    likes = (500, 640)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("paper")
        self.draw: Callable[[QPainter, QRectF], object] | None = None
        self.setMinimumSize(240, 320)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.draw is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        whole_w, whole_h = A4_WIDTH + 48.0, A4_HEIGHT + 48.0
        scale = min(self.width() / whole_w, self.height() / whole_h)
        left = (self.width() - whole_w * scale) / 2
        dim = look.lights_out
        painter.translate(left, 0)
        painter.scale(scale, scale)
        if dim:
            painter.fillRect(QRectF(0, 0, whole_w, whole_h), look.sheet)
            self.draw(painter, QRectF(24, 24, A4_WIDTH, A4_HEIGHT))
            return
        with on_paper(BENCH):
            painter.fillRect(QRectF(0, 0, whole_w, whole_h), look.sheet)
            self.draw(painter, QRectF(24, 24, A4_WIDTH, A4_HEIGHT))


class CardPage(QWidget):
    """Which sheet, and whose."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.sheets: Sheets = {}
        self.at = ""
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(24)
        self.paper = _Paper()
        row.addWidget(self.paper, 3)
        side = QVBoxLayout()
        side.setSpacing(10)
        side.addWidget(words("Cards and sheets", "title"))
        self.which = Chips("", "which_sheet", [], columns=1)
        self.which.chosen.connect(self.choose)
        side.addWidget(self.which)
        self.said = words("", "quiet", wrap=True)
        side.addWidget(self.said)
        side.addSpacing(12)
        side.addWidget(words("Your letterhead", "head"))
        self.name = Field("Name", "letterhead_name")
        self.name.kept.connect(lambda t: self._keep(NAME, t))
        self.address = Field("Address", "letterhead_address")
        self.address.kept.connect(lambda t: self._keep(ADDRESS, t))
        side.addWidget(self.name)
        side.addWidget(self.address)
        side.addWidget(words("Drop a picture on this page for its head.", "small", wrap=True))
        side.addStretch(1)
        row.addLayout(side, 2)

    def show_sheets(self, sheets: Sheets, said: str) -> None:
        """Show what sheets there are, and which one is looked at."""
        self.sheets = sheets
        if self.at not in sheets:
            self.at = next(iter(sheets), "")
        self.which.set_choices([(key, title) for key, (title, _) in sheets.items()])
        self.which.set_value(self.at)
        self.said.setText(said)
        self.name.set_text(self.session.recall(NAME, ""))
        self.address.set_text(self.session.recall(ADDRESS, ""))
        self.choose(self.at)

    def choose(self, key: str) -> None:
        """Turn to a sheet."""
        self.at = key
        title, draw = self.sheets.get(key, ("", None))
        self.paper.draw = draw
        self.paper.setAccessibleDescription(title)
        self.which.set_value(key)
        self.paper.update()

    def keys(self) -> list[Key]:
        """Return the keys of the page."""
        return [("← →", "another sheet", None), ("Ctrl+P", "print or write it", None)]

    def turn(self, step: int = 1) -> None:
        """Turn to the sheet beside."""
        keys = list(self.sheets)
        if keys:
            self.choose(keys[(keys.index(self.at) + step) % len(keys)])

    def _keep(self, key: str, text: str) -> None:
        self.session.remember(key, text)
        self.paper.update()

    def take_picture(self, path: Path) -> None:
        """Take a picture for the letterhead.

        Raises
        ------
        ValueRefused
            For what is none, or too wide for a head.
        """
        data = read_small(path, LONG_PX)
        if len(data) > MOST_BYTES:
            raise ValueRefused(f"{path.name[:80]} is too large for a letterhead.")
        self.session.remember(PICTURE, base64.b64encode(data).decode())
        self.paper.update()

    def picture(self, name: str) -> Picture | None:
        """Return the sheet that is looked at, for paper."""
        if self.at not in self.sheets:
            return None
        title, draw = self.sheets[self.at]
        return Picture(f"{name}, {title}", "", "", A4_WIDTH, A4_HEIGHT, draw)
