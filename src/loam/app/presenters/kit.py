"""The kit view: where a combination is used."""

from __future__ import annotations

from loam.app.session import Session
from loam.core.trial import HARDNESSES, Combination
from loam.core.words.result import listed


def usage(session: Session, combination: Combination) -> str:
    """Say on how many cells of which hardness a combination is laid out."""
    hardness = {p.id: p.hardness for p in session.panels()}
    own = [hardness[c.panel_id] for c in session.places() if c.combination_id == combination.id]
    if not own:
        return "Not laid out on any cell yet."
    parts = [f"{own.count(h)} on {h}" for h in HARDNESSES if h in own]
    return f"Laid out on {len(own)} cell{'' if len(own) == 1 else 's'}: {listed(parts)}."
