"""The judgement of a trial: what is said of its combinations, on one hardness after the other.

From readings on the measurand's own scale, with the variances integrated over and the
combinations of a class partially pooled. Everything that is said of a class (chances, ranks,
verdicts, intervals of differences) is counted in one set of draws, so that no two of them can
disagree. The plain REML ranking, for checking against other programs, is `core.judgement`.
"""

from loam.core.judging.judge import judge_readings
from loam.core.judging.result import ClassJudgement, Standing, TrialJudgement

__all__ = ["ClassJudgement", "Standing", "TrialJudgement", "judge_readings"]
