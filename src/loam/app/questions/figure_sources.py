"""Where the figures of Judge's pages come from, by the key of their spot in the drawing.

Keys: drivers ``hardness:lever``, ``hardness:lever:level``, ``hardness:+number`` (not tried);
stages ``combination:state``; price and rankings ``hardness:combination``; strands ``label``;
claims as in `claims`.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from loam.app.questions.all_trials.comparing import ComparedPicture
from loam.app.questions.all_trials.find import PooledPicture
from loam.app.questions.doubts.said import DoubtSaid
from loam.app.questions.drivers.find import DriversOf, DriversPicture, Level, untried_words
from loam.app.questions.influences.find import CarriedPicture
from loam.app.questions.next_test.find import NextPicture
from loam.app.questions.price.find import PricePicture
from loam.app.questions.priorities.find import TIME, PrioritiesPicture
from loam.app.questions.ranking.picture import RankingPicture
from loam.app.questions.readings_behind import Source, Sources, own_source
from loam.app.questions.stages.find import StagesOf, StagesPicture
from loam.app.session import Session
from loam.core.doubts.values import MASKING, SLIP
from loam.core.judging import TrialJudgement
from loam.core.readings import FILM, REMOVED, kind_of
from loam.core.trial import AFTER, UNWIPED
from loam.core.units import fixed, percent
from loam.core.verdicts import (
    BETTER,
    CLEARLY_BETTER,
    CLEARLY_WORSE,
    EQUAL,
    OPEN,
    WORSE,
)
from loam.core.words.verdict import counted, listed

Rankings = Mapping[str, RankingPicture]
Letters = Mapping[str, Sequence[tuple[str, str]]]


def of_drivers(found: DriversPicture) -> Sources:
    """Levels, parts, and what was not tried."""
    made: Sources = {}
    measurand = found.judgement.measurand
    for own in found.classes:
        every = _tried(found.judgement, own.hardness)
        for i, lever in enumerate(own.levers):
            made[f"{own.hardness}:{i}"] = (Source(
                f"{lever.label.capitalize()} on {own.ground}: {lever.amount} of the"
                " difference between combinations",
                "Mean over the draws of the variance that this part makes between the combinations"
                f" tried, over the variance of all parts. It makes most of the difference with"
                f" {percent(lever.first)}. {_TAKEN_APART}",
                measurand, own.hardness, every,
            ),)  # fmt: skip
            for k, level in enumerate(lever.levels):
                value = _values(found.judgement, level.place, level.low, level.high)
                made[f"{own.hardness}:{i}:{k}"] = (Source(
                    f"{lever.label.capitalize()}, {level.words}, on {own.ground}: {value}",
                    f"Middle of all combinations and the effect of {_whose(found, level)}, with its"
                    f" 90 % interval from the draws; worked with {listed(level.codes)}."
                    f" {_TAKEN_APART}",
                    measurand, own.hardness, level.codes,
                ),)  # fmt: skip
        made |= _not_tried(found, own, every)
    return made


def _whose(found: DriversPicture, level: Level) -> str:
    if level.alone is None:
        return "this level"
    alone = float(found.judgement.scale.back(np.array([level.alone]))[0])
    told = found.judgement.kind.write(alone, 1)
    return f"both levels and of what they do only together (each alone: {told})"


_TAKEN_APART = (
    "The adjusted means of the judgement, in all its draws, are taken apart into the middle, an"
    " effect of each level, and what levels do only together; each part is partially pooled with a"
    " half-Cauchy prior (Gibbs sampling; section 19)."
)


def _not_tried(found: DriversPicture, own: DriversOf, every: tuple[str, ...]) -> Sources:
    return {
        f"{own.hardness}:+{n}": (Source(
            untried_words(own, u, found.judgement),
            "Predicted: the effects of its levels, and the whole spread of what levels do only"
            f" together, drawn anew. {_TAKEN_APART} These are the readings of what was tried.",
            found.judgement.measurand, own.hardness, every,
        ),)
        for n, u in enumerate(own.untried, 1)
    }  # fmt: skip


def _tried(judgement: TrialJudgement, hardness: str) -> tuple[str, ...]:
    found = judgement.on(hardness)
    return tuple(sorted(found.names)) if found is not None else ()


def _values(judgement: TrialJudgement, *places: float) -> str:
    """Write a place and its interval as measured."""
    kind = judgement.kind
    at, low, high = (kind.write(float(v), 1) for v in judgement.scale.back(np.array(places)))
    return f"{kind.label} {at} ({low} to {high}) {kind.unit}"


def of_stages(found: StagesPicture, own: StagesOf) -> Sources:
    """The states of each combination on one hardness, with what was gained to get there."""
    made: Sources = {}
    kind = kind_of(found.measurand)
    measurand = FILM.key if found.measurand == REMOVED.key else found.measurand
    for row in own.rows:
        for k, box in enumerate(row.boxes):
            phases = (box.phase,) if not k else (row.boxes[k - 1].phase, box.phase)
            heading = f"{row.code} on {own.ground}, {box.name}: {box.value or 'not read'}"
            recipe = "Mean of the means of its cells."
            link = row.links[k - 1] if k else None
            if link is not None and link.gain:
                heading += f"; {link.gain} {kind.unit} since {row.boxes[k - 1].name}"
                recipe += (
                    " Gain: mean of the differences within cells that were read in both states;"
                    " interval from one standard deviation over all combinations (t, 90 %;"
                    f" section 20). Seen: surely more than {found.floor}, the meter's limit."
                )
            made[f"{row.code}:{k}"] = (
                Source(heading, recipe, measurand, own.hardness, (row.code,), phases),
            )
    return made


def of_price(found: PricePicture, rankings: Rankings) -> Sources:
    """What each combination gives, and the clear that it takes."""
    made: Sources = {}
    gain = rankings.get(found.judgement.measurand)
    removed = rankings.get(REMOVED.key)
    for own in found.classes:
        for p in own.priced:
            cost = found.cost_words(p.cost[0])
            spent = (
                f" It takes {cost} ({found.cost_words(p.cost[1])} to"
                f" {found.cost_words(p.cost[2])}) of {found.of}."
                if p.cost[1] != p.cost[2] else f" It takes {cost}: passes as planned."
            )  # fmt: skip
            if p.beaten_by:
                spent += (
                    f" {p.beaten_by} gives more for less with {percent(p.beaten)} (section 20)."
                )
            both = [r for r in (gain, removed if found.of != "minutes" else None) if r is not None]
            sources = [own_source(r, own.hardness, p.name) for r in both]
            made[f"{own.hardness}:{p.name}"] = tuple(_more(s, spent) for s in sources)
    return made


def _more(source: Source, said: str) -> Source:
    return replace(source, recipe=f"{source.recipe}{said}")


def of_carried(found: CarriedPicture, judgement: TrialJudgement) -> Sources:
    """The strands, each on every reading of the measurand, and the claims."""
    codes = tuple(sorted({n for c in judgement.classes for n in c.names}))
    strands = {
        s.label: (Source(
            s.words,
            "Slope of this covariate beside the combinations, in the model of the ranking with the"
            f" variances integrated over, times its range here ({s.trend.least:.4g} to"
            f" {s.trend.most:.4g}); 90 % interval (section 23).",
            judgement.measurand, "", codes,
        ),)
        for s in found.strands if s.trend is not None
    }  # fmt: skip
    return {**strands, **found.claims.sources()}


def of_pooled(found: PooledPicture, here: str) -> Sources:
    """The combinations of all trials as one, with their readings in each trial."""
    made: Sources = {}
    for strip in found.ranking.strips:
        for s in strip.swatches:
            own = own_source(found.ranking, strip.hardness, s.combination)
            codes, trials = _there(found.letters, s.combination, here)
            made[f"{strip.hardness}:{s.combination}"] = (replace(own, codes=codes, trials=trials),)
    return made


def _there(
    letters: Letters, code: str, here: str, only: str = ""
) -> tuple[tuple[str, ...], dict[str, tuple[str, ...]]]:
    """Return a pool's code as the letters of the trial at hand, and of other trials."""
    at: dict[str, tuple[str, ...]] = {}
    for trial, letter in letters.get(code, ()):
        if trial == here or only in ("", trial):
            at[trial] = (*at.get(trial, ()), letter)
    return at.pop(here, ()), at


_HELD = {
    EQUAL: "the same, for what matters", OPEN: "not settled", BETTER: "better, perhaps by less than"
    " matters", WORSE: "worse, perhaps by less than matters", CLEARLY_BETTER: "clearly better",
    CLEARLY_WORSE: "clearly worse",
}  # fmt: skip


def of_compared(found: ComparedPicture, here: str) -> Sources:
    """The combinations that two sides share, with their readings on both."""
    label = found.kind.label
    made: Sources = {}
    for h in found.held:
        first, second = (found.kind.write(found.stored(v), 1) for v in (h.first, h.second))
        trial = found.second in {t for own in found.letters.values() for t, _ in own}
        codes, trials = _there(found.letters, h.combination, here, found.second if trial else here)
        at, rest = ("in", "") if trial else ("on", " What was read on days between is not in it.")
        ground = found.judgement.ground(h.hardness)
        made[f"{h.hardness}:{h.combination}"] = (Source(
            f"{h.combination} on {ground}: {label} {first} {at} {found.first}, {second}"
            f" {at} {found.second}, {found.kind.unit}",
            "Difference of the means of cells, each cell's readings averaged first; 90 % interval"
            f" (t) from the spread of cells on both sides: {_HELD[h.verdict]} (section 22).{rest}",
            found.judgement.measurand, h.hardness, codes, trials=trials,
        ),)  # fmt: skip
    return made


def of_goal(
    found: PrioritiesPicture, hardness: str, code: str, weights: Sequence[float],
    rankings: Rankings,
) -> tuple[Source, ...]:  # fmt: skip
    """What one combination is worth on a hardness: a source a measurand that it rests on."""
    goal = next((g for g in found.goals(hardness, weights) if g.combination == code), None)
    if goal is None:
        return ()
    said = (
        f" Its worth here is {fixed(goal.mean, 2)} ({fixed(goal.low, 2)} to {fixed(goal.high, 2)}),"
        f" best with {percent(goal.p_best)}: weighted geometric mean of what each measurand is"
        f" worth, counted in {found.worths[hardness].shape[0]} draws (section 18). Limits:"
        f" {listed([found.limit(key) for key in found.criteria if key != TIME or found.time])}."
    )
    return tuple(
        _more(own_source(rankings[m], hardness, code), said)
        for m in found.criteria
        if m != TIME and m in rankings
    )


def of_next(found: NextPicture, judgement: TrialJudgement) -> Sources:
    """The advice: it rests on the two combinations that it would settle."""
    made: Sources = {}
    for number, (own, tile) in enumerate(found.tiles, 1):
        a = tile.advice
        made[str(number)] = (Source(
            f"{tile.name.capitalize()} on {own.ground}: settles {listed(own.pair or ())}"
            f" with {percent(a.chance)}",
            f"{counted(len(a.cells)).capitalize()} {'cell' if len(a.cells) == 1 else 'cells'} in"
            f" {a.minutes:.0f} min. The variance of the difference before"
            " and after these cells follows from the model at the fitted variances; the chance is"
            " counted in the judgement's own draws, narrowed by what the cells would show"
            " (section 21).",
            judgement.measurand, own.hardness, own.pair or (),
        ),)  # fmt: skip
    return made


def of_doubt(said: DoubtSaid, session: Session, rankings: Rankings) -> tuple[Source, ...]:
    """What is doubted: a source a measurand that moves, with the cells that it concerns."""
    doubt = said.doubt
    moved = {c for _, x, _ in doubt.slope for c, v in x.items() if v}
    cells = doubt.cells | moved | {c.id for p in doubt.panels for c in session.cells_of(p)}
    codes = tuple(c.code for c in session.combinations())
    measurands = [e.measurand for e in doubt.evidence if e.measurand in rankings]
    if doubt.kind == SLIP or not measurands:
        measurands = [m for m in rankings][:1]
    found = []
    for m in measurands:
        own = next((e for e in doubt.evidence if e.measurand == m), None)
        recipe = f"p = {doubt.p:.2g}, for all suspects of its kind and all measurands together."
        masked = doubt.kind == MASKING
        if own is not None:
            how = "a covariate beside the combinations, the variances integrated over (section 17)"
            if masked:
                how = "mean of the differences within cells, after the wipe less before it"
                how += " (section 15)"
            recipe += (
                f" {rankings[m].kind.label.capitalize()} moves by"
                f" {fixed(own.moved.estimate, 2)} on its scale, standard error"
                f" {fixed(own.moved.error, 2)}: {how}."
            )
        phases = (UNWIPED, AFTER) if masked else (AFTER,)
        found.append(Source(said.sentence, recipe, m, "", codes, phases, frozenset(cells)))
    return tuple(found)
