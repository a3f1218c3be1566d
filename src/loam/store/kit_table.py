"""The shelf as a table: pasted from a spreadsheet, or a CSV that goes out and comes in again."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path
from typing import Any

from loam.core.errors import ValueRefused
from loam.core.kit.facts import BY_SORT, SORTS, Fact, Sort
from loam.store.guarded import guarded, unguarded
from loam.store.kit import KitVersion
from loam.store.safe_files import write_text
from loam.store.table_file import Complaints, TableFile

Thing = tuple[str, str, dict[str, Any]]
"""Sort, name and facts."""
SORT, NAME = "sort", "name"
MOST = 2000
MOST_LETTERS = 1_000_000


def is_kit(header: Sequence[str]) -> bool:
    """Tell whether a file's columns are those of a shelf."""
    low = [h.strip().casefold() for h in header[:2]]
    return low == [SORT, NAME]


def table_of(sort: Sort, things: Iterable[KitVersion]) -> list[list[str]]:
    """Return things of one sort as rows, their heading first; pasted, they read back."""
    rows = [[NAME, *(f.label for f in sort.facts)]]
    for thing in things:
        rows.append([thing.name, *(f.write(thing.facts.get(f.key)) for f in sort.facts)])
    return rows


def pasted(text: str, sort: Sort) -> list[Thing]:
    """Read rows that were copied from a spreadsheet: with headings, or in the order of the sheet.

    Raises
    ------
    ValueRefused
        With the row and what is wrong there; nothing is taken then.
    """
    if len(text) > MOST_LETTERS:
        raise ValueRefused(f"{len(text)} letters; {MOST_LETTERS} at a time are the most.")
    lines = [line for line in text.splitlines() if line.strip()]
    if not lines:
        raise ValueRefused("Nothing was copied.", todo="Copy rows first.")
    if len(lines) > MOST:
        raise ValueRefused(f"{len(lines)} rows; {MOST} at a time are the most.")
    between = (
        "\t" if "\t" in lines[0] else ";" if ";" in lines[0] and sort.key != "machine" else ","
    )
    try:
        rows = list(csv.reader(lines, delimiter=between if between in lines[0] else "\t"))
    except csv.Error as error:
        raise ValueRefused(f"The rows cannot be read ({error}).") from error
    facts: list[Fact | None] = [None, *sort.facts]
    headed = rows[0][0].strip().casefold() == NAME
    if headed:
        facts = [None, *(sort.named(h) for h in rows[0][1:])]
        unknown = [h for h, f in zip(rows[0][1:], facts[1:], strict=True) if f is None and h]
        if unknown:
            raise ValueRefused(
                f"{unknown[0][:40]!r} is nothing that is kept of a {sort.one}.",
                todo="Headings are: name, " + ", ".join(f.label for f in sort.facts) + ".",
            )
    found = []
    for number, row in enumerate(rows[headed:], 1 + headed):
        if len(row) > len(facts):
            raise ValueRefused(
                f"Row {number} has {len(row)} values; a {sort.one} has {len(facts)}.",
                todo="Leave out what does not belong.",
            )
        found.append((sort.key, row[0].strip(), _facts(f"Row {number}", row, facts)))
    return found


def _facts(where: str, row: Sequence[str], facts: Sequence[Fact | None]) -> dict[str, Any]:
    given: dict[str, Any] = {}
    for fact, text in zip(facts[1:], row[1:], strict=False):
        if fact is None or not text.strip():
            continue
        try:
            given[fact.key] = fact.read(text)
        except ValueRefused as error:
            raise ValueRefused(f"{where}: {error.what}", todo=error.todo) from error
    return given


def read_kit(table: TableFile) -> list[Thing]:
    """Read a shelf from a file, whole or not at all.

    Raises
    ------
    FileRefused
        With the first lines that break a rule.
    """
    wrong = Complaints(table.path)
    found: list[Thing] = []
    for row, line in table.rows():
        values = dict(zip(table.header, (unguarded(v.strip()) for v in row), strict=True))
        sort = BY_SORT.get(values.pop(table.header[0]).casefold())
        name = values.pop(table.header[1])
        if sort is None:
            wrong.note(line, table.header[0], row[0], "use " + ", ".join(BY_SORT))
            continue
        given: dict[str, Any] = {}
        for key, text in values.items():
            fact = sort.named(key)
            if not text:
                continue
            if fact is None:
                wrong.note(line, key, text, f"is not kept of a {sort.one}")
                continue
            try:
                given[fact.key] = fact.read(text)
            except ValueRefused as error:
                wrong.note(line, key, text, f"{error.what} {error.todo}".strip())
        found.append((sort.key, name, given))
    if wrong:
        raise wrong.refusal()
    return found


def kit_text(shelf: Mapping[str, Sequence[KitVersion]]) -> str:
    """Return a shelf as CSV: a line a thing, a column for each fact that any of them has."""
    keys = {k for things in shelf.values() for t in things for k in t.facts}
    columns = list(dict.fromkeys(f.key for s in SORTS for f in s.facts if f.key in keys))
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow([SORT, NAME, *columns])
    for sort in SORTS:
        for thing in shelf.get(sort.key, ()):
            row = [sort.key, guarded(thing.name)]
            for key in columns:
                fact = sort.fact(key)
                said = fact.write(thing.facts.get(key)) if fact is not None else ""
                row.append(said if fact is None or fact.how == "number" else guarded(said))
            writer.writerow(row)
    return out.getvalue()


def write_kit(shelf: Mapping[str, Sequence[KitVersion]], path: Path) -> None:
    """Write a shelf as CSV, whole or not at all.

    Raises
    ------
    LoamError
        When the place is no ordinary file, or the disk refuses.
    """
    write_text(path, kit_text(shelf), "The shelf is safe in the workshop.")
