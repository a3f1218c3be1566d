"""The ranking in exact rows: figures, chances and words, hardness by hardness."""

from __future__ import annotations

from collections.abc import Mapping

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QSizePolicy, QWidget

from loam.app.questions.ranking.picture import RankingPicture, spoken
from loam.core.judging import ClassJudgement, Standing
from loam.core.trial import Combination
from loam.core.units import fixed, percent
from loam.core.verdicts import CLEARLY_BETTER
from loam.core.words.verdict import RELATION_WORDS
from loam.ui.paint.words import LEFT, RIGHT
from loam.ui.theme import look
from loam.ui.theme.look import BODY, LEAD, SMALL
from loam.ui.widgets.mark import ROW_ASPECT, mark_size, paint_mark
from loam.ui.widgets.panel_painter import short_code

HEAD, ROW, MARK = 30, 40, 11.0


class ExactRows(QWidget):
    """Shows a `RankingPicture` in rows; it is as high as they are, and is scrolled."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("exact_rows")
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("ranking in rows")
        self.picture: RankingPicture | None = None
        self.combinations: Mapping[str, Combination] = {}
        look.changed.connect(self.update)

    def show_ranking(
        self, picture: RankingPicture | None, combinations: Mapping[str, Combination]
    ) -> None:
        """Show a ranking."""
        self.picture, self.combinations = picture, combinations
        self.setAccessibleDescription(spoken(picture) if picture is not None else "")
        self.setMinimumHeight(self._height())
        self.updateGeometry()
        self.update()

    def _height(self) -> int:
        if self.picture is None:
            return 0
        count = sum(
            look.px(HEAD) + look.px(ROW) * len(c.standings) + 10
            for c in self.picture.judgement.classes
        )
        return count + 10

    def sizeHint(self) -> QSize:
        return QSize(700, self._height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.picture is None or event is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        y = 0.0
        for found in self.picture.judgement.classes:
            high = look.px(HEAD) + look.px(ROW) * len(found.standings)
            box = QRectF(0, y, self.width(), high)
            if box.intersects(QRectF(event.rect())):
                self._class(painter, box, found)
            y += high + 10

    def _columns(self, width: float) -> list[float]:
        marks = look.px(46) + MARK * ROW_ASPECT + 14
        shares = (0.0, 0.15, 0.35, 0.49, 0.59)
        return [marks + (width - marks) * s for s in shares] + [width - 12]

    def _class(self, p: QPainter, box: QRectF, found: ClassJudgement) -> None:
        assert self.picture is not None
        p.fillRect(box, look.sheet)
        x = self._columns(box.width())
        head = QRectF(box.left() + 12, box.top(), box.width() - 24, look.px(HEAD))
        p.setPen(look.ink)
        p.setFont(look.words(LEAD, bold=True))
        p.drawText(head, LEFT, found.hardness.capitalize())
        p.setPen(look.quiet)
        p.setFont(look.words(SMALL))
        titles = (f"{self.picture.unit}", "for comparing", "best", "rank", "to the leader")
        for i, title in enumerate(titles):
            room = QRectF(x[i], head.top(), x[i + 1] - x[i] - 10, head.height())
            p.drawText(room, LEFT if i == 4 else RIGHT, title)
        for i, s in enumerate(found.standings):
            top = head.bottom() + i * look.px(ROW)
            self._row(p, QRectF(box.left(), top, box.width(), look.px(ROW)), s, x)

    def _row(self, p: QPainter, area: QRectF, s: Standing, x: list[float]) -> None:
        assert self.picture is not None
        kind, d, f = self.picture.kind, self.picture.decimals, s.figures
        ink = look.quiet if s.relation == CLEARLY_BETTER else look.ink
        p.setPen(look.line)
        p.drawLine(QPointF(area.left() + 12, area.top()), QPointF(area.right() - 12, area.top()))
        p.setPen(ink)
        p.setFont(look.figures(LEAD - 1, bold=True))
        room = QRectF(area.left() + 12, area.top(), look.px(40), area.height())
        p.drawText(room, LEFT, short_code(p, s.combination, room.width()))
        combination = self.combinations.get(s.combination)
        if combination is not None:
            _, high = mark_size(combination, MARK)
            at = QPointF(room.right() + 4, area.center().y() - high / 2)
            paint_mark(p, at, combination, MARK, ink)
        ends = sorted((kind.shown(f.own_low), kind.shown(f.own_high)))
        cells = (
            fixed(kind.shown(f.estimate), d),
            f"{fixed(ends[0], d)} to {fixed(ends[1], d)}",
            percent(s.p_best),
            " to ".join(dict.fromkeys(str(r) for r in s.rank)),
        )
        p.setPen(ink)
        for i, text in enumerate(cells):
            p.setFont(look.figures(BODY if i else LEAD - 1))
            p.drawText(QRectF(x[i], area.top(), x[i + 1] - x[i] - 10, area.height()), RIGHT, text)
        p.setFont(look.words(BODY))
        room = QRectF(x[4], area.top(), x[5] - x[4], area.height())
        said = RELATION_WORDS[s.look]
        if f.moved:
            said += f"; alone {fixed(kind.shown(f.plain), d)}"
        p.drawText(room, LEFT | Qt.TextFlag.TextWordWrap, said)
