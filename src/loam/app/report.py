"""The report of a trial: what was asked, how it was done, what came out, what is doubted."""

from __future__ import annotations

import platform
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from importlib.metadata import version
from pathlib import Path
from typing import Protocol

import loam
from loam.app.questions.doubts.find import doubts_of
from loam.app.questions.doubts.noticed import noticed
from loam.app.questions.doubts.said import DoubtSaid
from loam.app.questions.drivers.find import find_drivers
from loam.app.questions.influences.find import find_influences
from loam.app.questions.next_test.find import find_next
from loam.app.questions.price.find import CLEAR, MINUTES, find_price
from loam.app.questions.priorities.find import AIMS, Making, Wish, find_map, needed, with_time
from loam.app.questions.ranking.find import ranking_table
from loam.app.questions.ranking.picture import RankingPicture, caption
from loam.app.questions.stages.find import find_stages
from loam.app.record import applied
from loam.core.errors import LoamError
from loam.core.judging import TrialJudgement
from loam.core.panel import Taping
from loam.core.readings import REMOVED, kind_of
from loam.core.record.panel_facts import PANEL_FACTS
from loam.core.trial import Combination, Trial
from loam.core.units import fixed, percent
from loam.core.words.verdict import listed, matters_words
from loam.store import decisions
from loam.store.database import reading_apart
from loam.store.decisions import decision_words
from loam.store.draft import TrialDraft
from loam.store.take_out import read_draft

FAULTS = (ArithmeticError, ValueError, LookupError, TypeError, AttributeError)
"""Faults of one part, which then says so; the others stand."""
CAUTION = (
    "Usual cautions apply: follow the products' safety data sheets, local rules and qualified"
    " practice. An ordinary gauge reads the whole film, so what is said of the coat rests on"
    " an assumption."
)


class _Answer(Protocol):
    """What a page of Judge found."""

    def said(self) -> tuple[str, ...]:
        """Return it in words."""
        ...

    def table(self) -> list[list[str]]:
        """Return it as a table, its heading first."""
        ...


@dataclass(frozen=True)
class Table:
    """Numbers: a short name for a file, a title, and rows with their heading first."""

    name: str
    title: str
    rows: Sequence[Sequence[str]]


@dataclass(frozen=True)
class Section:
    """A part of the report.

    Attributes
    ----------
    picture : str
        Key of a picture that belongs here; "" for none.
    """

    head: str
    words: tuple[str, ...]
    tables: tuple[Table, ...] = ()
    picture: str = ""


@dataclass(frozen=True)
class Report:
    """A whole report, and what its pictures are drawn from."""

    title: str
    when: str
    sections: tuple[Section, ...]
    pictures: Mapping[str, object]
    failed: tuple[BaseException, ...] = ()
    """Faults of parts that could not be worked out; each part says so."""

    def tables(self) -> list[Table]:
        """Return every table."""
        return [t for s in self.sections for t in s.tables]


@dataclass(frozen=True)
class Told:
    """What the window knows when a report is asked for.

    Attributes
    ----------
    doubts : (doubts, what was noticed), or None
        None while they are not looked for yet: the report looks itself.
    """

    path: Path
    trial: Trial
    rankings: Mapping[str, RankingPicture]
    measurand: str
    combinations: Sequence[Combination]
    doubts: tuple[Sequence[DoubtSaid], Sequence[str]] | None
    left_out: bool
    when: str
    aims: Sequence[tuple[str, Wish]] = AIMS
    limits: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    tapings: Mapping[str, Taping] = field(default_factory=dict)


def make_report(told: Told, tell: Callable[[float], None] = lambda _share: None) -> Report:
    """Put a report together; made for a worker.

    Parameters
    ----------
    tell : callable
        Told the share done, up to a half; may raise to stop.
    """
    with reading_apart(told.path) as db:
        draft = read_draft(db, told.trial.id)
        on = applied(db, told.trial.id)
        decided = decision_words(decisions.of_trial(db, told.trial.id))
    pictures: dict[str, object] = {}
    failed: list[BaseException] = []
    judged = {m: r.judgement for m, r in told.rankings.items()}
    sections = [
        Section("The question", (told.trial.question or told.trial.name, *_note(told.trial))),
        _results(told, pictures),
        *(_ranking(told, m, pictures) for m in told.rankings),
        *_asides(told, judged, pictures, tell, failed),
        *_goals(told, judged),
        _doubts(told, on, failed),
        *([Section("Decided while judging", decided)] if decided else []),
        _layout(told, draft),
        _method(told, judged, draft),
        Section("Made with", (
            f"Loam {loam.__version__}, Python {platform.python_version()}, NumPy"
            f" {version('numpy')}, SciPy {version('scipy')}. Seed {told.trial.seed}: the same"
            " readings give the same figures.", CAUTION,
        )),
    ]  # fmt: skip
    return Report(told.trial.name, told.when, tuple(sections), pictures, tuple(failed))


def _note(trial: Trial) -> tuple[str, ...]:
    return (trial.note,) if trial.note else ()


def _results(told: Told, pictures: dict[str, object]) -> Section:
    said = [
        f"{r.label.capitalize()}: {r.sentence}" + (f" {r.trap}" if r.trap else "")
        for r in told.rankings.values()
    ]
    return Section("The result", tuple(said) or ("Nothing can be ranked yet.",))


def _ranking(told: Told, measurand: str, pictures: dict[str, object]) -> Section:
    ranking = told.rankings[measurand]
    key = f"ranking:{measurand}"
    pictures[key] = ranking
    pairs = _pairs(ranking.judgement)
    return Section(
        ranking.label.capitalize(),
        (ranking.sentence, caption(ranking), *ranking.notes, *ranking.work),
        (
            Table(f"ranking_{measurand}", f"Ranking, {ranking.label}", ranking_table(ranking)),
            Table(f"pairs_{measurand}", f"Every pair, {ranking.label}", pairs),
        ),
        key,
    )


def _pairs(judgement: TrialJudgement) -> list[list[str]]:
    rows = [["hardness", "a", "b", "a less b, on the scale", "low", "high", "chance better",
             "chance same", "chance clearly better", "verdict"]]  # fmt: skip
    for found in judgement.classes:
        names = found.names
        for i, a in enumerate(names):
            for b in names[i + 1 :]:
                c = found.compare(a, b)
                figures = (c.estimate, c.low, c.high, c.p_better, c.p_same, c.p_clear)
                told = ("" if v is None else f"{v:.4f}" for v in figures)
                rows.append([found.hardness, a, b, *told, c.verdict])
    return rows


def _asides(
    told: Told, judged: Mapping[str, TrialJudgement], pictures: dict[str, object],
    tell: Callable[[float], None], failed: list[BaseException],
) -> list[Section]:  # fmt: skip
    """What drives it, stages, price, what else, what next: each where there is one."""
    at, trial = told.measurand, told.trial
    if at not in judged:
        return []
    own, removed = judged[at], judged.get(REMOVED.key)
    gain = own if at != REMOVED.key else judged.get("gloss20", own)
    spent = CLEAR if removed is not None and gain is not removed else MINUTES
    label = own.kind.label
    tries: tuple[tuple[str, str, Callable[[], _Answer]], ...] = (
        ("drivers", f"What drives {label}",
         lambda: find_drivers(own, told.combinations, trial.seed, lambda s: tell(0.3 * s))),
        ("stages", f"What each stage adds to {label}",
         lambda: find_stages(told.path, trial.id, judged, at)),
        ("price", f"What {gain.kind.label} costs in {spent if spent == MINUTES else gain.coat}",
         lambda: find_price(told.path, trial.id, gain, removed, told.combinations, spent)),
        ("carried", f"What else moves {label}",
         lambda: find_influences(told.path, trial.id, judged, at, told.rankings[at].masked,
                              trial.seed)),
        ("next", "What to test next",
         lambda: find_next(told.path, trial, own, told.combinations, told.rankings[at].kind)),
    )  # fmt: skip
    sections = []
    for i, (key, head, make) in enumerate(tries):
        tell(0.3 + 0.04 * i if i else 0.0)
        try:
            found = make()
        except LoamError as error:
            sections.append(Section(head, (f"{error.what} {error.todo}".strip(),)))
            continue
        except FAULTS as error:
            failed.append(error)
            sections.append(Section(head, (_failure(error),)))
            continue
        pictures[key] = found
        table = Table(key, head, found.table())
        sections.append(Section(head, found.said(), (table,), key))
    return sections


def _failure(error: BaseException) -> str:
    return f"This part could not be worked out ({type(error).__name__}). The rest stands."


def _goals(told: Told, judged: Mapping[str, TrialJudgement]) -> list[Section]:
    """Who wins for the named aims; nothing where the trial does not carry it."""
    making = Making(told.combinations, told.tapings)
    try:
        base = find_map(judged, making, 0.0, told.limits) if not needed(told.rankings) else None
    except LoamError:
        base = None
    if base is None:
        return []
    rows = [["aim", *base.corners, "time", "hardness", "combination", "worth, 0 to 1", "low",
             "high", "chance to win"]]  # fmt: skip
    said = []
    for name, wish in told.aims:
        found = with_time(base, wish[3])
        winners = []
        for hardness in found.maps:
            goals = found.goals(hardness, wish[:3])
            first = goals[0]
            winners.append(f"{first.combination} on {hardness} ({percent(first.p_best)})")
            rows += [
                [name, *(percent(w) for w in wish), hardness, g.combination,
                 *(fixed(v, 2) for v in (g.mean, g.low, g.high)), percent(g.p_best)]
                for g in goals
            ]  # fmt: skip
        said.append(f"{name.capitalize()}: {listed(winners)}.")
    said.append(f"Worth: {'; '.join(base.limits)}; together the weighted geometric mean. What is"
                " read is taken to vary independently.")  # fmt: skip
    return [Section("Priorities", tuple(said),
                    (Table("priorities", "Worth for each aim", rows),))]  # fmt: skip


def _doubts(told: Told, on: Mapping[str, object], failed: list[BaseException]) -> Section:
    try:
        doubts, seen = told.doubts or (
            doubts_of(told.path, told.trial.id, told.trial.seed), noticed(told.path, told.trial.id)
        )  # fmt: skip
    except (LoamError, *FAULTS) as error:
        if not isinstance(error, LoamError):
            failed.append(error)
        return Section("Doubts", (f"Doubts could not be looked for: {error}",))
    said = [f"Noticed while it was worked and read: {s}" for s in seen]
    for d in doubts:
        state = " It is taken into account." if d.key in on else ""
        said.append(f"{d.sentence} {d.effect}{state}")
    if told.left_out:
        said.append("What was not worked as planned is left out.")
    rows = [["kind", "subject", "p", "sentence", "effect"]]
    rows += [[d.doubt.kind, d.subject, f"{d.doubt.p:.2g}", d.sentence, d.effect]
             for d in doubts]  # fmt: skip
    return Section(
        "Doubts",
        tuple(said) or ("Nothing in the readings is doubted, as far as so many can tell.",),
        (Table("doubts", "Doubts", rows),),
    )  # fmt: skip


def _layout(told: Told, draft: TrialDraft) -> Section:
    codes = {c.id: c.code for c in draft.combinations}
    by_panel: dict[int, Counter[str]] = {}
    for cell in draft.cells:
        code = codes.get(cell.combination_id or 0)
        if code:
            by_panel.setdefault(cell.panel_id, Counter())[code] += 1
    facts = [f for f in PANEL_FACTS if any(p.facts.get(f.key) for p in draft.panels)]
    rows = [["panel", "hardness", "paint", "rows", "columns", "cell, mm", "combinations",
             *(f.label.lower() for f in facts)]]  # fmt: skip
    for p in draft.panels:
        t = p.taping
        own = " ".join(f"{k}×{n}" for k, n in sorted(by_panel.get(p.id, Counter()).items()))
        rows.append([p.name, p.hardness, p.paint, str(t.rows), str(t.columns),
                     f"{t.cell_width_mm:.0f} × {t.cell_height_mm:.0f}", own,
                     *(f.write(p.facts.get(f.key)) for f in facts)])  # fmt: skip
    made = [["combination", "name", "recipe"]]
    made += [[c.code, c.name, c.words()] for c in told.combinations]
    count = sum(sum(c.values()) for c in by_panel.values())
    said = (
        f"{count} cells on {len(draft.panels)} panels, laid out in random places and order within"
        f" the rules of the trial, seed {told.trial.seed}."
    )
    return Section("Layout", (said,), (
        Table("panels", "Panels", rows), Table("combinations", "Combinations", made),
    ))  # fmt: skip


def _method(told: Told, judged: Mapping[str, TrialJudgement], draft: TrialDraft) -> Section:
    people, strikes, days = _people(draft)
    read = listed([kind_of(m).label for m in told.trial.measurands])
    said = [f"Read: {read}, {told.trial.readings_per_cell} readings a cell."]
    if people:
        said.append(f"People: {listed(list(people))}.")
    if days:
        said.append(f"Days: {listed(list(days))}.")
    said.append(
        "Model: combination within hardness, the reading before work where there is one;"
        " panel, combination on a panel, person, day and cell random, their variances integrated"
        " over with stated priors; ranks from draws in which the combinations of a hardness are"
        " partially pooled. Intervals are of 90 %."
    )
    for j in judged.values():
        kind = j.kind
        chosen = f"{matters_words(j.matters, kind)} ({j.matters.source})"
        said.append(f"What matters in {kind.label}: {chosen}.")
    said.append(f"{strikes} readings were struck out; they are in the file with their reasons.")
    rows = [["measurand", "term", "standard deviation, on the scale", "degrees of freedom",
             "assumed"]]  # fmt: skip
    for j in judged.values():
        for term, sd in j.sd.items():
            rows.append([j.measurand, term, f"{sd:.4f}", f"{j.df[term]:.1f}",
                         "yes" if term in j.assumed else ""])  # fmt: skip
    return Section("Method", tuple(said), (Table("variances", "How things vary", rows),))


def _people(draft: TrialDraft) -> tuple[list[str], int, list[str]]:
    """Return who worked and read, how many readings are struck, and the days."""
    who = sorted({name for r in draft.readings for name in (r.operator, r.reader) if name})
    struck = {s.reading_id: s.struck for s in draft.strikes}
    return who, sum(struck.values()), sorted({r.day for r in draft.readings if r.day})
