"""Where the figures of what else moves it come from.

A spot's key is the strand's label, or as in `claims`.
"""

from __future__ import annotations

from loam.app.questions.influences.find import CarriedPicture
from loam.app.questions.source import Source, Sources
from loam.core.judging import TrialJudgement


def of_carried(found: CarriedPicture, judgement: TrialJudgement) -> Sources:
    """The strands, each on every reading of the measurand, and the claims."""
    codes = tuple(sorted({n for c in judgement.classes for n in c.names}))
    strands = {
        s.label: (
            Source(
                s.words,
                "Slope of this covariate beside the combinations, in the model of the ranking with"
                f" the variances integrated over, times its range here ({s.trend.least:.4g} to"
                f" {s.trend.most:.4g}); 90 % interval (section 23).",
                judgement.measurand,
                "",
                codes,
            ),
        )
        for s in found.strands
        if s.trend is not None
    }
    return {**strands, **found.claims.sources()}
