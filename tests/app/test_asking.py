"""The sentence of a trial and what it holds, piece by piece as it grows."""

from dataclasses import replace

import pytest

from loam.app.commands import AddCombination, AddPanel, AddTrial, Assign, EditTrial, take_reading
from loam.app.presenters.asking import combination_words, holds, sentence_parts
from loam.app.presenters.path import path_state
from loam.app.session import Session
from loam.core.panel import Taping
from loam.core.trial import Combination, Panel, Reading, Trial
from loam.store.workshop import Workshop


@pytest.fixture
def session(tmp_path):
    opened = Session(Workshop(tmp_path / "a.loam"))
    yield opened
    opened.close()


def said(session):
    return " ".join(p.text for p in sentence_parts(session, "best"))


def panel(trial, name, hardness="hard"):
    return Panel(0, trial, name, hardness, Taping(720, 560, 1, 2, 10, 40))


def test_a_trial_grows_step_by_step(session):
    """Path, sentence and what it holds, after each act."""
    assert path_state(session) == replace(path_state(session), reached=0, next_step="ask", facts="")
    assert sentence_parts(session) == []
    session.run(AddTrial(Trial(0, "T")))
    trial = session.trial_id
    assert (path_state(session).reached, path_state(session).next_step) == (0, "ask")
    assert said(session) == (
        "Which one-step is best on no panel yet clear, for gloss 20° ? Each cell is read 5 times ."
    )
    assert holds(session) == ""
    assert combination_words(session).startswith("No combination yet")
    session.run(EditTrial(session.trial, replace(session.trial, question="Which pad is best?")))
    assert (path_state(session).reached, path_state(session).next_step) == (1, "kit")
    for code in "AB":
        session.run(AddCombination(trial, Combination(0, code, f"pad {code}")))
    assert (path_state(session).reached, path_state(session).next_step) == (2, "panels")
    assert combination_words(session) == "Combinations: A\u00a0pad\u00a0A   B\u00a0pad\u00a0B"
    session.run(AddPanel(panel(trial, "Heron")))
    assert (path_state(session).reached, path_state(session).next_step) == (3, "layout")
    assert path_state(session).facts == "1 panel · 2 cells · 0 readings"
    assert "is best on hard clear" in said(session)
    assert holds(session) == "2 cells on 1 panel."
    first, second = (p.id for p in session.places())
    a, b = (c.id for c in session.combinations())
    session.run(Assign(trial, [(first, a, 1)]))
    assert path_state(session).advice == "1 of 2 cells are still free."
    assert holds(session) == "2 cells on 1 panel, 1 of each combination; 5 readings to take."
    session.run(Assign(trial, [(second, b, 2)]))
    assert (path_state(session).reached, path_state(session).next_step) == (5, "read")
    session.run(EditTrial(session.trial, replace(session.trial, readings_per_cell=1)))
    session.run(take_reading(trial, Reading(0, first, "gloss20", 80.0)))
    assert holds(session) == (
        "2 cells on 1 panel, 1 of each combination; 2 readings to take, 1 taken."
    )
    assert said(session).endswith("Each cell is read once .")
    session.run(take_reading(trial, Reading(0, second, "gloss20", 80.0)))
    assert (path_state(session).reached, path_state(session).next_step) == (7, "judge")
    assert holds(session) == (
        "2 cells on 1 panel, 1 of each combination; all 2 readings are taken."
    )
    session.run(AddPanel(panel(trial, "Teal", "soft")))
    assert holds(session).startswith("4 cells on 2 panels, 1 of each combination")
    assert "on soft and hard clear" in said(session)
    third = session.places()[2].id
    session.run(Assign(trial, [(third, a, 3)]))
    assert "1 to 2 of each combination" in holds(session)


def test_a_question_in_own_words_and_a_long_one(session):
    session.run(AddTrial(Trial(0, "T", "Orbital or rotary?")))
    assert said(session).startswith("Own words Orbital or rotary? On no panel yet clear, for")
    session.run(EditTrial(session.trial, replace(session.trial, question="x" * 500)))
    part = next(p for p in sentence_parts(session) if p.slot == "subject")
    assert len(part.text) == 80
    assert part.text.endswith("…")
