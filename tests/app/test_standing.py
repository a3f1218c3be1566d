"""The head of each step agrees with the path, on the demo, on odd trials and on a first trial."""

from datetime import datetime

import pytest

from helpers.odd_trials import odd_trial
from loam.app.commands import AddCombination, AddTrial
from loam.app.presenters.path import STEPS, path_state
from loam.app.session import Session
from loam.app.standing import step_head
from loam.core.trial import Combination, Stage, Trial
from loam.store.take_in import write_draft
from loam.store.workshop import Workshop


def heads(session):
    return {step: step_head(session, step) for step, _ in STEPS}


def agree(session):
    """The step that is next is missing something, or is Judge; what is past it is not."""
    found, state = heads(session), path_state(session)
    assert all(h.done and h.then.startswith("Next: ") for s, h in found.items() if s != "apply")
    assert (
        found["apply"].then == "Here, as a car is checked on one spot before all of it is worked."
    )
    if state.next_step != "judge":
        assert found[state.next_step].missing, (state, found[state.next_step])
        assert found[state.next_step].then.startswith("Next: here")
    for step in ("ask", "layout"):
        if [s for s, _ in STEPS].index(step) < [s for s, _ in STEPS].index(state.next_step):
            assert not found[step].missing, (state, step, found[step])


@pytest.fixture
def empty(tmp_path):
    workshop = Workshop(tmp_path / "w.loam", clock=lambda: datetime(2026, 9, 26, 14, 2))
    yield Session(workshop)
    workshop.close()


@pytest.mark.parametrize("seed", range(40))
def test_heads_agree_with_the_path_on_odd_trials(empty, seed):
    with empty.workshop.transaction() as db:
        write_draft(db, odd_trial(seed).draft, empty.workshop.now())
    session = Session(empty.workshop)
    session.choose(session.trials()[0].id)
    agree(session)


def test_heads_agree_with_the_path_on_the_demo(session):
    for trial in session.trials():
        session.choose(trial.id)
        agree(session)


def test_a_first_trial_is_told_what_it_lacks_step_by_step(empty):
    session = empty
    assert step_head(session, "kit") is None  # nothing to stand at the head of
    session.run(AddTrial(Trial(0, "First")))
    assert heads(session)["ask"].missing == "its question"
    trial = session.trial
    session.run(
        AddCombination(trial.id, Combination(0, "A", "", (Stage("p", "c", "m", passes=4),)))
    )
    assert heads(session)["kit"].words.startswith(
        "1 combination. Missing: 1 more combination and a control"
    )
    session.run(AddCombination(trial.id, Combination(0, "B", "", ())))
    assert "the stages of B" in heads(session)["kit"].missing
    assert heads(session)["panels"].missing == "a panel and how it is taped"
    assert heads(session)["read"].done == "0 of 0 cells read in full"
