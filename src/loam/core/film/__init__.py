"""The film of a panel: what it was built of, what a survey reads, what clear may go."""

from loam.core.film.budget import Budget, budget
from loam.core.film.build import FilmBuild, cautions
from loam.core.film.survey import Spot, Survey, survey, usual_spots

__all__ = [
    "Budget", "FilmBuild", "Spot", "Survey", "budget", "cautions", "survey", "usual_spots",
]  # fmt: skip
