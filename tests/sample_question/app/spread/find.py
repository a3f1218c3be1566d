"""How far the cells of a trial lie apart."""

from dataclasses import dataclass

import numpy as np

from loam.core.errors import NotEnough
from loam.core.units import fixed


@dataclass(frozen=True)
class Spread:
    label: str
    sd: float
    cells: int

    def said(self):
        return (f"{self.label.capitalize()}: cells lie {fixed(self.sd, 2)} apart.",)

    def table(self):
        return [["cells", "s.d."], [str(self.cells), fixed(self.sd, 2)]]


def head(asked):
    return f"How even {asked.label} is"


def answer(asked, tell):
    means = list(asked.ranking.means.values())
    if len(means) < 3:
        raise NotEnough("Three cells are needed.", todo="Read more.")
    return Spread(asked.label, float(np.std(means)), len(means))
