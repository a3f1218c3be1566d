"""How far cells of one combination lie apart: a question from a test, one folder on each side."""

from loam.app.questions.question import Question

QUESTION = Question(__name__, "spread", "Z", "how even")
