"""Reading entry without a window: pasted figures, what is next, what is said."""

from dataclasses import replace

import pytest

from loam.app.commands import EditTrial, TakeInTrial, take_reading
from loam.app.presenters.reading import (
    _verdict,
    asked_back,
    entry_state,
    neighbour,
    next_cell,
    next_meter,
    ordinal,
    pasted,
    place_pasted,
    reading_table,
    slip_words,
)
from loam.app.session import Session
from loam.core.errors import ValueRefused
from loam.core.readings import kind_of
from loam.core.stats.summary import summarise
from loam.core.trial import Reading
from loam.demo.scenario import motions
from loam.store.workshop import Workshop


@pytest.fixture
def session(tmp_path):
    opened = Session(Workshop(tmp_path / "r.loam"))
    draft = motions()
    opened.run(TakeInTrial(replace(draft, readings=(), strikes=())))
    opened.run(EditTrial(opened.trial, replace(opened.trial, readings_per_cell=3)))
    yield opened
    opened.close()


def take(session, cell, *values, measurand="gloss20", phase="after", scale=""):
    for i, value in enumerate(values, 1):
        reading = Reading(0, cell, measurand, value, phase, i, scale=scale)
        session.run(take_reading(session.trial_id, reading))


def state_of(session, at, measurand="gloss20", phase="after"):
    cell = session.cell(list(session.order())[at])
    return entry_state(session, cell, measurand, phase)


@pytest.mark.parametrize(
    ("text", "parts"),
    [
        ("84.6\n84,8\r\n", ["84.6", "84,8"]),
        ("1\t2;3 | 4", ["1", "2", "3", "4"]),
        ("", []),
        ("  \n ", []),
        ("84.6", ["84.6"]),
    ],
)
def test_a_column_or_a_row_comes_apart(text, parts):
    assert pasted(text) == parts


def test_pasted_figures_fill_what_is_wanted_and_pass_over_what_is_full(session):
    order = list(session.order())
    take(session, order[0], 80.0)
    take(session, order[1], 80.0, 80.1, 80.2, 80.3)
    placed = place_pasted(session, state_of(session, 0), ["81"] * 4, Reading(0, 0, "gloss20", 0.0))
    assert [(r.cell_id, r.ordinal) for r in placed.readings] == [
        (order[0], 2),
        (order[0], 3),
        (order[2], 1),
        (order[2], 2),
    ]
    assert placed.words.startswith("4 figures: K1 2, K3 2.")


def test_exactly_what_is_wanted_fits_and_one_more_does_not(session):
    count = 3 * len(session.order())
    like = Reading(0, 0, "gloss20", 0.0)
    assert len(place_pasted(session, state_of(session, 0), ["81"] * count, like).readings) == count
    with pytest.raises(ValueRefused, match=f"{count + 1} figures"):
        place_pasted(session, state_of(session, 0), ["81"] * (count + 1), like)
    last = len(session.order()) - 1
    assert len(place_pasted(session, state_of(session, last), ["81"] * 3, like).readings) == 3
    with pytest.raises(ValueRefused, match="only 3 are wanted"):
        place_pasted(session, state_of(session, last), ["81"] * 4, like)


def test_the_next_cell_is_the_first_that_wants_some_and_goes_round(session):
    order = list(session.order())
    take(session, order[1], 80.0, 80.1, 80.2)
    take(session, order[2], 80.0, 80.1)
    assert next_cell(session, "gloss20", order[0], "after").id == order[2]
    assert next_cell(session, "gloss20", order[-1], "after").id == order[0]
    assert next_cell(session, "gloss20", None, "after").id == order[0]
    assert next_cell(session, "gloss20", order[0], "before").id == order[1]
    for cell in order:
        take(session, cell, 80.0, 80.1, 80.2)
    assert next_cell(session, "gloss20", order[0], "after") is None


def test_meters_take_turns_until_each_has_what_it_wants(session):
    session.run(EditTrial(session.trial, replace(session.trial, measurands=("gloss20", "haze"))))
    cell = next(iter(session.order()))
    turns, now = [], "gloss20"
    for _ in range(6):
        take(session, cell, 80.0 if now == "gloss20" else 12.0, measurand=now)
        turns.append(now)
        now = next_meter(session, cell, now, "after")
    assert turns == ["gloss20", "haze"] * 3
    assert next_meter(session, cell, "haze", "after") == "haze"


def test_the_cell_beside_skips_what_is_not_laid_out(session):
    from loam.app.commands import Assign

    cells = {c.code: c for c in session.cells_of(session.panels()[0].id)}
    session.run(Assign(session.trial_id, [(cells["K2"].id, None, None)]))
    assert neighbour(session, cells["K1"], 0, 1).code == "K3"
    assert neighbour(session, cells["K1"], 0, -1) is None
    assert neighbour(session, cells["K1"], 1, 0).code == "L1"
    assert neighbour(session, cells["K1"], -1, 0) is None


def test_figures_of_another_scale_are_no_measure(session):
    session.run(EditTrial(session.trial, replace(session.trial, measurands=("haze",))))
    order = list(session.order())
    take(session, order[0], 250.0, 251.0, measurand="haze", scale="linear")
    state = state_of(session, 1, "haze")
    assert asked_back(session, state, 12.0, "log") is None
    assert asked_back(session, state, 12.0, "linear") is not None
    assert asked_back(session, state, 252.0, "linear") is None


def test_a_slip_is_asked_back_in_words(session):
    order = list(session.order())
    take(session, order[0], 84.6, 84.8)
    state = state_of(session, 0)
    slip = asked_back(session, state, 848.0)
    said = slip_words(slip, "848", state)
    assert "848 is unlike the rest in this cell (76.1 to 93.3)" in said
    assert "Was it 84.8?" in said
    other = state_of(session, 1)
    assert "on these panels" in slip_words(asked_back(session, other, 8.0), "8", other)


def test_verdicts_and_advice(session):
    order = list(session.order())
    assert state_of(session, 0).advice == "Type what the meter shows, then Enter."
    take(session, order[0], 84.6)
    assert "for the second" in state_of(session, 0).advice
    take(session, order[1], 84.6, 84.7, 84.6)
    assert (state_of(session, 1).verdict, state_of(session, 1).full) == ("enough", True)
    take(session, order[2], 84.0, 84.6, 84.9)
    assert state_of(session, 2).verdict == "as planned"
    assert "One more would make it" in state_of(session, 2).advice
    take(session, order[4], 84.6, 84.7, 80.0)
    odd = state_of(session, 4)
    assert (odd.verdict, odd.full) == ("one stands out", False)
    session.run(EditTrial(session.trial, replace(session.trial, readings_per_cell=2)))
    take(session, order[3], 84.0, 85.3)
    assert state_of(session, 3).verdict == "one more"
    assert "scatter more than the meter" in state_of(session, 3).advice
    assert [ordinal(i) for i in (0, 11, 12)] == ["first", "twelfth", "13th"]


def test_the_table_has_a_line_a_cell(session):
    order = list(session.order())
    take(session, order[0], 84.6, 84.8)
    rows = reading_table(session, "after")
    assert rows[0] == ["panel", "cell", "gloss 20°, GU", "readings of gloss 20°"]
    assert rows[1] == ["Snipe", "K1", "84.70", "2"]
    assert rows[2] == ["Snipe", "K2", "", "0"]
    assert len(rows) == 1 + len(order)


def test_a_cell_that_has_all_its_readings_is_not_asked_for_none_more():
    kind = kind_of("gloss20")
    for values, wanted, said in (
        ([80.0, 80.1, 80.1], 3, "All planned readings are in, and they agree."),
        ([80.0, 80.1, 80.1], 4, "They agree. 1 more as planned"),
    ):
        verdict, advice = _verdict(summarise(values, kind.repeatability), kind, wanted)
        assert verdict == "enough"
        assert advice.startswith(said)
