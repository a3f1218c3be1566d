"""The story of a cell: a strip of tape down the page, each thing that happened at its time."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QImage, QKeyEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from loam.app.presenters.picture import lit
from loam.app.presenters.story import Event, story
from loam.store import noted
from loam.ui.keys import perform
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.words import LEFT, RIGHT
from loam.ui.theme import look
from loam.ui.views.base import Key
from loam.ui.views.read.owner import Owner
from loam.ui.widgets.fields import words
from loam.ui.widgets.panel_drawing import PanelDrawing
from loam.ui.widgets.tape import paint_tape

_TIMES, _TAPE, _ROW, _LINE, _PICTURE = 150, 26, 46, 19, 190


class StoryStrip(Drawing):
    """Paints the events, one below the other along a strip of tape."""

    called = "story of the cell"
    grows = (True, False)

    def __init__(self) -> None:
        super().__init__()
        self.events: list[Event] = []
        self.images: dict[int, QImage] = {}
        self.lines = False
        self.setObjectName("story")

    def show_events(self, events: list[Event], images: dict[int, QImage], *, lines: bool) -> None:
        """Show a story; with ``lines`` each reading by itself."""
        self.events, self.images, self.lines = events, images, lines
        told = [f"{e.at[:16].replace('T', ' ')} {e.title}. {e.below}" for e in events]
        self.setAccessibleDescription("; ".join(told))
        self.setMinimumHeight(self.sizeHint().height())
        self.setMaximumHeight(self.sizeHint().height())
        self.update()

    def _height(self, event: Event) -> int:
        high = look.px(_ROW)
        if self.lines:
            high += look.px(_LINE) * len(event.lines)
        if event.picture in self.images:
            high += look.px(_PICTURE)
        return high

    def sizeHint(self) -> QSize:
        return QSize(700, sum(self._height(e) for e in self.events) + look.px(16))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        wide = look.px(_TIMES)
        tape = QRectF(wide + 12, 0, look.px(_TAPE), self.height())
        paint_tape(painter, tape, seed=5)
        y, day = 0.0, ""
        for e in self.events:
            self._event(painter, e, y, tape, fresh=e.at[:10] != day)
            day = e.at[:10]
            y += self._height(e)

    def _event(self, painter: QPainter, e: Event, y: float, tape: QRectF, *, fresh: bool) -> None:
        row = float(look.px(_ROW))
        middle = y + row * 0.36
        painter.setPen(look.quiet)
        painter.setFont(look.figures(14))
        when = f"{e.at[:10]}  {e.at[11:16]}" if fresh else e.at[11:16]
        painter.drawText(QRectF(0, y, tape.left() - 12, row * 0.72), RIGHT, when if e.at else "")
        painter.setPen(QPen(look.on_tape, 2.2))
        painter.drawLine(QPointF(tape.left() + 5, middle), QPointF(tape.right() - 5, middle))
        x = tape.right() + 16
        font = look.words(16, bold=True)
        font.setStrikeOut(e.struck)
        painter.setFont(font)
        painter.setPen(look.quiet if e.struck else look.ink)
        room = QRectF(x, y, self.width() - x, row * 0.62)
        cut = painter.fontMetrics().elidedText(
            e.title, Qt.TextElideMode.ElideRight, int(room.width())
        )
        painter.drawText(room, LEFT, cut)
        painter.setPen(look.quiet)
        painter.setFont(look.words(13))
        painter.drawText(QRectF(x, y + row * 0.54, self.width() - x, row * 0.4), LEFT, e.below)
        y += row
        if self.lines:
            painter.setFont(look.words(13))
            for line in e.lines:
                box = QRectF(x + 14, y, self.width() - x - 14, look.px(_LINE))
                said = painter.fontMetrics().elidedText(
                    line, Qt.TextElideMode.ElideRight, int(box.width())
                )
                painter.drawText(box, LEFT, said)
                y += look.px(_LINE)
        image = self.images.get(e.picture)
        if image is not None:
            high = look.px(_PICTURE) - 10
            painter.setOpacity(0.35 if look.lights_out else 1.0)
            place = QRectF(x, y, image.width() * high / image.height(), high)
            painter.drawImage(place, image)
            painter.setOpacity(1.0)


class StoryPage(QWidget):
    """Scrolls through the story of the cell at hand."""

    def __init__(self, owner: Owner) -> None:
        super().__init__()
        self.setObjectName("ground")
        self.owner = owner
        self.lines = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        box = QVBoxLayout(self)
        box.setContentsMargins(20, 10, 24, 0)
        self.title = words("", "title", wrap=True)
        box.addWidget(self.title)
        self.holder = QScrollArea()
        self.holder.setWidgetResizable(True)
        self.holder.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.strip = StoryStrip()
        self.holder.setWidget(self.strip)
        row = QHBoxLayout()
        row.setSpacing(24)
        row.addWidget(self.holder, 5)
        self.where = PanelDrawing()
        self.where.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        row.addWidget(self.where, 3)
        box.addLayout(row, 1)

    def begin(self) -> None:
        """Show the cell at hand."""
        state, session = self.owner.state, self.owner.session
        if state is None:
            return
        db = session.workshop.connection
        events = story(session, state.cell)
        images = {}
        for e in events:
            kept = noted.picture(db, e.picture) if e.picture else None
            image = QImage.fromData(kept) if kept is not None else QImage()
            if not image.isNull():
                images[e.picture] = image
        count = "1 thing" if len(events) == 1 else f"{len(events)} things"
        self.title.setText(f"{state.panel.name} {state.cell.code}: {count} happened")
        self.where.show_picture(lit(session, state.panel, state.cell.id, blind=True), state.cell.id)
        self.strip.show_events(events, images, lines=self.lines)
        self.setFocus()
        self.owner.shell.keys_changed()

    def keys(self) -> list[Key]:
        """Return the keys of the page."""
        return [
            ("D", "hide each reading" if self.lines else "each reading, with its line", self.turn),
            ("↑ ↓", "along the strip", None),
            ("Esc H", "read on", self.owner.leave_page),
        ]

    def turn(self) -> None:
        """Show each reading by itself, or not."""
        self.lines = not self.lines
        self.begin()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        bar = self.holder.verticalScrollBar()
        steps = {int(Qt.Key.Key_Up): -look.px(60), int(Qt.Key.Key_Down): look.px(60)}
        if event.key() in steps and bar is not None:
            bar.setValue(bar.value() + steps[event.key()])
        elif not perform(event, self.keys()):
            super().keyPressEvent(event)
