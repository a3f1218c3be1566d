"""What drives a result, as drawn and in words, and combinations that were not tried."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from loam.app.questions.question import Asked, Tell
from loam.core.drivers import Drivers, take_apart
from loam.core.errors import NotEnough
from loam.core.judging import ClassJudgement, TrialJudgement
from loam.core.levers import Lever, Untried, levers_of, recipe_columns, untried_of
from loam.core.trial import Combination
from loam.core.words.drivers import briefly_driven, drivers_cares, drivers_sentence, untried_words

MOST_OFFERS = 9


@dataclass(frozen=True)
class DriversOf:
    """One hardness class.

    Attributes
    ----------
    leader : (str, float)
        Who leads, and its place.
    cares : tuple of str
        What these combinations cannot tell apart.
    few : bool
        Whether they are too few to tell what parts do only together.
    """

    hardness: str
    ground: str
    levers: tuple[Lever, ...]
    untried: tuple[Untried, ...]
    leader: tuple[str, float]
    sentence: str
    cares: tuple[str, ...]
    few: bool = False

    @property
    def briefly(self) -> str:
        """What makes the difference, in a few words."""
        return briefly_driven(self.levers, self.few)

    def told(self, untried: Untried, judgement: TrialJudgement) -> str:
        """Say what a combination that was not tried would read, and how it would do."""
        return untried_words(self.hardness, self.leader[0], untried, judgement)


@dataclass(frozen=True)
class DriversPicture:
    """What drives one measurand.

    Attributes
    ----------
    refused : mapping of str to str
        Why a hardness is not taken apart.
    """

    judgement: TrialJudgement
    classes: tuple[DriversOf, ...]
    refused: Mapping[str, str]

    @property
    def offers(self) -> tuple[tuple[DriversOf, Untried], ...]:
        """What was not tried and could be, likeliest first: as many as there are numbers."""
        every = [(own, u) for own in self.classes for u in own.untried]
        return tuple(sorted(every, key=lambda pair: -pair[1].p_ahead)[:MOST_OFFERS])

    def number_of(self, hardness: str, untried: Untried) -> int:
        """Return the number that tries a combination on a hardness; 0 where there is none."""
        return next(
            (
                i
                for i, (own, u) in enumerate(self.offers, 1)
                if own.hardness == hardness and u is untried
            ),
            0,
        )

    def said(self) -> tuple[str, ...]:
        """Return what is said of each hardness, or what it takes to say it."""
        told = {c.hardness: c.sentence for c in self.classes} | dict(self.refused)
        order = [c.hardness for c in self.judgement.classes]
        return tuple(f"{h.capitalize()}: {told[h]}" for h in order if h in told)

    def table(self) -> list[list[str]]:
        """Return it as a table, its heading first."""
        kind, scale = self.judgement.kind, self.judgement.scale
        rows = [
            [
                "hardness",
                "part",
                "level",
                f"{kind.label}, {kind.unit}",
                "low",
                "high",
                "share of the difference",
            ]
        ]
        for own in self.classes:
            for lever in own.levers:
                rows.append([own.hardness, lever.label, "", "", "", "", lever.amount])
                for level in lever.levels:
                    told = [
                        kind.write(float(v), 1)
                        for v in scale.back(np.array([level.place, level.low, level.high]))
                    ]
                    rows.append([own.hardness, lever.label, level.words, *told, ""])
            for u in own.untried:
                told = [
                    kind.write(float(v), 1) for v in scale.back(np.array([u.place, u.low, u.high]))
                ]
                rows.append(
                    [own.hardness, "not tried, predicted", u.combination.words(), *told, ""]
                )
        return rows


def find_drivers(
    judgement: TrialJudgement,
    combinations: Sequence[Combination],
    seed: int,
    told: Callable[[float], None] | None = None,
) -> DriversPicture:
    """Take every hardness apart; made for a worker."""
    by_code = {c.code: c for c in combinations if c.stages}
    classes, refused = [], {}
    count = max(len(judgement.classes), 1)
    for h, found in enumerate(judgement.classes):
        own = [by_code[n] for n in found.columns if n in by_code]
        rng = np.random.default_rng([seed, h, 10])
        try:
            drawn = found.plain[:, [found.columns[c.code] for c in own]]
            drivers = take_apart(
                recipe_columns(own) if own else {},
                drawn,
                rng,
                _part(told, h, count),
            )
        except NotEnough as error:
            refused[found.hardness] = f"{error.what} {error.todo}".strip()
            continue
        classes.append(_one(judgement, found, own, drivers, rng))
    return DriversPicture(judgement, tuple(classes), refused)


def _part(
    told: Callable[[float], None] | None, at: int, count: int
) -> Callable[[float], None] | None:
    """Return what a part of the work tells its own share to."""
    if told is None:
        return None
    return lambda share: told((at + share) / count)


def _one(
    judgement: TrialJudgement,
    found: ClassJudgement,
    own: list[Combination],
    drivers: Drivers,
    rng: np.random.Generator,
) -> DriversOf:
    ranked = levers_of(drivers, own, found.sign, judgement.matters.on_scale)
    means = drivers.means
    tried = [c.code for c in own]
    lead = int((found.sign * means).mean(axis=0).argmax())
    untried = untried_of(drivers, own, lead, found.sign, rng)
    leader = (tried[lead], float(means[:, lead].mean()))
    said = drivers_sentence(judgement, drivers, ranked, found.sign)
    cares = drivers_cares(drivers, len(own))
    few = not bool(drivers.told.all())
    return DriversOf(found.hardness, found.ground, ranked, tuple(untried), leader, said, cares, few)


def head(asked: Asked) -> str:
    """Return what its part of the report is called."""
    return f"What drives {asked.label}"


def answer(asked: Asked, tell: Tell) -> DriversPicture:
    """Take the judgement at hand apart."""
    return find_drivers(asked.ranking.judgement, asked.combinations, asked.trial.seed, tell)
