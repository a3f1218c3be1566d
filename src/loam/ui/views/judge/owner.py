"""What the parts of Judge ask of its view."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from loam.app.commands import Act
from loam.app.questions.question import Asked
from loam.app.questions.ranking.picture import RankingPicture
from loam.app.questions.source import Sources
from loam.app.session import Session
from loam.ui.views.base import Shell
from loam.ui.widgets.fields import Chips
from loam.ui.widgets.scroll_stack import Stack


class Traced(Protocol):
    """A page whose figures open what they rest on."""

    @property
    def letter(self) -> str:
        """Its key."""
        ...

    def sources(self) -> Sources:
        """Return where its figures come from, by the key of their spot."""
        ...

    def renew(self, then: Callable[[], None]) -> None:
        """Work the answer out again, out of sight if need be, then go on."""
        ...


class Owner(Protocol):
    """The view."""

    session: Session
    shell: Shell
    pages: Stack
    kinds: Chips
    rankings: dict[str, RankingPicture]
    refusals: dict[str, str]
    measurand: str

    @property
    def ranking(self) -> RankingPicture | None:
        """The ranking at hand."""
        ...

    @property
    def left_out(self) -> bool:
        """Whether cells that were not worked as planned are left out."""
        ...

    def asked(self) -> Asked | None:
        """Return what a question is asked of; None while the measurand at hand is not judged."""
        ...

    def act(self, command: Act) -> bool:
        """Run a command."""
        ...

    def to_ranking(self) -> None:
        """Go back to the ranking."""
        ...

    def next_kind(self) -> None:
        """Judge by the next measurand."""
        ...

    def trace(self, page: Traced, key: str) -> None:
        """Show the readings behind a figure of a page."""
        ...

    def to_page(self, page: Traced) -> None:
        """Go back to a page whose figure was traced."""
        ...

    def judge_again(self) -> None:
        """Judge anew."""
        ...

    def doubted(self) -> None:
        """What is doubted was found."""
        ...

    def show_turned(self, ranking: RankingPicture) -> None:
        """Show the ranking at hand with other verdicts."""
        ...
