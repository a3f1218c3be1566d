"""Reading a delimited text file of any dialect into a header and rows of text."""

from __future__ import annotations

import csv
import gc
import io
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from loam.core.errors import LoamError

MAX_BYTES = 100 * 1024 * 1024
MAX_PROBLEMS = 20
DELIMITERS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}


@dataclass(frozen=True)
class Problem:
    """One thing wrong with a file: where, what stands there and which rule it breaks."""

    line: int
    column: str
    value: str
    rule: str

    def __str__(self) -> str:
        parts = []
        if self.line:
            parts.append(f"line {self.line}")
        if self.column:
            parts.append(f"column {self.column}")
        if self.value:
            shown = self.value if len(self.value) <= 60 else self.value[:57] + "..."
            parts.append(repr(shown))
        return (", ".join(parts) + ": " if parts else "") + self.rule


class FileRefused(LoamError):
    """A file that is refused as a whole.

    Attributes
    ----------
    problems : tuple of Problem
        The first problems found, in the order of the file.
    """

    def __init__(self, path: Path, problems: list[Problem], more: int = 0) -> None:
        first = problems[0]
        rest = len(problems) - 1 + more
        tail = f" And {rest} more." if rest else ""
        super().__init__(
            f"{first}{tail}",
            where=path.name,
            todo="Mend the file, or map its columns otherwise.",
            kept="Nothing was taken from it.",
        )
        self.problems = tuple(problems)
        self.more = more


@dataclass(frozen=True)
class TableFile:
    """A delimited file as text.

    Attributes
    ----------
    header : tuple of str
        Column names, trimmed.
    rows : list of list of str
        One a line, as long as the header.
    lines : list of int
        Line of the file on which each row ends.
    delimiter, encoding : str
    """

    path: Path
    header: tuple[str, ...]
    rows: list[list[str]]
    lines: list[int]
    delimiter: str
    encoding: str

    @property
    def dialect_words(self) -> str:
        """Say how the file is written, for example "semicolon, UTF-8"."""
        return f"{DELIMITERS[self.delimiter]}, {self.encoding}"


def _refuse(
    path: Path, rule: str, *, line: int = 0, column: str = "", value: str = ""
) -> FileRefused:
    return FileRefused(path, [Problem(line, column, value, rule)])


def _decode(path: Path, raw: bytes) -> tuple[str, str]:
    if raw[:2] in (b"\xff\xfe", b"\xfe\xff"):
        try:
            return raw.decode("utf-16"), "UTF-16"
        except UnicodeDecodeError as error:
            raise _refuse(path, "the text is not readable as UTF-16") from error
    if b"\0" in raw:
        at = raw.index(b"\0")
        line = raw.count(b"\n", 0, at) + 1
        raise _refuse(path, "this is not a text file (it holds a zero byte)", line=line)
    try:
        return raw.decode("utf-8-sig"), "UTF-8"
    except UnicodeDecodeError:
        return raw.decode("cp1252", errors="replace"), "Windows-1252"


def _delimiter(first_line: str) -> str:
    counts = {d: first_line.count(d) for d in DELIMITERS}
    best = max(counts, key=lambda d: counts[d])
    return best if counts[best] else ","


def read_table(path: Path) -> TableFile:
    """Read a delimited text file.

    Delimiter (comma, semicolon, tab, bar), quotes, byte-order mark, line ends and encoding are
    found out; numbers stay text.

    Raises
    ------
    FileRefused
        When it is missing, too large, not text, empty, or its lines do not match its header.
    """
    try:
        size = path.stat().st_size
        if size > MAX_BYTES:
            raise _refuse(
                path,
                f"the file has {size / 2**20:.0f} MB; Loam takes up to {MAX_BYTES / 2**20:.0f} MB,"
                " so split it by trial",
            )
        raw = path.read_bytes()
    except OSError as error:
        raise _refuse(path, f"the file cannot be opened ({error.strerror})") from error
    text, encoding = _decode(path, raw)
    if not text or text.isspace():
        raise _refuse(path, "the file is empty")
    delimiter = _delimiter(next(line for line in io.StringIO(text) if not line.isspace()))
    with collector_paused():
        return _parse(path, text, delimiter, encoding)


@contextmanager
def collector_paused() -> Iterator[None]:
    """Put off garbage collection while very many lasting objects are made.

    Each full collection looks at all of them and stops every thread meanwhile.
    """
    running = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if running:
            gc.enable()


def _parse(path: Path, text: str, delimiter: str, encoding: str) -> TableFile:
    csv.field_size_limit(1_000_000)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter, strict=True)
    header: tuple[str, ...] = ()
    rows: list[list[str]] = []
    lines: list[int] = []
    problems: list[Problem] = []
    wrong = 0
    try:
        for row in reader:
            if not any(field.strip() for field in row):
                continue
            if not header:
                header = tuple(field.strip() for field in row)
                continue
            if len(row) != len(header):
                wrong += 1
                if wrong <= MAX_PROBLEMS:
                    rule = f"{len(row)} fields stand where the header has {len(header)}"
                    problems.append(Problem(reader.line_num, "", "", rule))
                continue
            rows.append(row)
            lines.append(reader.line_num)
    except csv.Error as error:
        raise _refuse(path, f"the line cannot be read ({error})", line=reader.line_num) from error
    _check_header(path, header)
    if problems:
        raise FileRefused(path, problems, wrong - len(problems))
    if not rows:
        raise _refuse(path, "there is a header but no reading below it")
    return TableFile(path, header, rows, lines, delimiter, encoding)


def _check_header(path: Path, header: tuple[str, ...]) -> None:
    seen: set[str] = set()
    for place, name in enumerate(header, 1):
        if not name:
            raise _refuse(path, f"column {place} has no name", line=1)
        if name.lower() in seen:
            raise _refuse(path, "two columns have this name", line=1, column=name)
        seen.add(name.lower())
