"""Text that looks like a formula, kept from running in a spreadsheet, and read back the same."""

from __future__ import annotations

import re

_STARTS = ("=", "+", "-", "@", "\t", "\r", "'")
_NUMBER = re.compile(r"[+-]?[0-9]+([.,][0-9]+)?([eE][+-]?[0-9]+)?")


def guarded(text: str) -> str:
    """Return a text that no spreadsheet takes for a formula; a plain number stays one."""
    return f"'{text}" if text.startswith(_STARTS) and not _NUMBER.fullmatch(text) else text


def one_line(text: str) -> str:
    """Return a text on one line, for tables whose rows are lines."""
    return " ".join(text.split())


def unguarded(text: str) -> str:
    """Return the text that `guarded` was given; any other text as it is."""
    return text[1:] if text[:1] == "'" and text[1:].startswith(_STARTS) else text
