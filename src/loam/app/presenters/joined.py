"""What joining another bench's file came to, in words."""

from __future__ import annotations

from loam.core.record import counted_words
from loam.core.text import listed
from loam.store.join import Joined

_FIRST = ("reading", "strike", "work", "panel", "combination")
MOST_SORTS = 6


def joined_words(joined: Joined, trial: str) -> str:
    """Say what came, what was taken over, and that there is a way back."""
    if not joined.added and not joined.changed:
        return f"Nothing in the file is new: {trial} has it all."
    order = [
        *(k for k in _FIRST if k in joined.added),
        *(k for k in joined.added if k not in _FIRST),
    ]
    parts = [counted_words(k, joined.added[k]) for k in order]
    if len(parts) > MOST_SORTS:
        parts = [*parts[: MOST_SORTS - 1], f"{len(parts) - MOST_SORTS + 1} more sorts of rows"]
    said = f"Joined to {trial}: {listed(parts)}." if parts else f"Joined to {trial}."
    if joined.changed:
        one = "One thing was" if joined.changed == 1 else f"{joined.changed} things were"
        said += f" {one} taken over as changed there."
    return f"{said} A copy from before is kept (Ctrl+Shift+O)."
