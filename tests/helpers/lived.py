"""A trial in which every sort of thing that the record knows has happened."""

import json

from loam.app.applying.at_hand import start_job
from loam.app.commands import (
    AddSpot,
    CorrectReadings,
    Decide,
    EditThing,
    KeepPhotographs,
    Note,
    NoteJob,
    NoteWork,
    PassGate,
    PutOnShelf,
    SetMatters,
    SetRules,
    ShowPhotograph,
    StrikeReadings,
    StrikeSpot,
    TakeInTrial,
    TakeReadings,
)
from loam.app.commands.kit import pad_event
from loam.app.planning import rules_of
from loam.app.record import doubts_key
from loam.app.work_against_plan import left_out_key
from loam.core.film import Spot
from loam.core.kit.facts import METER, PAD
from loam.core.kit.life import EVENTS
from loam.core.trial import BEFORE, Reading
from loam.demo.scenario import cut_and_finish
from loam.store import kit, noted, work
from loam.store.raw_lines import RawLine

PICTURE = b"\xff\xd8\xff\xe0" + b"sheen" * 40 + b"\xff\xd9"


def live(session, trial_id):
    """Do to a trial of the workshop whatever can be done to one."""
    session.choose(trial_id)
    db = session.workshop.connection
    cells = [c for c in session.cells() if c.combination_id is not None]
    a, b, c = cells[0], cells[9], cells[-1]
    panel = session.panels()[0]
    session.run(
        PutOnShelf(
            ((PAD, "Rook 4", {"kind": "Rook foam"}), (METER, "Glim", {"reads": ["gloss20"]}))
        )
    )
    raw = RawLine("7 OK gloss20=84.2*5A", 31.5, 1.0)
    session.run(
        TakeReadings(
            trial_id,
            [
                Reading(
                    0,
                    a.id,
                    "gloss20",
                    84.2,
                    ordinal=41,
                    operator="Edda",
                    reader="Lise",
                    meter="Glim",
                    day="2026-09-27",
                    mark="odd",
                    about='{"light":"out"}',
                ),
            ],
            raw=raw,
        )
    )
    session.run(
        TakeReadings(
            trial_id,
            [
                Reading(0, b.id, "gloss20", 40.5, BEFORE, 41, reader="Ivo", day="2026-09-27"),
            ],
        )
    )
    _work(session, trial_id, (a, b, c))
    _notes(session, trial_id, a, panel)
    readings = [r[0] for r in db.execute("SELECT id FROM reading ORDER BY id DESC LIMIT 2")]
    session.run(StrikeReadings(trial_id, readings[:1], "a hair"))
    session.run(CorrectReadings(trial_id, [(readings[1], 83.9)], "corrected for drift"))
    session.undo()
    session.redo()
    _decide(session, trial_id, a, panel)
    _film(session, trial_id, panel)
    for thing in (t for t in kit.things(db, METER) if t.name == "Glim"):
        study = thing.facts | {"basis": "study", "gloss20:repeat": 0.42}
        session.run(EditThing(METER, thing.item_id, (thing.name, thing.facts), (thing.name, study)))


def _work(session, trial_id, cells):
    a, b, c = cells
    who, day = "Edda", "2026-09-27"
    for number in (1, 2):
        session.run(
            NoteWork(
                trial_id,
                a.id,
                1,
                work.PASS,
                {
                    "seconds": 61.25,
                    "machine": "Long throw",
                    "number": number,
                    "paint_s": 60.0,
                },
                who,
                day,
                "Rook 4",
            )
        )
    session.run(NoteWork(trial_id, a.id, 1, work.WORKED, {"seconds": 122.5}, who, day, "Rook 4"))
    session.run(NoteWork(trial_id, b.id, 1, work.PASS, {"seconds": 20.0, "number": 1}, who, day))
    session.run(NoteWork(trial_id, b.id, 1, work.MARK, {"mark": "passes", "passes": 1}, who, day))
    session.run(NoteWork(trial_id, c.id, 1, work.MARK, {"words": "a run"}, "Ivo", day))
    session.run(NoteWork(trial_id, c.id, 1, work.MARK, {"mark": "dry"}, "Ivo", day))
    session.undo()
    session.run(NoteWork(trial_id, a.id, 1, work.HEAT, {"panel_c": 31.5}, who, day))
    panels = [p.id for p in session.panels()[:2]]
    session.run(PassGate(trial_id, panels, "wash", "done", {}, who, day))
    session.run(
        PassGate(trial_id, panels[:1], "damage", "skipped", {"reason": "no time"}, who, day)
    )
    session.undo()
    pad = kit.things(session.workshop.connection, PAD)[0]
    session.run(pad_event(pad.item_id, pad.name, pad.facts, EVENTS[0][0]))


def _notes(session, trial_id, cell, panel):
    day = "2026-09-27"
    tile = {"meter": "Glim", "measurand": "gloss20", "tile": 92.0, "read": 91.4}
    session.run(Note(trial_id, noted.TILE, tile, None, "Lise", day))
    opened = Note(
        trial_id, noted.ROUND, {"phase": "after", "order": "random", "seed": 4}, None, "Lise", day
    )
    session.run(opened)
    session.run(
        Note(trial_id, noted.PEEK, {"of": opened.id, "what": "the ranking"}, None, "Ivo", day)
    )
    session.run(Note(trial_id, noted.CLOSED, {"of": opened.id}, None, "Lise", day))
    session.run(Note(trial_id, noted.WIPE, {"what": "wiped", "panels": [panel.id], "often": 2}))
    session.run(
        Note(trial_id, noted.INSPECTION, {"light": "sun", "holograms": 1}, cell.id, "Ivo", day)
    )
    session.run(Note(trial_id, noted.WIPE, {"what": "wash"}))
    session.undo()
    session.run(
        KeepPhotographs(
            trial_id, cell.id, {"before": "a.png", "removed_pct": 61.0}, PICTURE, None, "Ivo", day
        )
    )


def _decide(session, trial_id, cell, panel):
    doubt = {
        "hand:Ivo": {
            "kind": "hand",
            "subject": "Ivo",
            "panels": [panel.id],
            "cells": [cell.id],
            "slope": [["gloss20", {str(cell.id): 1.5}, 0.3]],
        }
    }
    session.run(SetMatters(trial_id, trial_id, "gloss20", None, 4.0))
    session.run(
        Decide(trial_id, trial_id, doubts_key(trial_id), None, doubt, "take Ivo's hand out")
    )
    session.run(Decide(trial_id, trial_id, left_out_key(trial_id), None, True, "leave out"))
    session.undo()
    session.run(Decide(trial_id, trial_id, left_out_key(trial_id), None, True, "leave out"))
    rules = rules_of(session.workshop.connection, trial_id)
    more = rules.with_people(session.trial, ("Edda", "Ivo"), session.panels(), ())
    session.run(SetRules(trial_id, rules, more))


def _film(session, trial_id, panel):
    for x in (10.0, 20.0):
        session.run(AddSpot(trial_id, panel.physical, Spot(x, 30.0, 121.5)))
    spot = session.workshop.connection.execute("SELECT max(id) FROM survey").fetchone()[0]
    session.run(StrikeSpot(trial_id, spot))
    session.run(ShowPhotograph(trial_id, panel.physical, PICTURE))


def _car(session):
    """A car that rests on the trial: read, with a note that was taken back."""
    command = start_job(session, "Lived", "van")
    session.run(command)
    session.run(NoteJob(command.id, [("film", {"part": "roof", "film_um": 118.5})], "film"))
    session.run(NoteJob(command.id, [("film", {"part": "roof", "film_um": 18.5})], "film"))
    session.undo()


def lived(session, draft=None):
    """Take a trial in, let all of it happen, and return its id."""
    command = TakeInTrial(draft or cut_and_finish())
    session.run(command)
    live(session, command.id)
    _car(session)
    return command.id


def plain(draft):
    """Return a draft as plain values, to be compared."""
    return json.loads(json.dumps({s: list(rows) for s, rows in draft.rest.items()}))
