"""The numbers of a report: a workbook, or a Data Package of tables as CSV."""

from __future__ import annotations

import csv
import io
import json
import math
import zipfile
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from loam.core.units import Figure
from loam.store.guarded import guarded
from loam.store.safe_files import written_whole

Rows = Sequence[Sequence[str]]
MOST_ROWS = 1_000_000
_SHEET = 31
_EPOCH = (1980, 1, 1, 0, 0, 0)


def _number(text: str) -> float | None:
    """Return what a cell holds as a number, where it is one."""
    if isinstance(text, Figure):
        return text.value if math.isfinite(text.value) else None
    plain = text.replace("\u2212", "-").replace("\u202f", "")
    try:
        value = float(plain)
    except ValueError:
        return None
    return value if abs(value) < 1e300 else None


def _exact(text: str) -> str:
    """Return a cell of a table as a file has it: numbers whole, text guarded."""
    whole = isinstance(text, Figure) and math.isfinite(text.value)
    return repr(text.value) if whole and isinstance(text, Figure) else guarded(text)


def write_workbook(
    tables: Sequence[tuple[str, str, Rows]], path: Path, cover: Sequence[str] = ()
) -> None:
    """Write tables (name, title, rows with their heading first) as XLSX, a sheet each.

    Parameters
    ----------
    cover : sequence of str
        What the first sheet says, above the list of the others; none without it.

    Raises
    ------
    LoamError
        When the place is no ordinary file, or the disk refuses.
    """
    import xlsxwriter

    with written_whole(path, "Everything is safe in the workshop.") as beside:
        book = xlsxwriter.Workbook(
            str(beside),
            {
                "strings_to_formulas": False,
                "strings_to_urls": False,
                "constant_memory": True,
            },
        )
        bold = book.add_format({"bold": True})
        shares = book.add_format({"num_format": "0.0%"})
        if cover:
            _cover(book, bold, tables, cover)
        for name, _, rows in tables:
            sheet = book.add_worksheet(name[:_SHEET])
            sheet.freeze_panes(1, 0)
            for i, row in enumerate(rows[:MOST_ROWS]):
                for k, text in enumerate(row):
                    value = _number(text) if i else None
                    if value is None:
                        sheet.write_string(i, k, text, bold if i == 0 else None)
                    else:
                        share = isinstance(text, Figure) and text.share
                        sheet.write_number(i, k, value, shares if share else None)
        book.close()


def _cover(
    book: Any, bold: Any, tables: Sequence[tuple[str, str, Rows]], said: Sequence[str]
) -> None:
    """Write what it is all about, and what the other sheets hold."""
    sheet = book.add_worksheet("Report")
    wrapped = book.add_format({"text_wrap": True, "valign": "top"})
    sheet.set_column(0, 0, 28)
    sheet.set_column(1, 1, 96)
    sheet.write_string(0, 0, said[0], bold)
    row = 1
    for line in said[1:]:
        sheet.write_string(row, 1, line, wrapped)
        row += 1
    sheet.write_string(row + 1, 0, "Sheet", bold)
    sheet.write_string(row + 1, 1, "What it holds", bold)
    for i, (name, title, _) in enumerate(tables, row + 2):
        sheet.write_string(i, 0, name[:_SHEET])
        sheet.write_string(i, 1, title)


def write_tables(
    title: str,
    tables: Sequence[tuple[str, str, Rows]],
    pages: Sequence[tuple[str, bytes]],
    path: Path,
) -> None:
    """Write tables as a zipped Data Package of CSV files, with further files beside them.

    Raises
    ------
    LoamError
        When the place is no ordinary file, or the disk refuses.
    """
    resources = [
        {
            "name": name,
            "title": said,
            "path": f"{name}.csv",
            "profile": "tabular-data-resource",
            "format": "csv",
            "encoding": "utf-8",
            "schema": {"fields": [{"name": head, "type": "string"} for head in rows[0]]},
        }
        for name, said, rows in tables
    ]
    head = {
        "profile": "tabular-data-package",
        "name": "loam-report",
        "title": title,
        "resources": resources,
    }
    with (
        written_whole(path, "Everything is safe in the workshop.") as beside,
        zipfile.ZipFile(beside, "w", zipfile.ZIP_DEFLATED) as archive,
    ):
        text = json.dumps(head, indent=2, ensure_ascii=False) + "\n"
        archive.writestr(zipfile.ZipInfo("datapackage.json", _EPOCH), text)
        for name, _, rows in tables:
            out = io.StringIO(newline="")
            csv.writer(out).writerows([_exact(v) for v in row] for row in rows)
            archive.writestr(zipfile.ZipInfo(f"{name}.csv", _EPOCH), out.getvalue())
        for name, content in pages:
            archive.writestr(zipfile.ZipInfo(name, _EPOCH), content)
