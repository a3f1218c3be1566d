"""The pages of Judge beside the ranking, in the order in which one asks."""

from __future__ import annotations

from loam.ui.views.judge.aside import Owner
from loam.ui.views.judge.carried_page import CarriedPage
from loam.ui.views.judge.drivers_page import DriversPage
from loam.ui.views.judge.next_page import NextPage
from loam.ui.views.judge.pooled_page import PooledPage
from loam.ui.views.judge.price_page import PricePage
from loam.ui.views.judge.questions import Page
from loam.ui.views.judge.stages_page import StagesPage


class Asides:
    """Makes them."""

    def __init__(self, owner: Owner) -> None:
        self.drivers, self.stages = DriversPage(owner), StagesPage(owner)
        self.price, self.next = PricePage(owner), NextPage(owner)
        self.pooled, self.carried = PooledPage(owner), CarriedPage(owner)

    def in_order(self, priorities: Page, doubts: Page) -> list[Page]:
        """Return all of them."""
        return [
            self.drivers, self.stages, self.price, priorities, self.carried, doubts, self.next,
            self.pooled,
        ]  # fmt: skip
