"""The advice of a trial: for the aim that is chosen, or for the measurement at hand."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from loam.app.questions.price.find import minutes_of
from loam.app.questions.priorities.find import AIMS, Making, Worthy, needed, worths_of
from loam.app.questions.ranking.picture import RankingPicture
from loam.core.advice import Advice, Wanted, advise, of_measurement, of_worth
from loam.core.priorities import Wish
from loam.core.readings.film import called

Aim = tuple[str, Wish]
__all__ = ["AIMS", "DAILY", "Aim", "Making", "advised", "aim_words", "carried", "kept_aim"]
DAILY: Aim = AIMS[0]
_WORDS = {
    "daily": "for daily work",
    "show": "for a show car",
    "thin coat": "for a thin coat",
    "heavy marks": "for heavy marks",
    "fast turn-over": "for a fast turn-over",
}


def aim_words(name: str) -> str:
    """Say an aim: for daily work."""
    return _WORDS.get(name, f"for {name}")


def kept_aim(kept: object) -> Aim | None:
    """Return the aim that a trial keeps: daily until another is; None for the measurement alone."""
    if kept is None:
        return DAILY
    try:
        name, weights = str(kept[0])[:30], [float(w) for w in kept[1]]  # type: ignore[index]
    except (TypeError, ValueError, IndexError, KeyError):
        return DAILY
    total = sum(weights)
    if not name and not weights:
        return None
    if len(weights) != 4 or min(weights) < 0.0 or not 0.0 < total < float("inf"):
        return DAILY
    w = [x / total for x in weights]
    return name, (w[0], w[1], w[2], w[3])


def carried(rankings: Mapping[str, RankingPicture]) -> bool:
    """Tell whether the trial carries an aim: all that aims are made of is judged."""
    return not needed(rankings)


def advised(
    rankings: Mapping[str, RankingPicture],
    measurand: str,
    aim: Aim | None,
    aims: Sequence[Aim] = AIMS,
    making: Making | None = None,
    limits: Mapping[str, tuple[float, float]] | None = None,
) -> dict[str, Advice]:
    """Return the advice by hardness, for every one that the measurement at hand has.

    Parameters
    ----------
    measurand : str
        The one at hand: it decides where no aim is wanted, or where the trial carries none.
    aim : (name, wish) or None
    """
    ranking, making = rankings[measurand], making or Making()
    judged = {m: r.judgement for m, r in rankings.items()}
    worths = worths_of(judged, making, limits) if aim and carried(rankings) else None
    kinds = {m: called(r.kind, r.judgement.coat) for m, r in rankings.items()}
    by_code = {c.code: c for c in making.combinations}
    unclean = _unclean(rankings)
    found = {}
    for own in ranking.judgement.classes:
        wanted = _wanted(worths, own.hardness, aim)
        others: list[Wanted] = []
        if wanted is None:
            wanted = of_measurement(ranking.judgement, own, ranking.label)
        else:
            others = [
                w
                for a in aims
                if aim is not None and a[0] != aim[0]
                if (w := _wanted(worths, own.hardness, a)) is not None
            ]
        first = by_code.get(wanted.chances[0].combination)
        taping = making.tapings.get(own.hardness)
        minutes = minutes_of(first.stages, taping) if first and first.stages and taping else None
        found[own.hardness] = advise(
            own.hardness, wanted, judged, kinds, ranking.names, others, minutes, unclean
        )
    return found


def _unclean(rankings: Mapping[str, RankingPicture]) -> dict[str, str]:
    """Say of every combination that was read with filler on how much, and what left it."""
    return {
        code: f"About {r.kind.write_span(left.left)} {r.kind.unit} of its {r.kind.short} is filler"
        f" that {left.wipe} left."
        for r in rankings.values()
        if r.masked is not None
        for code, left in r.masked.unclean.items()
    }


def _wanted(worths: Worthy | None, hardness: str, aim: Aim | None) -> Wanted | None:
    if worths is None or aim is None or hardness not in worths.draws:
        return None
    if aim[1][3] > 0.0 and not worths.timed:
        return None
    return of_worth(aim_words(aim[0]), worths.names[hardness], worths.value(hardness, aim[1]))
