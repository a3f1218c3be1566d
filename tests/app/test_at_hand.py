"""A plan against what lies on the shelf: clean pads, vibration, clear that may go, even ground."""

import math

import pytest

from loam.app.commands import (
    AddCombination,
    AddPanel,
    AddSpot,
    AddTrial,
    Assign,
    PutOnShelf,
    PutThingAway,
)
from loam.app.drawings.board import stand
from loam.app.presenters.even_ground import even_ground
from loam.app.presenters.film import film_state
from loam.app.presenters.outlook import cost_lines, look_ahead
from loam.app.presenters.shelf import next_single, standing
from loam.app.presenters.shelf_supply import shaken_by
from loam.app.session import Session
from loam.core.dose import section_dose
from loam.core.dose.stage import settings_for
from loam.core.film import Spot
from loam.core.film.build import FilmBuild
from loam.core.kit.facts import MACHINE, PAD, PAD_KIND
from loam.core.panel import Taping
from loam.core.readings import kind_of
from loam.core.trial import Combination, Panel, Stage, Trial
from loam.store import kit
from loam.store.workshop import Workshop

TAPING = Taping(1040, 720, 2, 3, 14, 40)
CUT = Stage(
    "Bracken", "Grist 9", "Dipper 21", "microfibre", "coarse", "free-orbital", 6, pad_mm=125.0
)
SOFTER = Stage("Fen", "Silt 1", "Mill", "foam", "fine", "rotary", 4, pad_mm=125.0)


@pytest.fixture
def session(tmp_path):
    opened = Session(Workshop(tmp_path / "s.loam"))
    trial = AddTrial(Trial(0, "T", "Which?", ("gloss20",), 3))
    opened.run(trial)
    opened.choose(trial.id)
    for name in ("Heron", "Teal"):
        build = FilmBuild(clear_um=18.0) if name == "Teal" else FilmBuild()
        opened.run(AddPanel(Panel(0, trial.id, name, "soft", TAPING, build=build)))
    opened.run(AddCombination(trial.id, Combination(0, "A", "", (CUT,))))
    opened.run(AddCombination(trial.id, Combination(0, "B", "", (SOFTER,))))
    a, b = (c.id for c in opened.combinations())
    cells = [(c.id, (a, b)[i % 2], i + 1) for i, c in enumerate(opened.cells())]
    opened.run(Assign(trial.id, cells))
    yield opened
    opened.close()


def ahead(session):
    return look_ahead(session.workshop.reads, session.trial_id, kind_of("gloss20"))


def note(session, topic):
    return ahead(session).care.get(topic, "")


def pads(*lives):
    return tuple(
        (PAD, f"Bracken {i}", {"kind": "bracken", "state": s}) for i, s in enumerate(lives)
    )


def test_too_few_clean_pads_are_said_only_of_kinds_whose_pads_are_known(session):
    assert note(session, "clean pads") == ""
    session.run(PutOnShelf(pads("clean", "loaded", "retired")))
    said = note(session, "clean pads")
    assert "Bracken 6 sets, 1 of 2 clean, 2 wanted" in said
    assert "Fen" not in said
    assert "(4 sets a clean pad, assumed)" in said
    session.run(PutOnShelf(((PAD, "Bracken 9", {"kind": "Bracken", "state": "clean"}),)))
    assert note(session, "clean pads") == ""


def test_how_many_sets_a_clean_pad_works_is_a_fact_of_its_kind(session):
    session.run(PutOnShelf(pads("clean", "loaded")))
    db = session.workshop.connection
    kinds = {t.name: t for t in kit.things(db, PAD_KIND)}
    facts = dict(kinds["Bracken"].facts) if "Bracken" in kinds else {}
    session.run(PutOnShelf(((PAD_KIND, "Bracken", facts | {"sets_clean": 2}),)))
    said = note(session, "clean pads")
    assert "Bracken 6 sets, 1 of 2 clean, 3 wanted" in said
    assert "(2 sets a clean pad)" in said
    session.run(PutOnShelf(((PAD_KIND, "Bracken", facts | {"sets_clean": 6}),)))
    assert note(session, "clean pads") == ""


def test_what_is_retired_or_put_away_is_said(session):
    session.run(PutOnShelf(pads("retired", "retired")))
    assert "every Bracken is retired" in note(session, "clean pads")
    assert note(session, "what is put away") == ""
    db = session.workshop.connection
    mill = next(t for t in kit.things(db, MACHINE) if t.name == "Mill")
    session.run(PutThingAway(MACHINE, mill.item_id))
    assert note(session, "what is put away").startswith("Mill is put away")
    session.undo()
    assert note(session, "what is put away") == ""


def vibration(session):
    found = ahead(session)
    lines = cost_lines(found.costs, found.hand)
    return next((line for line in lines if line[0] == "vibration"), None)


def test_a_days_vibration_rests_on_declared_values_with_their_k(session):
    assert "Dipper 21 and Mill at a usual value" in vibration(session)[2]
    session.run(PutOnShelf(((MACHINE, "Dipper 21", {"vibration": 4.0, "vibration_k": 1.5}),)))
    found = ahead(session)
    assert set(found.costs.trigger_s) == {"Dipper 21", "Mill"}
    assert sum(found.costs.trigger_s.values()) < found.costs.work_s
    hours = found.costs.trigger_s["Dipper 21"] / 3600.0
    _, value, how = vibration(session)
    usual = shaken_by(found.hand, "Mill")[0]
    rest = usual**2 * found.costs.trigger_s["Mill"] / 3600.0
    assert value == f"{math.sqrt((5.5**2 * hours + rest) / 8.0):.1f} m/s²", "never as if it were 0"
    assert "; Mill at a usual value" in how
    assert note(session, "vibration") == ""
    session.run(PutOnShelf(((MACHINE, "Mill", {"vibration": 20.0}),)))
    assert "one person, one day" in vibration(session)[2]
    both = math.sqrt((5.5**2 * hours + 400.0 * found.costs.trigger_s["Mill"] / 3600.0) / 8.0)
    assert vibration(session)[1] == f"{both:.1f} m/s²"
    said = note(session, "vibration")
    assert "above the limit value of 5" in said if both >= 5.0 else "action value of 2.5" in said
    session.run(PutOnShelf(((MACHINE, "Mill", {"vibration": 50.0}),)))
    assert "above the limit value of 5" in note(session, "vibration")


def test_a_panel_whose_clear_would_be_overdrawn_is_named(session):
    low, high = ahead(session).costs.worst[0][1:]
    assert 0 < low < high
    said = note(session, "how deep it goes")
    assert "A may take" in said
    assert "Teal (3 µm: 15 µm must stay)" in said  # 18 less the floor of 15
    assert ("Heron (20 µm, assumed)" in said) == (high > 20.0)
    heron = session.panels()[0]
    for x in range(5):
        session.run(AddSpot(session.trial_id, heron.physical, Spot(x * 20.0, 10.0, 110.0)))
    allowed = 20.0  # half of an assumed clear of 40
    assert ("Heron (20 µm)" in note(session, "how deep it goes")) == (high > allowed)


def test_the_ground_in_a_cell_is_as_even_as_its_least_even_stage(session):
    both = Combination(9, "C", "", (CUT, SOFTER))
    control = Combination(8, "X", "", (), "damaged")
    found = even_ground([*session.combinations(), both, control], TAPING)
    a, b = (c.id for c in session.combinations())
    assert 8 not in found
    assert found[9] == min(found[a], found[b])
    size = (TAPING.cell_width_mm, TAPING.cell_height_mm)
    assert found[a] == section_dose(settings_for(CUT, *size).section).circle_mm
    huge = Combination(7, "D", "", (Stage("x", "y", "z", pad_mm=400.0),))
    assert even_ground([huge], TAPING) == {7: 0.0}


def test_kinds_of_pad_show_their_single_pads(session):
    session.run(PutOnShelf(((PAD_KIND, "Bracken", {}), *pads("clean", "retired"))))
    kind = next(t for t in standing(session, PAD_KIND) if t.name == "Bracken")
    assert kind.below == "microfibre, 125 mm\n1 of 1 clean"
    assert [s.name for s in kind.singles] == ["Bracken 0", "Bracken 1"]
    assert next_single("Bracken", kind.singles) == "Bracken 2"


def test_things_stand_on_boards_and_arrows_go_from_one_to_the_next():
    boards = stand(7, 620.0, 150.0, 200.0)
    assert (boards.across, boards.height) == (4, 400.0)
    assert boards.places[4].x == 0.0
    assert boards.places[4].y == 200.0
    for number, place in enumerate(boards.places):
        assert boards.at(*place.middle) == number
    assert boards.at(10.0, 401.0) is None
    assert [boards.beside(5, 1, 0), boards.beside(6, 1, 0), boards.beside(0, -1, 0)] == [6, 6, 0]
    assert [boards.beside(1, 0, 1), boards.beside(5, 0, -1), boards.beside(5, 0, 1)] == [5, 1, 5]
    assert boards.beside(3, 0, 1) == 6
    assert stand(0, 620.0, 150.0, 200.0).beside(0, 1, 0) == 0
    assert stand(1, 50.0, 150.0, 200.0).across == 1


def test_layers_that_no_record_names_are_what_is_left_of_the_film(session):
    heron, teal = session.panels()
    plain = film_state(session, heron)
    assert [(x.name, x.thickness, x.assumed) for x in plain.layers] == [
        ("primer", 45.0, True),
        ("base", 15.0, True),
        ("clear", 40.0, True),
    ]
    for x in range(5):
        session.run(AddSpot(session.trial_id, heron.physical, Spot(x * 60.0, 10.0, 120.0)))
    read = film_state(session, heron)
    assert [x.thickness for x in read.layers] == [65.0, 15.0, 40.0]
    assert sum(x.thickness for x in read.layers) == read.survey.mean
    thin = film_state(session, teal)
    assert [x.thickness for x in thin.layers] == [67.0, 15.0, 18.0]
    session.run(AddSpot(session.trial_id, teal.physical, Spot(5.0, 5.0, 30.0)))
    assert film_state(session, teal).layers[0].thickness == 10.0
