"""What drives a result: pad, compound, machine, passes."""

from loam.app.questions.question import Question

QUESTION = Question(__name__, "drivers", "V", "what drives it")
