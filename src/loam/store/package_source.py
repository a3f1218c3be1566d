"""The members of a file for exchange: a zip, or the folder that it was unpacked to."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO, Any

from loam.core.record import SORTS
from loam.store.safe_files import open_regular
from loam.store.table_file import FileRefused, Problem

MAX_HEAD = 4 * 1024 * 1024
MAX_MEMBER = 256 * 1024 * 1024
MAX_UNPACKED = 400 * 1024 * 1024
PICTURES = "pictures"


def refuse(
    path: Path, rule: str, *, line: int = 0, column: str = "", value: str = ""
) -> FileRefused:
    """Return the refusal of a file for a rule that it breaks."""
    return FileRefused(path, [Problem(line, column, value, rule)])


class Source:
    """The members of a package, each opened as text, with a limit on what they unpack to."""

    def __init__(self, path: Path, names: Iterable[str], open_member: Callable[[str], Any]) -> None:
        self.path, self.names, self._open = path, set(names), open_member
        self.unpacked = 0

    @contextmanager
    def text(self, name: str, most: int = MAX_MEMBER) -> Iterator[IO[str]]:
        """Open a member as text."""
        if name not in self.names:
            raise refuse(self.path, f"{name} is missing")
        with self._open(name) as raw:
            limited = _Limited(self, raw, most)
            with io.TextIOWrapper(io.BufferedReader(limited), "utf-8", newline="") as text:
                yield text

    def bytes(self, name: str, most: int) -> bytes:
        """Return a member."""
        if name not in self.names:
            raise refuse(self.path, f"{name} is missing")
        with self._open(name) as raw:
            return io.BufferedReader(_Limited(self, raw, most)).read()


class _Limited(io.RawIOBase):
    """Reads on until a member, or all of them together, give more than a trial can be."""

    def __init__(self, source: Source, raw: Any, most: int) -> None:
        self._source, self._raw, self._left = source, raw, most

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: Any) -> int:
        data = self._raw.read(len(buffer))
        self._left -= len(data)
        self._source.unpacked += len(data)
        if self._left < 0 or self._source.unpacked > MAX_UNPACKED:
            raise refuse(self._source.path, "the package unpacks to more than a trial can be")
        buffer[: len(data)] = data
        return len(data)


@contextmanager
def opened(path: Path) -> Iterator[Source]:
    """Open a file for exchange.

    Raises
    ------
    FileRefused
        When it is encrypted, packed otherwise, or holds two members of one name.
    """
    if path.name == "datapackage.json" or path.is_dir():
        folder = path if path.is_dir() else path.parent
        wanted = ["datapackage.json", *(f"{s.file}.csv" for s in SORTS)]
        found = [n for n in wanted if (folder / n).exists()]
        if (folder / PICTURES).is_dir():
            found += [f"{PICTURES}/{p.name}" for p in (folder / PICTURES).iterdir()]
        yield Source(path, found, lambda name: open_regular(folder / name))
        return
    with open_regular(path) as file, zipfile.ZipFile(file) as archive:
        names = archive.namelist()
        if len(set(names)) < len(names):
            raise refuse(path, "two files of the package have one name")
        for info in archive.infolist():
            if info.flag_bits & 1:
                raise refuse(path, "the package is encrypted; unpack it first")
            if info.compress_type not in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED):
                raise refuse(path, "the package is packed in a way that Loam does not read")
        yield Source(path, names, archive.open)
