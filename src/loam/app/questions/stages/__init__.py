"""What each stage adds."""

from loam.app.questions.question import Question

QUESTION = Question(__name__, "stages", "S", "stages")
