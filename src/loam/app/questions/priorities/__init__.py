"""Who wins when several things matter."""

from loam.app.questions.question import Question

QUESTION = Question(__name__, "priorities", "P", "priorities", drawn=False)
