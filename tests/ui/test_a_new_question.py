"""A new question of Judge is one folder and one line; the row, keys, report and its picture follow.

The folder has two halves, of which only one knows Qt: ``tests/sample_question/app`` stands for
``loam/app/questions``, ``tests/sample_question/ui`` for ``loam/ui/views/judge``.
"""

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt

import loam.app.questions as row
import loam.ui.views.judge as screen
from helpers.hands import press
from loam.app.report import make_report
from loam.ui.report_out import drawings
from loam.ui.views.judge.reporting import told_of

SAMPLE = Path(__file__).resolve().parent.parent / "sample_question"
K = Qt.Key


@pytest.fixture
def asked(monkeypatch, judging):
    monkeypatch.setattr(row, "__path__", [*row.__path__, str(SAMPLE / "app")])
    monkeypatch.setattr(screen, "__path__", [*screen.__path__, str(SAMPLE / "ui")])
    monkeypatch.setattr(row, "QUESTIONS", (*row.QUESTIONS, "spread"))
    return judging()


def test_a_question_is_a_folder_and_a_line(asked, wait_for):
    view = asked.view
    assert "Z" in view.questions.buttons
    press(asked, K.Key_Z)
    wait_for(asked)
    page = view.questions.page
    assert page.lead.text().startswith("Gloss 20°: cells lie ")
    assert view.table()[0] == ["cells", "s.d."]
    assert view.picture() is not None
    assert page.drawing.grab().width() > 0
    press(asked, K.Key_M)
    wait_for(asked)
    assert not page.lead.text().startswith("Gloss 20°")
    press(asked, K.Key_Escape)
    report = make_report(told_of(view))
    (part,) = [s for s in report.sections if s.head.startswith("How even ")]
    assert part.words[0].endswith(" apart.")
    assert [t.name for t in part.tables] == ["spread"]
    drawn = dict(drawings(report, asked.session.combinations(), ".html"))
    assert drawn["spread"].startswith(b"<?xml")


def test_every_question_has_both_halves_and_a_letter_of_its_own():
    letters = [q.letter for q in row.questions()]
    assert len(set(letters)) == len(letters)
    for question in row.questions():
        here = Path(screen.__path__[0]) / question.folder
        assert (here / "page.py").exists(), question.folder
        assert (here / "paint.py").exists() or not question.drawn, question.folder
        if question.reported:
            assert {"head", "answer"} <= set(dir(question.finder())), question.folder
