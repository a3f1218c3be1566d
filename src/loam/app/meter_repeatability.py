"""What the shelf knows of meters: how well each repeats, typed from its sheet or studied here."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from loam.core.prior import RESIDUAL, Priors
from loam.core.readings import kind_of
from loam.core.stats.prior import Prior
from loam.store import kit

STUDY = "study"
STUDY_DF = 12.0


@dataclass(frozen=True)
class Repeats:
    """How well a meter repeats, by a gauge study of this workshop, in the stored unit."""

    meter: str
    sd: float


def studied(db: sqlite3.Connection, measurand: str) -> Repeats | None:
    """Return what a gauge study here found of a measurand; of several meters the worst.

    Only a study counts: a figure from a sheet is of a tile, not of paint.
    """
    found = []
    for meter in kit.things(db, kit.METER):
        sd = meter.facts.get(f"{measurand}:repeat")
        if meter.facts.get("basis") == STUDY and isinstance(sd, int | float) and sd > 0.0:
            found.append(Repeats(meter.name, float(sd)))
    return max(found, key=lambda r: r.sd, default=None)


def with_study(db: sqlite3.Connection, measurand: str, priors: Priors) -> dict[str, Prior]:
    """Put what a gauge study found in place of what is assumed of repeat readings.

    Only on a plain scale: elsewhere the scatter depends on the level.
    """
    found = studied(db, measurand)
    if found is None or kind_of(measurand).scale != "identity" or RESIDUAL not in priors:
        return dict(priors)
    source = f"a gauge study of {found.meter}"
    return dict(priors) | {RESIDUAL: Prior(found.sd, STUDY_DF, source)}
