"""Only regular files are read or written, and a file is written whole or not at all."""

from __future__ import annotations

import os
import stat
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO

from loam.core.errors import LoamError


def open_regular(path: Path) -> IO[bytes]:
    """Open a file for reading; pipes, devices and folders are refused without being touched.

    Raises
    ------
    OSError
        When it cannot be opened, or is no regular file.
    """
    descriptor = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    try:
        if not stat.S_ISREG(os.fstat(descriptor).st_mode):
            raise OSError(0, "it is no ordinary file")
        return os.fdopen(descriptor, "rb")
    except BaseException:
        os.close(descriptor)
        raise


def refuse_irregular(path: Path) -> None:
    """Refuse a place to write to that is taken by something other than an ordinary file.

    Raises
    ------
    LoamError
        For pipes, devices and folders.
    """
    try:
        mode = path.stat().st_mode
    except OSError:
        return
    if not stat.S_ISREG(mode):
        raise LoamError(
            "There is something that is no ordinary file.",
            where=str(path),
            todo="Choose another name.",
            kept="It is as it was.",
        )


@contextmanager
def written_whole(path: Path, kept: str) -> Iterator[Path]:
    """Give a new file beside ``path`` to write to; it takes its place when the block ends well.

    The new file is made under a name that nobody else has, so that no link is followed; what
    stood at ``path`` stays until all is on disk.

    Raises
    ------
    LoamError
        When the disk or the folder refuses; ``kept`` says what is safe.
    """
    beside: Path | None = None
    try:
        target = path.resolve()
        refuse_irregular(target)
        descriptor, name = tempfile.mkstemp(prefix=".", suffix=".part", dir=target.parent)
        os.close(descriptor)
        beside = Path(name)
        yield beside
        with beside.open("rb+") as file:
            os.fsync(file.fileno())
        beside.chmod(target.stat().st_mode & 0o777 if target.exists() else 0o666 & ~_umask())
        beside.replace(target)
        beside = None
    except (OSError, RuntimeError, ValueError) as error:
        said = getattr(error, "strerror", None) or str(error) or type(error).__name__
        raise LoamError(
            f"The file could not be written ({said}).",
            where=str(path),
            todo="Choose another place, or free some space.",
            kept=kept,
        ) from error
    finally:
        if beside is not None:
            beside.unlink(missing_ok=True)


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


def write_text(path: Path, text: str, kept: str) -> None:
    """Write a text file whole or not at all."""
    with written_whole(path, kept) as beside:
        beside.write_bytes(text.encode("utf-8"))
