"""A goal in place of a measurand: the same ranking, of what combinations are worth for it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from loam.app.questions.priorities.find import TIME, PrioritiesPicture
from loam.app.questions.ranking.picture import RankingPicture, draw_up
from loam.core.judging import ClassJudgement
from loam.core.judging.goal import GOAL, MATTERS, Worths, judge_goal
from loam.core.priorities import overall
from loam.core.readings.kind import ReadingKind
from loam.core.words.verdict import listed

WORTH_KIND = ReadingKind(
    GOAL, "worth, 0 to 1", "worth", "", 2, 0.0, 1.0, True, 0.0, (), matters=MATTERS.value
)


def goal_ranking(
    found: PrioritiesPicture, weights: Sequence[float], names: Mapping[str, str] | None = None
) -> RankingPicture:
    """Rank every hardness of a map for the weights of finish, removal and clear kept (3,)."""
    worths = []
    for hardness, own in found.maps.items():
        classes = [c for m in found.judged.values() if (c := m.on(hardness)) is not None]
        cells, readings = zip(*(_sizes(classes, n) for n in own.names), strict=True)
        worths.append(
            Worths(
                hardness,
                own.names,
                overall(found.worths[hardness], found.wish(hardness, weights)),
                cells,
                readings,
                max(c.panels for c in classes),
                tuple(sorted({n for c in classes for n in c.names} - set(own.names))),
            )
        )
    picture = draw_up(judge_goal(worths), WORTH_KIND, names)
    return replace(picture, notes=())


def _sizes(classes: Sequence[ClassJudgement], name: str) -> tuple[int, int]:
    """Cells of the measurand that has fewest, and readings of all."""
    standings = [s for c in classes if (s := c.standing(name)) is not None]
    return min(s.cells for s in standings), sum(s.readings for s in standings)


def goal_caption(found: PrioritiesPicture) -> str:
    """Say how the ranking of a goal is read."""
    wanted = listed([found.limit(key) for key in found.criteria if key != TIME or found.time])
    return (
        f"Worth from 0 to 1: {wanted}; together the weighted geometric mean. Pale strip: up to"
        f" {MATTERS.value:g} of worth behind the leader does not matter (assumed). Bars: 90 %"
        " intervals for comparing; what is read is taken to vary independently."
    )
