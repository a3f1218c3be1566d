"""A judgement of one of the demo's trials."""

from loam.app.questions.ranking.find import judge_trial


def judged(session, measurand="gloss20", trial=2):
    return judge_trial(session.workshop.path, trial, measurand, 12)
