"""What a name or a note may hold, wherever it comes from, and how names are joined as spoken."""

from __future__ import annotations

from collections.abc import Sequence

from loam.core.errors import ValueRefused

NAME, LINE, NOTE = 120, 1000, 4000
MOST_NAMED = 5
_UNSEEN = frozenset(
    {chr(c) for c in (*range(32), *range(0x7F, 0xA0), 0x2028, 0x2029, 0xFEFF)}
    | {chr(c) for c in (*range(0x202A, 0x202F), *range(0x2066, 0x206A), 0x200E, 0x200F)}
)
_BREAKS = frozenset("\n\t")


def check_text(text: str, what: str, most: int = NAME, *, lines: bool = False) -> str:
    """Return a text that can be shown, kept and read back, else refuse it.

    Parameters
    ----------
    what : str
        What it is, for the refusal: "the name of a panel".
    most : int
        Letters that it may have.
    lines : bool
        Whether it may run over several lines.

    Raises
    ------
    ValueRefused
        When it is too long, or holds letters that cannot be seen.
    """
    if len(text) > most:
        raise ValueRefused(
            f"{what[0].upper()}{what[1:]} has {len(text)} letters; {most} is the most.",
            todo="Shorten it.",
        )
    if text.isascii() and text.isprintable():
        return text
    for letter in text:
        unseen = letter in _UNSEEN and not (lines and letter in _BREAKS)
        if unseen or 0xD800 <= ord(letter) <= 0xDFFF:
            raise ValueRefused(
                f"{what[0].upper()}{what[1:]} holds a letter that cannot be seen"
                f" (U+{ord(letter):04X}).",
                todo="Take it out.",
            )
    return text


def plain(text: str, most: int = NAME) -> str:
    """Return a text without what cannot be seen, for a name that nobody typed (a file's, say)."""
    kept = (c for c in text if c not in _UNSEEN and not 0xD800 <= ord(c) <= 0xDFFF)
    return "".join(kept).strip()[:most].strip()


def listed(names: Sequence[str]) -> str:
    """Join names as spoken: A; A and B; A, B and C."""
    if len(names) <= 1:
        return "".join(names)
    return ", ".join(names[:-1]) + " and " + names[-1]


def some(names: Sequence[str], most: int = MOST_NAMED) -> str:
    """Join names, but say only how many follow the first few of a long list."""
    if len(names) <= most:
        return listed(names)
    return ", ".join(names[: most - 1]) + f" and {len(names) - most + 1} more"
