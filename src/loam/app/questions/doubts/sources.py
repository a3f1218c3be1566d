"""Where a doubt comes from."""

from __future__ import annotations

from loam.app.doubting import DoubtSaid
from loam.app.questions.source import Rankings, Source
from loam.app.session import Session
from loam.core.doubts.values import MASKING, SLIP
from loam.core.trial import AFTER, UNWIPED
from loam.core.units import fixed


def of_doubt(said: DoubtSaid, session: Session, rankings: Rankings) -> tuple[Source, ...]:
    """What is doubted: a source a measurand that moves, with the cells that it concerns."""
    doubt = said.doubt
    moved = {c for _, x, _ in doubt.slope for c, v in x.items() if v}
    cells = doubt.cells | moved | {c.id for p in doubt.panels for c in session.cells_of(p)}
    codes = tuple(c.code for c in session.combinations())
    measurands = [e.measurand for e in doubt.evidence if e.measurand in rankings]
    if doubt.kind == SLIP or not measurands:
        measurands = [m for m in rankings][:1]
    found = []
    for m in measurands:
        own = next((e for e in doubt.evidence if e.measurand == m), None)
        recipe = f"p = {doubt.p:.2g}, for all suspects of its kind and all measurands together."
        masked = doubt.kind == MASKING
        if own is not None:
            how = "a covariate beside the combinations, the variances integrated over (section 17)"
            if masked:
                how = "mean of the differences within cells, after the wipe less before it"
                how += " (section 15)"
            recipe += (
                f" {rankings[m].kind.label.capitalize()} moves by"
                f" {fixed(own.moved.estimate, 2)} on its scale, standard error"
                f" {fixed(own.moved.error, 2)}: {how}."
            )
        phases = (UNWIPED, AFTER) if masked else (AFTER,)
        found.append(Source(said.sentence, recipe, m, "", codes, phases, frozenset(cells)))
    return tuple(found)
