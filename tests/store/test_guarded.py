"""What looks like a formula stays text, in files and on the clipboard; numbers stay numbers."""

import csv
import io
import zipfile
from dataclasses import replace
from types import SimpleNamespace

import pytest
from PyQt6.QtWidgets import QApplication

from loam.core.units import fixed, percent
from loam.demo.scenario import motions
from loam.store.draft import Strike
from loam.store.flat import flat_text
from loam.store.guarded import guarded, one_line, unguarded
from loam.store.report_file import write_tables, write_workbook


@pytest.mark.parametrize("text", ["=1+1", "+cmd", "-x", "@a", "\tb", "'q", "-1+1", "=-5", "--5"])
def test_what_could_run_is_guarded_and_read_back(text):
    assert guarded(text) == f"'{text}"
    assert unguarded(guarded(text)) == text


@pytest.mark.parametrize("text", ["-0.3", "+4", "12", "-1e-3", "-0,7", "plain", ""])
def test_numbers_and_words_stay(text):
    assert guarded(text) == text
    assert unguarded(guarded(text)) == text


def test_a_reason_is_one_line_of_a_table():
    draft = motions()
    reason = "slipped\nread over the tape\r\n=edge"
    struck = replace(draft, strikes=(Strike(draft.readings[0].id, True, reason, ""),))
    text = flat_text(struck)
    assert one_line(reason) in text
    rows = list(csv.reader(io.StringIO(text)))
    assert len(text.splitlines()) == len(rows)


def test_the_clipboard_is_guarded_as_files_are(qtbot, monkeypatch):
    from loam.ui.outgoing import Outgoing

    rows = [["name", "figure"], ["=HYPERLINK(1)\tx\ny", "-0.3"]]
    out = Outgoing.__new__(Outgoing)
    out.shell = SimpleNamespace(
        view=SimpleNamespace(table=lambda: rows), say=lambda text, **_: None
    )
    out.copy_table()
    assert QApplication.clipboard().text() == "name\tfigure\n'=HYPERLINK(1) x y\t-0.3\n"


def test_a_number_stays_a_number_until_the_last_writer(tmp_path):
    rows = [
        ["combination", "gloss", "best", "cells"],
        ["A", fixed(84.12345678901, 1), percent(0.86123), "12"],
        ["=B", fixed(-3.25, 1), percent(0.9999), "n/a"],
    ]
    assert rows[1][1:3] == ["84.1", "86 %"]
    write_tables("T", [("ranking", "Ranking", rows)], [], tmp_path / "t.zip")
    with zipfile.ZipFile(tmp_path / "t.zip") as archive:
        found = list(csv.reader(io.StringIO(archive.read("ranking.csv").decode())))
    assert found[1] == ["A", "84.12345678901", "0.86123", "12"]
    assert found[2] == ["'=B", "-3.25", "over 99 %", "n/a"]
    write_workbook([("ranking", "Ranking", rows)], tmp_path / "t.xlsx")
    with zipfile.ZipFile(tmp_path / "t.xlsx") as archive:
        sheet = archive.read("xl/worksheets/sheet1.xml").decode()
    for number in ("84.12345678901", "0.86123", "-3.25", "<v>12</v>"):
        assert number in sheet
    assert "over 99 %" in sheet
