"""Judge files of readings as the window does: chances, verdicts, sentences."""

from __future__ import annotations

import argparse
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from itertools import combinations
from pathlib import Path
from typing import Any

from loam.app.doubting import DoubtSaid, doubts_said
from loam.app.headless.common import (
    FAILED,
    answer,
    as_json,
    check_seed,
    complain,
    measurand_of,
    trial_named,
)
from loam.app.record import Learnt, record_in, record_of
from loam.core.dataset import worked_only
from loam.core.doubts import Extras
from loam.core.errors import LoamError, NotEnough, ValueRefused
from loam.core.judging import ClassJudgement, TrialJudgement
from loam.core.matter import Matters, matters
from loam.core.readings import REMOVED, ReadingKind, kind_of
from loam.core.text import NAME
from loam.core.units import fixed, parse_number, percent
from loam.core.verdict import NoLessons, Record, asked_of, judge, judged_by
from loam.core.words.verdict import RELATION_WORDS, class_sentence, matters_words, notes, sentence
from loam.store.circumstances import extras_in, extras_of
from loam.store.csv_readings import build_draft
from loam.store.database import reading_apart
from loam.store.mapping import guess_mapping
from loam.store.table_file import read_table
from loam.store.trials import trials
from loam.store.workshop import Workshop


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="loam judge",
        description="Judge files of readings, or a trial of a workshop, as the window does.",
    )
    parser.add_argument("files", nargs="*", metavar="FILE.csv")
    parser.add_argument("--workshop", type=Path, metavar="W.loam")
    parser.add_argument("--trial", metavar="NAME", help="a trial of the workshop, or its number")
    parser.add_argument(
        "--measurand",
        action="append",
        metavar="M",
        help="what to judge by, as a column or as Loam calls it; all that a file has otherwise",
    )
    parser.add_argument(
        "--delta",
        action="append",
        default=[],
        metavar="M=VALUE",
        help="what matters for a measurand, in its unit, or as a ratio for haze and defects",
    )
    parser.add_argument("--seed", type=int, help="of the draws; 1, or the trial's own, otherwise")
    parser.add_argument("--json", action="store_true", help="print JSON instead of text")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run ``loam judge`` and return the exit status: 0, or 2 after an error on stderr."""
    parser = _parser()
    options = parser.parse_args(arguments)
    if bool(options.files) == (options.workshop is not None):
        parser.error("name files, or a workshop with --workshop and --trial")
    if options.workshop is not None and options.trial is None:
        parser.error("--workshop needs --trial")
    current = ""
    try:
        if options.seed is not None:
            check_seed(options.seed)
        wanted = [measurand_of(m) for given in options.measurand or [] for m in given.split(",")]
        chosen = dict(_delta(text) for text in options.delta)
        found = []
        for current in options.files:
            seed = 1 if options.seed is None else options.seed
            found.append((current, _judge_file(Path(current), wanted, chosen, seed)))
        if options.workshop is not None:
            current = str(options.workshop)
            asked = (options.trial, wanted, chosen, options.seed)
            found.append((current, _judge_trial(options.workshop, *asked)))
    except LoamError as error:
        complain(error, Path(current).name)
        return FAILED
    if options.json:
        answer(as_json([_entry(file, judged) for file, judged in found]))
    else:
        answer("\n".join(_text(file, judged) for file, judged in found))
    return 0


def _delta(text: str) -> tuple[str, Matters]:
    name, equals, value = text.partition("=")
    if not equals:
        raise ValueRefused(f"{text!r} does not say what matters.", todo="Write --delta gloss20=1.")
    kind = kind_of(measurand_of(name))
    try:
        number = float(value)
    except ValueError:
        number = parse_number(value, where=f"--delta {name}")
    return kind.key, matters(kind, number, "given")


@dataclass(frozen=True)
class _Judged:
    """What is printed of a file, or of a trial."""

    verdicts: Sequence[tuple[TrialJudgement, Mapping[str, str]]]
    doubts: Sequence[tuple[DoubtSaid, list[dict[str, Any]]]]
    trial: str = ""


def _judge_file(
    path: Path, wanted: Sequence[str], chosen: Mapping[str, Matters], seed: int
) -> _Judged:
    table = read_table(path)
    draft = build_draft(table, guess_mapping(table.header), path.stem[:NAME])
    record = record_in(draft, chosen)
    there = judged_by(worked_only(record.snapshot).columns)
    _refuse_missing(wanted, there, f"The file {path.name}", path.name)
    names = _names(record)
    judged = [
        (judge(record, NoLessons(), key, seed=seed).judgement, names) for key in (wanted or there)
    ]
    called = {c.id: name for c, name in zip(draft.cells, draft.called, strict=True)}
    said = doubts_said(record, NoLessons(), extras_of(draft), seed, called=called)
    lines = dict(enumerate(draft.lines))
    return _Judged(
        judged,
        [(one, _concerned(one, record, called, extras_of(draft), lines)) for one in said],
    )


def _judge_trial(
    path: Path, name: str, wanted: Sequence[str], given: Mapping[str, Matters], seed: int | None
) -> _Judged:
    """Judge a trial of a workshop with all that the window takes into account."""
    workshop = Workshop(path, look=True)
    try:
        with reading_apart(workshop.reads) as db:
            trial = trial_named(trials(db), name)
            seed = trial.seed if seed is None else seed
            record = record_of(db, trial.id)
            record = replace(record, matters={**record.matters, **given})
            there = asked_of(trial, REMOVED.key in judged_by(record.snapshot.columns))
            _refuse_missing(wanted, there, f"The trial {trial.name}", path.name)
            names, lessons, judged = _names(record), Learnt(db, trial.id), []
            for key in wanted or there:
                try:
                    judged.append((judge(record, lessons, key, seed=seed).judgement, names))
                except NotEnough:
                    if wanted:
                        raise
            stands = record.as_it_stands()
            extras = extras_in(db, trial.id, stands.snapshot)
            said = doubts_said(stands, lessons, extras, seed)
    finally:
        workshop.close()
    if not judged:
        raise NotEnough(
            "Nothing of this trial can be judged yet.",
            where=trial.name,
            todo="Lay out and read some cells first.",
        )
    called = {c.id: c.code for c in record.snapshot.cells}
    return _Judged(
        judged, [(one, _concerned(one, stands, called, extras, {})) for one in said], trial.name
    )


def _names(record: Record) -> dict[str, str]:
    return {c.code: c.name for c in record.snapshot.combinations if c.name}


def _refuse_missing(wanted: Sequence[str], there: Sequence[str], what: str, where: str) -> None:
    for key in wanted:
        if key not in there:
            raise NotEnough(
                f"{what} holds no {kind_of(key).label}.",
                where=where,
                todo="It holds " + ", ".join(there) + "." if there else "Name another.",
            )
    if not there:
        raise NotEnough(
            f"{what} holds no reading that can be judged.",
            where=where,
            todo="Name the columns of readings as Loam does, like gloss20 or haze.",
        )


def _concerned(
    said: DoubtSaid,
    record: Record,
    called: Mapping[int, str],
    extras: Extras,
    lines: Mapping[int, int],
) -> list[dict[str, Any]]:
    """Return the readings that a doubt concerns, by what the file or the window calls them."""
    columns, number = record.snapshot.columns, extras.number
    panel = {p.id: p.name for p in record.snapshot.panels}
    cells = {c.id: c for c in record.snapshot.cells}
    found = []
    for row in said.rows:
        cell = cells[int(columns.cell[row])]
        found.append(
            {
                "panel": panel[cell.panel_id],
                "cell": called[cell.id],
                "measurand": columns.measurands[int(columns.measurand[row])],
                "reading": int(columns.ordinal[row]),
                "value": float(columns.value[row]),
                "line": lines.get(int(number[row]) - 1),
            }
        )
    return found


def _entry(file: str, judged: _Judged) -> dict[str, Any]:
    return {
        "file": file,
        **({"trial": judged.trial} if judged.trial else {}),
        "measurands": [_measurand(judgement, names) for judgement, names in judged.verdicts],
        "doubts": [_doubt(said, readings) for said, readings in judged.doubts],
    }


def _doubt(said: DoubtSaid, readings: list[dict[str, Any]]) -> dict[str, Any]:
    return {
        "kind": said.doubt.kind,
        "subject": said.subject,
        "readings": readings,
        "p": said.doubt.p,
        "effect": said.effect,
        "sentence": said.sentence,
    }


def _measurand(judgement: TrialJudgement, names: Mapping[str, str]) -> dict[str, Any]:
    return {
        "measurand": judgement.measurand,
        "scale": judgement.scale.name,
        "delta": {
            "value": judgement.matters.value,
            "kind": judgement.matters.kind,
            "source": judgement.matters.source,
        },
        "floor": judgement.floor,
        "sd": dict(judgement.sd),
        "df": dict(judgement.df),
        "assumed": list(judgement.assumed),
        "starts": _starts(judgement),
        "notes": notes(judgement),
        "classes": [_class(judgement, found, names) for found in judgement.classes],
    }


def _starts(judgement: TrialJudgement) -> dict[str, Any]:
    starts = judgement.starts
    return {
        "used": starts.used,
        "at": dict(starts.at),
        "cells": starts.cells,
        "missing": starts.missing,
        "corrected": starts.corrected,
        "slope": starts.slope,
        "slope_sd": starts.slope_sd,
    }


def _class(
    judgement: TrialJudgement, found: ClassJudgement, names: Mapping[str, str]
) -> dict[str, Any]:
    return {
        "hardness": found.hardness,
        "leader": found.leader.combination,
        "p_best": {s.combination: s.p_best for s in found.standings},
        "rank": {s.combination: list(s.rank) for s in found.standings},
        "effects": [
            {
                "combination": s.combination,
                "estimate": s.figures.estimate,
                "low": s.figures.low,
                "high": s.figures.high,
                "own_low": s.figures.own_low,
                "own_high": s.figures.own_high,
                "plain": s.figures.plain,
                "moved": s.figures.moved,
                "cells": s.cells,
                "readings": s.readings,
            }
            for s in found.standings
        ],
        "pairs": [asdict(found.compare(a, b)) for a, b in combinations(sorted(found.names), 2)],
        "untested": list(found.untested),
        "sentence": class_sentence(judgement, found, names),
    }


def _text(file: str, judged: _Judged) -> str:
    lines = [f"{file}: {judged.trial}" if judged.trial else file]
    for judgement, names in judged.verdicts:
        kind = kind_of(judgement.measurand)
        lines += ["", *_table(judgement, names, kind)]
    if judged.doubts:
        lines += ["", *(f"Doubt: {s.sentence} {s.effect}" for s, _ in judged.doubts)]
    return "\n".join(lines) + "\n"


def _table(judgement: TrialJudgement, names: Mapping[str, str], kind: ReadingKind) -> list[str]:
    d = max(kind.decimals, 1)
    lines = [
        f"{kind.label}, {kind.unit}. What matters: {matters_words(judgement.matters, kind)}"
        f" ({judgement.matters.source}). The meter cannot see"
        f" {fixed(judgement.floor, d)} {kind.unit} between cells.",
        sentence(judgement, names),
        f"{'hardness':<9}{'combination':<13}{'mean':>8}{'low':>8}{'high':>8}{'best':>10}"
        f"{'rank':>8}{'cells':>7}{'readings':>10}  to the leader",
    ]
    for found in judgement.classes:
        for s in found.standings:
            f = s.figures
            rank = str(s.rank[0]) if s.rank[0] == s.rank[1] else f"{s.rank[0]}–{s.rank[1]}"
            lines.append(
                f"{found.hardness:<9}{s.combination:<13}{fixed(f.estimate, d):>8}"
                f"{fixed(f.low, d):>8}{fixed(f.high, d):>8}{percent(s.p_best):>10}"
                f"{rank:>8}{s.cells:>7}{s.readings:>10}  {RELATION_WORDS[s.look]}"
            )
    lines.append("Low and high: 90 % interval with the panels, people and days in it.")
    lines += [f"Note: {note}" for note in notes(judgement)]
    return lines
