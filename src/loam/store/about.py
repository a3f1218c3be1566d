"""How a reading was taken: light, wipe, spot and turn of the meter, times, a photograph's hash."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass

from loam.core.errors import ValueRefused
from loam.store.facts_text import facts_of


@dataclass(frozen=True)
class Taken:
    """How a reading was taken; what is not known is empty.

    Attributes
    ----------
    light : str
        The room's light: out, or on.
    wipe : str
        What was done to the panel last, in words.
    spot : (x, y) or None
        Where in the cell, mm from its middle.
    turn : int or None
        How the meter lay, degrees.
    device_s, host_s : float or None
        The device's own time, and when its line came (seconds since 1970).
    photo : str
        SHA-256 of the photograph that it was measured from.
    """

    light: str = ""
    wipe: str = ""
    spot: tuple[float, float] | None = None
    turn: int | None = None
    device_s: float | None = None
    host_s: float | None = None
    photo: str = ""

    def as_text(self) -> str:
        """Write what is known as JSON; "" when nothing is."""
        known = {k: v for k, v in asdict(self).items() if v not in ("", None)}
        return json.dumps(known, ensure_ascii=False, sort_keys=True) if known else ""


_FIELDS = frozenset(Taken.__dataclass_fields__)


def taken_from(text: str) -> Taken:
    """Read how a reading was taken; what cannot be read counts as not known."""
    known = {k: v for k, v in facts_of(text).items() if k in _FIELDS}
    spot = known.get("spot")
    if isinstance(spot, list):
        known["spot"] = (float(spot[0]), float(spot[1])) if _is_place(spot) else None
    return Taken(**known)


def _is_place(value: list[object]) -> bool:
    return len(value) == 2 and all(isinstance(v, int | float) for v in value)


def check_taken(text: str) -> None:
    """Refuse what is no JSON object, or long.

    Raises
    ------
    ValueRefused
    """
    if not text:
        return
    try:
        fine = isinstance(json.loads(text), dict)
    except (ValueError, RecursionError):
        fine = False
    if not fine:
        raise ValueRefused("how a reading was taken is a small JSON object")
