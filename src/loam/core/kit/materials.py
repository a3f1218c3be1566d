"""Kinds of pad and compound, as far as a combination's mark and words need them."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class PadMaterial:
    """What a pad is made of; ``texture`` is how its mark is drawn."""

    key: str
    label: str
    texture: str
    words: tuple[str, ...]


@dataclass(frozen=True)
class CompoundClass:
    """How coarse a compound is; ``grain`` is the diameter of its mark, 0 to 1."""

    key: str
    label: str
    grain: float
    words: tuple[str, ...]


PADS: tuple[PadMaterial, ...] = (
    PadMaterial(
        "foam-firm", "firm foam", "dots", ("foam-cut", "firm", "foam-firm", "cutting foam")
    ),
    PadMaterial(
        "foam", "medium foam", "sparse", ("foam-polish", "medium", "foam", "polishing foam")
    ),
    PadMaterial(
        "foam-soft", "soft foam", "empty", ("foam-finish", "soft", "finishing", "foam-soft")
    ),
    PadMaterial("microfibre", "microfibre", "slashes", ("microfibre", "microfiber", "denim")),
    PadMaterial("wool", "wool", "waves", ("wool",)),
    PadMaterial("wool-foam", "wool-foam hybrid", "mixed", ("wool-foam", "hybrid")),
)
COMPOUNDS: tuple[CompoundClass, ...] = (
    CompoundClass("fine", "finishing", 0.28, ("fine", "finishing", "finish", "ultrafine")),
    CompoundClass("polish", "polish", 0.48, ("medium", "polish", "one-step")),
    CompoundClass("coarse", "cutting", 0.72, ("coarse", "cut", "cutting", "heavy", "compound")),
)
PAD_BY_KEY = {pad.key: pad for pad in PADS}
COMPOUND_BY_KEY = {compound.key: compound for compound in COMPOUNDS}


def guess(name: str, kinds: tuple[PadMaterial, ...] | tuple[CompoundClass, ...]) -> str:
    """Return the key of the kind whose words a name uses, longest word first; "" if none."""
    low = name.lower()
    found = [(len(w), kind.key) for kind in kinds for w in kind.words if w in low]
    return max(found)[1] if found else ""
