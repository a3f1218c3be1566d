"""Every measurand Loam knows. A new one is one file here and one line, or another package's."""

from __future__ import annotations

from collections.abc import Sequence

from loam.core.brought import let_stand
from loam.core.errors import ValueRefused
from loam.core.readings.clarity import CLARITY
from loam.core.readings.defects import DEFECTS
from loam.core.readings.film import FILM, REMOVED
from loam.core.readings.gloss import GLOSS20, GLOSS60, GLOSS85
from loam.core.readings.haze import HAZE
from loam.core.readings.kind import Doubted, ReadingKind, TileLimits
from loam.core.readings.temperature import TEMPERATURE

_KINDS: list[ReadingKind] = [
    GLOSS20,
    GLOSS60,
    GLOSS85,
    HAZE,
    CLARITY,
    FILM,
    REMOVED,
    DEFECTS,
    TEMPERATURE,
]
KINDS: Sequence[ReadingKind] = _KINDS
BY_KEY: dict[str, ReadingKind] = {kind.key: kind for kind in KINDS}


def add(kind: ReadingKind) -> None:
    """Let a measurand of another package stand with those that ship, before anything builds on it.

    Raises
    ------
    ValueRefused
        When it is none, or there is one of its key.
    """
    let_stand(BY_KEY, kind, ReadingKind, "measurand")
    _KINDS.append(kind)


def kind_of(key: str) -> ReadingKind:
    """Return the measurand of that key.

    Raises
    ------
    ValueRefused
        When there is none, naming those that exist.
    """
    try:
        return BY_KEY[key]
    except KeyError:
        raise ValueRefused(
            f"There is no measurand {key!r}.", todo="Known: " + ", ".join(BY_KEY) + "."
        ) from None


__all__ = [
    "BY_KEY",
    "FILM",
    "HAZE",
    "KINDS",
    "REMOVED",
    "TEMPERATURE",
    "Doubted",
    "ReadingKind",
    "TileLimits",
    "add",
    "kind_of",
]
