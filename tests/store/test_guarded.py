"""What looks like a formula stays text, in files and on the clipboard; numbers stay numbers."""

import csv
import io
from dataclasses import replace
from types import SimpleNamespace

import pytest
from PyQt6.QtWidgets import QApplication

from loam.demo.scenario import motions
from loam.store.draft import Strike
from loam.store.flat import flat_text
from loam.store.guarded import guarded, one_line, unguarded


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
