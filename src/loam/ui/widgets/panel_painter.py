"""The one drawing of a panel: taped cells to scale with whatever lies over them.

``draw_panel(painter, rect, picture)`` serves the screen, PNG, SVG and PDF alike.
"""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QBrush, QFontMetricsF, QImage, QPainter, QPainterPath, QPen, QPolygonF

from loam.app.drawings import Rect
from loam.app.drawings.panel import face_box, fitting_code, panel_box, tape_pieces
from loam.app.presenters.picture import CellFace, PanelPicture
from loam.core.inspection import GRID_SIDE
from loam.core.words.dose import ROOM_MM
from loam.ui.theme import look
from loam.ui.widgets.mark import ROW_ASPECT, mark_size, paint_mark
from loam.ui.widgets.tape import paint_tape

LEAST_MARK = 5.0
ROOMY_MARK = 12.0
"""A mark at least so high a row goes below the even ground; a smaller one beside it."""
SMALL_CELL = 44.0
"""Height in pixels under which a cell shows one code only."""


def _qt(box: Rect) -> QRectF:
    return QRectF(box.x, box.y, box.width, box.height)


def _box(area: QRectF) -> Rect:
    return Rect(area.x(), area.y(), area.width(), area.height())


def panel_rect(area: QRectF, picture: PanelPicture) -> QRectF:
    """Return where the panel lies."""
    return _qt(panel_box(_box(area), picture))


def face_rect(panel: QRectF, picture: PanelPicture, face: CellFace) -> QRectF:
    """Return where a cell lies."""
    return _qt(face_box(_box(panel), picture, face))


def draw_panel(
    painter: QPainter,
    area: QRectF,
    picture: PanelPicture,
    chosen: int | None = None,
    *,
    focus: bool = False,
    aperture: bool = False,
    photo: QImage | None = None,
) -> QRectF:
    """Draw a panel and return where it lies.

    Parameters
    ----------
    chosen : int, optional
        Cell that is looked at.
    focus : bool
        Whether the keyboard is here.
    aperture : bool
        Draw the meter's place in the chosen cell.
    photo : QImage, optional
        Laid under tape and cells, from edge to edge.
    """
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    panel = panel_rect(area, picture)
    scale = panel.width() / picture.taping.width_mm
    _draw_ground(painter, panel, picture, scale, photo)
    for face in picture.faces:
        rect = face_rect(panel, picture, face)
        painter.setOpacity(0.5 if photo is not None else 1.0)
        painter.fillRect(rect, look.panel_cell)
        painter.setOpacity(1.0)
        if face.zone_mm is not None:
            painter.save()
            mark = _mark_box(rect, face, _zone_px(face, scale))
            if mark is not None:  # nothing lies over a mark, nor under it
                free = QPainterPath()
                free.addRect(panel)
                kept = QPainterPath()
                kept.addRect(mark.adjusted(-4, -4, 4, 4))
                painter.setClipPath(free.subtracted(kept), Qt.ClipOperation.IntersectClip)
            _draw_zone(painter, rect, face.zone_mm, scale, ring=face.combination is not None)
            painter.restore()
    _draw_walk(painter, panel, picture)
    for face in picture.faces:
        _draw_face(painter, face_rect(panel, picture, face), face, _zone_px(face, scale))
    _draw_spots(painter, panel, picture, scale)
    own = picture.face(chosen)
    if own is not None:
        rect = face_rect(panel, picture, own)
        if aperture:
            _draw_meter(painter, rect, own, scale)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(look.on_panel, 4 if focus else 2.5))
        painter.drawRect(rect.adjusted(-2, -2, 2, 2))
    painter.restore()
    return panel


def _draw_walk(painter: QPainter, panel: QRectF, picture: PanelPicture) -> None:
    """Draw the way from cell to cell that is still to go."""
    faces = {f.cell_id: f for f in picture.faces}
    points = [face_rect(panel, picture, faces[c]).center() for c in picture.walk if c in faces]
    if len(points) < 2:
        return
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(look.quiet_on_panel, 1.6, Qt.PenStyle.DotLine))
    painter.drawPolyline(QPolygonF(points))


def _draw_meter(painter: QPainter, rect: QRectF, face: CellFace, scale: float) -> None:
    """Draw where the meter is put down, and (a tick at its edge) how it is turned."""
    painter.setPen(QPen(look.on_panel, 1.5))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    radius = min(rect.width(), rect.height()) * 0.2
    middle = rect.center()
    if face.spot is None:
        painter.drawEllipse(middle, radius, radius)
        return
    x, y, turn = face.spot
    radius = min(radius, 0.5 * ROOM_MM * scale)
    middle += QPointF(x * scale, y * scale)
    painter.drawEllipse(middle, radius, radius)
    painter.save()
    painter.translate(middle)
    painter.rotate(turn)
    painter.setPen(QPen(look.on_panel, 3))
    painter.drawLine(QPointF(0, -radius - 5), QPointF(0, -radius + 4))
    painter.restore()


def _draw_ground(
    painter: QPainter, panel: QRectF, picture: PanelPicture, scale: float, photo: QImage | None
) -> None:
    """Draw the panel itself: its edge, tape, creases, and what is kept free of cells."""
    t, outline = picture.taping, picture.outline

    def at(point: tuple[float, float]) -> QPointF:
        return QPointF(panel.left() + point[0] * scale, panel.top() + point[1] * scale)

    edge = QPainterPath()
    edge.addPolygon(QPolygonF([at(p) for p in outline.corners(t.width_mm, t.height_mm)]))
    edge.closeSubpath()
    painter.fillPath(edge, look.panel)
    if look.on_paper:
        painter.strokePath(edge, QPen(look.quiet_on_panel, 1.2))
    painter.save()
    painter.setClipPath(edge, Qt.ClipOperation.IntersectClip)
    if photo is not None:
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setOpacity(0.35 if look.lights_out else 0.8)
        painter.drawImage(panel, photo)
        painter.setOpacity(1.0)
    _draw_tape(painter, panel, picture, scale)
    painter.setPen(QPen(look.quiet_on_panel, 1.4, Qt.PenStyle.DashLine))
    for line in outline.creases(t.width_mm, t.height_mm):
        painter.drawPolyline(QPolygonF([at(p) for p in line]))
    for zone, pattern in (
        *((z, Qt.BrushStyle.NoBrush) for z in outline.recesses(t.width_mm, t.height_mm)),
        *((z, Qt.BrushStyle.BDiagPattern) for z in outline.keep_out),
    ):
        box = QRectF(
            at((zone.x_mm, zone.y_mm)),
            at((zone.x_mm + zone.width_mm, zone.y_mm + zone.height_mm)),
        )
        painter.setPen(QPen(look.quiet_on_panel, 1.4))
        painter.setBrush(QBrush(look.quiet_on_panel, pattern))
        painter.drawRect(box)
    painter.restore()


def _draw_zone(
    painter: QPainter, rect: QRectF, diameter_mm: float, scale: float, *, ring: bool = False
) -> None:
    """Draw the even ground in the middle of a cell; in care where a meter has no room there.

    As a ``ring`` where a mark stands in the cell: nothing lies over a mark.
    """
    radius = 0.5 * max(diameter_mm, ROOM_MM) * scale
    if radius < 4.0:
        return
    enough = diameter_mm >= ROOM_MM
    painter.setBrush(look.panel if enough and not ring else Qt.BrushStyle.NoBrush)
    plain = QPen(look.quiet_on_panel, 0.8, Qt.PenStyle.DotLine) if ring else Qt.PenStyle.NoPen
    painter.setPen(plain if enough else QPen(look.edge, 1.4, Qt.PenStyle.DashDotLine))
    painter.drawEllipse(rect.center(), radius, radius)
    if not enough:
        across = QPointF(radius * 0.7, radius * 0.7)
        painter.drawLine(rect.center() - across, rect.center() + across)


def _draw_spots(painter: QPainter, panel: QRectF, picture: PanelPicture, scale: float) -> None:
    """Draw where the film was read, and (a ring) where it is read next."""
    names = [
        QRectF(rect.left(), rect.top(), 0.34 * rect.width(), 0.24 * rect.height())
        for rect in (face_rect(panel, picture, f) for f in picture.faces)
    ]
    painter.setFont(look.figures(13))
    for spot in picture.spots:
        at = QPointF(panel.left() + spot.x_mm * scale, panel.top() + spot.y_mm * scale)
        width = painter.fontMetrics().horizontalAdvance(spot.text) + 10.0
        box = QRectF(at.x() - width / 2, at.y() - 11, width, 22)
        name = next((n for n in names if n.intersects(box)), None)
        if name is not None:  # a tag never covers a cell's name
            painter.setPen(QPen(look.edge, 1))
            painter.drawEllipse(at, 2.5, 2.5)
            box.moveLeft(max(name.right() + 2, box.left()))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(look.care if spot.odd else look.tape)
        painter.drawRect(box)
        painter.setPen(look.sheet if spot.odd else look.on_tape)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, spot.text)
        if spot.low:
            painter.drawLine(box.bottomLeft() + QPointF(3, -3), box.bottomRight() + QPointF(-3, -3))
    if picture.next_spot is not None:
        x, y = picture.next_spot
        at = QPointF(panel.left() + x * scale, panel.top() + y * scale)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(look.on_panel, 2))
        painter.drawEllipse(at, 15, 15)
        painter.drawEllipse(at, 2, 2)


def _draw_tape(painter: QPainter, panel: QRectF, picture: PanelPicture, scale: float) -> None:
    """Lay tape in the gaps between cells; it ends in the margin, as on a bench."""
    t = picture.taping
    gap = t.gap_mm * scale
    if gap < 2:
        return
    reach = min(t.margin_mm * scale * 0.6, 14.0) / scale
    painter.save()
    painter.setOpacity(0.55 if not look.lights_out else 1.0)
    for seed, (strip, down) in enumerate(tape_pieces(picture, reach), 1):
        area = QRectF(
            panel.left() + strip.x * scale,
            panel.top() + strip.y * scale,
            strip.width * scale,
            strip.height * scale,
        )
        paint_tape(painter, area, seed=seed, torn="bottom" if down else "right", depth=3)
    painter.restore()


def _draw_nail(painter: QPainter, rect: QRectF, squares: tuple[int, ...]) -> None:
    """Draw a scratch that catches the nail, over its squares or across a corner."""
    rows, columns = (
        [i // GRID_SIDE for i in squares or (7,)],
        [i % GRID_SIDE for i in squares or (7,)],
    )
    each = QPointF(rect.width() / GRID_SIDE, rect.height() / GRID_SIDE)
    box = QRectF(
        rect.left() + min(columns) * each.x(),
        rect.top() + min(rows) * each.y(),
        (max(columns) + 1 - min(columns)) * each.x(),
        (max(rows) + 1 - min(rows)) * each.y(),
    )
    path = [(0.1, 0.05), (0.35, 0.4), (0.3, 0.5), (0.9, 0.95)]
    painter.setPen(QPen(look.edge, 2.2))
    painter.drawPolyline(
        QPolygonF([box.topLeft() + QPointF(x * box.width(), y * box.height()) for x, y in path])
    )


def _inner(rect: QRectF) -> tuple[int, QRectF]:
    """Return the size of a cell's words, px, and where in it they stand."""
    pad = max(4.0, rect.width() * 0.055)
    size = max(9, min(20, int(rect.height() * 0.19), int(rect.width() * 0.2)))
    return size, rect.adjusted(pad, pad * 0.8, -pad, -pad * 0.8)


def _zone_px(face: CellFace, scale: float) -> float:
    """Return the radius of a cell's even ground as it is drawn, px; 0 where none is."""
    if face.zone_mm is None:
        return 0.0
    return 0.5 * max(face.zone_mm, ROOM_MM) * scale


def _mark_row(
    inner: QRectF, face: CellFace, size: int, zone: float
) -> tuple[QPointF, float] | None:
    """Return where the mark of a cell's combination stands, and its row, px; None for none.

    Below the even ground, of a radius ``zone``, where there is room for it.
    """
    if face.combination is None:
        return None
    stages = max(len(face.combination.stages), 1)
    told = 0.62 * size * len(face.text)
    low = inner.center().y() + zone + 5.0
    row = min(
        (inner.width() - told - 6.0) / ROW_ASPECT, (inner.bottom() - low) / (stages * 1.18), 26.0
    )
    if zone > 0.0 and row >= ROOMY_MARK and not face.pinned:
        _, height = mark_size(face.combination, row)
        return QPointF(inner.left(), inner.bottom() - height), row
    font = look.figures(int(size * 1.45), bold=True, exact=True)
    head = QFontMetricsF(font).height()
    room = QRectF(inner.left(), inner.top() + head, inner.width(), inner.height() - head)
    if face.text:
        room.setHeight(room.height() - size)
    row = min(room.width() / ROW_ASPECT, room.height() / (stages * 1.18), 26.0)
    if row < LEAST_MARK:
        return None
    _, height = mark_size(face.combination, row)
    return QPointF(room.left(), room.top() + max(0.0, (room.height() - height) / 2)), row


def _mark_box(rect: QRectF, face: CellFace, zone: float) -> QRectF | None:
    """Return what a cell's mark covers; None where it has none."""
    if face.combination is None or rect.height() < SMALL_CELL:
        return None
    size, inner = _inner(rect)
    found = _mark_row(inner, face, size, zone)
    if found is None:
        return None
    return QRectF(found[0], QSizeF(*mark_size(face.combination, found[1])))


def _draw_face(painter: QPainter, rect: QRectF, face: CellFace, zone: float = 0.0) -> None:
    if face.nail is not None:
        _draw_nail(painter, rect, face.nail)
    if face.pinned:
        _draw_pin(painter, rect)
    if rect.height() < SMALL_CELL:
        _draw_small(painter, rect, face)
        return
    size, inner = _inner(rect)
    ink = look.quiet_on_panel if face.quiet else look.on_panel
    painter.setPen(look.quiet_on_panel if face.combination or face.quiet else look.on_panel)
    painter.setFont(look.figures(max(9, int(size * 0.8)), bold=True, exact=True))
    top = Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft
    painter.drawText(inner, top, face.code)
    if face.combination is not None:
        _draw_combination(painter, inner, face, size, zone)
    if face.wanted:
        _draw_ticks(painter, inner, face, size)
    if face.text:
        painter.setPen(ink)
        small = size if face.combination is None else max(9, int(size * 0.8))
        painter.setFont(look.figures(small, exact=True))
        low = Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignRight
        painter.drawText(inner, low, face.text)
    if face.share is not None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ink)
        height = max(3.0, rect.height() * 0.035)
        painter.drawRect(
            QRectF(rect.left(), rect.bottom() - height, rect.width() * face.share, height)
        )


def _draw_pin(painter: QPainter, rect: QRectF) -> None:
    """Lay a corner of tape over the cell's lower left: what it has, it keeps."""
    side = max(5.0, min(rect.width(), rect.height()) * 0.26)
    corner = rect.bottomLeft()
    painter.setPen(QPen(look.edge, 1) if look.lights_out else Qt.PenStyle.NoPen)
    painter.setBrush(look.tape)
    painter.drawPolygon(QPolygonF([corner, corner + QPointF(side, 0), corner + QPointF(0, -side)]))


def _draw_small(painter: QPainter, rect: QRectF, face: CellFace) -> None:
    """Draw only what fits a thumbnail: the combination's code, or that readings are in."""
    if rect.height() < 9 or rect.width() < 9:
        if face.combination is not None:
            painter.fillRect(rect.adjusted(1, 1, -1, -1), look.quiet_on_panel)
        return
    painter.setPen(look.quiet_on_panel if face.quiet else look.on_panel)
    painter.setFont(look.figures(max(8, int(rect.height() * 0.5)), bold=True, exact=True))
    code = face.combination.code if face.combination else ""
    painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, short_code(painter, code, rect.width()))


def short_code(painter: QPainter, code: str, width: float) -> str:
    """Shorten a code to a width; in the figures' face all letters are about as wide."""
    if painter.fontMetrics().horizontalAdvance(code) <= width:
        return code
    each = max(painter.fontMetrics().averageCharWidth() * 1.15, 1.0)
    letters = int(width / each)
    while letters > 0:
        short = fitting_code(code, letters)
        if painter.fontMetrics().horizontalAdvance(short) <= width:
            return short
        letters -= 1
    return ""


def _draw_combination(
    painter: QPainter, inner: QRectF, face: CellFace, size: int, zone: float
) -> None:
    combination = face.combination
    assert combination is not None
    painter.setPen(look.quiet_on_panel if face.quiet else look.on_panel)
    font = look.figures(int(size * 1.45), bold=True, exact=True)
    painter.setFont(font)
    right = Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignRight
    wide = inner.width() - size * 1.9
    if painter.fontMetrics().horizontalAdvance(combination.code) > wide:
        painter.setFont(look.figures(max(9, int(size * 0.9)), bold=True, exact=True))
    painter.drawText(inner, right, short_code(painter, combination.code, wide))
    found = _mark_row(inner, face, size, zone)
    if found is not None:
        ink = look.quiet_on_panel if face.quiet else look.on_panel
        paint_mark(painter, found[0], combination, found[1], ink)


def _draw_ticks(painter: QPainter, inner: QRectF, face: CellFace, size: int) -> None:
    """Draw one tick a reading taken, hollow ones for those still wanted."""
    count = max(face.wanted, face.ticks)
    step = min(8.0, inner.width() / max(count, 1))
    width, height = step * 0.55, size * 0.5
    y = inner.top() + size * 1.25
    for i in range(count):
        box = QRectF(inner.left() + i * step, y, width, height)
        if i < face.ticks:
            painter.fillRect(box, look.quiet_on_panel)
        else:
            painter.fillRect(
                QRectF(box.left(), box.bottom() - 1.5, width, 1.5), look.quiet_on_panel
            )
