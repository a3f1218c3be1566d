"""All trials of the workshop as one, and two sides held against each other."""

from loam.app.questions.question import Question

QUESTION = Question(__name__, "pooled", "A", "all trials", reported=False)
