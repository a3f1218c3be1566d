"""A trial as a Data Package (Frictionless standard): datapackage.json and CSV files in one zip.

Lossless both ways: numbers are written so that they read back to the same double, readings keep
their order, strikes their whole log. See `docs/formats.md`.
"""

from __future__ import annotations

import csv
import io
import json
import lzma
import struct
import zipfile
import zlib
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import IO, Any

from loam.core.errors import LoamError
from loam.core.panel import Taping
from loam.core.trial import Cell, Combination, Panel, Reading, Stage, Trial
from loam.store.builds import build_of, build_text, outline_of, outline_text
from loam.store.combinations import STAGE_FIELDS
from loam.store.door import MOST, check_draft, too_many
from loam.store.draft import Strike, TrialDraft
from loam.store.guarded import guarded, unguarded
from loam.store.origins import is_print
from loam.store.safe_files import open_regular, written_whole
from loam.store.table_file import FileRefused, Problem, collector_paused

FORMAT = 8
"""2 has who read, with which meter, marks and controls; formula-like text is guarded. 3 has the
sizes and speeds of a stage. 6 has how a reading was taken, and readings of another day or wash. 8
has what a file calls its cells."""
MAX_HEAD = 4 * 1024 * 1024
MAX_MEMBER = 256 * 1024 * 1024
MAX_UNPACKED = 400 * 1024 * 1024
_EPOCH = (1980, 1, 1, 0, 0, 0)
_BROKEN = (
    OSError, zipfile.BadZipFile, zlib.error, lzma.LZMAError, struct.error, EOFError, RuntimeError,
    NotImplementedError, UnicodeError, ValueError, csv.Error, OverflowError,
)  # fmt: skip
"""What a damaged, encrypted, endless or deep package makes the readers of zip and text raise."""

_I, _F, _S = "integer", "number", "string"
_WHOLE = 2**53
_SIZES = ("pad_mm", "orbit_mm", "speed", "arm_mm_s", "overlap", "line_shift")
_HANDLING = ("tilt_deg", "burst_s")


@dataclass(frozen=True)
class _Table:
    name: str
    fields: tuple[tuple[str, str], ...]
    optional: tuple[str, ...] = ()
    refers: tuple[tuple[str, str], ...] = ()
    key: tuple[str, ...] = ("id",)
    since_2: tuple[str, ...] = ()
    since_3: tuple[str, ...] = ()
    since_4: tuple[str, ...] = ()
    since_5: tuple[str, ...] = ()
    since_6: tuple[str, ...] = ()
    since_8: tuple[str, ...] = ()

    def of_format(self, version: int) -> tuple[tuple[str, str], ...]:
        """Return the fields that a format has."""
        later = [
            *(self.since_2 if version < 2 else ()), *(self.since_3 if version < 3 else ()),
            *(self.since_4 if version < 4 else ()), *(self.since_5 if version < 5 else ()),
            *(self.since_6 if version < 6 else ()), *(self.since_8 if version < 8 else ()),
        ]  # fmt: skip
        return tuple(f for f in self.fields if f[0] not in later)


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
            ("build", _S), ("outline", _S),
        ),
        since_3=("build",),
        since_4=("outline",),
    ),
    _Table(
        "combinations", (("id", _I), ("code", _S), ("name", _S), ("control", _S)),
        since_2=("control",),
    ),
    _Table(
        "stages",
        (
            ("combination", _I), ("position", _I), ("pad", _S), ("compound", _S), ("machine", _S),
            ("pad_material", _S), ("compound_class", _S), ("machine_kind", _S), ("passes", _I),
            ("dial", _S), ("force_n", _F), *((name, _F) for name in _SIZES),
            *((name, _F) for name in _HANDLING), ("disc", _S),
        ),
        optional=("force_n", *_SIZES, *_HANDLING),
        since_3=_SIZES,
        since_5=(*_HANDLING, "disc"),
        refers=(("combination", "combinations"),),
        key=("combination", "position"),
    ),
    _Table(
        "cells",
        (
            ("id", _I), ("panel", _I), ("row", _I), ("column", _I), ("combination", _I),
            ("run_order", _I), ("name", _S),
        ),
        optional=("combination", "run_order"),
        since_8=("name",),
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
            ("taken_at", _S), ("reader", _S), ("meter", _S), ("mark", _S), ("about", _S),
        ),
        refers=(("cell", "cells"),),
        since_2=("reader", "meter", "mark"),
        since_6=("about",),
    ),
    _Table(
        "strikes",
        (("reading", _I), ("struck", _I), ("reason", _S), ("at", _S)),
        refers=(("reading", "readings"),),
        key=(),
    ),
)  # fmt: skip


def _descriptor(title: str, workshop: str) -> dict[str, Any]:
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
        **({"loam_workshop": workshop} if workshop else {}),
        "resources": resources,
    }


def _rows_of(draft: TrialDraft) -> dict[str, Iterable[tuple[Any, ...]]]:
    t = draft.trial
    return {
        "trial": [
            (t.name, t.question, " ".join((*t.measurands, *t.unknown)), t.readings_per_cell,
             t.seed, t.note, draft.created_at)
        ],
        "panels": [
            (p.id, p.name, p.hardness, p.paint, p.taping.width_mm, p.taping.height_mm,
             p.taping.rows, p.taping.columns, p.taping.gap_mm, p.taping.margin_mm,
             build_text(p.build), outline_text(p.outline))
            for p in draft.panels
        ],
        "combinations": [(c.id, c.code, c.name, c.control) for c in draft.combinations],
        "stages": [
            (c.id, i, *(getattr(s, f) for f in STAGE_FIELDS))
            for c in draft.combinations
            for i, s in enumerate(c.stages, 1)
        ],
        "cells": [
            (c.id, c.panel_id, c.row + 1, c.column + 1, c.combination_id, c.run_order, c.name)
            for c in draft.cells
        ],
        "baselines": [
            (c.id, m, v) for c in draft.cells for m, v in sorted(c.baseline.items())
        ],
        "readings": [
            (r.id, r.cell_id, r.measurand, r.value, r.phase, r.ordinal, r.stage, r.scale,
             r.operator, r.day, r.taken_at, r.reader, r.meter, r.mark, r.about)
            for r in draft.readings
        ],
        "strikes": [(s.reading_id, int(s.struck), s.reason, s.at) for s in draft.strikes],
    }  # fmt: skip


def _text(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, str):
        return guarded(value)
    return repr(value) if isinstance(value, float) else str(value)


def write_package(draft: TrialDraft, path: Path) -> None:
    """Write a trial as a zipped Data Package, whole or not at all.

    Raises
    ------
    LoamError
        When the place is no ordinary file, or the disk refuses.
    """
    rows = _rows_of(draft)
    with (
        written_whole(path, "The trial is safe in the workshop.") as beside,
        zipfile.ZipFile(beside, "w", zipfile.ZIP_DEFLATED) as archive,
    ):
        head = json.dumps(
            _descriptor(draft.trial.name, draft.workshop), indent=2, ensure_ascii=False
        )
        archive.writestr(zipfile.ZipInfo("datapackage.json", _EPOCH), head + "\n")
        for table in TABLES:
            info = zipfile.ZipInfo(f"{table.name}.csv", _EPOCH)
            info.compress_type = zipfile.ZIP_DEFLATED
            with (
                archive.open(info, "w") as member,
                io.TextIOWrapper(member, "utf-8", newline="") as out,
            ):
                writer = csv.writer(out)
                writer.writerow([name for name, _ in table.fields])
                writer.writerows([_text(v) for v in row] for row in rows[table.name])


def _refuse(
    path: Path, rule: str, *, line: int = 0, column: str = "", value: str = ""
) -> FileRefused:
    return FileRefused(path, [Problem(line, column, value, rule)])


def read_package(path: Path, progress: Callable[[float], None] | None = None) -> TrialDraft:
    """Read a trial from a zipped Data Package, or from the folder of its datapackage.json.

    Raises
    ------
    FileRefused
        When it is not such a package, any value breaks its schema, or it unpacks to more than
        a trial can hold. What typing could not make is refused here too.
    """
    try:
        with collector_paused(), _opened(path) as source:
            return _read(path, source, progress or (lambda _share: None))
    except FileRefused:
        raise
    except RecursionError as error:
        raise _refuse(path, "this is not a readable file for exchange (it is too deep)") from error
    except _BROKEN as error:
        said = getattr(error, "strerror", None) or str(error) or type(error).__name__
        raise _refuse(path, f"this is not a readable file for exchange ({said[:200]})") from error


class _Source:
    """The members of a package, each opened as text, with a limit on what they unpack to."""

    def __init__(self, path: Path, names: Iterable[str], open_member: Callable[[str], Any]) -> None:
        self.path, self.names, self._open = path, set(names), open_member
        self.unpacked = 0

    @contextmanager
    def text(self, name: str, most: int = MAX_MEMBER) -> Iterator[IO[str]]:
        """Open a member as text."""
        if name not in self.names:
            raise _refuse(self.path, f"{name} is missing")
        with self._open(name) as raw:
            limited = _Limited(self, raw, most)
            with io.TextIOWrapper(io.BufferedReader(limited), "utf-8", newline="") as text:
                yield text


class _Limited(io.RawIOBase):
    """Reads on until a member, or all of them together, give more than a trial can be."""

    def __init__(self, source: _Source, raw: Any, most: int) -> None:
        self._source, self._raw, self._left = source, raw, most

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: Any) -> int:
        data = self._raw.read(len(buffer))
        self._left -= len(data)
        self._source.unpacked += len(data)
        if self._left < 0 or self._source.unpacked > MAX_UNPACKED:
            raise _refuse(self._source.path, "the package unpacks to more than a trial can be")
        buffer[: len(data)] = data
        return len(data)


@contextmanager
def _opened(path: Path) -> Iterator[_Source]:
    if path.name == "datapackage.json" or path.is_dir():
        folder = path if path.is_dir() else path.parent
        wanted = ["datapackage.json", *(f"{t.name}.csv" for t in TABLES)]
        found = [n for n in wanted if (folder / n).exists()]
        yield _Source(path, found, lambda name: open_regular(folder / name))
        return
    with open_regular(path) as file, zipfile.ZipFile(file) as archive:
        names = archive.namelist()
        if len(set(names)) < len(names):
            raise _refuse(path, "two files of the package have one name")
        for info in archive.infolist():
            if info.flag_bits & 1:
                raise _refuse(path, "the package is encrypted; unpack it first")
            if info.compress_type not in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED):
                raise _refuse(path, "the package is packed in a way that Loam does not read")
        yield _Source(path, names, archive.open)


def _read(path: Path, source: _Source, progress: Callable[[float], None]) -> TrialDraft:
    try:
        with source.text("datapackage.json", MAX_HEAD) as text:
            head = json.load(text)
            version, workshop = head["loam_format"], head.get("loam_workshop", "")
    except (KeyError, ValueError, TypeError) as error:
        raise _refuse(path, "datapackage.json is missing or not a trial written by Loam") from error
    if not isinstance(version, int) or isinstance(version, bool) or not 1 <= version <= FORMAT:
        said = str(version)[:40]
        raise _refuse(path, f"the package has format {said}; this Loam reads up to {FORMAT}")
    rows: dict[str, list[dict[str, Any]]] = {}
    for i, table in enumerate(TABLES):
        rows[table.name] = list(_read_table(path, table, source, version))
        progress(i / len(TABLES))
    for table in TABLES:
        for field, other in table.refers:
            known = {r["id"] for r in rows[other]}
            for line, row in enumerate(rows[table.name], 2):
                if row[field] is not None and row[field] not in known:
                    rule = f"{table.name}.csv refers to {other} {row[field]}, which is not there"
                    raise _refuse(path, rule, line=line, column=field, value=str(row[field]))
    draft = _guard(path, lambda: _assemble(path, rows))
    fault = check_draft(draft)
    if fault is not None:
        rule = f"{fault.table}.csv: {fault.rule}"
        raise _refuse(path, rule, line=fault.at + 2, column=fault.column, value=fault.value)
    return replace(draft, workshop=workshop if is_print(workshop) else "")


def _guard(path: Path, build: Callable[[], TrialDraft]) -> TrialDraft:
    try:
        return build()
    except FileRefused:
        raise
    except LoamError as error:
        raise _refuse(path, str(error)) from error


def _read_table(
    path: Path, table: _Table, source: _Source, version: int
) -> Iterator[dict[str, Any]]:
    name = f"{table.name}.csv"
    fields = table.of_format(version)
    names = tuple(n for n, _ in fields)
    later = {n: None if n in table.optional else "" for n, _ in table.fields if n not in names}
    plain = version < 2
    csv.field_size_limit(1_000_000)
    with source.text(name) as text:
        reader = csv.reader(text)
        header = next(reader, [])
        if header != list(names):
            raise _refuse(path, f"{name} has other columns than its schema", line=1)
        for count, values in enumerate(reader, 1):
            if len(values) != len(header):
                rule = f"{name} has {len(values)} fields in a line"
                raise _refuse(path, rule, line=reader.line_num)
            if table.name in MOST and too_many(table.name, count):
                raise _refuse(path, too_many(table.name, count), line=reader.line_num)
            row: dict[str, Any] = {}
            for (field, kind), value in zip(fields, values, strict=True):
                try:
                    row[field] = _value(value, kind, field in table.optional, plain)
                except ValueError as error:
                    rule = f"{name}: this is not a {kind}"
                    raise _refuse(
                        path, rule, line=reader.line_num, column=field, value=value
                    ) from error
            row.update(later)
            yield row


def _value(text: str, kind: str, optional: bool, plain: bool) -> Any:
    if kind == _S:
        return text if plain else unguarded(text)
    if text == "" and optional:
        return None
    if not text.isascii() or len(text) > 40 or "_" in text or text != text.strip():
        raise ValueError(text)
    if kind == _F:
        return float(text)
    whole = int(text)
    if abs(whole) > _WHOLE:
        raise ValueError(text)
    return whole


def _assemble(path: Path, rows: dict[str, list[dict[str, Any]]]) -> TrialDraft:
    if len(rows["trial"]) != 1:
        raise _refuse(path, "trial.csv holds exactly one trial")
    head = rows["trial"][0]
    keys = [(r["combination"], r["position"]) for r in rows["stages"]]
    if len(set(keys)) < len(keys):
        raise _refuse(path, "stages.csv: a stage stands twice", column="position")
    keys = [(r["cell"], r["measurand"]) for r in rows["baselines"]]
    if len(set(keys)) < len(keys):
        raise _refuse(path, "baselines.csv: a reading before work stands twice", column="cell")
    for line, r in enumerate(rows["strikes"], 2):
        if r["struck"] not in (0, 1):
            rule = "strikes.csv: struck is 1, or 0 when it counts again"
            raise _refuse(path, rule, line=line, column="struck", value=str(r["struck"]))
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
                r["paint"], 0, build_of(r["build"]), outline_of(r["outline"]),
            )
            for r in rows["panels"]
        ),
        tuple(
            Combination(r["id"], r["code"], r["name"], tuple(stages.get(r["id"], ())), r["control"])
            for r in rows["combinations"]
        ),
        tuple(
            Cell(
                r["id"], r["panel"], r["row"] - 1, r["column"] - 1, r["combination"],
                r["run_order"], baselines.get(r["id"], {}), r["name"],
            )
            for r in rows["cells"]
        ),
        tuple(
            Reading(
                r["id"], r["cell"], r["measurand"], r["value"], r["phase"], r["ordinal"],
                r["stage"], r["scale"], r["operator"], r["day"], r["taken_at"], None, r["reader"],
                r["meter"], r["mark"], r["about"],
            )
            for r in rows["readings"]
        ),
        tuple(
            Strike(r["reading"], bool(r["struck"]), r["reason"], r["at"]) for r in rows["strikes"]
        ),
        head["created_at"],
    )  # fmt: skip
