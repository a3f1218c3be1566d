"""Who works which panel: by lot, shared evenly within each hardness and over the trial."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence

import numpy as np


def share_out(
    hardness: Sequence[str], people: Sequence[str], seed: int, kept: Mapping[int, str]
) -> tuple[str, ...]:
    """Give each panel one person to work it.

    One person works a whole panel, so that what combinations on it differ by is never a
    difference of hands. Within a hardness, and over all, nobody gets two panels more than another
    as far as the panels that stay allow; who gets which is drawn.

    Parameters
    ----------
    hardness : sequence of str
        Of each panel.
    people : sequence of str
        Nobody: every panel is left without a name, but for those that stay.
    kept : mapping of int to str
        Panels that keep their person, counted from 0.
    """
    rng = np.random.default_rng(seed)
    total = Counter(kept.values())
    found = [kept.get(i, "") for i in range(len(hardness))]
    if not people:
        return tuple(found)
    for here in dict.fromkeys(hardness):
        own = [i for i, h in enumerate(hardness) if h == here]
        count = Counter(kept[i] for i in own if i in kept)
        free = [i for i in own if i not in kept]
        for at in rng.permutation(len(free)):
            lot = rng.random(len(people))
            turn = min(
                range(len(people)), key=lambda p: (count[people[p]], total[people[p]], lot[p])
            )
            name = people[turn]
            found[free[int(at)]] = name
            count[name] += 1
            total[name] += 1
    return tuple(found)
