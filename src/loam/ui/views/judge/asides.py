"""The pages of Judge beside the ranking, in the order in which one asks."""

from __future__ import annotations

from loam.ui.views.judge.aside import Owner
from loam.ui.views.judge.drivers_page import DriversPage
from loam.ui.views.judge.next_page import NextPage
from loam.ui.views.judge.price_page import PricePage
from loam.ui.views.judge.questions import Page


class Asides:
    """Makes them."""

    def __init__(self, owner: Owner) -> None:
        self.drivers, self.price, self.next = DriversPage(owner), PricePage(owner), NextPage(owner)

    def in_order(self, priorities: Page, doubts: Page) -> list[Page]:
        """Return all of them."""
        return [self.drivers, self.price, priorities, doubts, self.next]
