"""Where the parts of a stage and its figures stand in the stage's drawing."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QRect, QRectF, QSize, Qt
from PyQt6.QtWidgets import QLayoutItem, QWidget

from loam.ui.theme import look
from loam.ui.widgets.listed import Listed
from loam.ui.widgets.things import COMPOUND, DISC, GRIT, MACHINE, PAD, pad_size

TOP_LEFT, TOP_RIGHT = ("force_n",), ("dial", "speed")
SIDE_FOOT = ("wipes", "pad_mm", "orbit_mm")
SECTION_TOP, SECTION_FOOT = ("arm_mm_s", "overlap"), ("passes", "burst_s")
"""Figures by where they stand: over the arrow, over the dial; under grains, pad and swing; over the
section and under it."""
_PLACED = frozenset((*TOP_LEFT, *TOP_RIGHT, *SIDE_FOOT, *SECTION_TOP, *SECTION_FOOT))
_MEANWHILE = {"tilt_deg": "orbit_mm", "pad": "burst_s"}
"""What stands in the place of another: never both are there."""


@dataclass(frozen=True)
class Parts:
    """The places in the drawing, px: of the things, of what is drawn, of the figures.

    Attributes
    ----------
    things : dict of str to QRectF
        Pad, disc, compound, grit and machine.
    drawn : dict of str to QRectF
        By figure, what of the drawing is that figure's.
    figures : dict of str to QRectF
        Where each figure is typed.
    pad_px : float
        How wide the pad is drawn.
    """

    things: dict[str, QRectF]
    drawn: dict[str, QRectF]
    figures: dict[str, QRectF]
    pad_px: float


class StageLayout(Listed):
    """The figures of a stage, each beside what it is of; names are those of `Stage`."""

    def __init__(self) -> None:
        super().__init__()
        self.names: list[str] = []
        self.section_mm = (375.0, 375.0)
        self.pad_mm: float | None = None
        self.sands = False

    def add(self, name: str, widget: QWidget) -> None:
        """Take the widget in which a figure is typed."""
        self.names.append(name)
        self.addWidget(widget)

    def takeAt(self, index: int) -> QLayoutItem | None:
        taken = super().takeAt(index)
        if taken is not None:
            self.names.pop(index)
        return taken

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation.Horizontal | Qt.Orientation.Vertical

    def sizeHint(self) -> QSize:
        return self.minimumSize().expandedTo(QSize(look.px(540), look.px(340)))

    def minimumSize(self) -> QSize:
        wants = self._wants()
        wide = _side_wide(wants) + _row_wide(wants, SECTION_TOP, SECTION_FOOT) + 2 * _gap()
        high = _top(wants) + _foot(wants) + self._below(wants, wide)[1]
        return QSize(wide, high + look.px(126))  # between: dial and pad

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        places = self.parts(rect.width(), rect.height()).figures
        for name, item in zip(self.names, self._items, strict=True):
            item.setGeometry(places[name].toRect())

    def _wants(self) -> dict[str, QSize]:
        """Return the size that each figure wants; of those that share a place, the larger."""
        found = {name: item.sizeHint() for name, item in zip(self.names, self._items, strict=True)}
        for name, other in _MEANWHILE.items():
            if name in found and other in found:
                found[other] = found[other].expandedTo(found[name])
                found[name] = found[other]
        return found

    def _below(
        self, wants: Mapping[str, QSize], width: float
    ) -> tuple[dict[str, tuple[float, float]], int]:
        """Put figures that the drawing has no place for in lines below; also how high those are."""
        others = [n for n in self.names if n not in _PLACED and n not in _MEANWHILE]
        found: dict[str, tuple[float, float]] = {}
        x, y, line = 0, 0, 0
        for name in others:
            size = wants[name]
            if x and x + size.width() > width:
                x, y, line = 0, y + line, 0
            found[name] = (float(x), float(y))
            x += size.width() + _gap()
            line = max(line, size.height())
        return found, y + line

    def parts(self, width: float, height: float) -> Parts:
        """Return where everything stands in a drawing of that size, px."""
        wants = self._wants()
        gap = _gap()
        below, high = self._below(wants, width)
        height -= high
        right = max(0.38 * width, _row_wide(wants, SECTION_TOP, SECTION_FOOT))
        side = max(width - right - 2 * gap, _side_wide(wants))
        top, foot = _top(wants), height - _foot(wants)
        things, pad_px, film = self._things(wants, side, top, foot)
        pad = things[PAD]
        figures = _in_row(wants, TOP_RIGHT, side - _row_wide(wants, TOP_RIGHT), 0)
        figures |= _in_row(wants, SECTION_TOP, width - right, 0, right)
        figures |= _in_row(wants, SECTION_FOOT, width - right, foot, right)
        figures |= _in_row(wants, SIDE_FOOT, 0, foot, side)
        middle = pad.center().x() - wants["pad_mm"].width() / 2
        least = figures["wipes"].right() + gap
        most = figures["orbit_mm"].left() - gap - wants["pad_mm"].width()
        figures["pad_mm"].moveLeft(max(min(middle, most), least))
        for name, other in _MEANWHILE.items():
            figures[name] = figures[other]
        for name, (x, y) in below.items():
            size = wants[name]
            figures[name] = QRectF(x, height + y, size.width(), size.height())
        reach = look.px(34)  # of the swing, over the film
        first, free = top + look.px(5), side - pad.right() - gap / 2
        across = max(min(free, film - reach - first, look.px(104)), 10)
        dial = QRectF(pad.right() + gap / 2 + (free - across) / 2, first, across, across)
        swings = QRectF(pad.right() + gap / 2, film - reach, free, reach)
        area = self._section(QRectF(width - right, top + 4, right, foot - top - 26))
        arrow = QRectF(pad.left() - 30, wants["force_n"].height() + 6, 30, 0)
        free = figures["dial"].left() - gap - wants["force_n"].width()
        over = min(arrow.center().x() - look.px(31), free)  # its line over the arrow
        figures |= _in_row(wants, TOP_LEFT, max(over, 0), 0)
        arrow.setBottom(film - _pad_high(pad_px, pad) - 8)
        drawn = {
            "force_n": arrow,
            "dial": dial,
            "pad_mm": QRectF(pad.left(), film, pad.width(), 16),
            "orbit_mm": swings,
            "tilt_deg": swings,
            "overlap": QRectF(area.left(), area.top(), area.width() / 2, area.height()),
            "arm_mm_s": QRectF(area.center().x(), area.top(), area.width() / 2, area.height()),
            "passes": QRectF(area.left(), area.bottom() + 2, area.width(), 20),
            "film": QRectF(0, film, side, 5),
            "section": area,
        }
        return Parts(things, drawn, figures, pad_px)

    def _things(
        self, wants: Mapping[str, QSize], side: float, top: float, foot: float
    ) -> tuple[dict[str, QRectF], float, float]:
        """Place machine, pad and grains; also how wide the pad is drawn, and the film's height."""
        gap = _gap()
        left = max(wants["wipes"].width(), 0.26 * side)
        right = max(wants["orbit_mm"].width(), 0.25 * side)
        middle = max(side - left - right - gap, look.px(64))
        high = min(max(0.46 * (foot - top), look.px(72)), look.px(128))
        pad = QRectF(left + gap / 2, foot - high, middle, high)
        grains = QRectF(0, pad.top(), left - gap, high)
        motion = QRectF(pad.left(), top, middle, max(pad.top() - top - 2, 30))
        caption = look.px(22)
        pad_px, tall = pad_size(middle - 8, high - caption - 4, self.pad_mm)
        film = pad.top() + 2 + (high - caption - 4) / 2 + tall / 2 + (8 if self.sands else 1)
        places = {PAD: pad, DISC: pad, MACHINE: motion, COMPOUND: grains, GRIT: grains}
        return places, pad_px, film

    def _section(self, room: QRectF) -> QRectF:
        """Return the section to scale, in the middle of its room."""
        wide, high = self.section_mm
        scale = max(min(room.width() / wide, room.height() / high), 0.01)
        size = (wide * scale, high * scale)
        return QRectF(room.center().x() - size[0] / 2, room.top(), *size)


def _gap() -> int:
    return min(look.px(10), 12)  # large text needs the room itself


def _pad_high(pad_px: float, pad: QRectF) -> float:
    return min((pad.height() - look.px(22) - 4) * 0.62, pad_px * 0.42)


def _row_wide(wants: Mapping[str, QSize], *rows: Sequence[str]) -> int:
    """Return how wide the widest of some rows is; of what shares a place, one counts."""
    wide = 0
    for row in rows:
        own = [wants[n].width() for n in row if n not in _MEANWHILE]
        wide = max(wide, sum(own) + _gap() * (len(own) - 1))
    return wide


def _row_high(wants: Mapping[str, QSize], *rows: Sequence[str]) -> int:
    return max(wants[n].height() for row in rows for n in row)


def _top(wants: Mapping[str, QSize]) -> int:
    return _row_high(wants, TOP_LEFT, TOP_RIGHT, SECTION_TOP)


def _foot(wants: Mapping[str, QSize]) -> int:
    return _row_high(wants, SIDE_FOOT, SECTION_FOOT)


def _side_wide(wants: Mapping[str, QSize]) -> int:
    """Return the least width of the side view: that of its figures."""
    upper = _row_wide(wants, TOP_LEFT) + _row_wide(wants, TOP_RIGHT) + _gap()
    return max(upper, _row_wide(wants, SIDE_FOOT))


def _in_row(
    wants: Mapping[str, QSize], names: Sequence[str], x: float, y: float, wide: float = 0.0
) -> dict[str, QRectF]:
    """Put figures side by side from the left; over a width, the last at its right end."""
    found = {}
    at = x
    for name in names:
        size = wants[name]
        found[name] = QRectF(at, y, size.width(), size.height())
        at += size.width() + _gap()
    if wide and len(names) > 1:
        last = found[names[-1]]
        last.moveLeft(max(last.left(), x + wide - last.width()))
    return found
