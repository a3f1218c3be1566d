"""The pages of Judge beside the ranking, in the order in which one asks; each built when it is."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property
from typing import TYPE_CHECKING

from loam.ui.views.judge.questions import Offer, Page

if TYPE_CHECKING:
    from loam.ui.views.judge.all_trials.page import PooledPage
    from loam.ui.views.judge.aside import Owner
    from loam.ui.views.judge.drivers.page import DriversPage
    from loam.ui.views.judge.influences.page import CarriedPage
    from loam.ui.views.judge.next_test.page import NextPage
    from loam.ui.views.judge.price.page import PricePage
    from loam.ui.views.judge.stages.page import StagesPage


class Asides:
    """Builds them."""

    def __init__(self, owner: Owner) -> None:
        self.owner = owner

    @cached_property
    def drivers(self) -> DriversPage:
        """What drives it."""
        from loam.ui.views.judge.drivers.page import DriversPage

        return DriversPage(self.owner)

    @cached_property
    def stages(self) -> StagesPage:
        """What each stage adds."""
        from loam.ui.views.judge.stages.page import StagesPage

        return StagesPage(self.owner)

    @cached_property
    def price(self) -> PricePage:
        """What it costs."""
        from loam.ui.views.judge.price.page import PricePage

        return PricePage(self.owner)

    @cached_property
    def next(self) -> NextPage:
        """What to test next."""
        from loam.ui.views.judge.next_test.page import NextPage

        return NextPage(self.owner)

    @cached_property
    def pooled(self) -> PooledPage:
        """All trials."""
        from loam.ui.views.judge.all_trials.page import PooledPage

        return PooledPage(self.owner)

    @cached_property
    def carried(self) -> CarriedPage:
        """What else moves it."""
        from loam.ui.views.judge.influences.page import CarriedPage

        return CarriedPage(self.owner)

    def in_order(self, priorities: Page, doubts: Page) -> Sequence[Offer]:
        """Return all of them, with their letters."""
        return [
            ("V", "what drives it", lambda: self.drivers),
            ("S", "stages", lambda: self.stages),
            ("C", "what it costs", lambda: self.price),
            (priorities.letter, priorities.label, lambda: priorities),
            ("E", "what else", lambda: self.carried),
            (doubts.letter, doubts.label, lambda: doubts),
            ("N", "what next", lambda: self.next),
            ("A", "all trials", lambda: self.pooled),
        ]
