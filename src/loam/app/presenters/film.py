"""A panel's film: its survey, its layers as they are drawn, its budget, what it asks for."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from loam.app.presenters.budget_rule import rule_of
from loam.app.session import Session
from loam.core.film import Budget, Caution, Spot, Survey, budget, cautions, survey, usual_spots
from loam.core.trial import Panel
from loam.core.words.film import budget_words, survey_words
from loam.store import surveys

NEAR_MM = 20.0
BASE_UM, PRIMER_UM, USUAL_UM = 15.0, 10.0, 100.0
"""Of a base, of a primer at least, and of a whole film that nobody read: assumed."""


@dataclass(frozen=True)
class Layer:
    """One layer of a core sample, from the metal up, µm."""

    name: str
    thickness: float
    assumed: bool


@dataclass(frozen=True)
class FilmState:
    """What is known of a panel's film.

    Attributes
    ----------
    next_spot : (x, y)
        Where to read next, mm.
    """

    survey: Survey | None
    budget: Budget
    layers: tuple[Layer, ...]
    next_spot: tuple[float, float]
    said: str
    budget_said: str
    cautions: tuple[str, ...]


def film_state(
    session: Session, panel: Panel, chosen: tuple[float, float] | None = None
) -> FilmState:
    """Return a panel's film as it stands; ``chosen`` is a spot that was pointed at."""
    spots = surveys.spots(session.workshop.connection, panel.physical) if panel.physical else []
    found = survey(spots)
    allowed = budget(panel.build, found, rule_of(session.workshop.connection, panel))
    film = session.kind("film")
    return FilmState(
        found,
        allowed,
        _layers(panel, found, allowed),
        chosen or _next(panel, spots),
        survey_words(found, film),
        budget_words(allowed, film),
        tuple(c.said for c in cautions_at_hand(session, panel)),
    )


def cautions_at_hand(session: Session, panel: Panel) -> list[Caution]:
    """Return what a panel's build asks for today."""
    days = None
    if panel.build.cured_on:
        cured = date.fromisoformat(panel.build.cured_on)
        days = (session.workshop.clock().date() - cured).days
    return cautions(panel.build, days)


def _next(panel: Panel, spots: list[Spot]) -> tuple[float, float]:
    t = panel.taping
    usual = usual_spots(t.width_mm, t.height_mm, t.margin_mm)
    for x, y in usual:
        if all((s.x_mm - x) ** 2 + (s.y_mm - y) ** 2 > NEAR_MM**2 for s in spots):
            return x, y
    return usual[len(spots) % len(usual)]


def _layers(panel: Panel, found: Survey | None, allowed: Budget) -> tuple[Layer, ...]:
    """Return the layers; what the record does not say is assumed, or what is left of the film."""
    build = panel.build
    above = [Layer(allowed.coat, allowed.thick, allowed.assumed)]
    if not build.single_stage:
        base = build.base_um if build.base_um is not None else BASE_UM
        above.insert(0, Layer("base", base, build.base_um is None))
    primer = build.primer_um
    if primer is None:
        whole = found.mean if found is not None else USUAL_UM
        primer = max(PRIMER_UM, whole - sum(layer.thickness for layer in above))
    return (Layer("primer", primer, build.primer_um is None), *above)
