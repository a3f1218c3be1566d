"""The film of a panel: what it was built of, what a survey reads, what clear may go."""

from loam.core.film.budget import Budget, budget
from loam.core.film.build import CLEAR, PAINT, Caution, FilmBuild, cautions, coat_of
from loam.core.film.survey import Spot, Survey, survey, usual_spots

__all__ = [
    "CLEAR",
    "PAINT",
    "Budget",
    "Caution",
    "FilmBuild",
    "Spot",
    "Survey",
    "budget",
    "cautions",
    "coat_of",
    "survey",
    "usual_spots",
]
