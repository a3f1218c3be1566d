"""Where a figure comes from: what it is, how it follows, whose readings it rests on."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from loam.app.questions.ranking.picture import RankingPicture
from loam.core.prior import RESIDUAL
from loam.core.readings import REMOVED
from loam.core.trial import AFTER
from loam.core.units import fixed
from loam.core.words.verdict import scale_words, start_notes

Rankings = Mapping[str, RankingPicture]


@dataclass(frozen=True)
class Source:
    """Where a figure comes from: how it follows, and whose readings it rests on.

    Attributes
    ----------
    heading, recipe : str
        What the figure is; its formula and model.
    measurand : str
    hardness : str
        "" for every panel.
    codes : tuple of str
        Combinations.
    phases : tuple of str
        When they were read.
    cells : frozenset of int
        Only these; empty for all.
    trials : mapping of str to tuple of str
        Other trials with the letters that the combinations have there; their readings are listed
        with those of the trial at hand, or (``elsewhere``) in place of them.
    """

    heading: str
    recipe: str
    measurand: str
    hardness: str
    codes: tuple[str, ...]
    phases: tuple[str, ...] = (AFTER,)
    cells: frozenset[int] = frozenset()
    trials: Mapping[str, tuple[str, ...]] = field(default_factory=dict)


Sources = dict[str, tuple[Source, ...]]
"""By the key of a spot."""


def own_source(ranking: RankingPicture, hardness: str, code: str) -> Source:
    """Return where the figure of one combination in a ranking comes from."""
    heading, recipe = _recipe(ranking, hardness, code)
    return Source(heading, recipe, ranking.measurand, hardness, (code,))


def more(source: Source, said: str) -> Source:
    """Return a source whose recipe says more."""
    return replace(source, recipe=f"{source.recipe}{said}")


_SPREADS = (
    ("panel", "panels"),
    ("panel:combination", "a combination from panel to panel"),
    ("operator", "people"),
    ("day", "days"),
    ("cell", "cells"),
    ("trial", "trials"),
    ("trial:combination", "a combination from trial to trial"),
    ("workshop", "workshops"),
    (RESIDUAL, "repeat readings"),
)


def _recipe(ranking: RankingPicture, hardness: str, code: str) -> tuple[str, str]:
    kind, judgement = ranking.kind, ranking.judgement
    found = judgement.on(hardness)
    standing = found.standing(code) if found is not None else None
    if standing is None:
        return f"{code} was not tested on {judgement.ground(hardness)}", ""
    d, f = ranking.decimals, standing.figures
    half, own = 0.5 * (f.high - f.low), 0.5 * (f.own_high - f.own_low)
    heading = (
        f"{code} on {judgement.ground(hardness)}: {kind.label} {fixed(kind.shown(f.estimate), d)}"
        f" ± {fixed(kind.span(half), d)} {kind.unit}"
    )
    recipe = (
        f"Adjusted mean of {standing.readings} readings in {standing.cells} cells, from a mixed"
        f" model of all {judgement.readings} readings (REML likelihood, the variances integrated"
        f" over). The interval (90 %) holds the panels, people and days in it; for comparing on"
        f" {hardness} it is ± {fixed(kind.span(own), d)} {kind.unit}."
    )
    if f.moved:
        recipe += f" Partially pooled; its own readings alone say {fixed(kind.shown(f.plain), d)}."
    words = scale_words(judgement)
    if words:
        recipe += f" It is {words}."
    recipe += "".join(f" {said}" for said in start_notes(judgement))
    factor = kind.span(1.0) if judgement.scale.name == "identity" else 1.0
    spread = [
        f"{said} {judgement.sd[term] * factor:.2g}"
        + (" (assumed)" if term in judgement.assumed else "")
        for term, said in _SPREADS
        if judgement.levels.get(term, 0) > 1 or term == RESIDUAL
    ]
    unit = kind.unit if judgement.scale.name == "identity" else "on that scale"
    recipe += f" Standard deviations, {unit}: " + ", ".join(spread) + "."
    if kind.key == REMOVED.key:
        recipe += f" {kind.label.capitalize()} is film before less film after;"
        recipe += " the film after work is listed."
    return heading, recipe
