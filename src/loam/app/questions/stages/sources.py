"""Where the figures of the stages come from; a spot's key is ``combination:state``."""

from __future__ import annotations

from loam.app.questions.source import Source, Sources
from loam.app.questions.stages.find import StagesOf, StagesPicture
from loam.core.readings import FILM, REMOVED


def of_stages(found: StagesPicture, own: StagesOf) -> Sources:
    """The states of each combination on one hardness, with what was gained to get there."""
    made: Sources = {}
    kind = found.kind
    measurand = FILM.key if kind.key == REMOVED.key else kind.key
    for row in own.rows:
        for k, box in enumerate(row.boxes):
            phases = (box.phase,) if not k else (row.boxes[k - 1].phase, box.phase)
            heading = f"{row.code} on {own.ground}, {box.name}: {box.value or 'not read'}"
            recipe = "Mean of the means of its cells."
            link = row.links[k - 1] if k else None
            if link is not None and link.gain:
                heading += f"; {link.gain} {kind.unit} since {row.boxes[k - 1].name}"
                recipe += (
                    " Gain: mean of the differences within cells that were read in both states;"
                    " interval from one standard deviation over all combinations (t, 90 %;"
                    f" section 20). Seen: surely more than {found.floor}, the meter's limit."
                )
            made[f"{row.code}:{k}"] = (
                Source(heading, recipe, measurand, own.hardness, (row.code,), phases),
            )
    return made
