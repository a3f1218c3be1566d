"""A panel's film in sentences."""

from __future__ import annotations

from loam.core.film import Budget, Survey
from loam.core.film.budget import share_words
from loam.core.film.survey import MIN_SPOTS
from loam.core.readings.kind import ReadingKind


def survey_words(found: Survey | None, film: ReadingKind) -> str:
    """Say what a survey shows: spots, mean, spread, the thinnest, and what is unlike the rest."""
    if found is None:
        return f"No spot is read yet: {MIN_SPOTS} at least, the middle and near the corners."
    count = len(found.spots)
    said = f"{count} spot{'s' if count > 1 else ''}: {film.write(found.mean)}"
    if count > 1:
        said += f" ± {film.write_span(found.sd)}"
    said += f" {film.unit}, thinnest {film.write(found.low.film_um)}."
    if not found.enough:
        said += f" {MIN_SPOTS - count} more at least."
    if found.odd:
        for own, why in (
            ([s for s in found.odd if s.film_um > found.mean], "a repaint, or filler?"),
            ([s for s in found.odd if s.film_um <= found.mean], "a thin edge, or polished before?"),
        ):
            each = ", ".join(film.write(s.film_um) for s in own[:4])
            said += f" Unlike the rest: {each} {film.unit}: {why}" if own else ""
    return said


def budget_words(found: Budget, film: ReadingKind) -> str:
    """Say what of the coat is there and what may go."""
    whose = "assumed" if found.assumed else "by its record"
    if found.guess:
        whose = "assumed, as is that there is a clear"
    said = (
        f"{found.coat.capitalize()} {film.write(found.thick)} ± {film.write_span(found.sd)}"
        f" {film.unit}, {whose}; the gauge reads the whole film only."
        f" At the thinnest {film.write(found.low)} {film.unit}: "
    )
    if found.may_go <= 0.0:
        return said + "nothing may go."
    above = " above the primer" if found.coat == "colour" else ""
    share = share_words(found.share)
    return said + (
        f"up to {film.write_span(found.may_go)} {film.unit} may go, {share} of the {found.coat} at"
        f" most, and never below {film.write(found.floor)} {film.unit}{above}."
    )
