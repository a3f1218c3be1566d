"""Text that looks like a formula, kept from running in a spreadsheet, and read back the same."""

from __future__ import annotations

_STARTS = ("=", "+", "-", "@", "\t", "\r", "'")


def guarded(text: str) -> str:
    """Return a text that no spreadsheet takes for a formula."""
    return f"'{text}" if text.startswith(_STARTS) else text


def unguarded(text: str) -> str:
    """Return the text that `guarded` was given; any other text as it is."""
    return text[1:] if text[:1] == "'" and text[1:].startswith(_STARTS) else text
