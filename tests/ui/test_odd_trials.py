"""Small and odd trials in the real window: every view, every question of Judge, all reports."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication

from helpers.hands import press
from helpers.odd_trials import odd_trial
from loam.app.report import make_report
from loam.store.take_in import write_draft
from loam.store.workshop import Workshop
from loam.ui.report_out import drawings, write_report
from loam.ui.views.judge.reporting import told_of
from loam.ui.window import MainWindow

K = Qt.Key
LETTERS = "VSCPEDNA"
SEEDS = (*range(8), 20, 21, 54, 70)


def shown(window: MainWindow) -> str:
    """Paint all that is visible, and return it as text."""
    image = window.grab().toImage()
    assert not image.isNull()
    return window.view.objectName()


@pytest.mark.parametrize("seed", SEEDS)
def test_every_page_answers_or_says_what_it_takes(seed, open_window, wait_for, tmp_path):
    odd = odd_trial(seed)
    path = tmp_path / "odd.loam"
    workshop = Workshop(path)
    with workshop.transaction() as db:
        write_draft(db, odd.draft, workshop.now())
    workshop.close()
    window = open_window(path=path, size=(1024, 640))
    for step in ("ask", "kit", "panels", "layout", "work", "read", "judge"):
        window.go(step)
        wait_for(window)
        shown(window)
    view = window.view
    if not view.rankings:
        assert len(view.table() or []) <= 1, odd.how
        return
    for letter in LETTERS:
        press(window, getattr(K, f"Key_{letter}"))
        wait_for(window)
        page = view.questions.page
        if page is None:
            continue  # a trial of one combination has no priorities, say
        shown(window)
        said = page.lead.text()
        assert len(said) > 12, (letter, odd.how)
        assert not said.startswith(("Working", "Looking")), (letter, odd.how)
        assert "could not be" not in said, (letter, odd.how, said)
        press(window, K.Key_Escape)
        wait_for(window)
    report = make_report(told_of(view))
    assert not report.failed, odd.how
    for ending in (".html", ".pdf", ".xlsx", ".zip"):
        drawn = list(drawings(report, window.session.combinations(), ending))
        assert not any(isinstance(d, bytes) and b"could not be drawn" in d for _, d in drawn)
        write_report(report, drawn, tmp_path / f"report{ending}")
        assert (tmp_path / f"report{ending}").stat().st_size > 1000
    QApplication.processEvents()
