"""The report of a trial: what was asked, how it was done, what came out, what is doubted."""

from __future__ import annotations

import platform
import sqlite3
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from importlib.metadata import version

import loam
from loam.app.advising import AIMS, Making, advised
from loam.app.applying.at_hand import jobs_in
from loam.app.applying.rests import trial_uid
from loam.app.questions import questions
from loam.app.questions.question import Asked
from loam.app.questions.ranking.find import ranking_table
from loam.app.questions.ranking.picture import caption
from loam.core.advice import Advice
from loam.core.errors import LoamError
from loam.core.judging import TrialJudgement
from loam.core.readings import kind_of
from loam.core.record.panel_facts import PANEL_FACTS
from loam.core.trial import Trial
from loam.core.words.verdict import listed, matters_words
from loam.store import decisions
from loam.store.database import reading_apart
from loam.store.decisions import decision_words
from loam.store.draft import TrialDraft
from loam.store.take_out import read_draft

FAULTS = (ArithmeticError, ValueError, LookupError, TypeError, AttributeError)
"""Faults of one part, which then says so; the others stand."""
ADVICE = "What to use"
CAUTION = (
    "Usual cautions apply: follow the products' safety data sheets, local rules and qualified"
    " practice. An ordinary gauge reads the whole film, so what is said of the coat rests on"
    " an assumption."
)


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
    data: tuple[Table, ...] = ()
    """What only files of numbers hold: every reading."""

    @property
    def cover(self) -> tuple[str, ...]:
        """What a first page says: the question, and what to use."""
        first = [s for s in self.sections if s.head in ("The question", ADVICE)]
        return tuple(w for s in first for w in s.words if w)

    def tables(self) -> list[Table]:
        """Return every table."""
        return [t for s in self.sections for t in s.tables]


def make_report(told: Asked, tell: Callable[[float], None] = lambda _share: None) -> Report:
    """Put a report together; made for a worker.

    Parameters
    ----------
    tell : callable
        Told the share done, up to a half; may raise to stop.
    """
    with reading_apart(told.path) as db:
        draft = read_draft(db, told.trial.id)
        decided = decision_words(decisions.of_trial(db, told.trial.id))
        cars = _cars(db, told.trial.id)
    pictures: dict[str, object] = {}
    failed: list[BaseException] = []
    judged = {m: r.judgement for m, r in told.rankings.items()}
    advice = _advised(told)
    told = replace(told, advice=advice if isinstance(advice, dict) else {})
    sections = [
        Section("The question", (told.trial.question or told.trial.name, *_note(told.trial))),
        *_advice(told, advice, pictures, failed),
        _results(told, pictures),
        *(_ranking(told, m, pictures) for m in told.rankings),
        *_asked(told, pictures, tell, failed),
        *([Section("Decided while judging", decided)] if decided else []),
        *([cars] if cars is not None else []),
        _layout(told, draft),
        _method(told, judged, draft),
        Section(
            "Made with",
            (
                f"Loam {loam.__version__}, Python {platform.python_version()}, NumPy"
                f" {version('numpy')}, SciPy {version('scipy')}. Seed {told.trial.seed}: the same"
                " readings give the same figures.",
                CAUTION,
            ),
        ),
    ]
    data = (_readings(draft),)
    return Report(told.trial.name, told.when, tuple(sections), pictures, tuple(failed), data)


def _cars(db: sqlite3.Connection, trial_id: int) -> Section | None:
    """Say what cars rest on the trial and what came of them; None where none does."""
    uid = trial_uid(db, trial_id)
    held = [job for _, job in jobs_in(db) if job.trial == uid]
    if not held:
        return None
    rows = [["car", "panels", "surveyed", "spots", "taken", "done"]]
    spots = [["car", "spot", "panel", "combination", "measurement", "mean"]]
    for job in reversed(held):
        working = job.working
        counts = (len(working), len(job.surveyed), len(job.spots))
        done = sum(bool(p.done) for p in working)
        rows.append([job.name, *map(str, counts), job.taken, str(done)])
        for s in job.spots:
            for m, mean in s.means().items():
                kind = kind_of(m)
                value = f"{kind.write(mean)} {kind.unit}"
                spots.append([job.name, str(s.number), s.part, s.rung, kind.label, value])
    tables = (
        Table("cars", "Cars", rows),
        Table("car-spots", "What their test spots showed", spots),
    )
    some = f"{len(held)} car{'s' if len(held) != 1 else ''} rest{'s' if len(held) == 1 else ''}"
    return Section("Cars", (f"{some} on these panels. Apply (F9) has each.",), tables)


def _readings(draft: TrialDraft) -> Table:
    """Return every reading, struck ones with their reason."""
    cells = {c.id: c for c in draft.cells}
    panels = {p.id: p for p in draft.panels}
    codes = {c.id: c.code for c in draft.combinations}
    head = "panel hardness cell combination measurand phase number value scale reader worker day"
    rows = [[*head.split(), "struck out because"]]
    for r in draft.readings:
        cell = cells[r.cell_id]
        panel = panels[cell.panel_id]
        rows.append(
            [
                panel.name,
                panel.hardness,
                cell.code,
                codes.get(cell.combination_id or 0, ""),
                r.measurand,
                r.phase,
                str(r.ordinal),
                f"{r.value:.6g}",
                r.scale,
                r.reader,
                r.operator,
                r.day,
                r.struck or "",
            ]
        )
    return Table("readings", "Every reading", rows)


def _note(trial: Trial) -> tuple[str, ...]:
    return (trial.note,) if trial.note else ()


def _advised(told: Asked) -> dict[str, Advice] | BaseException:
    """Return what to use, by hardness; or the fault of it, which leaves the rest."""
    if not told.rankings:
        return {}
    at = told.measurand if told.measurand in told.rankings else next(iter(told.rankings))
    making = Making(told.combinations, told.tapings, told.may_go)
    try:
        return advised(told.rankings, at, told.aim, told.aims or AIMS, making, told.limits)
    except FAULTS as error:
        return error


def _advice(
    told: Asked,
    found: dict[str, Advice] | BaseException,
    pictures: dict[str, object],
    failed: list[BaseException],
) -> Iterator[Section]:
    """Say first what to use."""
    if not told.rankings:
        return
    if isinstance(found, BaseException):
        failed.append(found)
        yield Section(ADVICE, (_failure(found),))
        return
    at = told.measurand if told.measurand in told.rankings else next(iter(told.rankings))
    pictures["advice"] = (told.rankings[at], found)
    few = len(told.doubts[0]) if told.doubts is not None else 0
    check = (f"{few} thing{'s' if few > 1 else ''} to check before it is trusted: Doubts.",)
    said = (*(a.said() for a in found.values()), *(check if few else ()))
    yield Section(ADVICE, said, picture="advice")


def _results(told: Asked, pictures: dict[str, object]) -> Section:
    said = [
        f"{r.label.capitalize()}: {r.sentence}" + (f" {r.trap}" if r.trap else "")
        for r in told.rankings.values()
    ]
    return Section("The result", tuple(said) or ("Nothing can be ranked yet.",))


def _ranking(told: Asked, measurand: str, pictures: dict[str, object]) -> Section:
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
    rows = [
        [
            "hardness",
            "a",
            "b",
            "a less b, on the scale",
            "low",
            "high",
            "chance better",
            "chance same",
            "chance clearly better",
            "verdict",
        ]
    ]
    for found in judgement.classes:
        names = found.names
        for i, a in enumerate(names):
            for b in names[i + 1 :]:
                c = found.compare(a, b)
                figures = (c.estimate, c.low, c.high, c.p_better, c.p_same, c.p_clear)
                told = ("" if v is None else f"{v:.4f}" for v in figures)
                rows.append([found.hardness, a, b, *told, c.verdict])
    return rows


def _asked(
    told: Asked,
    pictures: dict[str, object],
    tell: Callable[[float], None],
    failed: list[BaseException],
) -> Iterator[Section]:
    """Return a part for each question beside the ranking; one that failed says so."""
    if told.measurand not in told.rankings and told.rankings:
        told = replace(told, measurand=next(iter(told.rankings)))
    own = [q for q in questions() if q.reported and (told.rankings or not q.judged)]
    for i, question in enumerate(own):

        def share(done: float, i: int = i) -> None:
            tell(0.5 * (i + done) / len(own))

        share(0.0)
        finder = question.finder()
        name = finder.head(told)
        try:
            found = finder.answer(told, share)
            if found is None:
                continue
            table = Table(question.name, name, found.table())
            part = Section(name, found.said(), (table,), question.name if question.drawn else "")
        except LoamError as error:
            yield Section(name, (f"{error.what} {error.todo}".strip(),))
            continue
        except FAULTS as error:
            failed.append(error)
            yield Section(name, (_failure(error),))
            continue
        if question.drawn:
            pictures[question.name] = found
        yield part


def _failure(error: BaseException) -> str:
    return f"This part could not be worked out ({type(error).__name__}). The rest stands."


def _layout(told: Asked, draft: TrialDraft) -> Section:
    codes = {c.id: c.code for c in draft.combinations}
    by_panel: dict[int, Counter[str]] = {}
    for cell in draft.cells:
        code = codes.get(cell.combination_id or 0)
        if code:
            by_panel.setdefault(cell.panel_id, Counter())[code] += 1
    facts = [f for f in PANEL_FACTS if any(p.facts.get(f.key) for p in draft.panels)]
    rows = [
        [
            "panel",
            "hardness",
            "paint",
            "rows",
            "columns",
            "cell, mm",
            "combinations",
            *(f.label.lower() for f in facts),
        ]
    ]
    for p in draft.panels:
        t = p.taping
        own = " ".join(f"{k}×{n}" for k, n in sorted(by_panel.get(p.id, Counter()).items()))
        rows.append(
            [
                p.name,
                p.hardness,
                p.paint,
                str(t.rows),
                str(t.columns),
                f"{t.cell_width_mm:.0f} × {t.cell_height_mm:.0f}",
                own,
                *(f.write(p.facts.get(f.key)) for f in facts),
            ]
        )
    made = [["combination", "name", "recipe"]]
    made += [[c.code, c.name, c.words()] for c in told.combinations]
    count = sum(sum(c.values()) for c in by_panel.values())
    said = (
        f"{count} cells on {len(draft.panels)} panels, laid out in random places and order within"
        f" the rules of the trial, seed {told.trial.seed}."
    )
    return Section(
        "Layout",
        (said,),
        (
            Table("panels", "Panels", rows),
            Table("combinations", "Combinations", made),
        ),
    )


def _method(told: Asked, judged: Mapping[str, TrialJudgement], draft: TrialDraft) -> Section:
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
    rows = [
        ["measurand", "term", "standard deviation, on the scale", "degrees of freedom", "assumed"]
    ]
    for j in judged.values():
        for term, sd in j.sd.items():
            rows.append(
                [
                    j.measurand,
                    term,
                    f"{sd:.4f}",
                    f"{j.df[term]:.1f}",
                    "yes" if term in j.assumed else "",
                ]
            )
    return Section("Method", tuple(said), (Table("variances", "How things vary", rows),))


def _people(draft: TrialDraft) -> tuple[list[str], int, list[str]]:
    """Return who worked and read, how many readings are struck, and the days."""
    who = sorted({name for r in draft.readings for name in (r.operator, r.reader) if name})
    struck = {s.reading_id: s.struck for s in draft.strikes}
    return who, sum(struck.values()), sorted({r.day for r in draft.readings if r.day})
