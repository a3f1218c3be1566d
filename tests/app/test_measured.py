"""Kp from the workshop's own film readings, and the forecasts that use it."""

import pytest

from loam.app.commands import AddCombination, AddPanel, AddTrial, Assign, NoteWork, TakeReadings
from loam.app.presenters.dosing import view_dose
from loam.app.presenters.laying import lay_out_trial
from loam.app.presenters.outlook import cost_lines, look_ahead
from loam.app.questions.ranking.find import judge_trial, kp_words
from loam.app.session import Session
from loam.app.workshop_kp import kp_at, measured_kp, stage_dose
from loam.core.panel import Taping
from loam.core.readings import kind_of
from loam.core.removal import recipe_of
from loam.core.trial import AFTER, BEFORE, Combination, Panel, Reading, Stage, Trial
from loam.core.units import fixed
from loam.core.words.dose import removed_words
from loam.store.workshop import Workshop

TAPING = Taping(700, 500, 2, 3, 10, 20)
CUT = Stage(
    "Bracken", "Grist 9", "Dipper 21", "microfibre", "coarse", "free-orbital", 4, pad_mm=75.0
)
SOFT = Stage("Fen soft", "Silt 2", "Dipper 15", "foam-soft", "polish", "free-orbital", 4)
LOST = {"A": (2.0, 2.4, 1.6, 2.2, 1.8), "B": (0.5, 0.9, 0.7, 0.4, 0.8)}


@pytest.fixture
def session(tmp_path):
    opened = Session(Workshop(tmp_path / "s.loam"))
    trial = AddTrial(Trial(0, "One", "Which?", ("film",), 1))
    opened.run(trial)
    opened.choose(trial.id)
    for name in ("Heron", "Teal"):
        opened.run(AddPanel(Panel(0, trial.id, name, "hard", TAPING)))
    for code, stage in (("A", CUT), ("B", SOFT)):
        opened.run(AddCombination(trial.id, Combination(0, code, "", (stage,))))
    found = lay_out_trial(opened.workshop.reads, trial.id)
    opened.run(Assign(trial.id, list(found.placements)))
    codes = {c.id: c.code for c in opened.combinations()}
    left = {code: list(values) for code, values in LOST.items()}
    for cell in opened.cells():
        lost = left[codes[cell.combination_id]]
        if lost:
            film = 118.0 - lost.pop()
            both = [
                Reading(0, cell.id, "film", 118.0, BEFORE),
                Reading(0, cell.id, "film", film, AFTER),
            ]
            opened.run(TakeReadings(trial.id, both))
    yield opened
    opened.close()


def cells_of(session, code):
    wanted = next(c.id for c in session.combinations() if c.code == code)
    return [c for c in session.cells() if c.combination_id == wanted]


def test_kp_is_loss_over_the_dose_of_the_cells(session):
    known = measured_kp(session.workshop.connection)
    for code, stage in (("A", CUT), ("B", SOFT)):
        kp = known[recipe_of((stage,)), "hard"]
        mean = sum(LOST[code]) / 5
        assert kp.value == pytest.approx(1e3 * mean / stage_dose(stage, TAPING))
        assert kp.cells == 5
        assert kp.low < kp.value < kp.high
    assert kp_at(session.workshop.reads) == known


def test_what_was_done_enters_the_dose(session):
    before = measured_kp(session.workshop.connection)[recipe_of((CUT,)), "hard"]
    trial_id = session.trial_id
    for cell in cells_of(session, "A"):
        for number in (1, 2):  # half of the passes that were planned
            facts = {"seconds": 20.0, "paint_s": 20.0, "number": number}
            session.run(NoteWork(trial_id, cell.id, 1, "pass", facts, "Tam", "2026-09-26"))
    after = measured_kp(session.workshop.connection)[recipe_of((CUT,)), "hard"]
    assert after.value == pytest.approx(2 * before.value)


def test_a_forecast_uses_what_was_measured(session):
    kind = kind_of("film")
    costs = look_ahead(session.workshop.reads, session.trial_id, kind).costs
    kp = measured_kp(session.workshop.connection)[recipe_of((CUT,)), "hard"]
    assert costs.clear_um == pytest.approx(kp.removed_um(stage_dose(CUT, TAPING)))
    assert costs.measured is True
    line = next(line for line in cost_lines(costs) if line[0] == "clear")
    assert line[2] == "worst cell, measured"
    wide = (TAPING.cell_width_mm, TAPING.cell_height_mm)
    known = measured_kp(session.workshop.connection)
    here = view_dose(CUT, *wide, ("hard",), None, known)
    assert any("measured on 5 cells here" in fact for fact in here.facts)
    mixed = view_dose(CUT, *wide, ("hard", "soft"), None, known)
    said = next(fact for fact in mixed.facts if fact.startswith("Clear taken off"))
    assert "on hard (measured)" in said
    assert said.endswith("the rest is assumed by compound, pad and grit until it is measured.")


def test_kp_stands_beside_what_was_removed(session):
    found = judge_trial(session.workshop.reads, session.trial_id, "removed", 1)
    kp = found.kp["A", "hard"]
    said = kp_words(found, "hard", "A")
    assert said.startswith(
        f"Removal per dose (Kp) {fixed(kp.value, 0 if kp.value >= 20 else 1)} ± "
    )
    assert said.endswith("nm per kPa m, on 5 cells.")
    assert kp_words(found, "soft", "A") == ""


def test_without_film_nothing_is_measured_and_it_is_said(tmp_path):
    session = Session(Workshop(tmp_path / "e.loam"))
    assert measured_kp(session.workshop.connection) == {}
    session.close()
    assert removed_words([("soft", 0.05, 12.0, 0)]) == (
        "Clear taken off: 0.05 to 12 µm on soft; assumed by compound, pad and grit until it is"
        " measured."
    )
