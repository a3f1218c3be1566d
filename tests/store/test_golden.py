"""What is derived from the record writes what was written by hand before, row by row.

``reference/golden_rows.json`` holds digests of the demo workshop's tables and of three of its files
for exchange, as Loam 0.6.0 wrote them. Columns that came later are left out; so are times of the
clock on the wall. Gates are as the demo prepares its panels since they come in the trade's order.
"""

import csv
import hashlib
import io
import json
import shutil
import sqlite3
import zipfile
from pathlib import Path

import pytest

from loam.store.datapackage import write_package
from loam.store.take_out import read_draft
from loam.store.workshop import Workshop

GOLDEN = json.loads(
    (Path(__file__).parent.parent / "reference" / "golden_rows.json").read_text("utf-8")
)


def digest(rows):
    text = json.dumps(rows, ensure_ascii=False, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()


@pytest.mark.parametrize("table", GOLDEN["tables"])
def test_rows_come_out_as_they_did(demo_file, table):
    golden = GOLDEN["tables"][table]
    columns = ", ".join(f'"{c}"' for c in golden["columns"])
    db = sqlite3.connect(f"file:{demo_file}?mode=ro", uri=True)
    by_key = db.execute(f'PRAGMA table_list("{table}")').fetchone()[4]
    order = "1, 2" if by_key else "rowid"
    rows = db.execute(f'SELECT {columns} FROM "{table}" ORDER BY {order}').fetchall()
    db.close()
    before = rows[: golden["rows"]]  # trials of the demo that came later stand behind
    assert len(before) == golden["rows"]
    assert digest([list(row) for row in before]) == golden["sha256"]


@pytest.mark.parametrize("trial", GOLDEN["files"])
def test_files_for_exchange_come_out_as_they_did(demo_file, tmp_path, trial):
    workshop = Workshop(Path(shutil.copy(demo_file, tmp_path / "demo.loam")))
    write_package(read_draft(workshop.connection, int(trial)), tmp_path / "trial.zip")
    workshop.close()
    with zipfile.ZipFile(tmp_path / "trial.zip") as package:
        for name, golden in GOLDEN["files"][trial].items():
            with package.open(name) as file:
                head, *rows = csv.reader(io.TextIOWrapper(file, "utf-8"))
            at = [head.index(column) for column in golden["columns"]]
            assert len(rows) == golden["rows"], name
            assert digest([[row[i] for i in at] for row in rows]) == golden["sha256"], name
