"""What the views show: rankings, pictures, origins, in words and figures."""

import numpy as np
import pytest

from helpers.judged import judged
from loam.app.commands import NoteWork, StrikeReadings
from loam.app.presenters.kit import usage
from loam.app.presenters.path import path_state
from loam.app.presenters.picture import assigned, read, result
from loam.app.presenters.reading import panel_progress, progress
from loam.app.questions.ranking.find import has_film_pairs
from loam.app.questions.readings_behind import origin
from loam.core.dataset import trial_data
from loam.core.errors import NotEnough
from loam.core.readings import kind_of
from loam.core.verdict import asked_of
from loam.demo.scenario import cut_and_finish
from loam.store.cells import assign
from loam.store.snapshot import load_snapshot, snapshot_of
from loam.store.take_out import read_draft


def test_only_the_last_stage_of_a_cell_is_ranked(session):
    """Readings between stages are kept, but the combination is judged on its end."""
    db = session.workshop.connection
    before = trial_data(load_snapshot(db, 2), "gloss20")
    cell = session.cells()[0].id
    for stage, value in ((2, 91.0), (2, 91.4)):
        db.execute(
            "INSERT INTO reading(cell_id, measurand, phase, stage, ordinal, value, scale,"
            " taken_at) VALUES (?, 'gloss20', 'after', ?, 1, ?, '', '')",
            (cell, stage, value),
        )
    after = trial_data(load_snapshot(db, 2), "gloss20")
    assert after.y.size == before.y.size - 5 + 2
    assert after.y[:2].tolist() == [91.0, 91.4]
    draft = read_draft(db, 2)
    drafted = trial_data(snapshot_of(draft), "gloss20", baseline=True)
    assert sorted(drafted.y.tolist()) == sorted(after.y.tolist())


def test_what_is_unread_is_drawn_quietly(session):
    panel = session.panels()[0]
    drawn = read(session, panel, "gloss20")
    assert not any(f.quiet for f in drawn.faces)
    drawn = read(session, panel, "clarity")
    assert all(f.quiet and f.text == "" and f.ticks == 0 for f in drawn.faces)


def test_what_can_be_ranked_depends_on_what_was_read(session):
    trial = session.trial
    assert asked_of(trial, True) == ["gloss20", "haze", "defects", "removed"]
    assert "removed" not in asked_of(trial, False)
    assert has_film_pairs(session.workshop.connection, 2)
    assert not has_film_pairs(session.workshop.connection, 3)


def test_an_origin_holds_every_reading_and_says_the_recipe(session):
    picture = judged(session)
    found = origin(session.workshop.connection, 2, picture, "hard", "B")
    laid = [c for c in session.cells() if c.combination_id == session.combinations()[1].id]
    hard = {p.id for p in session.panels() if p.hardness == "hard"}
    own = sum(c.panel_id in hard for c in laid)
    assert own in (4, 5)
    assert len(found.rows) == own
    assert {r.panel.name for r in found.rows} == {"Snipe", "Godwit"}
    assert len(found.means) == 24
    assert f"{5 * own} readings in {own} cells" in found.recipe
    assert "all 480 readings" in found.recipe
    for row in found.rows:
        assert row.mean == pytest.approx(np.mean([r.value for r in row.readings]))


def test_an_origin_of_clear_removed_pairs_film_before_and_after(session):
    picture = judged(session, "removed")
    found = origin(session.workshop.connection, 2, picture, "soft", "A")
    assert "film before less film after" in found.recipe
    means = [row.mean for row in found.rows]
    assert np.mean(means) == pytest.approx(
        picture.judgement.on("soft").standing("A").figures.estimate, abs=1.0
    )


def test_a_struck_reading_leaves_the_figure_but_stays_in_the_origin(session):
    picture = judged(session)
    row = origin(session.workshop.connection, 2, picture, "hard", "B").rows[0]
    session.run(StrikeReadings(2, [row.readings[0].id], "hair"))
    again = judged(session)
    assert again.judgement.readings == 479
    after = origin(session.workshop.connection, 2, again, "hard", "B").rows[0]
    assert len(after.readings) == 5
    assert after.readings[0].struck == "hair"
    assert after.mean == pytest.approx(np.mean([r.value for r in row.readings[1:]]))


def test_the_file_and_the_draft_give_the_same_columns(session):
    stored = trial_data(load_snapshot(session.workshop.connection, 2), "gloss20")
    drafted = trial_data(snapshot_of(cut_and_finish()), "gloss20", baseline=True)
    assert stored.y.tolist() == drafted.y.tolist()
    assert stored.baseline.tolist() == drafted.baseline.tolist()
    assert stored.combination.names == drafted.combination.names
    assert stored.combination.codes.tolist() == drafted.combination.codes.tolist()
    assert stored.scale == ""
    assert trial_data(load_snapshot(session.workshop.connection, 2), "haze").scale == "log"


def test_two_scales_of_haze_are_never_mixed(session):
    db = session.workshop.connection
    cell = session.cells()[0].id
    db.execute(
        "INSERT INTO reading(cell_id, measurand, phase, stage, ordinal, value, scale,"
        " taken_at) VALUES (?, 'haze', 'after', 1, 9, 3.0, 'linear', '')",
        (cell,),
    )
    with pytest.raises(NotEnough, match="2 scales, which never mix"):
        trial_data(load_snapshot(db, 2), "haze")


def test_cells_without_a_combination_are_left_out(session):
    db = session.workshop.connection
    cell = session.cells()[0]
    assign(db, [(cell.id, None, None)])
    assert trial_data(load_snapshot(db, 2), "gloss20").y.size == 475


def test_nothing_read_is_said(session):
    with pytest.raises(NotEnough, match="No clarity has been read"):
        trial_data(load_snapshot(session.workshop.connection, 2), "clarity")


def test_readings_before_work_become_the_covariate_when_typed(session):
    """Without a stored mean, the typed readings before work serve."""
    db = session.workshop.connection
    for cell in session.cells():
        for k, value in enumerate((60.0 + cell.id % 7, 62.0 + cell.id % 7)):
            db.execute(
                "INSERT INTO reading(cell_id, measurand, phase, stage, ordinal, value, scale,"
                " taken_at) VALUES (?, 'gloss60', ?, 1, ?, ?, '', '')",
                (cell.id, "before" if k < 2 else "after", k + 1, value),
            )
        db.execute(
            "INSERT INTO reading(cell_id, measurand, phase, stage, ordinal, value, scale,"
            " taken_at) VALUES (?, 'gloss60', 'after', 1, 1, ?, '', '')",
            (cell.id, 90.0 + cell.id % 5),
        )
    data = trial_data(load_snapshot(db, 2), "gloss60")
    assert data.y.size == 96
    expected = [61.0 + c.id % 7 for c in session.cells()]
    assert data.baseline.tolist() == expected


def test_pictures_show_what_each_step_lays_over_the_panel(session):
    panel = session.panels()[6]
    laid = assigned(session, panel)
    assert len(laid.faces) == 12
    assert all(f.combination and f.text.startswith("no. ") for f in laid.faces)
    blind = read(session, panel, "gloss20")
    assert all(f.combination is None for f in blind.faces)
    assert {(f.ticks, f.wanted) for f in blind.faces} == {(5, 5)}
    means = {c.id: 80.0 + c.id for c in session.cells_of(panel.id)}
    own = {
        c.id for c in session.cells_of(panel.id) if c.combination_id == session.combinations()[1].id
    }
    good = result(session, panel, kind_of("gloss20"), means, own)
    assert [f.share for f in good.faces] == sorted(f.share for f in good.faces)
    less = result(session, panel, kind_of("haze"), means, own)
    assert [f.share for f in less.faces] == sorted((f.share for f in less.faces), reverse=True)
    assert {f.quiet for f in good.faces if f.combination.code == "B"} == {False}
    assert all("cell" in f.spoken for f in good.faces)


def test_progress_by_cell_and_panel(session):
    assert progress(session, "gloss20") == (96, 96)
    session.choose(3)
    assert progress(session, "gloss20") == (11, 40)
    assert [(n, a, b) for _, n, a, b in panel_progress(session, "gloss20")] == [
        ("Snipe", 11, 20),
        ("Godwit", 0, 20),
    ]


def test_the_path_shows_how_far_a_trial_has_come_even_with_a_gap(session):
    assert path_state(session).reached == 8, "it is judged, and cars rest on it"
    session.choose(3)
    state = path_state(session)
    assert (state.reached, state.next_step) == (5, "read")
    assert state.advice == "11 of 40 cells are read."


def test_a_combination_says_where_it_is_used(session):
    a, *_, e, f = session.combinations()
    assert usage(session, a) == "Laid out on 17 cells: 6 on soft, 6 on medium and 5 on hard."
    assert usage(session, e) == "Laid out on 12 cells: 6 on soft and 6 on medium."
    assert usage(session, f).endswith("on hard.")


def test_the_path_leads_to_the_work_of_what_is_laid_out_and_not_read(session):
    session.choose(4)
    state = path_state(session)
    assert (state.reached, state.next_step) == (4, "work")
    assert state.advice == "0 of 20 cells are worked."
    cells = [c for c in session.cells() if c.combination_id is not None]
    staged = {c.id: len(c.stages) for c in session.combinations() if c.stages}
    worked = [c for c in cells if c.combination_id in staged]
    for cell in worked[:-1]:
        for stage in range(1, staged[cell.combination_id] + 1):
            session.run(NoteWork(4, cell.id, stage, "worked", {"passes": 6}))
    assert path_state(session).advice == "19 of 20 cells are worked."
    session.undo()
    assert path_state(session).advice == "18 of 20 cells are worked."
    session.redo()
    for stage in range(1, staged[worked[-1].combination_id] + 1):
        session.run(NoteWork(4, worked[-1].id, stage, "worked", {"passes": 6}))
    assert path_state(session).next_step == "read"
