"""What else moves a reading: time, heat, wear, and makers' claims."""

from loam.app.questions.question import Question

QUESTION = Question(__name__, "carried", "E", "what else")
