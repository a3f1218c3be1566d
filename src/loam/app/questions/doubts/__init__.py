"""What is doubted, and what it does to the ranking."""

from loam.app.questions.question import Question

QUESTION = Question(__name__, "doubts", "D", "doubts", judged=False, drawn=False)
