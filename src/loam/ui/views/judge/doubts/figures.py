"""What a doubt looks like: the lamp before and after the wipe, the film cut by each hand, a dial
with a needle for each reader, or the panels with the cells that it concerns taped off.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF

from loam.app.doubting import DoubtSaid
from loam.app.presenters.picture import PanelPicture
from loam.app.questions.ranking.find import reflected
from loam.app.questions.ranking.picture import RankingPicture
from loam.app.reflection import HIGH_GLOSS, LOW_GLOSS, Light
from loam.core.doubts.values import MASKING, PAD
from loam.core.readings import REMOVED, ReadingKind
from loam.ui.paint.drawing import Drawing
from loam.ui.paint.lamp import draw_reflection
from loam.ui.paint.words import LEFT, MIDDLE, fitted
from loam.ui.theme import look
from loam.ui.theme.look import BODY, SMALL
from loam.ui.widgets.panel_painter import draw_panel, face_rect, panel_rect
from loam.ui.widgets.tape import paint_tape

MOST_PANELS = 3
TOP = 22
HIDDEN = 0.35
"""Share of the marks left that are still seen under fillers: drawn so, not measured."""


@dataclass(frozen=True)
class Shown:
    """What a picture of a doubt is drawn from.

    Attributes
    ----------
    panels : sequence of PanelPicture
        Those that it concerns.
    cells : frozenset of int
    kinds : mapping of str to ReadingKind
        In the units that are shown.
    light : (Light, Light) or None
        Before and after the wipe.
    """

    said: DoubtSaid
    panels: Sequence[PanelPicture]
    cells: frozenset[int]
    kinds: Mapping[str, ReadingKind]
    light: tuple[Light, Light] | None = None


def flattered(
    said: DoubtSaid, rankings: Mapping[str, RankingPicture]
) -> tuple[Light, Light] | None:
    """Return what a combination reflected before the wipe and after it; fillers hide marks too.

    On the hardness where it stands best; None where that is not judged.
    """
    if said.doubt.kind != MASKING or not said.doubt.evidence:
        return None
    own = said.doubt.evidence[0]
    ranking = rankings.get(own.measurand)
    strips = ranking.strips if ranking is not None else ()
    hardness = next((s.hardness for s in strips if s.swatch(said.doubt.subject)), None)
    if hardness is None:
        return None
    after = reflected(dict(rankings), hardness, said.doubt.subject)
    gained = abs(own.moved.estimate) / (HIGH_GLOSS - LOW_GLOSS)
    before = replace(after, sharp=min(after.sharp + gained, 1.0), left=HIDDEN * after.left)
    return before, after


class DoubtFigure(Drawing):
    """Draws one doubt."""

    called = "what is doubted"
    likes = (640, 150)

    def __init__(self, shown: Shown) -> None:
        super().__init__()
        self.shown = shown
        self.setMinimumSize(260, 96)
        self.setAccessibleDescription(shown.said.evidence)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw_doubt(painter, QRectF(0, 0, self.width(), self.height()), self.shown)


def draw_doubt(painter: QPainter, area: QRectF, shown: Shown) -> None:
    """Draw what is doubted, as large as there is room."""
    doubt, said = shown.said.doubt, shown.said
    if doubt.kind == MASKING and shown.light is not None:
        _wiped(painter, area, shown)
    elif said.beside is not None and said.beside.measurand == REMOVED.key:
        _film(painter, area, shown)
    elif said.beside is not None:
        _dial(painter, area, shown)
    elif shown.panels:
        _panels(painter, area, shown)


def _wiped(p: QPainter, area: QRectF, shown: Shown) -> None:
    """The lamp before the wipe and after it, and how much was filler."""
    assert shown.light is not None
    size = min(area.height() - TOP, 0.3 * area.width())
    who, own = shown.said.doubt.subject, shown.said.doubt.evidence[0]
    for i, (light, words) in enumerate(
        zip(shown.light, (f"{who} before the wipe", "after it"), strict=True)
    ):
        box = QRectF(area.left() + i * (size + 24), area.top(), size, size)
        draw_reflection(p, box, light)
        p.setPen(look.quiet)
        p.setFont(look.words(SMALL))
        p.drawText(QRectF(box.left(), box.bottom() + 2, size + 24, TOP - 2), LEFT, words)
    kind = shown.kinds[own.measurand]
    much = f"{kind.write_span(abs(own.moved.estimate))} {kind.unit} was filler".replace("  ", " ")
    left = area.left() + 2 * (size + 24)
    tape = QRectF(left, area.top() + size / 2 - 18, min(area.right() - left - 6, 210.0), 36)
    if tape.width() > 90:
        paint_tape(p, tape, seed=7, torn="right", depth=4)
        p.setPen(look.on_tape)
        p.setFont(look.words(BODY, bold=True))
        fitted(p, tape.adjusted(12, 0, -10, 0), much)


def _film(p: QPainter, area: QRectF, shown: Shown) -> None:
    """The film cut: how deep each hand bites with the same combinations."""
    beside, who = shown.said.beside, shown.said.doubt.subject
    assert beside is not None
    kind = shown.kinds[beside.measurand]
    film = QRectF(area.left(), area.top() + 2, area.width(), area.height() - TOP - 2)
    p.fillRect(film, look.clear)
    deepest = max((v for _, v in beside.values), default=1.0)
    others = [v for n, v in beside.values if n != who]
    scale = 0.72 * film.height() / max(deepest, 1e-9)
    usual = film.top() + scale * sum(others) / max(len(others), 1)
    count = len(beside.values)
    step = film.width() / count
    p.setPen(QPen(look.ink, 1.2, Qt.PenStyle.DashLine))
    p.drawLine(QPointF(film.left(), usual), QPointF(film.right(), usual))
    for i, (name, value) in enumerate(beside.values):
        own = name == who
        wide = min(0.55 * step, 86.0)
        cut = QRectF(
            film.left() + (i + 0.5) * step - wide / 2, film.top(), wide, scale * max(value, 0.0)
        )
        p.fillRect(cut, look.panel)
        p.setPen(look.on_panel)
        p.setFont(look.words(SMALL, bold=own))
        fitted(p, QRectF(cut.left() + 2, cut.top() + 2, wide - 4, 18), name, at=MIDDLE)
        p.setFont(look.figures(BODY, bold=own))
        text = f"{kind.write(value)} {kind.unit}"
        half = p.fontMetrics().horizontalAdvance(text) / 2 + 4.0
        label = QRectF(cut.center().x() - half, cut.bottom() + 2, 2 * half, 20)
        p.fillRect(label, look.clear)
        p.setPen(look.ink)
        p.drawText(label, MIDDLE, text)
    p.fillRect(QRectF(film.left(), film.top() - 2, film.width(), 3), look.edge)
    _foot(p, area, "what each takes off with the same combinations; dashed: the others")


def _dial(p: QPainter, area: QRectF, shown: Shown) -> None:
    """One dial with a needle for each person: who stands apart is seen at once."""
    beside, who = shown.said.beside, shown.said.doubt.subject
    assert beside is not None
    kind = shown.kinds[beside.measurand]
    values = [v for _, v in beside.values]
    others = [v for n, v in beside.values if n != who] or values
    middle = sum(others) / len(others)
    wide = max(max(abs(v - middle) for v in values), 1e-9) * 1.3
    line = area.top() + 0.5 * (area.height() - TOP)
    left, right = area.left() + 60, area.right() - 60

    def x(value: float) -> float:
        return (left + right) / 2 + (value - middle) / wide * (right - left) / 2

    p.setPen(QPen(look.line, 2))
    p.drawLine(QPointF(left, line), QPointF(right, line))
    lanes = (line - 34.0, line + 15.0, line - 52.0, line + 33.0)
    taken: list[list[float]] = [[] for _ in lanes]
    for name, value in sorted(beside.values, key=lambda nv: nv[1]):
        own = name == who
        at = x(value)
        p.setPen(QPen(look.strong if own else look.ink, 3.0 if own else 1.6))
        p.drawLine(QPointF(at, line - 12), QPointF(at, line + 12))
        text = f"{name} {kind.write(value, 0)}"
        p.setFont(look.words(BODY if own else SMALL, bold=own))
        room = p.fontMetrics().horizontalAdvance(text) + 10.0
        for top, ends in zip(lanes, taken, strict=True):
            if not ends or at - room / 2 > ends[-1]:
                ends.append(at + room / 2)
                p.drawText(QRectF(at - room / 2, top, room, 20), MIDDLE, text)
                break
    _foot(p, area, f"{kind.label}, {kind.unit}, of the same combinations".replace(", ,", ","))


def _panels(p: QPainter, area: QRectF, shown: Shown) -> None:
    """The panels that it concerns, its cells taped off; beside a pad that pad, worn."""
    pad = shown.said.doubt.kind == PAD
    count = min(len(shown.panels), MOST_PANELS)
    room = area.width() - (170 if pad and area.width() > 420 else 0)
    each = room / count
    for i, picture in enumerate(shown.panels[:count]):
        box = QRectF(area.left() + i * each, area.top(), each - 18, area.height() - TOP)
        quiet = tuple(
            replace(f, quiet=True, combination=None, text="", ticks=0, wanted=0)
            for f in picture.faces
        )
        bare = replace(picture, faces=quiet)
        draw_panel(p, box, bare)
        panel = panel_rect(box, bare)
        for face, full in zip(bare.faces, picture.faces, strict=True):
            if face.cell_id not in shown.cells:
                continue
            place = face_rect(panel, bare, face)
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(look.edge, 3))
            p.drawRect(place.adjusted(1, 1, -1, -1))
            if full.combination is not None and place.height() > 14:
                p.setPen(look.on_panel)
                p.setFont(
                    look.figures(max(11, min(18, int(place.height() * 0.5))), bold=True, exact=True)
                )
                p.drawText(place, MIDDLE, full.combination.code)
        p.setPen(look.quiet)
        p.setFont(look.words(SMALL))
        row = QRectF(panel.left(), panel.bottom() + 2, each, TOP - 2)
        more = len(shown.panels) - count
        name = f"{picture.name}, {picture.hardness}"
        fitted(p, row, f"{name} and {more} more" if more and i == count - 1 else name)
    if room < area.width():
        box = QRectF(area.left() + room + 10, area.top() + 6, 150, area.height() - TOP - 12)
        _worn_pad(p, box)
        p.setPen(look.quiet)
        p.setFont(look.words(SMALL))
        p.drawText(QRectF(box.left(), box.bottom() + 6, 150, TOP), MIDDLE, "as with a worn pad")


def _worn_pad(p: QPainter, box: QRectF) -> None:
    """A pad in section whose face has gone flat: what is left of its fibres stands in rows."""
    high = min(box.height(), 84.0)
    top = box.center().y() - high / 2
    plate = QRectF(box.left() + 12, top, box.width() - 24, 0.16 * high)
    p.fillRect(plate, look.quiet)
    body = [
        QPointF(plate.left(), plate.bottom()),
        QPointF(plate.right(), plate.bottom()),
        QPointF(box.right(), top + 0.72 * high),
        QPointF(box.right() - 8, top + high),
        QPointF(box.left() + 8, top + high),
        QPointF(box.left(), top + 0.72 * high),
    ]
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(look.ink, 1.8))
    p.drawPolygon(QPolygonF(body))
    p.setPen(QPen(look.ink, 1.1))
    for i in range(22):
        x = box.left() + 14 + i * (box.width() - 28) / 21
        long = 0.2 if i in (0, 21) else 0.08 + 0.02 * (i % 3)
        p.drawLine(QPointF(x, top + high), QPointF(x, top + (1.0 - long) * high))


def _foot(p: QPainter, area: QRectF, words: str) -> None:
    p.setPen(look.quiet)
    p.setFont(look.words(SMALL))
    fitted(p, QRectF(area.left(), area.bottom() - TOP + 4, area.width(), TOP - 4), words)
