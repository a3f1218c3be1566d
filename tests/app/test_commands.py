"""Every act of the user, done, taken back and done again: one table for all of them."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from loam.app import commands
from loam.app.applying.at_hand import jobs_in, start_job
from loam.app.changes import ALL, JOBS, KIT
from loam.app.commands import (
    Act,
    AddCombination,
    AddPanel,
    AddSpot,
    AddTrial,
    Assign,
    CopyTrial,
    CorrectReadings,
    CorrectThing,
    Decide,
    EditCombination,
    EditPanel,
    EditThing,
    EditTrial,
    KeepPhotographs,
    LayOut,
    Note,
    NoteJob,
    NoteWork,
    PassGate,
    PlanFurther,
    PutCombinationAway,
    PutJobAway,
    PutOnShelf,
    PutPanelAway,
    PutThingAway,
    PutTrialAway,
    SetMatters,
    SetRules,
    ShowPhotograph,
    StartJob,
    StrikeReadings,
    StrikeSpot,
    TakeInTrial,
    TakeReadings,
    Weigh,
    take_reading,
)
from loam.app.planning import rules_of
from loam.app.session import Session
from loam.app.what_matters import chosen
from loam.core.errors import LoamError, ValueRefused
from loam.core.film import Spot
from loam.core.kit.facts import DISC
from loam.core.panel import Taping
from loam.core.trial import Combination, Panel, Reading, Stage, Trial
from loam.demo.scenario import motions
from loam.store import decisions, kit, noted, photographs, preparation, surveys, work
from loam.store import panels as panel_store
from loam.store.database import WorkshopRefused
from loam.store.datapackage import read_package, write_package
from loam.store.readings import readings_of_cells
from loam.store.settings import recall
from loam.store.take_out import read_draft
from loam.store.workshop import Workshop

TAPING = Taping(400, 300, 2, 3, 10, 20)


@pytest.fixture
def session(tmp_path):
    opened = Session(Workshop(tmp_path / "s.loam"))
    start(opened)
    yield opened
    opened.close()


def start(session):
    """Start a trial with two panels, three combinations and a reading."""
    trial = AddTrial(Trial(0, "One", "Which?", ("gloss20",), 2))
    session.run(trial)
    session.choose(trial.id)
    for name in ("Heron", "Teal"):
        session.run(AddPanel(Panel(0, trial.id, name, "soft", TAPING)))
    for code in "ABC":
        session.run(AddCombination(trial.id, Combination(0, code, "", (Stage(code, "", ""),))))
    ids = [c.id for c in session.combinations()]
    session.run(Assign(trial.id, [(c.id, ids[0], 1) for c in session.cells()[:4]]))
    session.run(take_reading(trial.id, Reading(0, session.cells()[1].id, "gloss20", 81.5)))
    session.run(AddSpot(trial.id, session.panels()[0].physical, Spot(5.0, 5.0, 117.0)))
    session.run(PutOnShelf(((DISC, "P800", {"grit": 800.0}),)))
    session.run(start_job(session, "Bus", "minibus"))


def everything(session):
    """Return all that can be seen of a workshop, readings that do not count left out."""
    db = session.workshop.connection
    seen = {}
    for trial in session.trials():
        draft = read_draft(db, trial.id)
        counting = [r for r in draft.readings if r.struck is None]
        kept = {r.id: i for i, r in enumerate(counting)}
        seen[trial.id] = (
            trial,
            draft.panels,
            draft.combinations,
            draft.cells,
            [replace(r, id=kept[r.id], taken_at="") for r in counting],
            chosen(db, trial.id),
            rules_of(db, trial.id),
            [
                [(s.x_mm, s.y_mm, s.film_um) for s in surveys.spots(db, p.physical)]
                for p in panel_store.panels(db, trial.id)
            ],
            [(w.cell_id, w.stage, w.what, w.person, w.facts) for w in work.paced(db, trial.id)],
            [
                (panel, p.gate, p.what, p.person)
                for panel, own in preparation.passed(db, trial.id).items()
                for p in own
            ],
            [(n.sort, n.cell_id, n.person, n.facts) for n in noted.of_trial(db, trial.id)],
        )
    discs = [(t.name, t.facts) for t in kit.things(db, DISC)]
    decided = [one.key for one in decisions.of_trial(db, session.trial_id or 0) if not one.back]
    decided = [(key, recall(db, key)) for key in dict.fromkeys(decided) if recall(db, key)]
    seen["decided"] = sorted(decided)
    cars = [(row.name, job) for row, job in jobs_in(db)]
    return seen | {
        "cars": cars,
        "discs": discs,
        "photos": [lying_under(db, p) for p in range(1, 6)],
    }


def lying_under(db, physical):
    photo = photographs.shown(db, physical)
    return None if photo is None else photographs.image(db, photo)


def disc(session):
    return kit.things(session.workshop.connection, DISC)[0]


def mattered(session, trial_id):
    return chosen(session.workshop.connection, trial_id).get("gloss20")


def surveyed(session):
    return surveys.spots(session.workshop.connection, session.panels()[0].physical)


def ruled(session, trial_id):
    return rules_of(session.workshop.connection, trial_id)


def first(session):
    return session.cells()[0]


def reading(session, value=84.5):
    return Reading(
        0,
        first(session).id,
        "gloss20",
        value,
        operator="Ivo",
        reader="Lise",
        meter="Glim",
        day="2026-09-26",
    )


def standing(session):
    cells = [c.id for c in session.cells()]
    return readings_of_cells(session.workshop.connection, cells)[0]


TABLE = {
    StartJob: lambda s, t: StartJob("Van", [("vehicle", {"shape": "van"})]),
    NoteJob: lambda s, t: NoteJob(1, [("film", {"part": "roof", "film_um": 117.0})]),
    PutJobAway: lambda s, t: PutJobAway(1),
    AddTrial: lambda s, t: AddTrial(Trial(0, "Two")),
    CopyTrial: lambda s, t: CopyTrial(s.trial, "One, again"),
    EditTrial: lambda s, t: EditTrial(s.trial, replace(s.trial, question="Other?", seed=9)),
    PutTrialAway: lambda s, t: PutTrialAway(id=t),
    TakeInTrial: lambda s, t: TakeInTrial(motions()),
    AddPanel: lambda s, t: AddPanel(Panel(0, t, "Snipe", "hard", TAPING)),
    EditPanel: lambda s, t: EditPanel(
        s.panels()[1],
        replace(s.panels()[1], name="Plover", hardness="hard", taping=replace(TAPING, rows=1)),
    ),
    PutPanelAway: lambda s, t: PutPanelAway(t, id=s.panels()[0].id),
    AddCombination: lambda s, t: AddCombination(t, Combination(0, "D")),
    EditCombination: lambda s, t: EditCombination(
        t,
        s.combinations()[0],
        replace(s.combinations()[0], name="long", stages=(Stage("x", "y", "z", passes=3),) * 2),
    ),
    CorrectThing: lambda s, t: CorrectThing(
        [EditCombination(t, s.combinations()[0], replace(s.combinations()[0], name="other"))],
        EditThing(
            DISC, disc(s).item_id, (disc(s).name, disc(s).facts), (disc(s).name, {"grit": 1500.0})
        ),
    ),
    PutCombinationAway: lambda s, t: PutCombinationAway(t, "B", id=s.combinations()[1].id),
    Assign: lambda s, t: Assign(t, [(first(s).id, s.combinations()[1].id, 3)]),
    TakeReadings: lambda s, t: TakeReadings(t, [reading(s), replace(reading(s, 85.1), ordinal=2)]),
    SetMatters: lambda s, t: SetMatters(
        t, t, "gloss20", mattered(s, t), (mattered(s, t) or 0.6) + 0.1
    ),
    SetRules: lambda s, t: SetRules(
        t, ruled(s, t), replace(ruled(s, t), trends=not ruled(s, t).trends, damaged=2)
    ),
    LayOut: lambda s, t: LayOut(
        t,
        [(first(s).id, s.combinations()[2].id, 5)],
        rules=ruled(s, t),
        after_rules=replace(ruled(s, t), turn=ruled(s, t).turn + 1),
    ),
    PlanFurther: lambda s, t: PlanFurther(
        t,
        [Panel(0, t, "Soft 1", "soft", TAPING)],
        [
            (-1, s.combinations()[0].id),
            (-1, s.combinations()[1].id),
            (s.panels()[1].id, s.combinations()[1].id),
        ],
        5,
    ),
    ShowPhotograph: lambda s, t: ShowPhotograph(t, s.panels()[0].physical, b"\xff\xd8 a picture"),
    PassGate: lambda s, t: PassGate(t, [s.panels()[0].id], "wash", "done", {}, "Tam", "2026-09-26"),
    NoteWork: lambda s, t: NoteWork(
        t, first(s).id, 1, "worked", {"seconds": 61.5}, "Tam", "2026-09-26"
    ),
    AddSpot: lambda s, t: AddSpot(t, s.panels()[0].physical, Spot(10.0, 20.0, 118.5)),
    StrikeSpot: lambda s, t: StrikeSpot(t, surveyed(s)[0].id),
    PutOnShelf: lambda s, t: PutOnShelf(
        ((DISC, "P1500", {"damp": True}), (DISC, "p800", {"backing": "film"}))
    ),
    EditThing: lambda s, t: EditThing(
        DISC, disc(s).item_id, (disc(s).name, disc(s).facts), (disc(s).name + "x", {"grit": 2000.0})
    ),
    PutThingAway: lambda s, t: PutThingAway(DISC, disc(s).item_id),
    StrikeReadings: lambda s, t: StrikeReadings(t, [standing(s).id], "hair"),
    CorrectReadings: lambda s, t: CorrectReadings(
        t, [(standing(s).id, standing(s).value + 0.25)], "corrected for drift"
    ),
    Decide: lambda s, t: Decide(
        t,
        t,
        f"left_out:{t}",
        out := s.recall(f"left_out:{t}", False),
        not out,
        "leave out: cells that were not worked as planned",
    ),
    Weigh: lambda s, t: Weigh(
        t,
        t,
        f"worth:{t}",
        was := s.recall(f"worth:{t}", {}),
        {} if was else {"gloss20": [75.0, 90.0]},
        "choose what is worth nothing and all",
    ),
    Note: lambda s, t: Note(t, noted.WIPE, {"what": "wiped"}, None, "Lise", "2026-09-26"),
    KeepPhotographs: lambda s, t: KeepPhotographs(
        t,
        first(s).id,
        {"before": "a.png", "removed_pct": 84.0},
        b"\xff\xd8 small",
        Reading(0, first(s).id, "defects", 84.0, scale="photograph"),
    ),
}


def test_the_table_holds_every_act():
    acts = {c for c in vars(commands).values() if isinstance(c, type) and issubclass(c, Act)}
    assert acts - {Act} == set(TABLE)


@pytest.mark.parametrize("kind", TABLE, ids=lambda k: k.__name__)
def test_every_act_can_be_taken_back_and_done_again(session, kind):
    trial_id = session.trial_id
    act = TABLE[kind](session, trial_id)
    heard = []
    session.subscribe(heard.append)
    before = everything(session)
    session.run(act)
    after = everything(session)
    assert after != before
    assert act.name
    for _ in range(2):
        assert session.undo().startswith(act.name)
        assert everything(session) == before
        session.choose(trial_id)
        assert session.redo().startswith(act.name)
        assert everything(session) == after
        session.choose(trial_id)
    told = {c.kinds for c in heard if c.kinds != ALL}
    assert told <= {act.kinds, act.kinds | {KIT}}, "what came onto the shelf is told too"
    assert all(c.trial_id is not None or c.kinds in ({KIT}, {JOBS}) for c in heard)


@given(st.lists(st.sampled_from(list(TABLE)), min_size=1, max_size=7), st.integers(1, 7))
def test_any_run_of_acts_goes_back_step_by_step(tmp_path_factory, kinds, back):
    session = Session(Workshop(tmp_path_factory.mktemp("s") / "s.loam"))
    start(session)
    trial_id = session.trial_id
    states = [everything(session)]
    for kind in kinds:
        session.choose(trial_id)
        if session.trial is None or session.trial.id != trial_id:
            break
        try:
            session.run(TABLE[kind](session, trial_id))
        except (LoamError, IndexError):
            continue
        states.append(everything(session))
    for state in states[-2::-1][:back]:
        session.undo()
        assert everything(session) == state
    session.close()


def test_a_new_act_forgets_what_was_taken_back(session):
    session.run(TABLE[EditTrial](session, session.trial_id))
    session.undo()
    assert session.redo_name
    session.run(TABLE[AddPanel](session, session.trial_id))
    assert session.redo_name == ""
    assert session.redo() == ""
    assert session.trial.question == "Which?"


def test_undo_turns_to_the_trial_that_it_changes_and_says_which(session):
    one = session.trial_id
    session.run(EditTrial(session.trial, replace(session.trial, question="Other?")))
    other = AddTrial(Trial(0, "Two"))
    session.run(other)
    session.choose(other.id)
    heard = []
    session.subscribe(heard.append)
    assert session.undo() == "start a trial"
    session.choose(one)
    session.redo()
    session.choose(other.id)
    session.undo()
    session.redo()
    session.run(AddPanel(Panel(0, other.id, "Snipe", "hard", TAPING)))
    session.choose(one)
    heard.clear()
    assert session.undo() == "add a panel in Two"
    assert session.trial_id == other.id
    assert heard[-1].kinds == ALL


def test_undo_of_counts_again_strikes_again(session):
    one = standing(session)
    trial = session.trial_id
    session.run(StrikeReadings(trial, [one.id], "hair"))
    session.run(StrikeReadings(trial, [one.id], "counts again", struck=False))
    assert standing(session).struck is None
    session.undo()
    assert standing(session).struck == "counts again"
    assert session.counts() == {}
    session.undo()
    assert standing(session).struck is None


def test_a_combination_on_a_cell_stays(session):
    with pytest.raises(ValueRefused, match="A is laid out on 4 cells"):
        session.run(PutCombinationAway(session.trial_id, "A", id=session.combinations()[0].id))
    one = session.cells()[5]
    session.run(Assign(session.trial_id, [(one.id, session.combinations()[1].id, None)]))
    with pytest.raises(ValueRefused, match="B is laid out on 1 cell\\."):
        session.run(PutCombinationAway(session.trial_id, "B", id=session.combinations()[1].id))
    assert [c.code for c in session.combinations()] == ["A", "B", "C"]


def test_a_read_cell_keeps_what_it_got(session):
    read = session.cells()[1]
    with pytest.raises(ValueRefused, match="1 of these cells has been read"):
        session.run(Assign(session.trial_id, [(read.id, session.combinations()[1].id, 1)]))
    session.run(Assign(session.trial_id, [(read.id, read.combination_id, 9)]))
    assert session.cells()[1].run_order == 9
    session.run(StrikeReadings(session.trial_id, [standing(session).id], "hair"))
    session.run(Assign(session.trial_id, [(read.id, session.combinations()[1].id, 1)]))
    assert session.cells()[1].combination_id == session.combinations()[1].id


def test_a_disk_that_refuses_leaves_nothing_to_undo(session, monkeypatch):
    before, name = everything(session), session.undo_name
    from loam.store import panels

    def full(*_):
        raise WorkshopRefused("The disk did not take it.")

    act = TABLE[AddPanel](session, session.trial_id)
    with monkeypatch.context() as broken:
        broken.setattr(panels, "_tape", full)
        with pytest.raises(WorkshopRefused):
            session.run(act)
    assert (everything(session), session.undo_name, act.id) == (before, name, 0)
    session.run(act)
    assert len(session.panels()) == 3


def test_a_copy_uses_the_same_panels_and_brings_no_reading(session):
    session.run(SetMatters(session.trial_id, session.trial_id, "gloss20", None, 0.7))
    act = CopyTrial(session.trial, "Again")
    session.run(act)
    session.choose(act.id)
    db = session.workshop.connection
    assert chosen(db, act.id) == {"gloss20": 0.7}
    first_trial = session.trials()[0].id
    source, copy = read_draft(db, first_trial), read_draft(db, act.id)
    assert copy.readings == ()
    assert (copy.panels, copy.combinations, copy.cells) == (
        source.panels,
        source.combinations,
        source.cells,
    )
    from loam.store.panels import panels

    assert [p.physical for p in panels(db, act.id)] == [p.physical for p in panels(db, first_trial)]


def test_what_a_trial_used_stays_when_a_panel_or_kit_is_edited_elsewhere(session):
    act = CopyTrial(session.trial, "Again")
    session.run(act)
    db = session.workshop.connection
    before = read_draft(db, session.trials()[0].id)
    session.choose(act.id)
    panel, combination = session.panels()[0], session.combinations()[0]
    session.run(EditPanel(panel, replace(panel, paint="Reed clear", hardness="hard")))
    stage = replace(combination.stages[0], pad_material="wool")
    session.run(EditCombination(act.id, combination, replace(combination, stages=(stage,))))
    now = read_draft(db, session.trials()[0].id)
    assert replace(now, rest={}) == replace(before, rest={})
    used = now.used_by(now.combinations[0], 1)[0]
    assert now.rest["thing"][used - 1] in before.rest["thing"]
    after = read_draft(db, act.id)
    assert (after.panels[0].hardness, after.combinations[0].stages[0].pad_material) == (
        "hard",
        "wool",
    )


def test_of_a_reading_and_its_correction_one_counts(session, tmp_path):
    trial = session.trial_id
    session.run(TakeReadings(trial, [reading(session)]))
    db = session.workshop.connection
    old = standing(session)
    session.run(CorrectReadings(trial, [(old.id, old.value + 0.5)], "corrected for drift"))

    def counting():
        own = readings_of_cells(db, [old.cell_id], old.measurand)
        place = (old.phase, old.stage, old.ordinal)
        return [r.id for r in own if r.struck is None and (r.phase, r.stage, r.ordinal) == place]

    (new,) = counting()
    assert new != old.id
    session.run(StrikeReadings(trial, [old.id], "", struck=False))
    assert counting() == [old.id]
    write_package(read_draft(db, trial), tmp_path / "one.zip")
    assert read_package(tmp_path / "one.zip").readings
    session.undo()
    assert counting() == [new]
    session.redo()
    assert counting() == [old.id]
    session.run(StrikeReadings(trial, [old.id], "hair"))
    session.run(StrikeReadings(trial, [old.id, new], "", struck=False))
    assert counting() == [new], "both at once: the later one"
    session.undo()
    assert counting() == []
