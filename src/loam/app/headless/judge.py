"""Judge files of readings as the window does: chances, verdicts, sentences."""

from __future__ import annotations

import argparse
from collections.abc import Mapping, Sequence
from dataclasses import asdict
from itertools import combinations
from pathlib import Path
from typing import Any

from loam.app.doubting import DoubtSaid, doubts_said
from loam.app.headless.common import FAILED, answer, as_json, check_seed, complain, measurand_of
from loam.core.dataset import trial_data, worked_only
from loam.core.errors import LoamError, NotEnough, ValueRefused
from loam.core.judging import ClassJudgement, TrialJudgement, judge_readings
from loam.core.matter import Matters, matters
from loam.core.readings import FILM, KINDS, REMOVED, ReadingKind, kind_of
from loam.core.snapshot import Snapshot
from loam.core.text import NAME
from loam.core.trial import AFTER, BEFORE
from loam.core.units import fixed, parse_number, percent
from loam.core.words.verdict import RELATION_WORDS, class_sentence, matters_words, notes, sentence
from loam.store.csv_readings import build_draft
from loam.store.draft import TrialDraft
from loam.store.extras import extras_of
from loam.store.mapping import guess_mapping
from loam.store.snapshot import snapshot_of
from loam.store.table_file import read_table


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="loam judge", description="Judge files of readings as the window does."
    )
    parser.add_argument("files", nargs="+", metavar="FILE.csv")
    parser.add_argument(
        "--measurand", action="append", metavar="M",
        help="what to judge by, as a column or as Loam calls it; all that a file has otherwise",
    )  # fmt: skip
    parser.add_argument(
        "--delta", action="append", default=[], metavar="M=VALUE",
        help="what matters for a measurand, in its unit, or as a ratio for haze and defects",
    )  # fmt: skip
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--json", action="store_true", help="print JSON instead of text")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run ``loam judge`` and return the exit status: 0, or 2 after an error on stderr."""
    options = _parser().parse_args(arguments)
    current = ""
    try:
        check_seed(options.seed)
        wanted = [measurand_of(m) for given in options.measurand or [] for m in given.split(",")]
        chosen = dict(_delta(text) for text in options.delta)
        found = []
        for current in options.files:
            found.append((current, _judge_file(Path(current), wanted, chosen, options.seed)))
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


Judged = tuple[
    list[tuple[TrialJudgement, Mapping[str, str]]], list[tuple[DoubtSaid, list[dict[str, Any]]]]
]


def _judge_file(
    path: Path, wanted: Sequence[str], chosen: Mapping[str, Matters], seed: int
) -> Judged:
    table = read_table(path)
    draft = build_draft(table, guess_mapping(table.header), path.stem[:NAME])
    snapshot = worked_only(snapshot_of(draft))
    there = measurands_of(snapshot)
    for key in wanted:
        if key not in there:
            raise NotEnough(
                f"The file holds no {kind_of(key).label}.",
                where=path.name,
                todo="It holds " + ", ".join(there) + "." if there else "Name another file.",
            )
    if not there:
        raise NotEnough(
            "The file holds no reading that can be judged.",
            where=path.name,
            todo="Name the columns of readings as Loam does, like gloss20 or haze.",
        )
    names = {c.code: c.name for c in snapshot.combinations if c.name}
    judged: list[tuple[TrialJudgement, Mapping[str, str]]] = [
        (judge_readings(trial_data(snapshot, key), delta=chosen.get(key), seed=seed), names)
        for key in (wanted or there)
    ]
    said = doubts_said(
        snapshot, extras_of(draft), [j for j, _ in judged], chosen, seed,
        called={c.id: name for c, name in zip(draft.cells, draft.called, strict=True)},
    )  # fmt: skip
    return judged, [(one, _concerned(one, snapshot, draft)) for one in said]


def _concerned(said: DoubtSaid, snapshot: Snapshot, draft: TrialDraft) -> list[dict[str, Any]]:
    """Return the readings that a doubt concerns, by what the file calls them."""
    columns, number = snapshot.columns, extras_of(draft).number
    panel = {p.id: p.name for p in snapshot.panels}
    cells = {c.id: c for c in draft.cells}
    found = []
    for row in said.rows:
        cell, at = cells[int(columns.cell[row])], int(number[row]) - 1
        found.append({
            "panel": panel[cell.panel_id], "cell": draft.called[cell.id - 1],
            "measurand": columns.measurands[int(columns.measurand[row])],
            "reading": int(columns.ordinal[row]), "value": float(columns.value[row]),
            "line": draft.lines[at] if at < len(draft.lines) else None,
        })  # fmt: skip
    return found


def measurands_of(snapshot: Snapshot) -> list[str]:
    """Return what a trial can be judged by: what was read after work, and film before and after."""
    columns = snapshot.columns
    found = [
        k.key for k in KINDS if k.rankable and not k.derived and columns.rows(k.key, AFTER).size
    ]
    if columns.rows(FILM.key, AFTER).size and columns.rows(FILM.key, BEFORE).size:
        found.append(REMOVED.key)
    return found


def _entry(file: str, judged: Judged) -> dict[str, Any]:
    return {
        "file": file,
        "measurands": [_measurand(judgement, names) for judgement, names in judged[0]],
        "doubts": [_doubt(said, readings) for said, readings in judged[1]],
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


def _text(file: str, judged: Judged) -> str:
    lines = [file]
    for judgement, names in judged[0]:
        kind = kind_of(judgement.measurand)
        lines += ["", *_table(judgement, names, kind)]
    lines += ["", *(f"Doubt: {s.sentence} {s.effect}" for s, _ in judged[1])] if judged[1] else []
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
