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
from collections.abc import Callable, Iterator, Mapping
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any

from loam.core.errors import LoamError
from loam.core.record import (
    BY_KEY,
    INTEGER,
    NUMBER,
    OBJECT,
    PANEL,
    PICTURE,
    SEEN,
    SORTS,
    TEXT,
    TRIAL,
    VALUE,
    Field,
    Sort,
)
from loam.core.record.fields import MOST_WHOLE
from loam.store import photographs
from loam.store.admission import check_draft, too_many
from loam.store.draft import Row, TrialDraft
from loam.store.guarded import guarded, unguarded
from loam.store.origins import is_print
from loam.store.package_checks import check_rows
from loam.store.package_rows import assemble, rows_of
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
    rows = rows_of(draft)
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
    draft = replace(_guard(path, partial(_assembled, path, rows)), images=images)
    fault = check_draft(draft)
    if fault is not None:
        rule = f"{fault.table}.csv: {fault.rule}"
        raise refuse(path, rule, line=fault.at + 2, column=fault.column, value=fault.value)
    return replace(draft, workshop=workshop if is_print(workshop) else "")


def _assembled(path: Path, rows: Mapping[str, list[Row]]) -> TrialDraft:
    check_rows(path, rows)
    return assemble(rows)


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
