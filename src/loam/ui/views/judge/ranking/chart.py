"""The ranking on screen: a click or arrows choose a swatch, another click or Enter opens it.

Left and right go along a panel from swatch to swatch; up and down follow a combination to the
next hardness. The edge of the pale strip is dragged to say what matters.
"""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import QEvent, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QToolTip, QWidget

from loam.app.drawings.ranking import RankingPlaces, StripPlace
from loam.app.questions.ranking.picture import RankingPicture, spoken
from loam.app.reflection import Light
from loam.core.advice import Advice
from loam.core.trial import Combination
from loam.ui.paint.drawing import Drawing
from loam.ui.theme import look
from loam.ui.theme.look import LEAD, tip
from loam.ui.views.judge.ranking.paint import draw_ranking

Key = tuple[str, str]
LOW = 150


class RankingChart(Drawing):
    """Shows a `RankingPicture`.

    ``row_chosen`` carries hardness and combination; ``row_opened`` too, on Enter or double click.
    ``edge_dragged`` carries how far behind the leader the edge of the strip was dragged, on the
    scale, and whether it was let go.
    """

    called = "ranking by hardness"
    likes = (900, 420)

    row_chosen = pyqtSignal(str, str)
    row_opened = pyqtSignal(str, str)
    edge_dragged = pyqtSignal(float, bool)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("ranking")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.picture: RankingPicture | None = None
        self.combinations: Mapping[str, Combination] = {}
        self.lights: Mapping[Key, Light] = {}
        self.advice: Mapping[str, Advice] = {}
        self.paints: Mapping[str, str] = {}
        self.chosen: Key | None = None
        self.waiting = ""
        self.layout_drawn = RankingPlaces()
        self._dragged: StripPlace | None = None

    def minimumSizeHint(self) -> QSize:
        return QSize(480, 220)

    def show_ranking(
        self,
        picture: RankingPicture | None,
        combinations: Mapping[str, Combination],
        waiting: str = "",
        paints: Mapping[str, str] | None = None,
        lights: Mapping[Key, Light] | None = None,
    ) -> None:
        """Show a ranking, or what is waited for."""
        self.picture, self.combinations, self.waiting = picture, combinations, waiting
        self.paints, self.lights = paints or {}, lights or {}
        if picture is not None:
            keys = self.keys()
            if self.chosen not in keys and picture.strips:
                last = picture.strips[-1]
                self.chosen = (last.hardness, last.swatches[0].combination)
            self.setAccessibleDescription(spoken(picture))
        self.update()

    @property
    def low(self) -> bool:
        """Whether the bands are too low for more than what to use, and how surely."""
        strips = max(len(self.picture.strips) if self.picture is not None else 1, 1)
        return self.height() / strips < look.px(LOW)

    def show_advice(self, advice: Mapping[str, Advice]) -> None:
        """Show what to use on each hardness; none while it is weighed."""
        self.advice = advice
        if self.picture is not None:
            said = [a.said() for a in advice.values()]
            self.setAccessibleDescription(" ".join([*said, spoken(self.picture)]))
        self.update()

    def keys(self) -> list[Key]:
        """Return every swatch, panel by panel, the leader first."""
        if self.picture is None:
            return []
        return [(s.hardness, w.combination) for s in self.picture.strips for w in s.swatches]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        area = QRectF(0, 0, self.width(), self.height())
        if self.picture is None:
            painter.setPen(look.quiet)
            painter.setFont(look.words(LEAD))
            painter.drawText(
                area, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self.waiting
            )
            return
        self.layout_drawn = draw_ranking(
            painter,
            area,
            self.picture,
            self.combinations,
            self.chosen,
            focus=self.hasFocus(),
            paints=self.paints,
            lights=self.lights,
            advice=self.advice,
        )

    def choose(self, hardness: str, combination: str) -> None:
        """Choose a swatch."""
        self.chosen = (hardness, combination)
        self.update()
        self.row_chosen.emit(hardness, combination)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        key = self._at(event)
        if key is not None:
            again = key == self.chosen
            self.choose(*key)
            if again:
                self.row_opened.emit(*key)
            return
        where = event.position()
        self._dragged = self.layout_drawn.handle_at(where.x(), where.y())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        where = event.position()
        if self._dragged is not None:
            self._drag(where.x(), done=False)
            return
        shape = Qt.CursorShape.ArrowCursor
        if self.layout_drawn.at(where.x(), where.y()) is not None:
            shape = Qt.CursorShape.PointingHandCursor
        elif self.layout_drawn.handle_at(where.x(), where.y()) is not None:
            shape = Qt.CursorShape.SizeHorCursor
        self.setCursor(shape)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._dragged is not None:
            self._drag(event.position().x(), done=True)
            self._dragged = None

    def _drag(self, x: float, *, done: bool) -> None:
        place = self._dragged
        assert place is not None
        behind = place.strip.swatches[0].place - place.place(max(x, place.plot.x))
        self.edge_dragged.emit(max(behind, 0.0), done)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        key = self._at(event)
        if key is not None:
            self.row_opened.emit(*key)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            key = self.layout_drawn.at(event.pos().x(), event.pos().y())
            strip = self.picture.strip(key[0]) if key and self.picture else None
            swatch = strip.swatch(key[1]) if strip and key else None
            QToolTip.showText(event.globalPos(), tip(swatch.told) if swatch else "", self)
            return True
        return super().event(event)

    def _at(self, event: QMouseEvent | None) -> Key | None:
        if event is None:
            return None
        return self.layout_drawn.at(event.position().x(), event.position().y())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if not self.keys() or self.picture is None:
            super().keyPressEvent(event)
            return
        key = event.key()
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.chosen:
            self.row_opened.emit(*self.chosen)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._across(-1 if key == Qt.Key.Key_Up else 1)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._along(-1 if key == Qt.Key.Key_Left else 1)
        else:
            super().keyPressEvent(event)

    def _ordered(self, strip_at: int) -> list[str]:
        """Return the combinations of a panel from left to right."""
        assert self.picture is not None
        swatches = self.picture.strips[strip_at].swatches
        return [s.combination for s in sorted(swatches, key=lambda s: s.place)]

    def _strip_at(self) -> int:
        assert self.picture is not None
        hardness = self.chosen[0] if self.chosen else ""
        return next((i for i, s in enumerate(self.picture.strips) if s.hardness == hardness), 0)

    def _along(self, step: int) -> None:
        i = self._strip_at()
        names = self._ordered(i)
        at = names.index(self.chosen[1]) if self.chosen and self.chosen[1] in names else 0
        assert self.picture is not None
        self.choose(self.picture.strips[i].hardness, names[min(max(at + step, 0), len(names) - 1)])

    def _across(self, step: int) -> None:
        assert self.picture is not None
        i = min(max(self._strip_at() + step, 0), len(self.picture.strips) - 1)
        strip = self.picture.strips[i]
        same = self.chosen[1] if self.chosen else ""
        found = strip.swatch(same) or strip.swatches[0]
        self.choose(strip.hardness, found.combination)
