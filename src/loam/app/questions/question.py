"""What a question of Judge is, and what it is asked of."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING, Protocol, cast

if TYPE_CHECKING:
    from loam.app.doubting import DoubtSaid
    from loam.app.questions.ranking.picture import RankingPicture
    from loam.core.advice import Advice
    from loam.core.judging import TrialJudgement
    from loam.core.panel import Taping
    from loam.core.priorities import Wish
    from loam.core.trial import Combination, Trial

Tell = Callable[[float], None]
"""Told the share done; may raise to stop."""


@dataclass(frozen=True)
class Asked:
    """What a question is asked of: a trial, and how it was judged.

    Attributes
    ----------
    path : Path
        The file, to be read apart.
    rankings : mapping of str to RankingPicture
        By measurand, those that are judged.
    measurand : str
        The one at hand.
    doubts : (doubts, what was noticed), or None
        None while they are not looked for yet.
    left_out : bool
        Whether cells that were not worked as planned are left out.
    aims : sequence of (name, wish)
        What the workshop may want.
    limits : mapping of str to (float, float)
        What is worth nothing and all, where that was set.
    tapings : mapping of str to Taping
        By hardness, for minutes.
    aim : (name, wish) or None
        What is wanted; None for the measurement at hand alone.
    may_go : float or None
        What may go at the thinnest spot of any panel, µm, where that is known.
    advice : mapping of str to Advice
        What is advised by hardness, as far as that is known: what is said beside it starts there.
    """

    path: Path
    trial: Trial
    rankings: Mapping[str, RankingPicture]
    measurand: str
    combinations: Sequence[Combination]
    doubts: tuple[Sequence[DoubtSaid], Sequence[str]] | None = None
    left_out: bool = False
    when: str = ""
    aims: Sequence[tuple[str, Wish]] = ()
    limits: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    tapings: Mapping[str, Taping] = field(default_factory=dict)
    aim: tuple[str, Wish] | None = None
    may_go: float | None = None
    advice: Mapping[str, Advice] = field(default_factory=dict)

    @property
    def ranking(self) -> RankingPicture:
        """The ranking at hand."""
        return self.rankings[self.measurand]

    @property
    def label(self) -> str:
        """What is ranked."""
        return self.ranking.judgement.kind.label

    @property
    def judged(self) -> dict[str, TrialJudgement]:
        """The judgements, by measurand."""
        return {m: r.judgement for m, r in self.rankings.items()}


class Answer(Protocol):
    """What a question found."""

    def said(self) -> tuple[str, ...]:
        """Return it in words."""
        ...

    def table(self) -> list[list[str]]:
        """Return it as a table, its heading first."""
        ...


class Finder(Protocol):
    """The module ``find`` of a question."""

    def head(self, asked: Asked) -> str:
        """Return what its part of the report is called."""
        ...

    def answer(self, asked: Asked, tell: Tell) -> Answer | None:
        """Find the answer, on a worker; None where the trial does not carry the question.

        Raises
        ------
        LoamError
            Saying what it takes.
        """
        ...


@dataclass(frozen=True)
class Question:
    """A question: its folder, and how it is asked.

    Attributes
    ----------
    place : str
        Its package: the folder of the same name in ``ui.views.judge`` holds its page.
    name : str
        What its job, its table and its picture are called.
    letter, label : str
        Its key, and its words in the row of questions.
    reported : bool
        Whether the report has a part for it.
    judged : bool
        Whether it is asked of a judgement; the others are answered where nothing is judged too.
    drawn : bool
        Whether that part has a picture: ``paint.figures`` draws it.
    by_advice : bool
        Whether it starts from what is advised, so that another aim asks it again.
    """

    place: str
    name: str
    letter: str
    label: str
    reported: bool = True
    judged: bool = True
    drawn: bool = True
    by_advice: bool = False

    @property
    def folder(self) -> str:
        """The folder that it has on both sides."""
        return self.place.rsplit(".", 1)[-1]

    def finder(self) -> Finder:
        """Return what finds its answer."""
        return cast("Finder", import_module(f"{self.place}.find"))
