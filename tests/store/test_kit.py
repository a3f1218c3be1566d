"""The shelf in its file: versions, what trials keep, and the shelf as a table."""

from contextlib import suppress

import pytest
from hypothesis import given
from hypothesis import strategies as st

from loam.app.bring_in import read_file
from loam.app.commands import PutOnShelf
from loam.core.errors import LoamError, ValueRefused
from loam.core.kit import BY_SORT
from loam.core.kit.facts import COMPOUND, MACHINE, METER, PAD, PAD_KIND, PERSON
from loam.core.trial import Combination, Stage, Trial
from loam.store import kit
from loam.store.combinations import add_combination, change_combination, combinations
from loam.store.kit_table import is_kit, kit_text, pasted, read_kit, table_of, write_kit
from loam.store.people import people
from loam.store.table_file import FileRefused, read_table
from loam.store.trials import add_trial
from loam.store.workshop import Workshop

NOW = "2026-09-26T14:02:11"
STAGE = Stage(
    "Bracken",
    "Grist 9",
    "Dipper 21",
    "microfibre",
    "coarse",
    "free-orbital",
    6,
    "5",
    pad_mm=125.0,
    orbit_mm=21.0,
)


@pytest.fixture
def db(tmp_path):
    workshop = Workshop(tmp_path / "w.loam")
    with workshop.transaction() as open_db:
        yield open_db
    workshop.close()


def only(db, sort):
    (thing,) = kit.things(db, sort)
    return thing


def worked(db, stage=STAGE):
    trial = add_trial(db, Trial(0, "T"), NOW)
    return trial, add_combination(db, trial, Combination(0, "A", "", (stage,)), NOW)


def test_what_a_trial_used_stays_when_the_shelf_changes(db):
    trial, _ = worked(db)
    thing = only(db, PAD_KIND)
    kit.edit(db, PAD_KIND, thing.item_id, "Bracken 2", {"material": "wool", "thick_mm": 9.0}, NOW)
    assert only(db, PAD_KIND).name == "Bracken 2"
    assert combinations(db, trial)[0].stages == (STAGE,)


def test_a_trial_fills_what_the_shelf_does_not_know_and_never_overwrites(db):
    kit.add(db, MACHINE, "Dipper 21", {"mass_kg": 2.8}, NOW)
    trial, a = worked(db)
    facts = only(db, MACHINE).facts
    assert facts == {"mass_kg": 2.8, "motion": "free-orbital", "orbit_mm": 21.0}
    other = Stage(
        "Bracken",
        "Grist 9",
        "Dipper 21",
        "microfibre",
        "coarse",
        "free-orbital",
        4,
        pad_mm=75.0,
        orbit_mm=15.0,
    )
    change_combination(db, Combination(a, "A", "", (other,)), NOW)
    assert combinations(db, trial)[0].stages == (other,)
    assert only(db, MACHINE).facts == facts
    assert only(db, PAD_KIND).facts["diameter_mm"] == 125.0
    bare = Stage("Bracken", "Grist 9", "Dipper 21")
    change_combination(db, Combination(a, "A", "", (bare,)), NOW)
    assert combinations(db, trial)[0].stages == (bare,)
    assert only(db, MACHINE).facts == facts


def test_equal_use_is_one_version(db):
    worked(db)
    before = db.execute("SELECT count(*) FROM kit_version").fetchone()[0]
    worked(db)
    assert db.execute("SELECT count(*) FROM kit_version").fetchone()[0] == before
    assert kit.version_id(db, METER, "Glim", {}, NOW) == kit.version_id(db, METER, "Glim", {}, NOW)
    assert kit.version_id(db, METER, "", {}, NOW) is None


def test_names_are_told_apart_on_a_shelf(db):
    kit.add(db, COMPOUND, "Silt 1", {}, NOW)
    with pytest.raises(ValueRefused, match="a compound SILT 1 already"):
        kit.add(db, COMPOUND, "SILT 1", {}, NOW)
    with pytest.raises(ValueRefused, match="needs a name"):
        kit.add(db, COMPOUND, "  ", {}, NOW)
    item = kit.add(db, COMPOUND, "Silt 2", {}, NOW)
    with pytest.raises(ValueRefused, match="already"):
        kit.edit(db, COMPOUND, item, "Silt 1", {}, NOW)
    kit.put_away(db, COMPOUND, item, True)
    again = kit.add(db, COMPOUND, "Silt 2", {}, NOW)
    with pytest.raises(ValueRefused, match="already"):
        kit.put_away(db, COMPOUND, item, False)
    kit.put_away(db, COMPOUND, again, True)
    kit.put_away(db, COMPOUND, item, False)
    assert [t.item_id for t in kit.things(db, COMPOUND, away=True)] == [again]


def test_single_pads_follow_their_kind_and_keep_their_history(db):
    kind = kit.add(db, PAD_KIND, "Fen", {}, NOW)
    single = kit.add(db, PAD, "Fen 1", {"kind": "Fen"}, NOW)
    kit.edit(db, PAD, single, "Fen 1", {"kind": "Fen", "sets": 1, "state": "loaded"}, NOW)
    kit.edit(db, PAD_KIND, kind, "Fen firm", {}, NOW)
    thing = only(db, PAD)
    assert thing.facts == {"kind": "Fen firm", "sets": 1, "state": "loaded"}
    assert [f.get("sets", 0) for _, f in kit.history(db, single)] == [0, 1, 1]


def test_people_have_a_role_and_are_put_away(db):
    kit.add(db, PERSON, "Maren", {"role": "trainer"}, NOW)
    lise = kit.add(db, PERSON, "Lise", {}, NOW)
    kit.edit(db, PERSON, lise, "Lisa", {"role": "reader"}, NOW)
    assert people(db) == ["Lisa", "Maren"]
    kit.put_away(db, PERSON, lise, True)
    assert people(db) == ["Maren"]
    tam = kit.add(db, PERSON, "Tam", {}, NOW)
    with pytest.raises(ValueRefused, match="put away"):
        kit.edit(db, PERSON, tam, "Lisa", {}, NOW)
    assert kit.add(db, PERSON, "Lisa", {"role": "student"}, NOW) == lise
    assert kit.things(db, PERSON)[0].facts == {"role": "student"}


def test_a_board_copied_is_a_board_pasted(db):
    kit.add(db, MACHINE, "Mill", {"dial": [["1", 900.0], ["2", 1200.0]], "mass_kg": 2.1}, NOW)
    sort = BY_SORT[MACHINE]
    text = "\n".join("\t".join(row) for row in table_of(sort, kit.things(db, MACHINE)))
    assert pasted(text, sort) == [(MACHINE, "Mill", only(db, MACHINE).facts)]
    bare = "Kiln 8\tforced-rotation orbital\t8\n\nMill\trotary\n"
    assert pasted(bare, sort) == [
        (MACHINE, "Kiln 8", {"motion": "forced-orbital", "orbit_mm": 8.0}),
        (MACHINE, "Mill", {"motion": "rotary"}),
    ]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "Nothing was copied"),
        ("name\tspin\nMill\t3", "'spin' is nothing that is kept of a machine"),
        ("Mill\trotary\t8\tx", "Row 1: Speed dial"),
        ("Mill\tsideways", "Row 1: Moves as: 'sideways' is none"),
        ("Mill" + "\t1" * 9, "Row 1 has 10 values"),
        ("a\n" * 2001, "2000 at a time"),
    ],
)
def test_rows_that_cannot_be_are_refused_with_their_place(text, said):
    with pytest.raises(ValueRefused, match=said):
        pasted(text, BY_SORT[MACHINE])


def test_a_shelf_goes_out_and_comes_in_again(db, tmp_path):
    worked(db)
    kit.add(db, COMPOUND, "=1+1", {"fillers": True, "batch": "-7"}, NOW)
    kit.add(db, PERSON, "Maren", {"role": "trainer"}, NOW)
    shelf = {sort: kit.things(db, sort) for sort in BY_SORT}
    path = tmp_path / "shelf.csv"
    write_kit(shelf, path)
    assert "'=1+1" in path.read_text()
    table = read_table(path)
    assert is_kit(table.header)
    wanted = [(sort, t.name, t.facts) for sort, things in shelf.items() for t in things]
    assert sorted(read_kit(table), key=str) == sorted(wanted, key=str)
    assert kit_text({}) == "sort,name\r\n"


def test_a_file_of_a_shelf_is_taken_whole_or_not_at_all(tmp_path):
    path = tmp_path / "shelf.csv"
    path.write_text("Sort,Name,grit,damp\ndisc,P1500,many,yes\ncarpet,x,,\nlight,lamp,7,\n")
    with pytest.raises(FileRefused) as refused:
        read_kit(read_table(path))
    said = "\n".join(str(p) for p in refused.value.problems)
    assert "line 2, column grit, 'many': 'many' is not a number" in said
    assert "line 3, column Sort, 'carpet': use pad-kind" in said
    assert "line 4, column grit, '7': is not kept of a light" in said
    assert isinstance(refused.value, LoamError)


@given(st.data())
def test_a_broken_shelf_is_refused_or_taken_whole_and_nothing_else(tmp_path_factory, data):
    folder = tmp_path_factory.mktemp("s")
    whole = (
        "sort,name,material,diameter_mm,dial,reads,fillers,tile_on\n"
        "pad-kind,Fen,firm foam,75,,,,\nmachine,Mill,,,1=900; 2=1200,,,\n"
        "compound,Silt,,,,,yes,\nmeter,Glim,,,,gloss 20°; haze,,2026-09-05\n"
    )
    at = data.draw(st.integers(0, len(whole) - 1))
    change = data.draw(st.sampled_from(["", "\x00", '"', ",", "\n", "9e999", "=", "é", "pad", ";"]))
    cut = data.draw(st.integers(0, 8))
    path = folder / "shelf.csv"
    path.write_text(whole[:at] + change + whole[at + cut :], encoding="utf-8")
    workshop = Workshop(folder / "w.loam")
    try:
        table = read_table(path)
        if is_kit(table.header):
            things = read_kit(table)
            PutOnShelf(tuple(things)).do(workshop)
            here = {(s, t.name) for s in BY_SORT for t in kit.things(workshop.connection, s)}
            assert {(s, n) for s, n, _ in things} <= here | {
                (s, n) for s, n, _ in things if n.casefold() in {x.casefold() for _, x in here}
            }
    except LoamError:
        for sort in BY_SORT:
            assert kit.things(workshop.connection, sort) == []
    finally:
        workshop.close()


def test_a_shelf_is_no_table_of_readings(tmp_path):
    path = tmp_path / "shelf.csv"
    path.write_text("sort,name,grit\ndisc,P1500,1500\n")
    with pytest.raises(LoamError, match="This is a shelf, not readings"):
        read_file(path)


def test_a_thing_that_stands_in_a_file_twice_is_refused_whole(db, tmp_path):
    workshop = Workshop(tmp_path / "other.loam")
    rows = ((COMPOUND, "Silt", {}), (COMPOUND, "silt", {"fillers": True}))
    with pytest.raises(ValueRefused, match="Row 2, silt: There is a compound silt already"):
        PutOnShelf(rows).do(workshop)
    assert kit.things(workshop.connection, COMPOUND) == []
    workshop.close()


def test_rows_of_any_text_are_refused_kindly():
    sort = BY_SORT[MACHINE]
    for text in ("a" * 1_000_001, 'x\t"' + "\n" * 3, "Mill\t\x00", "\ud800\t1"):
        with suppress(ValueRefused):
            pasted(text, sort)


def test_a_single_thing_that_is_refused_is_not_called_a_row(tmp_path):
    workshop = Workshop(tmp_path / "other.loam")
    with pytest.raises(ValueRefused) as refused:
        PutOnShelf(((MACHINE, "", {}),)).do(workshop)
    assert "Row" not in str(refused.value)
    with pytest.raises(ValueRefused, match="Row 2, without a name"):
        PutOnShelf(((MACHINE, "Mill", {}), (MACHINE, "", {}))).do(workshop)
    workshop.close()


@pytest.mark.parametrize(("passes", "shown"), [(500, 99), (-3, 0)])
def test_a_stage_that_cannot_be_is_shown_as_near_as_it_can_be(db, passes, shown):
    trial = add_trial(db, Trial(0, "T", "", ("gloss20",), 1), "")
    add_combination(db, trial, Combination(0, "A", "", (Stage("Fen", "Silt", "Mill"),)), "")
    db.execute("UPDATE stage SET passes=?", (passes,))
    (found,) = combinations(db, trial)
    assert found.stages[0].passes == shown
    assert found.stages[0].pad == "Fen"
