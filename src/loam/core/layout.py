"""Dealing combinations over cells at random, evenly on every panel."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from loam.core.errors import NotEnough
from loam.core.trial import Cell


@dataclass(frozen=True)
class Dealt:
    """One cell's combination and its place in the run order of its panel."""

    cell_id: int
    combination_id: int
    run_order: int


def deal(
    cells: Sequence[Cell], combination_ids: Sequence[int], rng: np.random.Generator
) -> list[Dealt]:
    """Deal combinations over cells: evenly within every panel, in random places and order.

    Each panel is a complete or nearly complete block: the counts of any two combinations on a
    panel differ by at most one, and over the panels those dealt once more take turns. The run
    order within a panel is random.

    Raises
    ------
    NotEnough
        When there is nothing to deal or nowhere to deal it.
    """
    if not combination_ids:
        raise NotEnough("There is no combination to deal.", todo="Name some first.")
    if not cells:
        raise NotEnough("There is no cell to deal to.", todo="Tape a panel first.")
    dealt: list[Dealt] = []
    total = dict.fromkeys(combination_ids, 0)
    for panel_id in dict.fromkeys(c.panel_id for c in cells):
        own = [c for c in cells if c.panel_id == panel_id]
        whole, rest = divmod(len(own), len(combination_ids))
        shuffled = [combination_ids[int(i)] for i in rng.permutation(len(combination_ids))]
        once_more = sorted(shuffled, key=lambda i: total[i])[:rest]
        hand = list(combination_ids) * whole + once_more
        places = rng.permutation(len(own))
        order = rng.permutation(len(own)) + 1
        for place, combination, run in zip(places, hand, order, strict=True):
            total[combination] += 1
            dealt.append(Dealt(own[int(place)].id, combination, int(run)))
    return dealt
