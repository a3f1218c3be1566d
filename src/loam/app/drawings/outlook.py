"""Where the parts of an outlook lie: one ruler, a piece of tape a class."""

from __future__ import annotations

import math
from dataclasses import dataclass

from loam.app.drawings.rect import Rect
from loam.app.presenters.axis import ticks
from loam.app.presenters.outlook import Ahead
from loam.core.readings import ReadingKind
from loam.core.words.outlook import short_amount

TOP, FOOT = 22.0, 24.0
ROW, TIGHT_ROW = 34.0, 26.0
_RATIOS = (1.02, 1.05, 1.1, 1.2, 1.5, 2.0, 3.0, 5.0, 10.0, 30.0, 100.0, 1000.0)


@dataclass(frozen=True)
class Row:
    """One class: its tape covers the differences that stay hidden.

    ``before`` holds the places of what was found in the last trial.
    """

    hardness: str
    tape: Rect | None
    text: str
    enough: bool
    y: float
    before: tuple[float, ...] = ()


@dataclass(frozen=True)
class Ruler:
    """A drawn outlook; places in pixels."""

    rows: tuple[Row, ...]
    left: float
    right: float
    base: float
    meter: Rect
    matters: float | None
    marks: tuple[tuple[float, str], ...]

    @property
    def height(self) -> float:
        """Height of the whole."""
        return self.base + FOOT


def ruler_height(rows: int, scale: float = 1.0, *, tight: bool = False) -> float:
    """Return how high a ruler of so many classes is."""
    return (TOP + (TIGHT_ROW if tight else ROW) * max(rows, 1) + FOOT) * scale


def lay_ruler(
    ahead: Ahead, width: float, label: float, scale: float = 1.0, *, tight: bool = False
) -> Ruler:
    """Lay an outlook out.

    Parameters
    ----------
    width : float
        Room in pixels.
    label : float
        Room for the names of the classes.
    scale : float
        Size of text.
    tight : bool
        Classes close to each other, on a low window.
    """
    known = [o.ahead for o in ahead.outlook if o.ahead is not None]
    most = 1.12 * max([*known, ahead.matters.on_scale, ahead.limit, 1e-9])
    left, right = label, max(width - 6.0, label + 40.0)

    def at(value: float) -> float:
        return left + (right - left) * min(value / most, 1.0)

    rows = []
    top, row = TOP * scale, (TIGHT_ROW if tight else ROW) * scale
    for i, one in enumerate(ahead.outlook):
        y = top + row * i
        tape = text = None
        if one.ahead is not None:
            gap = (3.0 if tight else 5.0) * scale
            tape = Rect(left, y + gap, at(one.ahead) - left, row - 2 * gap)
            text = f"shows over {short_amount(ahead.kind, one.ahead)}"
        good = one.answers
        seen = tuple(at(v) for v in ahead.before.get(one.hardness, ()) if v <= most)
        rows.append(Row(one.hardness, tape, text or "nothing to compare", good, y, seen))
    base = top + row * max(len(rows), 1)
    matters = at(ahead.matters.on_scale) if ahead.matters.on_scale > 0 else None
    meter = Rect(left, top, at(ahead.limit) - left, base - top)
    return Ruler(
        tuple(rows),
        left,
        right,
        base,
        meter,
        matters,
        tuple((at(v), said) for v, said in _marks(ahead.kind, most) if v <= most),
    )


def _marks(kind: ReadingKind, most: float) -> list[tuple[float, str]]:
    """Return round differences along the axis: on the scale, and what they are called."""
    if kind.scale != "identity":
        found = [(0.0, "0")] + [(math.log(r), short_amount(kind, math.log(r))) for r in _RATIOS]
        kept: list[tuple[float, str]] = []
        for value, said in found:
            if value <= most and (not kept or value - kept[-1][0] >= most / 5.0 or value == 0.0):
                kept.append((value, said))
        return kept
    factor = kind.span(1.0)
    _, high, step = ticks(0.0, most * factor, 4)
    count = round(high / step)
    digits = max(0, -math.floor(math.log10(step) + 1e-9))
    marks = [(i * step / factor, f"{i * step:.{digits}f}" if i else "0") for i in range(count + 1)]
    inside = [(v, said) for v, said in marks if v <= most]
    return [*inside[:-1], (inside[-1][0], f"{inside[-1][1]} {kind.unit}")]
