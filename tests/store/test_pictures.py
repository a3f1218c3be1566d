"""Pictures from anywhere: looked at before they are decoded, refused in words, turned as told."""

import io
import os
import struct
import zlib
from contextlib import suppress

import numpy as np
import pytest
from PIL import Image

from loam.core.errors import LoamError
from loam.store.picture_file import LONGEST_SIDE, MOST_PIXELS, read_picture, read_small


def jpeg(width=60, height=40, exif=b"", left=255):
    values = np.zeros((height, width), np.uint8)
    values[:, : width // 2] = left
    out = io.BytesIO()
    Image.fromarray(values).save(out, "JPEG", quality=95, exif=exif)
    return out.getvalue()


def bomb(width, height):
    """Return a PNG of so many pixels in a few bytes."""

    def chunk(kind, data):
        return (
            struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
        )

    head = struct.pack(">IIBBBBB", width, height, 1, 0, 0, 0, 0)
    rows = zlib.compress(bytes(1 + (width + 7) // 8) * min(height, 20))
    parts = chunk(b"IHDR", head) + chunk(b"IDAT", rows) + chunk(b"IEND", b"")
    return b"\x89PNG\r\n\x1a\n" + parts


@pytest.mark.parametrize("size", [(9400, 9400), (LONGEST_SIDE + 1, 10), (60_000, 60_000)])
def test_too_many_pixels_are_refused_before_any_is_decoded(tmp_path, size, monkeypatch):
    path = tmp_path / "bomb.png"
    path.write_bytes(bomb(*size))
    monkeypatch.setattr(Image.Image, "load", lambda self: pytest.fail("it was decoded"))
    for read in (read_picture, lambda p: read_small(p, 1600)):
        with pytest.raises(LoamError) as refused:
            read(path)
        assert "px" in str(refused.value)
        assert "pixels" in refused.value.what or str(size[0]) in refused.value.what
        assert f"{MOST_PIXELS // 1_000_000} megapixels" in refused.value.todo


@pytest.mark.parametrize("name", ["a.jpg", "a.png", "a.webp", "a"])
def test_what_is_in_it_counts_not_its_name(tmp_path, name):
    path = tmp_path / name
    path.write_bytes(jpeg())
    assert read_picture(path).shape == (40, 60)
    assert read_small(path, 30)[:2] == b"\xff\xd8"
    with Image.open(io.BytesIO(read_small(path, 30))) as small:
        assert small.size == (30, 20)


@pytest.mark.parametrize("kind", ["GIF", "BMP", "TIFF", "WEBP"])
def test_other_formats_are_refused_whatever_they_are_called(tmp_path, kind):
    out = io.BytesIO()
    Image.fromarray(np.zeros((9, 9), np.uint8)).save(out, kind)
    path = tmp_path / "picture.jpg"
    path.write_bytes(out.getvalue())
    for read in (read_picture, lambda p: read_small(p, 1600)):
        with pytest.raises(LoamError, match="cannot be read as a picture"):
            read(path)


def test_grey_of_16_bits_stays_grey_when_it_is_made_small(tmp_path):
    path = tmp_path / "deep.png"
    Image.fromarray(np.full((9, 9), 32768, np.uint16)).save(path)
    with Image.open(io.BytesIO(read_small(path, 1600))) as small:
        assert abs(int(np.asarray(small).mean()) - 128) <= 2


def test_hostile_words_of_a_camera_change_nothing_but_the_turn(tmp_path):
    """Each way to break them: the picture is read, or refused in words."""
    rng = np.random.default_rng(7)
    exif = Image.Exif()
    exif[0x0112] = 6
    whole = jpeg(exif=exif.tobytes())
    path = tmp_path / "camera.jpg"
    start, end = whole.index(b"Exif"), whole.index(b"Exif") + 60
    read = refused = 0
    for _ in range(400):
        raw = bytearray(whole)
        for _ in range(int(rng.integers(1, 6))):
            raw[int(rng.integers(start, end))] = int(rng.integers(256))
        path.write_bytes(bytes(raw))
        try:
            assert read_picture(path).shape in ((40, 60), (60, 40))
            assert read_small(path, 1600)
            read += 1
        except LoamError:
            refused += 1
    assert read > 200
    assert read + refused == 400


def test_noise_anywhere_is_an_answer(tmp_path):
    rng = np.random.default_rng(8)
    path = tmp_path / "noise.jpg"
    for whole in (jpeg(), bomb(64, 64)):
        for _ in range(200):
            raw = bytearray(whole)
            for _ in range(int(rng.integers(1, 30))):
                raw[int(rng.integers(len(raw)))] = int(rng.integers(256))
            path.write_bytes(bytes(raw)[: int(rng.integers(1, len(raw) + 1))])
            for read in (read_picture, lambda p: read_small(p, 1600)):
                with suppress(LoamError):
                    read(path)


def test_no_pipe_is_waited_for(tmp_path):
    os.mkfifo(tmp_path / "pipe.jpg")
    with pytest.raises(LoamError):
        read_small(tmp_path / "pipe.jpg", 1600)
