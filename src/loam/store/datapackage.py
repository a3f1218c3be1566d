"""A trial as a Data Package (Frictionless standard): datapackage.json and CSV files in one zip.

Lossless both ways: numbers are written so that they read back to the same double, readings keep
their order, strikes their whole log. See `docs/formats.md`.
"""

from __future__ import annotations

import csv
import hashlib
import io
import json
import lzma
import re
import struct
import zipfile
import zlib
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from loam.core.errors import LoamError, ValueRefused
from loam.core.panel import Taping
from loam.core.record import (
    AWAY,
    BASELINE,
    BY_KEY,
    CELL,
    COMBINATION,
    INTEGER,
    JOB_NOTE,
    NUMBER,
    OBJECT,
    PANEL,
    PICTURE,
    READING,
    SEEN,
    SORTS,
    STAGE,
    STRIKE,
    TEXT,
    THING,
    TRIAL,
    VALUE,
    Field,
    Sort,
)
from loam.core.record.fields import MOST_WHOLE
from loam.core.record.trial import USED
from loam.core.trial import Cell, Combination, Panel, Reading, Stage, Trial
from loam.core.wipes import read_wipes, written
from loam.store import photographs
from loam.store.admission import check_draft, too_many
from loam.store.builds import build_of, build_text, facts_text, outline_of, outline_text
from loam.store.combinations import STAGE_FIELDS
from loam.store.draft import Row, Strike, TrialDraft
from loam.store.facts_text import facts_of, value_of
from loam.store.guarded import guarded, unguarded
from loam.store.identity import is_uid
from loam.store.job_travel import check_note
from loam.store.origins import is_print
from loam.store.package_source import MAX_HEAD, PICTURES, Source, opened, refuse
from loam.store.safe_files import written_whole
from loam.store.table_file import FileRefused, collector_paused

FORMAT = 11
"""2 has who read, with which meter, marks and controls; formula-like text is guarded. 3 has the
sizes and speeds of a stage. 6 has how a reading was taken, and readings of another day or wash. 8
has what a file calls its cells. 9 has all of a trial, with the identity of every row.
10 has up to eight stages, the grit of discs, and wipes as part of what a cell gets. 11 has the jobs
that rest on the trial."""
_PICTURE = re.compile(r"[0-9a-f]{64}\.jpg")
VALUES = (TRIAL, PANEL, COMBINATION, STAGE, CELL, BASELINE, READING, STRIKE)
"""Sorts that are read into values of their own; all others stay rows."""
BESIDE: dict[str, tuple[str, ...]] = {
    "trial": ("uid",),
    "panel": ("uid", "board", "made"),
    "combination": ("uid", "made"),
    "stage": tuple(f"{what}_as_used" for what in USED),
    "reading": ("meter_as_used", "line", "uid"),
    "strike": ("uid", "made"),
}
"""Fields of those that no value holds."""
_EPOCH = (1980, 1, 1, 0, 0, 0)
_BROKEN = (
    OSError,
    zipfile.BadZipFile,
    zlib.error,
    lzma.LZMAError,
    struct.error,
    EOFError,
    RuntimeError,
    NotImplementedError,
    UnicodeError,
    ValueError,
    csv.Error,
    OverflowError,
)
"""What a damaged, encrypted, endless or deep package makes the readers of zip and text raise."""


def references(sort: Sort) -> list[tuple[str, Sort]]:
    """Return which fields of a sort refer by number to which other."""
    known = {**BY_KEY, "board": PANEL}
    return [(f.name, known[f.of]) for f in sort.fields if f.holds == INTEGER and f.of in known]


def _described(field: Field) -> dict[str, Any]:
    """Return what a descriptor says of a field."""
    said: dict[str, Any] = {"name": field.name, "type": _TYPES[field.holds]}
    if field.label:
        said["title"] = field.label
    if field.holds in (INTEGER, NUMBER):
        said["constraints"] = {"required": not field.empty}
    elif field.choices:
        said["constraints"] = {"enum": list(field.choices)}
    return said


_TYPES = {INTEGER: "integer", NUMBER: "number", TEXT: "string", OBJECT: "string", VALUE: "string"}


def _descriptor(title: str, workshop: str) -> dict[str, Any]:
    resources = []
    for sort in SORTS:
        schema: dict[str, Any] = {
            "fields": [_described(field) for field in sort.fields],
            "missingValues": [""],
        }
        if sort.key_fields:
            schema["primaryKey"] = list(sort.key_fields)
        refers = references(sort)
        if refers:
            schema["foreignKeys"] = [
                {"fields": field, "reference": {"resource": other.file, "fields": "id"}}
                for field, other in refers
            ]
        resources.append(
            {
                "name": sort.file,
                "path": f"{sort.file}.csv",
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


def _rows_of(draft: TrialDraft) -> dict[str, Iterable[Sequence[Any]]]:
    """Return the rows of each sort, values in the order of its fields."""
    t, beside = draft.trial, draft.beside
    rows: dict[str, Iterable[Sequence[Any]]] = {
        "trial": [
            (
                t.name,
                t.question,
                " ".join((*t.measurands, *t.unknown)),
                t.readings_per_cell,
                t.seed,
                t.note,
                draft.created_at,
                draft.uid,
            )
        ],
        "panel": [
            (
                p.id,
                p.name,
                p.hardness,
                p.paint,
                p.taping.width_mm,
                p.taping.height_mm,
                p.taping.rows,
                p.taping.columns,
                p.taping.gap_mm,
                p.taping.margin_mm,
                build_text(p.build),
                outline_text(p.outline),
                facts_text(p.facts),
                beside("panel", "uid", i),
                beside("panel", "board", i),
                beside("panel", "made", i),
            )
            for i, p in enumerate(draft.panels)
        ],
        "combination": [
            (
                c.id,
                c.code,
                c.name,
                c.control,
                beside("combination", "uid", i),
                beside("combination", "made", i),
            )
            for i, c in enumerate(draft.combinations)
        ],
        "stage": [
            (c.id, i, *_stage_row(s), *draft.used_by(c, i))
            for c in draft.combinations
            for i, s in enumerate(c.stages, 1)
        ],
        "cell": [
            (c.id, c.panel_id, c.row + 1, c.column + 1, c.combination_id, c.run_order, c.name)
            for c in draft.cells
        ],
        "baseline": [(c.id, m, v) for c in draft.cells for m, v in sorted(c.baseline.items())],
        "reading": [
            (
                r.id,
                r.cell_id,
                r.measurand,
                r.value,
                r.phase,
                r.ordinal,
                r.stage,
                r.scale,
                r.operator,
                r.day,
                r.taken_at,
                r.reader,
                r.meter,
                r.mark,
                r.about,
                beside("reading", "meter_as_used", i, None),
                beside("reading", "line", i, None),
                beside("reading", "uid", i),
            )
            for i, r in enumerate(draft.readings)
        ],
        "strike": [
            (
                s.reading_id,
                int(s.struck),
                s.reason,
                s.at,
                beside("strike", "uid", i),
                beside("strike", "made", i),
            )
            for i, s in enumerate(draft.strikes)
        ],
    }
    for sort in SORTS:
        if sort.key not in rows:
            names = [f.name for f in sort.fields]
            rows[sort.key] = [[r[n] for n in names] for r in draft.rest.get(sort.key, ())]
    return rows


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
        for sort in SORTS:
            info = zipfile.ZipInfo(f"{sort.file}.csv", _EPOCH)
            info.compress_type = zipfile.ZIP_DEFLATED
            with (
                archive.open(info, "w") as member,
                io.TextIOWrapper(member, "utf-8", newline="") as out,
            ):
                writer = csv.writer(out)
                writer.writerow([field.name for field in sort.fields])
                writer.writerows([_text(v) for v in row] for row in rows[sort.key])
        for name, image in sorted(draft.images.items()):
            archive.writestr(zipfile.ZipInfo(f"{PICTURES}/{name}", _EPOCH), image)


def read_package(path: Path, progress: Callable[[float], None] | None = None) -> TrialDraft:
    """Read a trial from a zipped Data Package, or from the folder of its datapackage.json.

    Raises
    ------
    FileRefused
        When it is not such a package, any value breaks its schema, or it unpacks to more than
        a trial can hold. What typing could not make is refused here too.
    """
    try:
        with collector_paused(), opened(path) as source:
            return _read(path, source, progress or (lambda _share: None))
    except FileRefused:
        raise
    except RecursionError as error:
        raise refuse(path, "this is not a readable file for exchange (it is too deep)") from error
    except _BROKEN as error:
        said = getattr(error, "strerror", None) or str(error) or type(error).__name__
        raise refuse(path, f"this is not a readable file for exchange ({said[:200]})") from error


def _read(path: Path, source: Source, progress: Callable[[float], None]) -> TrialDraft:
    try:
        with source.text("datapackage.json", MAX_HEAD) as text:
            head = json.load(text)
            version, workshop = head["loam_format"], head.get("loam_workshop", "")
    except (KeyError, ValueError, TypeError) as error:
        raise refuse(path, "datapackage.json is missing or not a trial written by Loam") from error
    if not isinstance(version, int) or isinstance(version, bool) or not 1 <= version <= FORMAT:
        said = str(version)[:40]
        raise refuse(path, f"the package has format {said}; this Loam reads up to {FORMAT}")
    rows: dict[str, list[Row]] = {}
    for i, sort in enumerate(SORTS):
        rows[sort.key] = list(_read_table(path, sort, source, version))
        progress(i / len(SORTS))
    for sort in SORTS:
        for field, other in references(sort):
            known = {r["id"] for r in rows[other.key]}
            for line, row in enumerate(rows[sort.key], 2):
                if row[field] is not None and row[field] not in known:
                    there = f"{other.file} {row[field]}, which is not there"
                    rule = f"{sort.file}.csv refers to {there}"
                    raise refuse(path, rule, line=line, column=field, value=str(row[field]))
    images = _pictures(path, source, rows)
    draft = _guard(path, lambda: replace(_assemble(path, rows), images=images))
    fault = check_draft(draft)
    if fault is not None:
        rule = f"{fault.table}.csv: {fault.rule}"
        raise refuse(path, rule, line=fault.at + 2, column=fault.column, value=fault.value)
    return replace(draft, workshop=workshop if is_print(workshop) else "")


def _pictures(path: Path, source: Source, rows: Mapping[str, list[Row]]) -> dict[str, bytes]:
    """Return the photographs that a package holds, each as its name says."""
    wanted = {str(r["picture"]) for sort in (SEEN, PICTURE) for r in rows[sort.key]}
    found = {}
    for name in sorted(wanted):
        if not _PICTURE.fullmatch(name):
            raise refuse(path, "a photograph is named by its hash", value=name[:80])
        image = source.bytes(f"{PICTURES}/{name}", photographs.MOST_BYTES)
        if hashlib.sha256(image).hexdigest() != name[:64]:
            raise refuse(path, f"the photograph {name[:12]}… is another than its name says")
        found[name] = image
    return found


def _guard(path: Path, build: Callable[[], TrialDraft]) -> TrialDraft:
    try:
        return build()
    except FileRefused:
        raise
    except LoamError as error:
        raise refuse(path, str(error)) from error


def _read_table(path: Path, sort: Sort, source: Source, version: int) -> Iterator[Row]:
    fields = sort.of_format(version)
    if not fields:
        return
    name = f"{sort.file}.csv"
    names = tuple(f.name for f in fields)
    later = {f.name: _nothing(f) for f in sort.fields if f.name not in names}
    plain = version < 2
    csv.field_size_limit(5_000_000)
    with source.text(name) as text:
        reader = csv.reader(text)
        header = next(reader, [])
        if header != list(names):
            raise refuse(path, f"{name} has other columns than its schema", line=1)
        for count, values in enumerate(reader, 1):
            if len(values) != len(header):
                rule = f"{name} has {len(values)} fields in a line"
                raise refuse(path, rule, line=reader.line_num)
            if count > sort.most and sort is not TRIAL:
                raise refuse(path, too_many(sort.file, count), line=reader.line_num)
            row: Row = {}
            for field, value in zip(fields, values, strict=True):
                try:
                    row[field.name] = _value(value, field, plain)
                except ValueError as error:
                    rule = f"{name}: this is not a {_TYPES[field.holds]}"
                    raise refuse(
                        path, rule, line=reader.line_num, column=field.name, value=value
                    ) from error
            row.update(later)
            yield row


def _nothing(field: Field) -> Any:
    """Return what a field is in a file of a format that does not have it."""
    return None if field.empty and field.holds in (INTEGER, NUMBER) else ""


def _value(text: str, field: Field, plain: bool) -> Any:
    if field.holds in (TEXT, OBJECT, VALUE):
        return text if plain else unguarded(text)
    if text == "" and field.empty:
        return None
    if not text.isascii() or len(text) > 40 or "_" in text or text != text.strip():
        raise ValueError(text)
    if field.holds == NUMBER:
        return float(text)
    whole = int(text)
    if abs(whole) > MOST_WHOLE:
        raise ValueError(text)
    return whole


def _check_rows(path: Path, rows: Mapping[str, list[Row]]) -> None:
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


def _stage_row(stage: Stage) -> list[object]:
    """Return what stages.csv says of a stage, in the order of `STAGE_FIELDS`."""
    return [written(stage.wipes) if f == "wipes" else getattr(stage, f) for f in STAGE_FIELDS]


def _assemble(path: Path, rows: dict[str, list[Row]]) -> TrialDraft:
    _check_rows(path, rows)
    head = rows["trial"][0]
    stages: dict[int, list[Stage]] = {}
    for r in sorted(rows["stage"], key=lambda r: (r["combination"], r["position"])):
        values = {f: r[f] for f in STAGE_FIELDS} | {"wipes": read_wipes(r["wipes"])}
        stages.setdefault(r["combination"], []).append(Stage(**values))
    baselines: dict[int, dict[str, float]] = {}
    for r in rows["baseline"]:
        baselines.setdefault(r["cell"], {})[r["measurand"]] = r["value"]
    return TrialDraft(
        Trial(
            1,
            head["name"],
            head["question"],
            tuple(head["measurands"].split()),
            head["readings_per_cell"],
            head["seed"],
            head["note"],
        ),
        tuple(
            Panel(
                r["id"],
                1,
                r["name"],
                r["hardness"],
                Taping(
                    r["width_mm"],
                    r["height_mm"],
                    r["rows"],
                    r["columns"],
                    r["gap_mm"],
                    r["margin_mm"],
                ),
                r["paint"],
                0,
                build_of(r["build"]),
                outline_of(r["outline"]),
                facts_of(r["facts"]),
            )
            for r in rows["panel"]
        ),
        tuple(
            Combination(r["id"], r["code"], r["name"], tuple(stages.get(r["id"], ())), r["control"])
            for r in rows["combination"]
        ),
        tuple(
            Cell(
                r["id"],
                r["panel"],
                r["row"] - 1,
                r["column"] - 1,
                r["combination"],
                r["run_order"],
                baselines.get(r["id"], {}),
                r["name"],
            )
            for r in rows["cell"]
        ),
        tuple(
            Reading(
                r["id"],
                r["cell"],
                r["measurand"],
                r["value"],
                r["phase"],
                r["ordinal"],
                r["stage"],
                r["scale"],
                r["operator"],
                r["day"],
                r["taken_at"],
                None,
                r["reader"],
                r["meter"],
                r["mark"],
                r["about"],
            )
            for r in rows["reading"]
        ),
        tuple(
            Strike(r["reading"], bool(r["struck"]), r["reason"], r["at"]) for r in rows["strike"]
        ),
        head["created_at"],
        side=_side(rows),
        rest={s.key: tuple(rows[s.key]) for s in SORTS if s not in VALUES and rows[s.key]},
    )


def _side(rows: Mapping[str, list[Row]]) -> dict[str, dict[str, tuple[Any, ...]]]:
    """Return what stands beside the values of a trial; nothing where no row has any of it."""
    found = {}
    for sort, names in BESIDE.items():
        columns = {name: tuple(row[name] for row in rows[sort]) for name in names}
        if any(value not in ("", None) for column in columns.values() for value in column):
            found[sort] = columns
    return found
