"""Photographs from files: JPEG and PNG, turned as the camera says, as one plane of sRGB values."""

from __future__ import annotations

import warnings
from functools import cache
from pathlib import Path

import numpy as np
import numpy.typing as npt
from PIL import Image, ImageOps, UnidentifiedImageError

from loam.core.errors import ValueRefused
from loam.core.photo.frame import CLIPPED, linear
from loam.core.stats.reduce import FloatArray
from loam.store.safe_files import open_regular

Table = npt.NDArray[np.float32]
MOST_PIXELS = 120_000_000
LUMA = (0.2126, 0.7152, 0.0722)
_FORMATS = ("JPEG", "PNG")
_ROWS, _FINE = 256, 65_535
_BRIGHT = round(CLIPPED * 255)


def read_picture(path: Path) -> FloatArray:
    """Read a photograph as sRGB values, 0 to 1, of shape (h, w).

    Colours are weighed to luminance in linear light; where any of them is as bright as the picture
    can show, the value is 1.

    Raises
    ------
    ValueRefused
        When it is no ordinary file, no JPEG or PNG, damaged, or too large.
    """
    where = path.name
    try:
        with open_regular(path) as file, warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(file, formats=_FORMATS) as image:
                if image.width * image.height > MOST_PIXELS:
                    raise ValueRefused(
                        f"The picture has {image.width} × {image.height} px.", where=where,
                        todo=f"At most {MOST_PIXELS // 1_000_000} megapixels are read.",
                    )  # fmt: skip
                turned = ImageOps.exif_transpose(image)
                return _plane(turned)
    except ValueRefused:
        raise
    except (
        OSError, UnidentifiedImageError, ValueError, SyntaxError, EOFError, MemoryError,
        Image.DecompressionBombError, Image.DecompressionBombWarning, IndexError, TypeError,
    ) as error:  # fmt: skip
        raise ValueRefused(
            "It cannot be read as a picture.", where=where, todo="Use a JPEG or PNG file."
        ) from error


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
