"""What the eye still sees."""

from loam.app.questions.question import Question

QUESTION = Question(__name__, "seen", "I", "what the eye sees", judged=False)
