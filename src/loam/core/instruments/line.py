"""The line protocol of bench instruments: one request and one reply a line, with a checksum.

`SEQ VERB [ARG ...]` asks, `SEQ OK key=value ...*HH` or `SEQ ERR code text*HH` answers, `! WORD*HH`
is an event. HH is the exclusive or of all bytes before the star, in hexadecimal. ASCII, at most 120
bytes, ends with a line feed.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import reduce

MOST_BYTES = 120
MOST_SEQ = 1000
EVENT = "!"
NOBODY = "-"
"""Stands for the number of a request that could not be read."""


class Garbled(Exception):
    """A line that cannot be trusted: cut, changed on its way, or of another language."""


@dataclass(frozen=True)
class Reply:
    """One line from a device.

    Attributes
    ----------
    seq : int or None
        Of the request that it answers; None for an event, or a request that it could not read.
    ok : bool
    values : mapping of str to str
    code : int
        Of an error, else 0.
    text : str
        Of an error or an event.
    raw : str
        The line as it came.
    """

    seq: int | None
    ok: bool
    values: Mapping[str, str] = field(default_factory=dict)
    code: int = 0
    text: str = ""
    raw: str = ""

    @property
    def event(self) -> bool:
        """Whether nobody asked for it."""
        return self.seq is None and not self.code


def checksum(body: str) -> str:
    """Return the checksum of what stands before the star.

    Examples
    --------
    >>> checksum("7 OK um=112.4")
    '3E'
    """
    return f"{reduce(lambda found, byte: found ^ byte, body.encode('ascii'), 0):02X}"


def sealed(body: str) -> bytes:
    """Return a line with its checksum and line feed."""
    return f"{body}*{checksum(body)}\n".encode("ascii")


def request(seq: int, verb: str, *arguments: object) -> bytes:
    """Return a request as it is sent.

    Raises
    ------
    ValueError
        When it is no line: a number out of range, letters that are none, too long.
    """
    if not 0 <= seq < MOST_SEQ:
        raise ValueError(f"{seq} is no number of a request")
    body = " ".join([str(seq), verb, *(str(a) for a in arguments)])
    if not body.isascii() or not body.isprintable():
        raise ValueError("a request is plain ASCII")
    line = sealed(body)
    if len(line) > MOST_BYTES:
        raise ValueError("a request is at most 120 bytes long")
    return line


def read_line(line: bytes) -> Reply:
    """Read a line from a device.

    Raises
    ------
    Garbled
        When it is cut, changed, or not of this protocol.
    """
    if len(line) > MOST_BYTES or not line.endswith(b"\n"):
        raise Garbled("it is too long, or cut")
    try:
        text = line.decode("ascii").replace("\r", "").rstrip("\n")
    except UnicodeDecodeError:
        raise Garbled("it is no plain text") from None
    body, star, mark = text.rpartition("*")
    if not star or mark.upper() != checksum(body):
        raise Garbled("its checksum is wrong")
    words = body.split()
    if len(words) < 2:
        raise Garbled("it says nothing")
    if words[0] == EVENT:
        return Reply(None, True, {}, 0, " ".join(words[1:]), text)
    seq = None if words[0] == NOBODY else _number(words[0])
    if words[1] == "OK" and seq is not None:
        return Reply(seq, True, _values(words[2:]), 0, "", text)
    if words[1] == "ERR" and len(words) >= 3:
        return Reply(seq, False, {}, _number(words[2]), " ".join(words[3:]), text)
    raise Garbled("it is neither OK nor ERR")


def _number(word: str) -> int:
    if not word.isdigit() or len(word) > 3:
        raise Garbled("a number is none")
    return int(word)


def _values(words: list[str]) -> dict[str, str]:
    found = {}
    for word in words:
        key, equals, value = word.partition("=")
        if not equals or not key:
            raise Garbled("a value has no name")
        found[key] = value
    return found
