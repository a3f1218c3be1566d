"""Reading a delimited text file of any dialect, line by line, into fields of text."""

from __future__ import annotations

import codecs
import csv
import gc
import io
import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from loam.core.errors import LoamError
from loam.store.safe_files import open_regular

MAX_BYTES = 100 * 1024 * 1024
MAX_LINES = 1_000_000
MAX_COLUMNS = 5000
MAX_PROBLEMS = 20
MAX_LINE_BYTES = 4 * 1024 * 1024
PREVIEW = 12
DELIMITERS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}
_CHUNK = 1024 * 1024
_PROGRESS_EVERY = 5000
_MANY = 50_000


@dataclass(frozen=True)
class Problem:
    """One thing wrong with a file: where, what stands there and which rule it breaks.

    ``again`` counts the further lines where the same stands against the same rule.
    """

    line: int
    column: str
    value: str
    rule: str
    again: int = 0

    def __str__(self) -> str:
        parts = []
        if self.line:
            parts.append(f"line {self.line}")
        if self.column:
            parts.append(f"column {_shown(self.column)}")
        if self.value:
            parts.append(repr(_shown(self.value)))
        tail = f" ({self.again} more line{'s' if self.again > 1 else ''} like it)"
        return (", ".join(parts) + ": " if parts else "") + self.rule + (tail if self.again else "")


def _shown(text: str) -> str:
    return text if len(text) <= 60 else text[:57] + "..."


class FileRefused(LoamError):
    """A file that is refused as a whole.

    Attributes
    ----------
    problems : tuple of Problem
        The first problems found, in the order of the file.
    more : int
        How many lines break rules beyond those.
    partial : object
        What the lines without fault would have given (a draft), only to be looked at; or None.
    """

    partial: object = None

    def __init__(self, path: Path, problems: list[Problem], more: int = 0) -> None:
        first = problems[0]
        rest = len(problems) - 1 + more
        tail = f" And {rest} more." if rest else ""
        said = str(first)
        super().__init__(
            f"{said}{'' if said.endswith(('.', '?')) else '.'}{tail}",
            where=path.name,
            todo="Mend the file, or map its columns otherwise.",
            kept="Nothing was taken from it.",
        )
        self.problems = tuple(problems)
        self.more = more


class Complaints:
    """Collects what is wrong with a file: each thing once, with a count of its like."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._found: dict[tuple[str, str, str], Problem] = {}
        self._again: dict[tuple[str, str, str], int] = {}
        self._beyond = 0

    def __bool__(self) -> bool:
        return bool(self._found)

    def note(self, line: int, column: str, value: str, rule: str) -> None:
        """Note a problem; only the first few kinds are kept, all are counted."""
        key = (column, value, rule)
        if key in self._found:
            self._again[key] = self._again.get(key, 0) + 1
        elif len(self._found) < MAX_PROBLEMS:
            self._found[key] = Problem(line, column, value, rule)
        else:
            self._beyond += 1

    def refusal(self) -> FileRefused:
        """Return the refusal of the whole file."""
        listed = [
            Problem(p.line, p.column, p.value, p.rule, self._again.get(key, 0))
            for key, p in self._found.items()
        ]
        return FileRefused(self.path, listed, self._beyond)


@dataclass(frozen=True)
class TableFile:
    """A delimited file as text; its lines are read anew each time, and never all held.

    Attributes
    ----------
    header : tuple of str
        Column names, trimmed.
    preview : tuple of tuple of str
        The first few lines.
    count : int
        Lines with anything in them below the header.
    delimiter, encoding : str
    """

    path: Path
    header: tuple[str, ...]
    preview: tuple[tuple[str, ...], ...]
    count: int
    delimiter: str
    encoding: str
    stamp: tuple[int, int]

    @property
    def dialect_words(self) -> str:
        """Say how the file is written, for example "semicolon, UTF-8"."""
        return f"{DELIMITERS[self.delimiter]}, {self.encoding}"

    def rows(self) -> Iterator[tuple[list[str], int]]:
        """Read the file line by line: fields, as many as the header, and the line's number.

        Raises
        ------
        FileRefused
            When it was changed since, or a line cannot be read.
        """
        with _opened(self.path, self.encoding) as (file, stamp):
            if stamp != self.stamp:
                raise _refuse(self.path, "the file was changed since it was looked at")
            lines = _parsed(self.path, file, self.delimiter, lambda _line: None)
            next(lines, None)
            for row, line in lines:
                if len(row) != len(self.header):
                    raise _refuse(self.path, _width(len(row), len(self.header)), line=line)
                yield row, line


def _refuse(
    path: Path, rule: str, *, line: int = 0, column: str = "", value: str = ""
) -> FileRefused:
    return FileRefused(path, [Problem(line, column, value, rule)])


class _Scan:
    """One pass over a file's bytes: how its text is encoded, and that it is text at all."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.encoding = "UTF-8"
        self._decoder: codecs.IncrementalDecoder | None = codecs.getincrementaldecoder("utf-8")()
        self._lines = self._run = self._total = 0

    def take(self, chunk: bytes) -> None:
        """Look at the next bytes."""
        if not self._total and chunk[:2] in (b"\xff\xfe", b"\xfe\xff"):
            self._decoder, self.encoding = codecs.getincrementaldecoder("utf-16")(), "UTF-16"
        self._total += len(chunk)
        if self._total > MAX_BYTES:
            raise _refuse(self.path, _too_large(self._total))
        if self.encoding != "UTF-16" and b"\0" in chunk:
            line = self._lines + chunk.count(b"\n", 0, chunk.index(b"\0")) + 1
            raise _refuse(self.path, "this is not a text file (it holds a zero byte)", line=line)
        self._decode(chunk, final=False)
        self._lines += chunk.count(b"\n")
        end = max(chunk.rfind(b"\n"), chunk.rfind(b"\r"))
        self._run = self._run + len(chunk) if end < 0 else len(chunk) - end
        if self._run > MAX_LINE_BYTES:
            rule = "a line is longer than any line of readings"
            raise _refuse(self.path, rule, line=self._lines + 1)

    def end(self) -> str:
        """Return the encoding."""
        self._decode(b"", final=True)
        return self.encoding

    def _decode(self, chunk: bytes, *, final: bool) -> None:
        if self._decoder is None:
            return
        try:
            self._decoder.decode(chunk, final)
        except UnicodeDecodeError as error:
            if self.encoding == "UTF-16":
                raise _refuse(self.path, "the text is not readable as UTF-16") from error
            self._decoder, self.encoding = None, "Windows-1252"


def _scan(path: Path) -> str:
    """Return the encoding of a file."""
    scan = _Scan(path)
    with open_regular(path) as file:
        while chunk := file.read(_CHUNK):
            scan.take(chunk)
    return scan.end()


def _too_large(size: int) -> str:
    return (
        f"the file has {size / 2**20:.0f} MB; Loam takes up to {MAX_BYTES / 2**20:.0f} MB,"
        " so split it by trial"
    )


_CODECS = {"UTF-8": "utf-8-sig", "UTF-16": "utf-16", "Windows-1252": "cp1252"}


@contextmanager
def _opened(path: Path, encoding: str) -> Iterator[tuple[io.TextIOWrapper, tuple[int, int]]]:
    errors = "replace" if encoding == "Windows-1252" else "strict"
    try:
        with open_regular(path) as raw:
            found = os.fstat(raw.fileno())
            text = io.TextIOWrapper(raw, _CODECS[encoding], errors, newline="")
            yield text, (found.st_size, found.st_mtime_ns)
    except OSError as error:
        raise _cannot_open(path, error) from error
    except UnicodeError as error:
        raise _refuse(path, f"the text is not readable as {encoding}") from error


def _cannot_open(path: Path, error: OSError) -> FileRefused:
    return _refuse(path, f"the file cannot be opened ({error.strerror or error})")


def read_table(path: Path, progress: Callable[[float], None] | None = None) -> TableFile:
    """Look through a delimited text file.

    Delimiter (comma, semicolon, tab, bar), quotes, byte-order mark, line ends and encoding are
    found out; numbers stay text.

    Parameters
    ----------
    progress : callable, optional
        Called now and then with the share read; may raise to cancel.

    Raises
    ------
    FileRefused
        When it is missing, no ordinary file, too large, not text, empty, or its lines do not
        match its header.
    """
    size, encoding = _look(path)
    with _opened(path, encoding) as (file, stamp):
        first = next((line for line in file if not line.isspace()), "")
        if not first:
            raise _refuse(path, "the file is empty")
        delimiter = _delimiter(first)
    with _opened(path, encoding) as (file, stamp), collector_paused():
        told = 0

        def tell(line: int) -> None:
            nonlocal told
            if progress is not None and line >= told:
                told = line + _PROGRESS_EVERY
                progress(min(0.99, line * len(first) / max(size, 1)))

        lines = _parsed(path, file, delimiter, tell)
        header = tuple(field.strip() for field in next(lines)[0])
        _check_header(path, header)
        preview, count = _measure(path, header, lines)
    return TableFile(path, header, preview, count, delimiter, encoding, stamp)


def _look(path: Path) -> tuple[int, str]:
    """Return size and encoding of a file, refusing what cannot be a table of readings."""
    try:
        size = path.stat().st_size
        if size > MAX_BYTES:
            raise _refuse(path, _too_large(size))
        return size, _scan(path)
    except OSError as error:
        raise _cannot_open(path, error) from error
    except ValueError as error:  # a name with a zero byte, say
        raise _refuse(path, f"the file cannot be opened ({error})") from error


def _measure(
    path: Path, header: tuple[str, ...], lines: Iterator[tuple[list[str], int]]
) -> tuple[tuple[tuple[str, ...], ...], int]:
    """Return the first lines and the count of all; each is as wide as the header."""
    preview: list[tuple[str, ...]] = []
    count = 0
    wrong = Complaints(path)
    for row, line in lines:
        if len(row) != len(header):
            wrong.note(line, "", "", _width(len(row), len(header)))
            continue
        count += 1
        if len(preview) < PREVIEW:
            preview.append(tuple(row))
    if wrong:
        raise wrong.refusal()
    if not count:
        raise _refuse(path, "there is a header but no reading below it")
    return tuple(preview), count


def _width(found: int, wanted: int) -> str:
    return f"{found} fields stand where the header has {wanted}"


def _parsed(
    path: Path, file: io.TextIOWrapper, delimiter: str, tell: Callable[[int], None]
) -> Iterator[tuple[list[str], int]]:
    """Yield the lines that hold anything: first the header, then the rows, with their numbers."""
    csv.field_size_limit(1_000_000)
    reader = csv.reader(file, delimiter=delimiter, strict=True)
    count = 0
    try:
        for row in reader:
            line = reader.line_num
            tell(line)
            if not any(field and not field.isspace() for field in row):
                if line > 3 * MAX_LINES:
                    raise _refuse(path, "the file has millions of empty lines", line=line)
                continue
            count += 1
            if count > MAX_LINES + 1:
                raise _refuse(
                    path,
                    f"the file has more than {MAX_LINES} lines; split it by trial",
                    line=line,
                )
            yield row, line
    except csv.Error as error:
        raise _refuse(path, f"the line cannot be read ({error})", line=reader.line_num) from error


def _delimiter(first_line: str) -> str:
    counts = {d: first_line.count(d) for d in DELIMITERS}
    best = max(counts, key=lambda d: counts[d])
    return best if counts[best] else ","


@contextmanager
def collector_paused() -> Iterator[None]:
    """Put off garbage collection while very many lasting objects are made.

    Each full collection looks at all of them and stops every thread meanwhile. Objects that came
    by the ten thousand are set aside from later collections too; they hold no cycles, and go when
    nobody holds them.
    """
    running = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if gc.get_count()[0] > _MANY:
            gc.freeze()
        if running:
            gc.enable()


def _check_header(path: Path, header: tuple[str, ...]) -> None:
    if len(header) > MAX_COLUMNS:
        raise _refuse(path, f"{len(header)} columns; {MAX_COLUMNS} are the most", line=1)
    seen: set[str] = set()
    for place, name in enumerate(header, 1):
        if not name:
            raise _refuse(path, f"column {place} has no name", line=1)
        if name.lower() in seen:
            raise _refuse(path, "two columns have this name", line=1, column=name)
        seen.add(name.lower())
