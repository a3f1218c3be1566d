"""What the rows of a file for exchange must hold to among themselves."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from loam.core.errors import ValueRefused
from loam.core.record import (
    AWAY,
    BASELINE,
    CELL,
    COMBINATION,
    JOB_NOTE,
    OBJECT,
    PANEL,
    READING,
    SORTS,
    STAGE,
    STRIKE,
    THING,
    TRIAL,
    VALUE,
    Sort,
)
from loam.store.draft import Row
from loam.store.facts_text import value_of
from loam.store.identity import is_uid
from loam.store.job_travel import check_note
from loam.store.package_source import refuse

VALUES = (TRIAL, PANEL, COMBINATION, STAGE, CELL, BASELINE, READING, STRIKE)
"""Sorts that are read into values of their own; all others stay rows."""


def check_rows(path: Path, rows: Mapping[str, list[Row]]) -> None:
    """Refuse rows that no trial can be: doubled, miscounted, without identity, or never typed.

    Raises
    ------
    FileRefused
        Naming the table, and line and column where it is one.
    """
    if len(rows["trial"]) != 1:
        raise refuse(path, "trial.csv holds exactly one trial")
    keys = [(r["combination"], r["position"]) for r in rows["stage"]]
    if len(set(keys)) < len(keys):
        raise refuse(path, "stages.csv: a stage stands twice", column="position")
    keys = [(r["cell"], r["measurand"]) for r in rows["baseline"]]
    if len(set(keys)) < len(keys):
        raise refuse(path, "baselines.csv: a reading before work stands twice", column="cell")
    for line, r in enumerate(rows["strike"], 2):
        if r["struck"] not in (0, 1):
            rule = "strikes.csv: struck is 1, or 0 when it counts again"
            raise refuse(path, rule, line=line, column="struck", value=str(r["struck"]))
    _check_numbers(path, rows)
    _check_identities(path, rows)
    _check_further(path, rows)


def _check_numbers(path: Path, rows: Mapping[str, list[Row]]) -> None:
    for sort in SORTS:
        if any(f.name == "id" for f in sort.fields):
            own = rows[sort.key]
            if [r["id"] for r in own] != list(range(1, len(own) + 1)):
                rule = f"{sort.file}.csv: the column id counts 1, 2, 3 and so on"
                raise refuse(path, rule, column="id")


def _check_identities(path: Path, rows: Mapping[str, list[Row]]) -> None:
    """Refuse an identity that is none, or that two rows of a sort bear."""
    for sort in SORTS:
        if sort in (THING, AWAY) or not any(f.name == "uid" for f in sort.fields):
            continue
        seen: set[str] = set()
        for line, row in enumerate(rows[sort.key], 2):
            uid = str(row["uid"])
            if uid and (uid in seen or not is_uid(uid)):
                rule = f"{sort.file}.csv: this is no identity, or that of another row"
                raise refuse(path, rule, line=line, column="uid", value=uid[:60])
            seen.add(uid)


def _check_further(path: Path, rows: Mapping[str, list[Row]]) -> None:
    """Refuse rows of other sorts that typing could not make."""
    for sort in SORTS:
        if sort in VALUES:
            continue
        for line, row in enumerate(rows[sort.key], 2):
            fault = sort.check(row) or _no_json(sort, row)
            if fault is None and sort is JOB_NOTE and (wrong := check_note(row)) is not None:
                fault = ("facts", wrong)
            if fault is not None:
                name, error = fault
                rule = f"{sort.file}.csv: {error.what}"
                raise refuse(path, rule, line=line, column=name, value=str(row[name])[:60])


_NO = object()


def _no_json(sort: Sort, row: Row) -> tuple[str, ValueRefused] | None:
    for field in sort.fields:
        if field.holds not in (OBJECT, VALUE):
            continue
        found = value_of(row[field.name] or "{}", _NO)
        if found is _NO or (field.holds == OBJECT and not isinstance(found, dict)):
            what = "a JSON object" if field.holds == OBJECT else "a JSON value"
            return field.name, ValueRefused(f"{field.said} is {what}")
    return None
