"""The page of a question from a test."""

from loam.app.questions.spread import QUESTION
from loam.ui.views.judge.spread.paint import draw_spread

from loam.ui.views.judge.aside import Aside


class SpreadPage(Aside):
    question = QUESTION
    teaches = "Here stands how even the cells are."

    def show_found(self):
        self.lead.setText(" ".join(self.found.said()))

    def draw(self, painter, area):
        return draw_spread(painter, area, self.found)


PAGE = SpreadPage
