"""What one wants decides who wins: a map of finish, removal and clear kept for each hardness."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from loam.app.presenters.price import values
from loam.app.presenters.ranking import RankingPicture
from loam.core.errors import NotEnough
from loam.core.judging import ClassJudgement, TrialJudgement
from loam.core.priorities import Criterion, PriorityMap, priority_map
from loam.core.readings import kind_of
from loam.core.stats.reduce import FloatArray
from loam.core.units import percent
from loam.core.words.verdict import listed

STEPS, MOST_DRAWS = 20, 1024
CORNERS = ("finish", "removal", "clear kept")
MEASURANDS: dict[str, tuple[str, ...]] = {
    "finish": ("gloss20", "haze"), "removal": ("defects",), "clear kept": ("removed",),
}  # fmt: skip
"""What each corner rests on; gloss and haze count alike."""
AIMS: tuple[tuple[str, tuple[float, float, float]], ...] = (
    ("daily", (0.4, 0.3, 0.3)), ("show", (0.7, 0.2, 0.1)), ("thin clear", (0.2, 0.1, 0.7)),
    ("heavy marks", (0.2, 0.7, 0.1)),
)  # fmt: skip


@dataclass(frozen=True)
class PrioritiesPicture:
    """The map of each hardness, and on what limits it rests.

    Attributes
    ----------
    maps : mapping of str to PriorityMap
        By hardness; weights in the order of `CORNERS`.
    limits : tuple of str
        What is worth nothing and all, in words.
    left_out : tuple of str
        Hardness classes that lack one of the measurands.
    """

    maps: Mapping[str, PriorityMap]
    limits: tuple[str, ...]
    left_out: tuple[str, ...]


def needed(rankings: Mapping[str, RankingPicture]) -> list[str]:
    """Return the measurands that a map needs and that are not judged."""
    least = ("gloss20", "defects", "removed")
    return [m for m in least if m not in rankings]


def draw_map(judged: Mapping[str, TrialJudgement]) -> PrioritiesPicture:
    """Map who wins where; made for a worker.

    Raises
    ------
    NotEnough
        When no hardness has all three.
    """
    used = [m for corner in CORNERS for m in MEASURANDS[corner] if m in judged]
    criteria = {m: _criterion(judged[m]) for m in used}
    maps, left_out = {}, []
    for found in judged[used[0]].classes if used else ():
        one = _of_class(found.hardness, judged, criteria)
        if one is None:
            left_out.append(found.hardness)
        else:
            maps[found.hardness] = one
    if not maps:
        raise NotEnough(
            "Who wins for which priority needs gloss, defects removed, and film before and after"
            " work, of two combinations at least.",
            todo="Ask (F2) adds what is read.",
        )
    return PrioritiesPicture(maps, tuple(_limit(judged[m], criteria[m]) for m in used),
                             tuple(left_out))  # fmt: skip


def _criterion(judged: TrialJudgement) -> Criterion:
    """Return limits on the scale: what matters beyond the worst and the best of the trial."""
    values = [
        float(judged.scale.to(np.array([s.figures.estimate]))[0])
        for found in judged.classes
        for s in found.standings
    ]
    wide = abs(judged.matters.on_scale)
    low, high = min(values) - wide, max(values) + wide
    nothing, full = (low, high) if judged.higher_is_better else (high, low)
    return Criterion(judged.measurand, nothing, full)


def _limit(judged: TrialJudgement, criterion: Criterion) -> str:
    kind = kind_of(judged.measurand)
    nothing, full = (
        float(v) for v in judged.scale.back(np.array([criterion.nothing, criterion.full]))
    )
    return f"{kind.label} {kind.write(nothing)} (nothing) to {kind.write(full)} {kind.unit} (all)"


def _of_class(
    hardness: str, judged: Mapping[str, TrialJudgement], criteria: Mapping[str, Criterion]
) -> PriorityMap | None:
    here = {m: judged[m].on(hardness) for m in criteria}
    known = {m: c for m, c in here.items() if c is not None}
    if any(not any(m in known for m in MEASURANDS[corner]) for corner in CORNERS):
        return None
    names = [n for n in next(iter(known.values())).names if all(n in c.columns for c in
                                                                known.values())]  # fmt: skip
    if len(names) < 2:
        return None
    worth = []
    for corner in CORNERS:
        own = [m for m in MEASURANDS[corner] if m in known]
        each = [
            criteria[m].worth(_values(known[m], judged[m], names, i)) for i, m in enumerate(own)
        ]
        worth.append(np.exp(np.mean([np.log(np.maximum(w, 1e-12)) for w in each], axis=0)))
    return priority_map(np.stack(worth, axis=-1), names, STEPS)


def _values(
    found: ClassJudgement, judged: TrialJudgement, names: list[str], turn: int
) -> FloatArray:
    """Return draws of the combinations on the scale, (D, K); measurands vary independently."""
    rng = np.random.default_rng([turn, len(names), sum(map(ord, judged.measurand))])
    return values(judged, found, names)[rng.permutation(found.draws.shape[0])[:MOST_DRAWS]]


def point_words(found: PriorityMap, at: int) -> str:
    """Say who wins at a point, and how surely."""
    order = np.argsort(-found.chance[at])
    first = f"{found.names[order[0]]} wins here with {percent(float(found.chance[at, order[0]]))}"
    rest = [
        f"{found.names[k]} {percent(float(found.chance[at, k]))}"
        for k in order[1:3]
        if found.chance[at, k] >= 0.05
    ]
    return f"{first}, then {listed(rest)}." if rest else f"{first}."


def share_words(found: PriorityMap) -> str:
    """Say how much of all priorities each wins, and for whom it is right."""
    share = found.share()
    parts: list[str] = []
    for k in np.argsort(-share):
        if share[k] < 0.02:
            continue
        central = found.central(int(k))
        most = int(central.argmax())
        where = central[most] > 0.4
        if parts:
            said = f"{found.names[k]} {percent(float(share[k]))}"
            said += f" ({CORNERS[most]})" if where else ""
        else:
            said = f"{found.names[k]} wins {percent(float(share[k]))} of all priorities"
            said += f", above all where {CORNERS[most]} matters" if where else ""
        parts.append(said)
    return "; ".join(parts) + "."


def weight_words(weights: FloatArray) -> str:
    """Say a point."""
    said = ", ".join(
        f"{name} {percent(float(w))}" for name, w in zip(CORNERS, weights, strict=True)
    )
    return said[0].upper() + said[1:]
