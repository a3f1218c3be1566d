"""What to test next."""

from loam.app.questions.question import Question

QUESTION = Question(__name__, "next", "N", "what next")
