"""The judging view: what is judged, and how a combination stands, in figures and words."""

from __future__ import annotations

import math
import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from loam.app.presenters.rounds import peek_words, wiped_with
from loam.app.presenters.tiles import doubtful_words
from loam.app.questions.ranking.masked import masked_in
from loam.app.questions.ranking.picture import RankingPicture, draw_up, reference_lines
from loam.app.record import Learnt, record_of
from loam.app.reflection import Light, light_of
from loam.app.session import Session
from loam.app.what_matters import chosen
from loam.app.workshop_kp import losses
from loam.core.dataset import cell_means, source_of
from loam.core.matter import MOST_RATIO, RATIO
from loam.core.readings import FILM, REMOVED, ReadingKind, kind_of
from loam.core.readings.haze import LOG_SCALE, from_log_haze
from loam.core.removal import Known, fit_kp
from loam.core.units import fixed, percent
from loam.core.verdict import judge
from loam.core.verdicts import BETTER, CLEARLY_BETTER, CLEARLY_WORSE, EQUAL, OPEN, WORSE
from loam.core.words.verdict import RELATION_WORDS, about, scope_words, unit_of
from loam.store import noted
from loam.store.database import reading_apart
from loam.store.snapshot import load_snapshot
from loam.store.snapshot_cache import Loader

BEFORE_WIPE = "Ranked before the wipe, to teach: fillers may still mask. B goes back to what stays."


def has_film_pairs(db: sqlite3.Connection, trial_id: int) -> bool:
    """Tell whether film thickness was read before work anywhere in a trial."""
    row = db.execute(
        "SELECT EXISTS (SELECT 1 FROM taping t JOIN cell c ON c.taping_id = t.id"
        " JOIN reading r ON r.cell_id = c.id AND r.measurand = ? AND r.phase = 'before'"
        " WHERE t.trial_id = ? AND t.put_away = 0 AND c.put_away = 0)",
        (FILM.key, trial_id),
    ).fetchone()
    return bool(row[0])


def judge_trial(
    path: Path,
    trial_id: int,
    measurand: str,
    seed: int,
    kind: ReadingKind | None = None,
    *,
    unwiped: bool = False,
    load: Loader = load_snapshot,
    turned: Mapping[str, Any] | None = None,
) -> RankingPicture:
    """Judge one measurand of a trial from its file; made for a worker thread.

    Parameters
    ----------
    unwiped : bool
        On what was read before the wipe, to teach: never what counts.
    turned : mapping, optional
        What is kept under some keys, as it would be; what the workshop keeps otherwise.
    """
    with reading_apart(path) as db:
        record = record_of(db, trial_id, [source_of(measurand)], load, turned)
        names = {c.code: c.name for c in record.snapshot.combinations if c.name}
        verdict = judge(record, Learnt(db, trial_id), measurand, seed=seed, unwiped=unwiped)
        judgement, snapshot = verdict.judgement, verdict.snapshot
        kp: Known = {}
        if measurand == REMOVED.key:
            kp = fit_kp(losses(snapshot, record.done, by_recipe=False))
        notes = noted.of_trial(db, trial_id, noted.ROUND, noted.PEEK, noted.WIPE)
        noted_words = (
            peek_words(notes),
            doubtful_words(db, trial_id, measurand),
        )
    means = cell_means(snapshot.columns, measurand)
    shown = kind or kind_of(measurand)
    picture = draw_up(judgement, shown, names, means)
    wiped = wiped_with(notes, [p.id for p in snapshot.panels])
    masked = None
    if not unwiped:
        masked = masked_in(snapshot, judgement, shown, judgement.repeat, wiped)
    said = (
        *(masked.words if masked is not None else ()),
        *verdict.counting.doubted,
        *verdict.counting.work,
        *filter(None, noted_words),
    )
    trap = " ".join(masked.traps) if masked is not None else ""
    if unwiped:
        trap = BEFORE_WIPE
    return replace(
        picture,
        work=said,
        unlike=verdict.counting.unlike,
        kp=kp,
        masked=masked,
        trap=trap,
        unwiped=unwiped,
        controls=reference_lines(picture, verdict.held),
    )


def kept_matters(session: Session, trial_id: int | None) -> dict[str, float]:
    """Return what a trial, or (None) the workshop, has chosen as what matters."""
    return chosen(session.workshop.connection, trial_id)


def round_matters(ranking: RankingPicture, behind: float) -> float:
    """Turn a length on the scale into a round value of what matters."""
    if ranking.judgement.matters.kind == RATIO:
        return min(max(1.0, round(math.exp(min(behind, 6.0)), 2)), MOST_RATIO)
    kind = ranking.kind
    return float(f"{kind.span(behind):.{max(kind.decimals, 1)}f}") / kind.span(1.0)


@dataclass(frozen=True)
class Figure:
    """One line of the detail sheet: an absolute figure with its whole uncertainty."""

    label: str
    value: str
    unit: str


def figures(ranking: RankingPicture, hardness: str, combination: str) -> list[Figure]:
    """Return what one ranking says of one combination."""
    found = ranking.judgement.on(hardness)
    standing = found.standing(combination) if found is not None else None
    if standing is None:
        return []
    kind, f = ranking.kind, standing.figures
    half = kind.span(0.5 * (f.high - f.low))
    value = f"{fixed(kind.shown(f.estimate), ranking.decimals)} ± "
    return [Figure(kind.label, value + fixed(half, ranking.decimals), kind.unit)]


def kp_words(ranking: RankingPicture, hardness: str, combination: str) -> str:
    """Say what a combination removes per dose; "" where film was not read twice."""
    kp = ranking.kp.get((combination, hardness))
    if kp is None:
        return ""
    digits = 1 if kp.value < 20.0 else 0
    half = fixed(0.5 * (kp.high - kp.low), digits)
    value = f"{fixed(kp.value, digits)} ± {half} nm per kPa m"
    return f"Removal per dose (Kp) {value}, on {kp.cells} cells."


_SEEN_FROM = {
    EQUAL: "as good",
    CLEARLY_BETTER: "clearly ahead",
    BETTER: "ahead, may not matter",
    WORSE: "behind, may not matter",
    CLEARLY_WORSE: "clearly behind",
    OPEN: "not settled",
}


def chance_words(ranking: RankingPicture, hardness: str, combination: str) -> str:
    """Say how likely a combination is the best, its rank, and how it stands to the leader."""
    found = ranking.judgement.on(hardness)
    if found is None:
        return ""
    standing = found.standing(combination)
    if standing is None:
        return f"{combination} was not tested on {hardness}."
    if len(found.standings) == 1:
        return "Nothing to compare it with."
    low, high = standing.rank
    rank = f"rank {low}" if low == high else f"rank {low} to {high}"
    said = f"Best with {percent(standing.p_best)}, {rank}"
    if standing.relation:
        said += f". To {found.leader.combination}: {RELATION_WORDS[standing.look]}"
    return f"{said}."


def standing_lines(
    ranking: RankingPicture, hardness: str, combination: str, most: int = 10_000
) -> list[tuple[str, str, str]]:
    """Compare a combination with the others of its class: who, by about how much, the verdict.

    After ``most`` others the rest is only counted, in a last line.
    """
    found = ranking.judgement.on(hardness)
    own = found.standing(combination) if found is not None else None
    if found is None or own is None:
        return []
    others = [s for s in found.standings if s.combination != combination]
    shown = others if len(others) <= most else others[: most - 1]
    lines = []
    for other in shown:
        gap = own.figures.estimate - other.figures.estimate
        half = own.figures.own_high - own.figures.own_low
        kind = ranking.kind
        amount = about(kind.span(gap), kind.span(0.5 * half), kind.decimals)
        sign = "+" if gap > 0 and not amount.startswith("+") else ""
        pair = found.compare(combination, other.combination)
        said = _SEEN_FROM[pair.verdict]
        if pair.rests and pair.verdict in (BETTER, WORSE):
            word = "ahead" if pair.verdict == BETTER else "behind"
            said = f"{word} {scope_words(pair.rests)}"
        lines.append((other.combination, f"about {sign}{amount} {unit_of(kind)}", said))
    if len(shown) < len(others):
        lines.append(("", "", f"and {len(others) - len(shown)} more, all in the picture"))
    return lines


def reflected(rankings: dict[str, RankingPicture], hardness: str, combination: str) -> Light:
    """Return the light of a combination's readings, of whichever were judged."""

    def mean(key: str) -> float | None:
        ranking = rankings.get(key)
        found = ranking.judgement.on(hardness) if ranking is not None else None
        standing = found.standing(combination) if found is not None else None
        if ranking is None or standing is None:
            return None
        value = standing.figures.estimate
        if ranking.judgement.scale.meter == LOG_SCALE:
            return float(from_log_haze(np.array([value]))[0])
        return value

    return light_of(mean("gloss20"), mean("haze"), mean("defects"))


def ranking_table(ranking: RankingPicture) -> list[list[str]]:
    """Return the ranking as a table, its heading first."""
    d, kind = ranking.decimals, ranking.kind
    head = [
        "hardness",
        "combination",
        f"{ranking.label}, {kind.unit}",
        "low",
        "high",
        "chance of best",
        "rank",
        "to the leader",
        "cells",
        "readings",
    ]
    rows = [
        [
            found.hardness,
            s.combination,
            *(fixed(kind.shown(v), d) for v in (s.figures.estimate, s.figures.low, s.figures.high)),
            percent(s.p_best),
            " to ".join(dict.fromkeys(str(r) for r in s.rank)),
            RELATION_WORDS[s.look],
            str(s.cells),
            str(s.readings),
        ]
        for found in ranking.judgement.classes
        for s in found.standings
    ]
    return [head, *rows]
