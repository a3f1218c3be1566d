"""Rank a file of readings: the plain model, for checking against other programs."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from loam.app.headless.common import FAILED, answer, check_seed, complain, measurand_of
from loam.app.headless.common import as_json as json_text
from loam.core.dataset import source_of, trial_data
from loam.core.errors import LoamError, NotEnough, ValueRefused
from loam.core.plain_rank import Judgement, judge
from loam.core.readings import kind_of
from loam.core.text import NAME
from loam.core.units import fixed
from loam.core.words.result import notes, sentence
from loam.store.csv_readings import build_draft
from loam.store.mapping import AFTER, BASELINE, guess_mapping
from loam.store.snapshot import snapshot_of
from loam.store.table_file import TableFile, read_table


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="loam rank", description="Rank the combinations of a file of readings."
    )
    parser.add_argument("file", type=Path, metavar="FILE.csv")
    parser.add_argument(
        "--measurand",
        action="append",
        required=True,
        metavar="NAME",
        help="what to rank, as a column or as Loam calls it; may be given more than once",
    )
    parser.add_argument("--baseline", metavar="COLUMN", help="column with the reading before work")
    parser.add_argument("--random", default="panel,operator,cell", metavar="TERMS")
    parser.add_argument("--delta", type=float, help="difference that does not matter")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--json", action="store_true", help="print JSON instead of a table")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run ``loam rank`` and return the exit status: 0, or 2 after an error on stderr."""
    options = _parser().parse_args(arguments)
    try:
        check_seed(options.seed)
        table = read_table(options.file)
        fits = [
            (wanted, judge_file(table, wanted, options))
            for given in options.measurand
            for wanted in given.split(",")
        ]
    except LoamError as error:
        complain(error, options.file.name)
        return FAILED
    if options.json:
        answer(json_text({"fits": [as_json(j, name) for name, j in fits]}))
    else:
        answer("\n".join(as_table(j) for _, j in fits))
    return 0


def judge_file(table: TableFile, wanted: str, options: argparse.Namespace) -> Judgement:
    """Judge one measurand of a file."""
    measurand = measurand_of(wanted)
    mapping = guess_mapping(table.header)
    if options.baseline:
        if options.baseline not in mapping:
            raise ValueRefused(
                f"There is no column {options.baseline!r}.",
                where=table.path.name,
                todo="Columns: " + ", ".join(table.header) + ".",
            )
        role = f"{BASELINE}:{measurand}"
        mapping = {c: "" if r == role else r for c, r in mapping.items()}
        mapping[options.baseline] = role
    if f"{AFTER}:{source_of(measurand)}" not in mapping.values():
        raise NotEnough(
            f"The file holds no {kind_of(measurand).label}.", todo="Name another measurand."
        )
    draft = build_draft(table, mapping, table.path.stem[:NAME])
    data = trial_data(snapshot_of(draft), measurand, baseline=bool(options.baseline))
    random = [term.strip() for term in options.random.split(",") if term.strip()]
    return judge(data, random=random, delta=options.delta, seed=options.seed)


def as_json(judgement: Judgement, name: str) -> dict[str, Any]:
    """Return a judgement as plain values."""
    fit = judgement.fit
    variances: dict[str, float | None] = {
        term: fit.variances.get(term) for term in judgement.random
    }
    effects, contrasts, ranking = [], [], []
    for result in judgement.results:
        for i, e in enumerate(result.effects):
            pair = {"hardness": result.hardness, "combination": e.combination}
            effects.append({**pair, "estimate": e.estimate, "se": e.se, "df": e.df})
            ranking.append(
                {
                    **pair,
                    "p_best": float(result.ranks.p_best[i]),
                    "expected_rank": float(result.ranks.expected[i]),
                    "rank_low": int(result.ranks.low[i]),
                    "rank_high": int(result.ranks.high[i]),
                    "in_best_group": e.combination in result.best,
                }
            )
        names = sorted(e.combination for e in result.effects)
        for c in (result.contrast(a, b) for i, a in enumerate(names) for b in names[i + 1 :]):
            contrasts.append(
                {
                    "hardness": result.hardness,
                    "a": c.a,
                    "b": c.b,
                    "estimate": c.estimate,
                    "se": c.se,
                    "df": c.df,
                    "df_method": c.df_method,
                    "verdict": result.verdict(c.a, c.b),
                }
            )
    return {
        "measurand": name.strip(),
        "n": fit.n,
        "reml_criterion": fit.criterion,
        "singular": fit.singular,
        "zero_components": list(fit.zero),
        "dropped": [{"term": d.term, "reason": d.reason} for d in fit.dropped],
        "not_estimable": list(judgement.not_estimable),
        "variances": {**variances, "residual": fit.variances["residual"]},
        "delta": judgement.delta,
        "delta_source": judgement.delta_source,
        "effects": effects,
        "contrasts": contrasts,
        "ranking": ranking,
        "sentence": sentence(judgement),
        "notes": notes(judgement),
    }


def as_table(judgement: Judgement) -> str:
    """Return a judgement as text."""
    kind = kind_of(judgement.measurand)
    d = max(kind.decimals, 1)
    lines = [
        sentence(judgement),
        f"{kind.label}, {kind.unit}; {judgement.fit.n} readings; 90 % intervals of each"
        f" combination's own part; {judgement.df_method} df;"
        f" {fixed(judgement.delta, d)} {kind.unit} does not matter ({judgement.delta_source}).",
        "",
        f"{'hardness':<9}{'combination':<13}{'estimate':>9}{'low':>8}{'high':>8}"
        f"{'P(best)':>9}{'rank':>8}{'cells':>7}{'readings':>10}",
    ]
    for result in judgement.results:
        for i, e in enumerate(result.effects):
            rank = f"{result.ranks.low[i]}–{result.ranks.high[i]}"
            mark = "*" if e.combination in result.best else ""
            lines.append(
                f"{result.hardness:<9}{e.combination + mark:<13}{fixed(e.estimate, d):>9}"
                f"{fixed(e.low, d):>8}{fixed(e.high, d):>8}{result.ranks.p_best[i]:>9.3f}"
                f"{rank:>8}{e.cells:>7}{e.readings:>10}"
            )
    lines.append("* best group: not shown to be beaten by the leader")
    lines += [f"Note: {note}" for note in notes(judgement)]
    return "\n".join(lines) + "\n"
