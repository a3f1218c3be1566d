"""Judge a gauge study from a file: how well a meter repeats, and whether readers agree."""

from __future__ import annotations

import argparse
import math
from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from loam.app.headless.common import FAILED, answer, complain
from loam.app.headless.common import as_json as json_text
from loam.core.errors import LoamError, ValueRefused
from loam.core.gauge import (
    LIMIT,
    LIMIT_EXACT,
    POOL,
    STUDY,
    AnovaRow,
    Result,
    Study,
    Table,
    Variances,
    judge_study,
    spread_interval,
)
from loam.core.units import parse_number
from loam.core.words.gauge import study_words
from loam.store.table_file import TableFile, read_table


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="loam gauge", description="Judge a crossed gauge study: repeatability, readers."
    )
    parser.add_argument("file", type=Path, metavar="FILE.csv")
    for name, what in (
        ("part", "the spot that was read"),
        ("reader", "who read"),
        ("value", "what was read"),
    ):
        parser.add_argument(
            f"--{name}", required=True, metavar="COLUMN", help=f"column with {what}"
        )
    parser.add_argument("--repeat", metavar="COLUMN", help="column with the number of the reading")
    parser.add_argument(
        "--pool",
        type=float,
        default=POOL,
        metavar="P",
        help="an interaction whose p is above it is pooled (0.25)",
    )
    parser.add_argument("--tolerance", type=float, metavar="WIDTH", help="upper less lower limit")
    parser.add_argument("--json", action="store_true", help="print JSON instead of text")
    return parser


def run(arguments: Sequence[str]) -> int:
    """Run ``loam gauge`` and return the exit status: 0, or 2 after an error on stderr."""
    options = _parser().parse_args(arguments)
    try:
        if options.tolerance is not None and not (
            math.isfinite(options.tolerance) and options.tolerance > 0.0
        ):
            raise ValueRefused(
                f"A tolerance of {options.tolerance:g} cannot be.", todo="It is above 0."
            )
        study = study_of(read_table(options.file), options)
    except LoamError as error:
        complain(error, options.file.name)
        return FAILED
    if options.json:
        answer(json_text(as_json(study, options.tolerance)))
    else:
        answer("\n".join(study_words(study)))
    return 0


def study_of(table: TableFile, options: argparse.Namespace) -> Study:
    """Take the readings out of a file and judge them; an empty value is a missing reading.

    Raises
    ------
    LoamError
        Naming line and column of what cannot be read.
    """
    wanted = {"part": options.part, "reader": options.reader, "value": options.value}
    if options.repeat:
        wanted["repeat"] = options.repeat
    for column in wanted.values():
        if column not in table.header:
            raise ValueRefused(
                f"There is no column {column!r}.",
                where=table.path.name,
                todo="Columns: " + ", ".join(table.header) + ".",
            )
    at = {role: table.header.index(column) for role, column in wanted.items()}
    part, reader, values = [], [], []
    seen: dict[tuple[str, ...], int] = {}
    for row, line in table.rows():
        cells = {role: row[i].strip() if i < len(row) else "" for role, i in at.items()}
        if not cells["value"]:
            continue
        where = f"{table.path.name}, line {line}"
        for role in ("part", "reader"):
            if not cells[role]:
                raise ValueRefused(f"Column {wanted[role]} is empty.", where=where)
        if "repeat" in cells:
            key = (cells["part"], cells["reader"], cells["repeat"])
            if key in seen:
                raise ValueRefused(
                    f"Reading {key[2]} of {key[1]} on {key[0]} stands on line {seen[key]} already.",
                    where=where,
                )
            seen[key] = line
        part.append(cells["part"])
        reader.append(cells["reader"])
        values.append(parse_number(cells["value"], where=where))
    return judge_study(part, reader, np.array(values, dtype=float), options.pool)


def as_json(study: Study, tolerance: float | None) -> dict[str, Any]:
    """Return a study as plain values, with the keys of the reference."""
    found: dict[str, Any] = {
        "method": study.method,
        "parts": study.parts,
        "readers": study.readers,
        "repeats": study.repeats,
        "grand_mean": study.mean,
        "pooled_when_p_interaction_above": study.pool,
        "interaction_pooled": study.pooled,
        "result": _result(study.result, tolerance),
        "result_with_interaction": _result(study.with_interaction, tolerance),
        "variances_with_interaction": _variances(study.raw.cut()),
        "repeatability_sd_ci95": list(study.interval()),
    }
    table = study.table
    if table is None:
        return found
    whole = [table.part, table.reader, table.interaction, table.error]
    found["anova"] = {
        "part": _line(table.part, "F_vs_interaction"),
        "reader": _line(table.reader, "F_vs_interaction"),
        "interaction": _line(table.interaction, "F_vs_error"),
        "error": _line(table.error, ""),
        "total": {"df": sum(x.df for x in whole), "ss": sum(x.ss for x in whole)},
    }
    found["variances_anova_untruncated_with_interaction"] = _variances(study.raw)
    ev = study.with_interaction.ev
    found["repeatability_sd_ci95_unpooled"] = list(spread_interval(ev, table.error.df))
    if study.raw_pooled is not None:
        found["variances_pooled"] = _variances(study.raw_pooled.cut())
        found["pooled_anova"] = _pooled(table, study.raw_pooled)
    return found


def _pooled(table: Table, raw: Variances) -> dict[str, Any]:
    from scipy.special import fdtrc

    error, df = raw.repeatability, table.interaction.df + table.error.df
    found: dict[str, Any] = {"ms_error": error, "df_error": df}
    for name, line in (("part", table.part), ("reader", table.reader)):
        f = line.ms / error if error else None
        found[f"F_{name}"] = f
        found[f"p_{name}"] = float(fdtrc(line.df, df, f)) if f is not None else None
    return found


def _line(line: AnovaRow, against: str) -> dict[str, Any]:
    found: dict[str, Any] = {"df": line.df, "ss": line.ss, "ms": line.ms}
    return found | ({against: line.f, "p": line.p} if against else {})


def _variances(v: Variances) -> dict[str, float]:
    return {
        "repeatability": v.repeatability,
        "interaction": v.interaction,
        "operator": v.reader,
        "part": v.part,
    }


def _result(r: Result, tolerance: float | None) -> dict[str, Any]:
    sds = {"repeatability": r.ev, "reproducibility": r.av, "grr": r.grr, "part": r.pv}

    def share(part: float, whole: float) -> float | None:
        return 100.0 * part / whole if whole else None

    finite = math.isfinite(r.categories)
    found: dict[str, Any] = {
        "EV_repeatability_sd": r.ev,
        "operator_sd": r.reader,
        "interaction_sd": r.interaction,
        "AV_reproducibility_sd": r.av,
        "GRR_sd": r.grr,
        "PV_part_sd": r.pv,
        "TV_total_sd": r.tv,
        "pct_contribution": {name: share(sd**2, r.tv**2) for name, sd in sds.items()},
        "pct_study_variation": {name: share(sd, r.tv) for name, sd in sds.items()},
        "study_variation_6sd": {name: STUDY * sd for name, sd in (*sds.items(), ("total", r.tv))},
        "ndc_unrounded": r.categories if finite else None,
        "ndc": max(1, math.floor(r.categories)) if finite else None,
        "repeatability_limit_r_2.8": r.limit,
        "repeatability_limit_r_exact": LIMIT_EXACT * r.ev,
        "reproducibility_limit_R_2.8": LIMIT * r.grr,
    }
    if tolerance is not None:
        found |= {"tolerance": tolerance, "pct_tolerance_grr": 100.0 * STUDY * r.grr / tolerance}
    return found
