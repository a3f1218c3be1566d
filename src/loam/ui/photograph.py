"""Photographs from a file or the clipboard, made small enough to be kept with a panel."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path

from PyQt6.QtCore import QBuffer, QIODevice, QMimeData, QSize, Qt
from PyQt6.QtGui import QImage

from loam.core.errors import LoamError, ValueRefused

LONGEST = 1600
SUFFIXES = (".jpg", ".jpeg", ".png", ".webp", ".bmp")


def picture_path(data: QMimeData | None) -> Path | None:
    """Return the picture file that was dropped or copied, None when there is none."""
    if data is None:
        return None
    paths = [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]
    text = data.text().strip() if data.hasText() else ""
    if not paths and text and len(text) < 4000 and text.isprintable():
        with suppress(RuntimeError):  # ~nobody
            paths = [Path(text).expanduser()]
    return next((p for p in paths if p.suffix.lower() in SUFFIXES), None)


def read_picture(path: Path) -> bytes:
    """Read a JPEG or PNG file as a JPEG of at most 1600 pixels a side, upright as it was taken.

    Raises
    ------
    LoamError
        When it cannot be read as a picture.
    """
    from loam.store.picture_file import read_small

    try:
        return read_small(path, LONGEST)
    except ValueRefused as error:
        raise LoamError(
            error.what, where=error.where, todo=error.todo, kept="The panel is as it was."
        ) from error


def jpeg(image: QImage, path: Path = Path("the clipboard")) -> bytes:
    """Return a picture as a JPEG of at most 1600 pixels a side."""
    if image.isNull():
        raise _no_picture(path)
    if max(image.width(), image.height()) > LONGEST:
        image = image.scaled(
            _fitting(image.size()),
            Qt.AspectRatioMode.KeepAspectRatio,
            Qt.TransformationMode.SmoothTransformation,
        )
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    if not image.convertToFormat(QImage.Format.Format_RGB888).save(buffer, "JPEG", 85):
        raise _no_picture(path)
    return bytes(buffer.data().data())


def _fitting(size: QSize) -> QSize:
    return size.scaled(LONGEST, LONGEST, Qt.AspectRatioMode.KeepAspectRatio)


def _no_picture(path: Path) -> LoamError:
    return LoamError(
        "This cannot be read as a picture.",
        where=path.name,
        todo="Take a JPEG or PNG of ordinary size.",
        kept="The panel is as it was.",
    )
