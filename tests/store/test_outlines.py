"""Panels with an outline, in the file: cells that lie on it, and none that would be lost."""

from dataclasses import replace

import pytest

from loam.core.errors import LoamError, ValueRefused
from loam.core.outline import Outline, Zone, open_cells
from loam.core.panel import Taping
from loam.core.trial import Cell, Combination, Panel, Reading, Stage, Trial
from loam.store.cells import cells
from loam.store.datapackage import read_package, write_package
from loam.store.draft import TrialDraft
from loam.store.panels import add_panel, change_panel, panels, workshop_panels
from loam.store.readings import add_reading
from loam.store.take_in import write_draft
from loam.store.take_out import read_draft
from loam.store.trials import add_trial
from loam.store.workshop import Workshop

NOW = "2026-09-26T14:02:11"
TAPING = Taping(1040, 760, 4, 6, 14, 30)
DOOR = Outline("door", (Zone(200, 420, 150, 120),))


@pytest.fixture
def db(tmp_path):
    workshop = Workshop(tmp_path / "w.loam")
    with workshop.transaction() as open_db:
        yield open_db
    workshop.close()


def taped(db, outline=DOOR):
    trial = add_trial(db, Trial(0, "T"), NOW)
    add_panel(db, Panel(0, trial, "Heron", "soft", TAPING, outline=outline), NOW)
    return trial, panels(db, trial)[0]


def places(db, trial):
    return {(c.row, c.column) for c in cells(db, trial, baselines=False)}


def test_cells_lie_on_the_outline_and_come_back_with_the_room(db):
    trial, panel = taped(db)
    assert panel.outline == DOOR
    assert places(db, trial) == open_cells(DOOR, TAPING)
    assert 0 < len(places(db, trial)) < 24
    change_panel(db, replace(panel, outline=Outline()), NOW)
    assert len(places(db, trial)) == 24
    change_panel(db, replace(panel, outline=Outline("wing")), NOW)
    assert places(db, trial) == open_cells(Outline("wing"), TAPING)
    assert workshop_panels(db)[0].outline == Outline("wing")


def test_a_cell_with_readings_does_not_fall_off(db):
    trial, panel = taped(db, Outline())
    corner = next(c for c in cells(db, trial, baselines=False) if (c.row, c.column) == (0, 0))
    add_reading(db, Reading(0, corner.id, "gloss20", 84.0), NOW)
    with pytest.raises(ValueRefused, match="1 cell with readings would fall off"):
        change_panel(db, replace(panel, outline=DOOR), NOW)
    assert panels(db, trial)[0].outline == Outline()


def test_an_outline_without_room_for_a_cell_is_refused(db):
    trial = add_trial(db, Trial(0, "T"), NOW)
    whole = Outline(keep_out=(Zone(0, 0, 1040, 760),))
    with pytest.raises(ValueRefused, match="No cell fits"):
        add_panel(db, Panel(0, trial, "Heron", "soft", TAPING, outline=whole), NOW)


def draft(outline, at):
    combination = Combination(1, "A", "", (Stage("p", "c", "m"),))
    panel = Panel(1, 1, "Heron", "soft", TAPING, outline=outline)
    return TrialDraft(
        Trial(1, "T"), (panel,), (combination,), (Cell(1, 1, *at, 1),), (), created_at=NOW
    )


def test_an_outline_travels_in_a_package(db, tmp_path):
    at = min(open_cells(DOOR, TAPING))
    write_package(draft(DOOR, at), tmp_path / "p.zip")
    found = read_package(tmp_path / "p.zip")
    assert found.panels[0].outline == DOOR
    trial = write_draft(db, found, NOW)
    again = read_draft(db, trial)
    assert again.panels[0].outline == DOOR
    assert len(again.cells) == len(open_cells(DOOR, TAPING))


def test_a_cell_off_its_outline_is_refused_whole(tmp_path):
    off = min({(r, c) for r in range(4) for c in range(6)} - open_cells(DOOR, TAPING))
    write_package(draft(DOOR, off), tmp_path / "p.zip")
    with pytest.raises(LoamError, match="off the outline of its panel"):
        read_package(tmp_path / "p.zip")


def test_an_outline_of_a_newer_version_keeps_the_panel_out_of_sight_and_safe(db):
    trial, _ = taped(db)
    db.execute(
        "INSERT INTO panel_version(panel_id, name, hardness, paint, width_mm, height_mm, outline,"
        ' at) SELECT panel_id, name, hardness, paint, width_mm, height_mm, \'{"shape":"boat"}\','
        " at FROM panel_version"
    )
    db.execute("UPDATE taping SET panel_version_id = (SELECT max(id) FROM panel_version)")
    assert panels(db, trial) == []
    assert workshop_panels(db)[0].outline == Outline()
