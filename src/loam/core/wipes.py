"""Wipes as part of what a cell gets: with what, how often, wet or dry, and how long it flashes off.

Written in tables as ``panel wipe x2 wet 60 s + alcohol mix``.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from loam.core.errors import ValueRefused
from loam.core.text import check_text
from loam.core.units import parse_number

MADE: dict[str, str] = {
    "alcohol": "alcohol mix",
    "panel": "panel wipe",
    "tar": "tar remover",
    "water": "water and soap",
    "other": "something else",
}
FLASH_S: dict[str, float] = {"panel": 60.0, "alcohol": 120.0, "tar": 300.0, "water": 120.0}
"""How long a kind of wipe needs to flash off before anything is read: usual, assumed."""
USUAL_FLASH_S = 120.0
MOST_FLASH_S = 3600.0
WET, DRY = "wet", "dry"
HOWS: dict[str, str] = {WET: "wiped off wet", DRY: "let dry, then wiped off"}
MOST_TIMES = 4
"""Single wipes after one stage, all together."""
JOIN = " + "
_WORDS: dict[str, tuple[str, ...]] = {
    "tar": ("tar", "glue", "adhesive"),
    "alcohol": ("alcohol", "ipa", "isopropyl"),
    "panel": ("panel",),
    "water": ("water", "soap"),
}
_WRITTEN = re.compile(
    r"^(?P<name>.+?)(?:\s+[x×](?P<times>\d{1,2}))?(?:\s+(?P<how>wet|dry))?"
    r"(?:\s+(?P<flash>\d+(?:[.,]\d+)?)\s*s)?$"
)


@dataclass(frozen=True)
class Wipe:
    """A wipe, perhaps several times over.

    Attributes
    ----------
    name : str
        As the shelf has it.
    times : int
        How often, each time with a fresh side of the cloth.
    how : str
        ``wet`` (wiped off while wet), ``dry`` (let dry first) or "" where it is not said.
    flash_s : float or None
        Seconds before anything is read; None: as usual for what it is made of.
    """

    name: str
    times: int = 1
    how: str = ""
    flash_s: float | None = None

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise ValueRefused("A wipe needs a name.", todo="Say with what, like panel wipe.")
        check_text(self.name, "the name of a wipe")
        if not 1 <= self.times <= MOST_TIMES:
            raise ValueRefused(f"A wipe {self.times} times over cannot be: 1 to {MOST_TIMES}.")
        if self.how and self.how not in HOWS:
            raise ValueRefused(f"{self.how[:20]!r} is no way to wipe.", todo="Use wet or dry.")
        if self.flash_s is not None and not 0.0 <= self.flash_s <= MOST_FLASH_S:
            raise ValueRefused(
                f"A flash of {self.flash_s:g} s cannot be: 0 to {MOST_FLASH_S:.0f} s."
            )

    def words(self) -> str:
        """Say it: panel wipe twice, wiped off wet."""
        often = {1: "", 2: " twice"}.get(self.times, f" {self.times} times")
        return f"{self.name}{often}" + (f", {HOWS[self.how]}" if self.how else "")


def made_of(name: str) -> str:
    """Return what a wipe is made of by its name; "" where it does not tell."""
    low = name.casefold()
    for made, words in _WORDS.items():
        if any(re.search(rf"\b{word}", low) for word in words):
            return made
    return ""


def flash_s(wipe: Wipe, made: str = "") -> float:
    """Return how long to wait before reading, s: as said, else as usual for its kind."""
    if wipe.flash_s is not None:
        return wipe.flash_s
    return FLASH_S.get(made or made_of(wipe.name), USUAL_FLASH_S)


def singles(wipes: Iterable[Wipe]) -> list[Wipe]:
    """Return the wipes one by one, in their order: what is read after each is told apart."""
    return [Wipe(w.name, 1, w.how, w.flash_s) for w in wipes for _ in range(w.times)]


def together(wipes: Iterable[Wipe]) -> list[Wipe]:
    """Return single wipes with equal ones that follow each other as one, several times over."""
    found: list[Wipe] = []
    for w in wipes:
        last = found[-1] if found else None
        if last is not None and (last.name, last.how) == (w.name, w.how):
            found[-1] = Wipe(w.name, last.times + w.times, w.how, w.flash_s)
        else:
            found.append(w)
    return found


def check_wipes(wipes: Sequence[Wipe]) -> None:
    """Refuse more wipes than anybody does.

    Raises
    ------
    ValueRefused
    """
    if sum(w.times for w in wipes) > MOST_TIMES:
        raise ValueRefused(f"After a stage is wiped at most {MOST_TIMES} times.")


def said(wipes: Iterable[Wipe]) -> str:
    """Say wipes in their order: alcohol mix, then panel wipe twice."""
    return ", then ".join(w.words() for w in wipes)


def written(wipes: Iterable[Wipe]) -> str:
    """Write wipes so that they read back with `read_wipes`."""
    return JOIN.join(_one(w) for w in wipes)


def _one(w: Wipe) -> str:
    parts = [w.name.replace(JOIN, "+")]
    ends_like_one = _WRITTEN.match(parts[0])
    plain = ends_like_one is None or ends_like_one["name"] == parts[0]
    if w.times > 1 or not plain:
        parts.append(f"x{w.times}")
    if w.how:
        parts.append(w.how)
    if w.flash_s is not None:
        parts.append(f"{w.flash_s:g} s")
    return " ".join(parts)


def read_wipes(text: str) -> tuple[Wipe, ...]:
    """Read wipes as they are typed or stand in a table.

    Raises
    ------
    ValueRefused
        For more than can be, or a figure that cannot.
    """
    found = []
    for part in text.split(JOIN):
        if not part.strip():
            continue
        match = _WRITTEN.match(part.strip())
        assert match is not None  # any text is a name
        flash = match["flash"]
        found.append(
            Wipe(
                match["name"].strip(),
                int(match["times"] or 1),
                match["how"] or "",
                None if flash is None else parse_number(flash),
            )
        )
    check_wipes(found)
    return tuple(found)
