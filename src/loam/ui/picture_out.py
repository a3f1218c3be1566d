"""A view's picture on paper or in a file: the same drawing as on the screen, by daylight."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path

from PyQt6.QtCore import QMarginsF, QRectF, QSize, QSizeF, Qt
from PyQt6.QtGui import QImage, QPageLayout, QPageSize, QPainter, QPdfWriter

from loam.core.errors import LoamError
from loam.store.safe_files import written_whole
from loam.ui.theme import BENCH, PAPER, look
from loam.ui.theme.look import BODY, SMALL, TITLE
from loam.ui.theme.tokens import Tokens

ENDINGS = (".pdf", ".svg", ".png")
_SHARP = 2
_EDGE = 24.0
A4_WIDTH, A4_HEIGHT = 210.0 / 25.4 * 96.0 - 2 * _EDGE, 297.0 / 25.4 * 96.0 - 2 * _EDGE
"""Room on a sheet of A4, in the pixels of the screen; a picture with more sheets is on such."""


@dataclass(frozen=True)
class Picture:
    """What a view draws.

    Attributes
    ----------
    name : str
        For the file.
    title, words : str
        What stands above it.
    width, height : float
        Its size, in the pixels of the screen.
    draw : callable
        ``draw(painter, area)``.
    sheets : tuple of Picture
        Further sheets, each A4 with its heading like the first.
    single : Picture or None
        What goes into a file that has no sheets (PNG, SVG), where that is another picture.
    foot : str
        What stands at the foot of every sheet, before its number.
    """

    name: str
    title: str
    words: str
    width: float
    height: float
    draw: Callable[[QPainter, QRectF], object]
    sheets: tuple[Picture, ...] = ()
    single: Picture | None = None
    foot: str = ""

    def pages(self) -> list[Picture]:
        """Return all sheets, this one first, each with its number at the foot."""
        found = [self, *self.sheets]
        if not self.sheets:
            return found
        at = f"{self.foot} · " if self.foot else ""
        return [
            replace(page, foot=f"{at}sheet {i} of {len(found)}") for i, page in enumerate(found, 1)
        ]


@contextmanager
def on_paper(colours: Tokens = PAPER) -> Iterator[None]:
    """Draw in other colours for a while: panels of paper are light and spare ink."""
    tokens = look.tokens
    look.tokens = colours
    try:
        yield
    finally:
        look.tokens = tokens


def _heads(picture: Picture) -> tuple[float, float]:
    """Return how high the title and the words below it are."""
    title = look.px(TITLE) * 1.5 if picture.title else 0.0
    lines = -(-len(picture.words) * look.px(BODY) * 0.55 // max(picture.width, 1.0))
    return title, (lines * look.px(BODY) * 1.5 + 8 if picture.words else 0.0)


def _size(picture: Picture) -> QSizeF:
    title, words = _heads(picture)
    if picture.width == A4_WIDTH and picture.height == A4_HEIGHT:  # the heading is on the sheet
        return QSizeF(A4_WIDTH + 2 * _EDGE, A4_HEIGHT + 2 * _EDGE)
    return QSizeF(picture.width + 2 * _EDGE, picture.height + title + words + 2 * _EDGE)


def _draw(picture: Picture, painter: QPainter) -> None:
    title, words = _heads(picture)
    wrap = int(Qt.TextFlag.TextWordWrap) | int(Qt.AlignmentFlag.AlignLeft)
    with on_paper(BENCH):
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(look.ink)
        painter.setFont(look.words(TITLE, bold=True))
        painter.drawText(QRectF(_EDGE, _EDGE, picture.width, title), wrap, picture.title)
        painter.setFont(look.words(BODY))
        below = QRectF(_EDGE, _EDGE + title, picture.width, words)
        painter.drawText(below, wrap, picture.words)
        top = _EDGE + title + words
        picture.draw(painter, QRectF(_EDGE, top, picture.width, picture.height))
        if picture.foot:
            painter.setPen(look.quiet)
            painter.setFont(look.words(SMALL))
            foot = QRectF(_EDGE, A4_HEIGHT + _EDGE, A4_WIDTH, _EDGE - 4)
            said = painter.fontMetrics().elidedText(
                picture.foot, Qt.TextElideMode.ElideMiddle, int(foot.width())
            )
            painter.drawText(foot, Qt.AlignmentFlag.AlignRight, said)


def save_picture(picture: Picture, path: Path) -> None:
    """Write a picture as its ending says: PDF, SVG or PNG.

    Raises
    ------
    LoamError
        For another ending, or when the place or the disk refuses; nothing is left then.
    """
    write = {".png": _png, ".svg": _svg, ".pdf": _pdf}.get(path.suffix.lower())
    if write is None:
        raise LoamError(
            f"A picture is not written as {path.suffix or 'a file without an ending'}.",
            where=str(path),
            todo="Let the name end in " + ", ".join(ENDINGS) + ".",
        )
    with written_whole(path, "Everything is safe in the workshop.") as beside:
        drawn = picture if write is _pdf else picture.single or picture
        if not write(drawn, str(beside)) or not beside.stat().st_size:
            raise OSError(0, "the picture could not be drawn there")


def as_image(picture: Picture, sharp: float = _SHARP) -> QImage:
    """Return a picture by daylight, by default twice as sharp as the screen."""
    size = _size(picture)
    image = QImage(
        QSize(int(size.width() * sharp), int(size.height() * sharp)), QImage.Format.Format_RGB32
    )
    image.fill(Qt.GlobalColor.white)
    painter = QPainter(image)
    painter.scale(sharp, sharp)
    _draw(picture, painter)
    painter.end()
    return image


def _png(picture: Picture, place: str) -> bool:
    return as_image(picture).save(place, "PNG")


def _svg(picture: Picture, place: str) -> bool:
    from PyQt6.QtSvg import QSvgGenerator

    generator = QSvgGenerator()
    generator.setFileName(place)
    size = _size(picture)
    generator.setSize(size.toSize())
    generator.setViewBox(QRectF(0, 0, size.width(), size.height()))
    generator.setTitle(picture.title)
    painter = QPainter()
    if not painter.begin(generator):
        return False
    _draw(picture, painter)
    return painter.end()


def _pdf(picture: Picture, place: str) -> bool:
    writer = QPdfWriter(place)
    writer.setResolution(96)
    writer.setTitle(picture.title)
    size = _size(picture)
    page = QPageSize(size * (72 / 96), QPageSize.Unit.Point, "picture")
    writer.setPageSize(page)
    writer.setPageMargins(QMarginsF(0, 0, 0, 0))
    painter = QPainter()
    if not painter.begin(writer):
        return False
    for i, page_drawn in enumerate(picture.pages()):
        if i:
            writer.newPage()
        _draw(page_drawn, painter)
    return painter.end()


def printers() -> list[str]:
    """Return the printers that this system knows, the usual one first."""
    from PyQt6.QtPrintSupport import QPrinterInfo

    usual = QPrinterInfo.defaultPrinterName()
    names = [str(name) for name in QPrinterInfo.availablePrinterNames()]
    return sorted(names, key=lambda name: (name != usual, name))


def print_picture(picture: Picture, name: str) -> None:
    """Print a picture, as large as the paper has room for.

    Raises
    ------
    LoamError
        When the printer does not take it.
    """
    from PyQt6.QtPrintSupport import QPrinter, QPrinterInfo

    info = QPrinterInfo.printerInfo(name)
    printer = QPrinter(info) if not info.isNull() else QPrinter()
    wide = picture.width > picture.height
    printer.setPageOrientation(
        QPageLayout.Orientation.Landscape if wide else QPageLayout.Orientation.Portrait
    )
    painter = QPainter()
    if info.isNull() or not painter.begin(printer):
        raise LoamError(
            f"The printer {name} does not take it.",
            todo="See whether it is on, or write the picture to a .pdf.",
        )
    for i, page in enumerate(picture.pages()):
        if i:
            printer.newPage()
        size, paper = _size(page), printer.pageRect(QPrinter.Unit.DevicePixel)
        scale = min(paper.width() / size.width(), paper.height() / size.height())
        if picture.sheets:  # true to size where the paper has room
            scale = min(scale, printer.resolution() / 96.0)
        painter.resetTransform()
        painter.scale(scale, scale)
        _draw(page, painter)
    painter.end()
