"""A trial as a Data Package (Frictionless standard): datapackage.json and CSV files in one zip.

Lossless both ways: numbers are written so that they read back to the same double, readings keep
their order, strikes their whole log. See `docs/formats.md`.
"""

from __future__ import annotations

import csv
import io
import json
import zipfile
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from loam.core.errors import LoamError
from loam.core.panel import Taping
from loam.core.readings import kind_of
from loam.core.trial import PHASES, Cell, Combination, Panel, Reading, Stage, Trial
from loam.store.draft import Strike, TrialDraft
from loam.store.table_file import FileRefused, Problem
from loam.store.trials import STAGE_FIELDS

FORMAT = 1
MAX_UNPACKED = 1024 * 1024 * 1024
_EPOCH = (1980, 1, 1, 0, 0, 0)

_I, _F, _S = "integer", "number", "string"


@dataclass(frozen=True)
class _Table:
    name: str
    fields: tuple[tuple[str, str], ...]
    optional: tuple[str, ...] = ()
    refers: tuple[tuple[str, str], ...] = ()
    key: tuple[str, ...] = ("id",)


TABLES: tuple[_Table, ...] = (
    _Table(
        "trial",
        (
            ("name", _S), ("question", _S), ("measurands", _S), ("readings_per_cell", _I),
            ("seed", _I), ("note", _S), ("created_at", _S),
        ),
        key=("name",),
    ),
    _Table(
        "panels",
        (
            ("id", _I), ("name", _S), ("hardness", _S), ("paint", _S), ("width_mm", _F),
            ("height_mm", _F), ("rows", _I), ("columns", _I), ("gap_mm", _F), ("margin_mm", _F),
        ),
    ),
    _Table("combinations", (("id", _I), ("code", _S), ("name", _S))),
    _Table(
        "stages",
        (
            ("combination", _I), ("position", _I), ("pad", _S), ("compound", _S), ("machine", _S),
            ("pad_material", _S), ("compound_class", _S), ("machine_kind", _S), ("passes", _I),
            ("dial", _S), ("force_n", _F),
        ),
        optional=("force_n",),
        refers=(("combination", "combinations"),),
        key=("combination", "position"),
    ),
    _Table(
        "cells",
        (
            ("id", _I), ("panel", _I), ("row", _I), ("column", _I), ("combination", _I),
            ("run_order", _I),
        ),
        optional=("combination", "run_order"),
        refers=(("panel", "panels"), ("combination", "combinations")),
    ),
    _Table(
        "baselines",
        (("cell", _I), ("measurand", _S), ("value", _F)),
        refers=(("cell", "cells"),),
        key=("cell", "measurand"),
    ),
    _Table(
        "readings",
        (
            ("id", _I), ("cell", _I), ("measurand", _S), ("value", _F), ("phase", _S),
            ("ordinal", _I), ("stage", _I), ("scale", _S), ("operator", _S), ("day", _S),
            ("taken_at", _S),
        ),
        refers=(("cell", "cells"),),
    ),
    _Table(
        "strikes",
        (("reading", _I), ("struck", _I), ("reason", _S), ("at", _S)),
        refers=(("reading", "readings"),),
        key=(),
    ),
)  # fmt: skip


def _descriptor(title: str) -> dict[str, Any]:
    resources = []
    for table in TABLES:
        schema: dict[str, Any] = {
            "fields": [
                {"name": n, "type": t, "constraints": {"required": n not in table.optional}}
                if t != _S
                else {"name": n, "type": t}
                for n, t in table.fields
            ],
            "missingValues": [""],
        }
        if table.key:
            schema["primaryKey"] = list(table.key)
        if table.refers:
            schema["foreignKeys"] = [
                {"fields": field, "reference": {"resource": other, "fields": "id"}}
                for field, other in table.refers
            ]
        resources.append(
            {
                "name": table.name,
                "path": f"{table.name}.csv",
                "profile": "tabular-data-resource",
                "format": "csv",
                "mediatype": "text/csv",
                "encoding": "utf-8",
                "dialect": {"delimiter": ",", "lineTerminator": "\r\n", "doubleQuote": True},
                "schema": schema,
            }
        )
    return {
        "profile": "tabular-data-package",
        "name": "loam-trial",
        "title": title,
        "loam_format": FORMAT,
        "resources": resources,
    }


def _rows_of(draft: TrialDraft) -> dict[str, Iterable[tuple[Any, ...]]]:
    t = draft.trial
    return {
        "trial": [
            (t.name, t.question, " ".join(t.measurands), t.readings_per_cell, t.seed, t.note,
             draft.created_at)
        ],
        "panels": [
            (p.id, p.name, p.hardness, p.paint, p.taping.width_mm, p.taping.height_mm,
             p.taping.rows, p.taping.columns, p.taping.gap_mm, p.taping.margin_mm)
            for p in draft.panels
        ],
        "combinations": [(c.id, c.code, c.name) for c in draft.combinations],
        "stages": [
            (c.id, i, *(getattr(s, f) for f in STAGE_FIELDS))
            for c in draft.combinations
            for i, s in enumerate(c.stages, 1)
        ],
        "cells": [
            (c.id, c.panel_id, c.row + 1, c.column + 1, c.combination_id, c.run_order)
            for c in draft.cells
        ],
        "baselines": [
            (c.id, m, v) for c in draft.cells for m, v in sorted(c.baseline.items())
        ],
        "readings": [
            (r.id, r.cell_id, r.measurand, r.value, r.phase, r.ordinal, r.stage, r.scale,
             r.operator, r.day, r.taken_at)
            for r in draft.readings
        ],
        "strikes": [(s.reading_id, int(s.struck), s.reason, s.at) for s in draft.strikes],
    }  # fmt: skip


def _text(value: Any) -> str:
    if value is None:
        return ""
    return repr(value) if isinstance(value, float) else str(value)


def write_package(draft: TrialDraft, path: Path) -> None:
    """Write a trial as a zipped Data Package, whole or not at all."""
    beside = path.with_name(path.name + ".part")
    rows = _rows_of(draft)
    try:
        with zipfile.ZipFile(beside, "w", zipfile.ZIP_DEFLATED) as archive:
            head = json.dumps(_descriptor(draft.trial.name), indent=2, ensure_ascii=False)
            archive.writestr(zipfile.ZipInfo("datapackage.json", _EPOCH), head + "\n")
            for table in TABLES:
                out = io.StringIO(newline="")
                writer = csv.writer(out)
                writer.writerow([name for name, _ in table.fields])
                writer.writerows([_text(v) for v in row] for row in rows[table.name])
                info = zipfile.ZipInfo(f"{table.name}.csv", _EPOCH)
                info.compress_type = zipfile.ZIP_DEFLATED
                archive.writestr(info, out.getvalue())
        beside.replace(path)
    except OSError as error:
        beside.unlink(missing_ok=True)
        raise LoamError(
            f"The file could not be written ({error.strerror}).",
            where=str(path),
            todo="Choose another place.",
            kept="The trial is safe in the workshop.",
        ) from error


def _refuse(
    path: Path, rule: str, *, line: int = 0, column: str = "", value: str = ""
) -> FileRefused:
    return FileRefused(path, [Problem(line, column, value, rule)])


def read_package(path: Path) -> TrialDraft:
    """Read a trial from a zipped Data Package, or from the folder of its datapackage.json.

    Raises
    ------
    FileRefused
        When it is not such a package, or any value breaks its schema.
    """
    texts = _texts(path)
    try:
        head = json.loads(texts["datapackage.json"])
        version = head["loam_format"]
    except (KeyError, ValueError, TypeError) as error:
        raise _refuse(path, "datapackage.json is missing or not a trial written by Loam") from error
    if not isinstance(version, int) or version > FORMAT:
        raise _refuse(path, f"the package has format {version}; this Loam reads up to {FORMAT}")
    rows = {table.name: _read_table(path, table, texts) for table in TABLES}
    for table in TABLES:
        for field, other in table.refers:
            known = {r["id"] for r in rows[other]}
            for line, row in enumerate(rows[table.name], 2):
                if row[field] is not None and row[field] not in known:
                    rule = f"{table.name}.csv refers to {other} {row[field]}, which is not there"
                    raise _refuse(path, rule, line=line, column=field, value=str(row[field]))
    _check_values(path, rows)
    return _guard(path, lambda: _assemble(path, rows))


def _check_values(path: Path, rows: dict[str, list[dict[str, Any]]]) -> None:
    """Refuse what the schema's types alone would let through."""
    size = {r["id"]: (r["rows"], r["columns"]) for r in rows["panels"]}
    for line, cell in enumerate(rows["cells"], 2):
        down, across = size[cell["panel"]]
        if not (1 <= cell["row"] <= down and 1 <= cell["column"] <= across):
            rule = "cells.csv: the cell lies off its panel"
            raise _refuse(path, rule, line=line, column="row", value=str(cell["row"]))
    for line, reading in enumerate(rows["readings"], 2):
        if reading["phase"] not in PHASES:
            rule = "readings.csv: the phase is one of " + ", ".join(PHASES)
            raise _refuse(path, rule, line=line, column="phase", value=reading["phase"])
        try:
            kind_of(reading["measurand"]).check(reading["value"])
        except LoamError as error:
            value = str(reading["value"])
            raise _refuse(path, error.what, line=line, column="value", value=value) from error


def _guard(path: Path, build: Callable[[], TrialDraft]) -> TrialDraft:
    try:
        return build()
    except FileRefused:
        raise
    except LoamError as error:
        raise _refuse(path, str(error)) from error


def _texts(path: Path) -> dict[str, str]:
    wanted = ["datapackage.json", *(f"{t.name}.csv" for t in TABLES)]
    try:
        if path.name == "datapackage.json" or path.is_dir():
            folder = path if path.is_dir() else path.parent
            raw = {n: (folder / n).read_bytes() for n in wanted if (folder / n).exists()}
        else:
            with zipfile.ZipFile(path) as archive:
                names = [n for n in archive.namelist() if n in wanted]
                if sum(archive.getinfo(n).file_size for n in names) > MAX_UNPACKED:
                    raise _refuse(path, "the package unpacks to more than 1 GB")
                raw = {n: archive.read(n) for n in names}
        return {name: content.decode("utf-8") for name, content in raw.items()}
    except (OSError, zipfile.BadZipFile, UnicodeDecodeError, NotImplementedError) as error:
        raise _refuse(path, f"this is not a readable Data Package ({error})") from error


def _read_table(path: Path, table: _Table, texts: dict[str, str]) -> list[dict[str, Any]]:
    name = f"{table.name}.csv"
    if name not in texts:
        raise _refuse(path, f"{name} is missing")
    reader = csv.reader(io.StringIO(texts[name], newline=""))
    header = next(reader, [])
    if header != [n for n, _ in table.fields]:
        raise _refuse(path, f"{name} has other columns than its schema", line=1)
    rows = []
    for values in reader:
        line = reader.line_num
        if len(values) != len(header):
            raise _refuse(path, f"{name} has {len(values)} fields in a line", line=line)
        row: dict[str, Any] = {}
        for (field, kind), text in zip(table.fields, values, strict=True):
            try:
                row[field] = _value(text, kind, field in table.optional)
            except ValueError as error:
                rule = f"{name}: this is not a {kind}"
                raise _refuse(path, rule, line=line, column=field, value=text) from error
        rows.append(row)
    return rows


def _value(text: str, kind: str, optional: bool) -> Any:
    if kind == _S:
        return text
    if text == "" and optional:
        return None
    return int(text) if kind == _I else float(text)


def _assemble(path: Path, rows: dict[str, list[dict[str, Any]]]) -> TrialDraft:
    if len(rows["trial"]) != 1:
        raise _refuse(path, "trial.csv holds exactly one trial")
    head = rows["trial"][0]
    for name in ("panels", "combinations", "cells", "readings"):
        if [r["id"] for r in rows[name]] != list(range(1, len(rows[name]) + 1)):
            raise _refuse(path, f"{name}.csv: the column id counts 1, 2, 3 and so on", column="id")
    stages: dict[int, list[Stage]] = {}
    for r in sorted(rows["stages"], key=lambda r: (r["combination"], r["position"])):
        stages.setdefault(r["combination"], []).append(Stage(**{f: r[f] for f in STAGE_FIELDS}))
    baselines: dict[int, dict[str, float]] = {}
    for r in rows["baselines"]:
        baselines.setdefault(r["cell"], {})[r["measurand"]] = r["value"]
    return TrialDraft(
        Trial(
            1, head["name"], head["question"], tuple(head["measurands"].split()),
            head["readings_per_cell"], head["seed"], head["note"],
        ),
        tuple(
            Panel(
                r["id"], 1, r["name"], r["hardness"],
                Taping(
                    r["width_mm"], r["height_mm"], r["rows"], r["columns"], r["gap_mm"],
                    r["margin_mm"],
                ),
                r["paint"],
            )
            for r in rows["panels"]
        ),
        tuple(
            Combination(r["id"], r["code"], r["name"], tuple(stages.get(r["id"], ())))
            for r in rows["combinations"]
        ),
        tuple(
            Cell(
                r["id"], r["panel"], r["row"] - 1, r["column"] - 1, r["combination"],
                r["run_order"], baselines.get(r["id"], {}),
            )
            for r in rows["cells"]
        ),
        tuple(
            Reading(
                r["id"], r["cell"], r["measurand"], r["value"], r["phase"], r["ordinal"],
                r["stage"], r["scale"], r["operator"], r["day"], r["taken_at"],
            )
            for r in rows["readings"]
        ),
        tuple(
            Strike(r["reading"], bool(r["struck"]), r["reason"], r["at"]) for r in rows["strikes"]
        ),
        head["created_at"],
    )  # fmt: skip
