"""How much compound a pad takes: by its area, more on a fresh one.

The trade's usual figures, assumed: 0.15 to 0.25 g for each 1,000 mm² of a primed pad, half as much
again on a fresh one; put on in dots about six tenths of that, fresh or not; a drop is about 0.25 g.
"""

from __future__ import annotations

import math

GRAMS_PER_MM2 = 0.2e-3
FRESH = 1.5
IN_DOTS = 0.6
DROP_G = 0.25
USUAL_PAD_MM = 125.0


def grams(pad_mm: float | None, primed: float | None = None, *, fresh: bool = False) -> float:
    """Return the compound for a set on a pad, g; a pad whose size nobody said is a usual one.

    ``primed`` is 1 for compound spread over the pad, 0 for dots; None is as usual, spread.
    """
    radius = 0.5 * (pad_mm or USUAL_PAD_MM)
    dotted = primed is not None and not primed
    more = IN_DOTS if dotted else FRESH if fresh else 1.0
    return math.pi * radius**2 * GRAMS_PER_MM2 * more


def drops(pad_mm: float | None, primed: float | None = None, *, fresh: bool = False) -> int:
    """Return the same in drops, two at least."""
    return max(2, round(grams(pad_mm, primed, fresh=fresh) / DROP_G))
