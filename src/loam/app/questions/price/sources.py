"""Where the figures of what it costs come from; a spot's key is ``hardness:combination``."""

from __future__ import annotations

from loam.app.questions.price.find import PricePicture
from loam.app.questions.source import Rankings, Sources, more, own_source
from loam.core.readings import REMOVED
from loam.core.units import percent


def of_price(found: PricePicture, rankings: Rankings) -> Sources:
    """What each combination gives, and the clear that it takes."""
    made: Sources = {}
    gain = rankings.get(found.judgement.measurand)
    removed = rankings.get(REMOVED.key)
    for own in found.classes:
        for p in own.priced:
            cost = found.cost_words(p.cost[0])
            spent = (
                f" It takes {cost} ({found.cost_words(p.cost[1])} to"
                f" {found.cost_words(p.cost[2])}) of {found.of}."
                if p.cost[1] != p.cost[2]
                else f" It takes {cost}: passes as planned."
            )
            if p.beaten_by:
                spent += (
                    f" {p.beaten_by} gives more for less with {percent(p.beaten)} (section 20)."
                )
            both = [r for r in (gain, removed if found.of != "minutes" else None) if r is not None]
            sources = [own_source(r, own.hardness, p.name) for r in both]
            made[f"{own.hardness}:{p.name}"] = tuple(more(s, spent) for s in sources)
    return made
