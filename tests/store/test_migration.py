"""Files of the version before open with all that they held."""

import json
import sqlite3
from dataclasses import asdict, replace
from pathlib import Path

import pytest

from loam.core.film import Spot
from loam.core.stage_settings import SETTINGS
from loam.core.trial import BETWEEN
from loam.store import kit, noted
from loam.store.copies import copies
from loam.store.datapackage import read_package
from loam.store.panels import panels, workshop_panels
from loam.store.people import people
from loam.store.preparation import add as add_gate
from loam.store.preparation import passed
from loam.store.raw_lines import of_reading
from loam.store.readings import add_reading, readings_of_cells
from loam.store.schema import MIGRATIONS
from loam.store.surveys import add_spot, spots
from loam.store.take_out import read_draft
from loam.store.trials import trials
from loam.store.work import paced
from loam.store.workshop import Workshop

OLD = Path(__file__).parent.parent / "reference" / "workshops"
EXPECTED = json.loads((OLD / "v1-expected.json").read_text())


@pytest.fixture
def old_file(tmp_path):
    path = tmp_path / "old.loam"
    db = sqlite3.connect(path)
    db.executescript((OLD / "v1.sql").read_text())
    db.close()
    return path


def as_before(draft):
    """Return a draft as the version before would have written it."""
    found = json.loads(json.dumps(asdict(draft)))
    assert (found.pop("lines"), found.pop("called")) == ([], [])
    for key in ("unknown",):
        assert found["trial"].pop(key) == []
    for panel in found["panels"]:
        assert panel.pop("physical") == 0
        assert not any(panel.pop("build").values())
        assert not any(panel.pop("outline").values())
        assert panel.pop("facts") == {}
    for cell in found["cells"]:
        assert cell.pop("name") == ""
    for combination in found["combinations"]:
        expected = "untouched" if combination["name"] == "control" else ""
        assert combination.pop("control") == expected
        for stage in combination["stages"]:
            assert (stage.pop("disc"), stage.pop("wipes")) == ("", [])
            for key in (s.key for s in SETTINGS):
                assert stage.pop(key) is None
    for reading in found["readings"]:
        for key in ("reader", "meter", "mark", "about"):
            assert reading.pop(key) == ""
    for key in ("workshop", "side", "rest", "images"):
        found.pop(key)
    return found


@pytest.mark.parametrize("trial", [1, 2])
def test_every_value_of_an_old_workshop_is_carried_over(old_file, trial):
    workshop = Workshop(old_file)
    assert workshop.version == len(MIGRATIONS)
    assert as_before(read_draft(workshop.connection, trial)) == EXPECTED[str(trial)]
    assert [t.name for t in trials(workshop.connection, away=True)] == ["Away"]
    assert workshop.connection.execute("PRAGMA foreign_key_check").fetchall() == []
    assert workshop.connection.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
    workshop.close()
    assert [c.path.stem.split(" before")[1] for c in copies(old_file)] == [", version 1"]


@pytest.mark.parametrize("trial", [1, 2])
def test_packages_of_the_format_before_are_read(trial):
    draft = read_package(OLD / f"format1-{trial}.zip")
    expected = dict(EXPECTED[str(trial)])
    struck = [dict(r, struck=None) for r in expected["readings"]]
    found = as_before_package(draft)
    assert found == {**expected, "readings": struck}


def as_before_package(draft):
    found = json.loads(json.dumps(asdict(draft)))
    found["trial"].pop("unknown")
    for key in ("workshop", "lines", "called", "side", "rest", "images"):
        found.pop(key)
    for panel in found["panels"]:
        panel.pop("physical")
        assert not any(panel.pop("build").values())
        assert not any(panel.pop("outline").values())
        assert panel.pop("facts") == {}
    for cell in found["cells"]:
        assert cell.pop("name") == ""
    for combination in found["combinations"]:
        assert combination.pop("control") == ""
        for stage in combination["stages"]:
            assert (stage.pop("disc"), stage.pop("wipes")) == ("", [])
            for key in (s.key for s in SETTINGS):
                assert stage.pop(key) is None
    for reading in found["readings"]:
        for key in ("reader", "meter", "mark", "about"):
            reading.pop(key)
    return found


def test_what_belonged_to_a_trial_belongs_to_the_workshop(old_file):
    workshop = Workshop(old_file)
    db = workshop.connection
    assert people(db) == ["Ivo", "Lise", "Tam"]
    pads = {v.name: v.facts["material"] for v in kit.things(db, kit.PAD_KIND)}
    assert pads["Bracken"] == "microfibre"
    assert {"Mill", "Kiln 8"} <= {v.name for v in kit.things(db, kit.MACHINE)}
    # one pad, two facts in the old file: two versions of one thing
    rows = db.execute(
        "SELECT item_id, facts FROM kit_version WHERE name = 'Fen firm' ORDER BY id"
    ).fetchall()
    assert len({r[0] for r in rows}) == 1
    assert len(rows) == 2
    assert [(p.name, p.trials) for p in workshop_panels(db)] == [
        ("Godwit", ("Motions on hard",)),
        ("Heron", ("Typed",)),
        ("Snipe", ("Motions on hard",)),
        ("Snipe", ("Typed",)),
    ]
    # a cell that two people worked has two rows of work, and each reading its own
    cell = db.execute(
        "SELECT w.cell_id FROM work w GROUP BY w.cell_id, w.stage HAVING count(*) > 1"
    ).fetchall()
    assert len(cell) == 1
    workshop.close()


def test_an_old_workshop_can_be_looked_at_where_nothing_can_be_written(old_file):
    before = old_file.read_bytes()
    look = Workshop(old_file, look=True)
    assert look.read_only
    assert len(trials(look.connection)) == 2
    assert look.reads != old_file
    look.close()
    assert not look.reads.exists()
    assert old_file.read_bytes() == before
    assert copies(old_file) == []


def test_a_workshop_of_the_version_before_holds_what_its_package_holds(tmp_path):
    path = tmp_path / "two.loam"
    db = sqlite3.connect(path)
    db.executescript((OLD / "v2.sql").read_text())
    db.close()
    workshop = Workshop(path)
    assert workshop.version == len(MIGRATIONS)
    found, wanted = read_draft(workshop.connection, 1), read_package(OLD / "format2.zip")
    assert found.combinations == wanted.combinations
    assert [replace(p, physical=0) for p in found.panels] == list(wanted.panels)
    assert found.cells == wanted.cells
    assert found.readings == wanted.readings
    panel = panels(workshop.connection, 1)[0]
    with workshop.transaction() as db:
        add_spot(db, panel.physical, Spot(10.0, 10.0, 120.0), workshop.now())
    assert [s.film_um for s in spots(workshop.connection, panel.physical)] == [120.0]
    workshop.close()
    assert [c.path.stem.split(" before")[1] for c in copies(path)] == [", version 2"]


def test_a_workshop_of_version_4_keeps_its_work_and_has_room_for_gates(tmp_path):
    path = tmp_path / "four.loam"
    db = sqlite3.connect(path)
    db.executescript((OLD / "v4.sql").read_text())
    db.close()
    workshop = Workshop(path)
    assert workshop.version == len(MIGRATIONS) >= 5
    found, wanted = read_draft(workshop.connection, 1), read_package(OLD / "format2.zip")
    assert found.combinations == wanted.combinations
    (one,) = paced(workshop.connection, 1)
    assert (one.what, one.person, one.facts["seconds"]) == ("pass", "Tam", 41.5)
    assert passed(workshop.connection, 1) == {}
    panel = panels(workshop.connection, 1)[0]
    with workshop.transaction() as inside:
        add_gate(inside, panel.id, "wash", "done", None, None, {}, "2026-09-26T10:00:00")
    assert [p.gate for p in passed(workshop.connection, 1)[panel.id]] == ["wash"]
    with pytest.raises(sqlite3.IntegrityError, match="stays as it was noted"):
        workshop.connection.execute("DELETE FROM gate")
    with pytest.raises(sqlite3.IntegrityError, match="stays as it was noted"):
        workshop.connection.execute("UPDATE gate SET gate='feel'")
    workshop.close()


def test_a_workshop_of_version_5_keeps_its_gates_and_lines_and_reads_another_day(tmp_path):
    path = tmp_path / "five.loam"
    db = sqlite3.connect(path)
    db.executescript((OLD / "v5.sql").read_text())
    db.close()
    workshop = Workshop(path)
    assert workshop.version == len(MIGRATIONS) >= 6
    db = workshop.connection
    assert [p.gate for ps in passed(db, 1).values() for p in ps] == ["wash"]
    last = readings_of_cells(db, [1])[-1]
    assert (last.value, last.struck, last.reader) == (84.6, "meter tilted or lifted", "Lise")
    assert of_reading(db, last.id).line.startswith("7 OK g20=84.6")
    again = replace(last, id=0, phase="day", struck=None, about='{"light": "out"}')
    with workshop.transaction() as inside:
        add_reading(inside, again, workshop.now())
        row = noted.add(inside, 1, noted.WIPE, None, None, None, {"how": "twice"}, "now")
        noted.strike(inside, row, "taken back", "now")
    assert readings_of_cells(db, [1])[-1].about == '{"light": "out"}'
    assert noted.of_trial(db, 1) == []
    for table, said in (("noted", "stays as it was"), ("reading", "never changed or deleted")):
        with pytest.raises(sqlite3.IntegrityError, match=said):
            db.execute(f"DELETE FROM {table}")
    workshop.close()


def test_a_workshop_of_version_6_keeps_how_it_was_read_and_reads_between_stages(tmp_path):
    path = tmp_path / "six.loam"
    db = sqlite3.connect(path)
    db.executescript((OLD / "v6.sql").read_text())
    before = db.execute("SELECT id, value, phase, about FROM reading ORDER BY id").fetchall()
    db.close()
    workshop = Workshop(path)
    assert workshop.version == len(MIGRATIONS) >= 7
    db = workshop.connection
    kept = db.execute("SELECT id, value, phase, about FROM reading ORDER BY id").fetchall()
    assert [tuple(r) for r in kept] == before
    assert any(r[2] == "day" and r[3] for r in kept)
    last = readings_of_cells(db, [1])[-1]
    with workshop.transaction() as inside:
        for phase in BETWEEN:
            add_reading(inside, replace(last, id=0, phase=phase, ordinal=1), workshop.now())
    assert {r.phase for r in readings_of_cells(db, [1])} >= set(BETWEEN)
    with pytest.raises(sqlite3.IntegrityError, match="never changed or deleted"):
        db.execute("DELETE FROM reading")
    with pytest.raises(sqlite3.IntegrityError):
        db.execute(
            "INSERT INTO reading(cell_id, measurand, phase, stage, ordinal, value, scale,"
            " taken_at) VALUES (1, 'gloss20', 'later', 1, 99, 80.0, '', '')"
        )
    workshop.close()


def test_a_workshop_of_version_3_keeps_its_survey_and_its_kit_stands_on_the_shelf(tmp_path):
    path = tmp_path / "three.loam"
    db = sqlite3.connect(path)
    db.executescript((OLD / "v3.sql").read_text())
    named = db.execute("SELECT count(*) FROM kit_version WHERE name <> ''").fetchone()[0]
    db.close()
    workshop = Workshop(path)
    assert workshop.version == len(MIGRATIONS)
    found, wanted = read_draft(workshop.connection, 1), read_package(OLD / "format2.zip")
    assert found.combinations == wanted.combinations
    panel = panels(workshop.connection, 1)[0]
    assert [s.film_um for s in spots(workshop.connection, panel.physical)] == [124.5]
    db = workshop.connection
    standing = sum(len(kit.things(db, sort)) for sort in ("pad-kind", "compound", "machine"))
    assert 0 < standing <= named
    assert db.execute("SELECT min(on_shelf) FROM kit_version").fetchone()[0] == 1
    workshop.close()
