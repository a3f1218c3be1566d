"""What a result costs, in clear or in minutes."""

from loam.app.questions.question import Question

QUESTION = Question(__name__, "price", "C", "what it costs", by_advice=True)
