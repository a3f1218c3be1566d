"""Kit of a workshop: kinds of pad and compound, what is known of each thing, a pad's life."""

from loam.core.kit.facts import BY_SORT, SORTS, Fact, Sort, check_facts
from loam.core.kit.life import PadLife, after, last_use, said
from loam.core.kit.materials import (
    COMPOUND_BY_KEY,
    COMPOUNDS,
    PAD_BY_KEY,
    PADS,
    CompoundClass,
    PadMaterial,
    guess,
)

__all__ = [
    "BY_SORT",
    "COMPOUNDS",
    "COMPOUND_BY_KEY",
    "PADS",
    "PAD_BY_KEY",
    "SORTS",
    "CompoundClass",
    "Fact",
    "PadLife",
    "PadMaterial",
    "Sort",
    "after",
    "check_facts",
    "guess",
    "last_use",
    "said",
]
