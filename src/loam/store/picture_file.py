"""Photographs from files: JPEG and PNG, turned as the camera says, as one plane of sRGB values."""

from __future__ import annotations

import struct
import warnings
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from io import BytesIO
from pathlib import Path

import numpy as np
import numpy.typing as npt
from PIL import Image, UnidentifiedImageError

from loam.core.errors import ValueRefused
from loam.core.photo.frame import CLIPPED, linear
from loam.core.stats.reduce import FloatArray
from loam.store.safe_files import open_regular

Table = npt.NDArray[np.float32]
MOST_PIXELS, LONGEST_SIDE = 50_000_000, 20_000
"""What is read at most: a file of a few bytes may hold any number of pixels."""
_LIMITS = (
    f"At most {MOST_PIXELS // 1_000_000} megapixels and {LONGEST_SIDE} px a side are read: make it"
    " smaller, both of a pair alike."
)
LUMA = (0.2126, 0.7152, 0.0722)
_FORMATS = ("JPEG", "PNG")
_ORIENTATION = 0x0112
_TURNS = {
    2: Image.Transpose.FLIP_LEFT_RIGHT,
    3: Image.Transpose.ROTATE_180,
    4: Image.Transpose.FLIP_TOP_BOTTOM,
    5: Image.Transpose.TRANSPOSE,
    6: Image.Transpose.ROTATE_270,
    7: Image.Transpose.TRANSVERSE,
    8: Image.Transpose.ROTATE_90,
}
_ROWS, _FINE = 256, 65_535
_BRIGHT = round(CLIPPED * 255)


def read_picture(path: Path) -> FloatArray:
    """Read a photograph as sRGB values, 0 to 1, of shape (h, w).

    Colours are weighed to luminance in linear light; where any of them is as bright as the picture
    can show, the value is 1.

    Raises
    ------
    ValueRefused
        When it is no ordinary file, no JPEG or PNG by what is in it, damaged, or too large.
    """
    with _opened(path) as image:
        return _plane(_upright(image))


def read_small(path: Path, longest: int) -> bytes:
    """Read a photograph as a JPEG of at most so many pixels a side, upright.

    Raises
    ------
    ValueRefused
        As `read_picture`.
    """
    with _opened(path) as image:
        image.draft("RGB", (longest, longest))  # a JPEG is decoded no larger than is needed
        image.thumbnail((longest, longest))
        out = BytesIO()
        turned = _upright(image)
        if turned.mode.startswith("I"):  # 16 bits of grey
            turned = turned.point(lambda v: v / 256.0, "L")
        turned.convert("RGB").save(out, "JPEG", quality=85)
        return out.getvalue()


@contextmanager
def _opened(path: Path) -> Iterator[Image.Image]:
    """Open a picture and look at its size before anything of it is decoded."""
    try:
        with open_regular(path) as file, warnings.catch_warnings():
            warnings.simplefilter("ignore")  # of sizes there are own limits, below
            with Image.open(file, formats=_FORMATS) as image:
                _check_size(image, path.name)
                yield image
    except ValueRefused:
        raise
    except Image.DecompressionBombError as error:
        raise ValueRefused(
            "The picture has more pixels than are read.", where=path.name, todo=_LIMITS
        ) from error
    except (
        OSError,
        UnidentifiedImageError,
        ValueError,
        SyntaxError,
        EOFError,
        MemoryError,
        ArithmeticError,
        LookupError,
        TypeError,
        AttributeError,
        struct.error,
        zlib.error,
    ) as error:
        raise ValueRefused(
            "It cannot be read as a picture.", where=path.name, todo="Use a JPEG or PNG file."
        ) from error


def _check_size(image: Image.Image, where: str) -> None:
    pixels = image.width * image.height
    if pixels > MOST_PIXELS or max(image.size) > LONGEST_SIDE:
        raise ValueRefused(
            f"The picture has {image.width} × {image.height} px.",
            where=where,
            todo=_LIMITS,
        )


def _upright(image: Image.Image) -> Image.Image:
    """Turn a picture as the camera says; where what it says cannot be read, leave it."""
    try:
        turned = image.getexif().get(_ORIENTATION, 1)
    except (
        OSError,
        ValueError,
        SyntaxError,
        ArithmeticError,
        LookupError,
        TypeError,
        AttributeError,
        struct.error,
    ):
        return image
    way = _TURNS.get(turned) if isinstance(turned, int) else None
    return image if way is None else image.transpose(way)


def _plane(image: Image.Image) -> FloatArray:
    if image.mode in ("I", "I;16", "I;16B", "I;16L"):
        deep = np.asarray(image, dtype=np.float32)
        return np.asarray(np.clip(deep / 65535.0, 0.0, 1.0), np.float32)
    if image.mode in ("L", "1", "LA"):
        grey: FloatArray = np.asarray(image.convert("L"), np.float32)
        return grey / np.float32(255.0)
    whole = np.asarray(image.convert("RGB"))
    to_light, to_code = _tables()
    found = np.empty(whole.shape[:2], np.float32)
    for top in range(0, whole.shape[0], _ROWS):  # a few rows at a time: 24 megapixels are large
        part = whole[top : top + _ROWS]
        light = to_light[part] @ np.array(LUMA, np.float32)
        coded = to_code[np.rint(light * np.float32(_FINE)).astype(np.uint16)]
        found[top : top + _ROWS] = np.where((part >= _BRIGHT).any(axis=2), 1.0, coded)
    return np.asarray(found, np.float32)


@cache
def _tables() -> tuple[Table, Table]:
    """Return linear light by byte, and sRGB by light in fine steps."""
    to_light = linear(np.arange(256) / 255.0)
    light = np.arange(_FINE + 1) / _FINE
    high = 1.055 * np.maximum(light, 1e-9) ** (1.0 / 2.4) - 0.055
    to_code = np.where(light <= 0.0031308, 12.92 * light, high)
    return to_light.astype(np.float32), to_code.astype(np.float32)
