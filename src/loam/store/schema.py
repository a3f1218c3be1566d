"""The schema of a workshop file, as migrations. A step, once released, never changes."""

from __future__ import annotations

APPLICATION_ID = 0x4C4F414D  # "LOAM"

_READINGS_STAND = "a reading is never changed or deleted: strike it instead"

V1: tuple[str, ...] = (
    """CREATE TABLE trial(
        id INTEGER PRIMARY KEY, name TEXT NOT NULL, question TEXT NOT NULL,
        measurands TEXT NOT NULL, readings_per_cell INTEGER NOT NULL, seed INTEGER NOT NULL,
        note TEXT NOT NULL, created_at TEXT NOT NULL, put_away INTEGER NOT NULL DEFAULT 0
    ) STRICT""",
    """CREATE TABLE panel(
        id INTEGER PRIMARY KEY, trial_id INTEGER NOT NULL REFERENCES trial(id),
        name TEXT NOT NULL, hardness TEXT NOT NULL CHECK(hardness IN ('soft','medium','hard')),
        paint TEXT NOT NULL, width_mm REAL NOT NULL, height_mm REAL NOT NULL,
        rows INTEGER NOT NULL, columns INTEGER NOT NULL, gap_mm REAL NOT NULL,
        margin_mm REAL NOT NULL, put_away INTEGER NOT NULL DEFAULT 0
    ) STRICT""",
    "CREATE UNIQUE INDEX panel_name ON panel(trial_id, name) WHERE put_away = 0",
    """CREATE TABLE combination(
        id INTEGER PRIMARY KEY, trial_id INTEGER NOT NULL REFERENCES trial(id),
        code TEXT NOT NULL, name TEXT NOT NULL, put_away INTEGER NOT NULL DEFAULT 0
    ) STRICT""",
    "CREATE UNIQUE INDEX combination_code ON combination(trial_id, code) WHERE put_away = 0",
    """CREATE TABLE stage(
        combination_id INTEGER NOT NULL REFERENCES combination(id), position INTEGER NOT NULL,
        pad TEXT NOT NULL, compound TEXT NOT NULL, machine TEXT NOT NULL,
        pad_material TEXT NOT NULL, compound_class TEXT NOT NULL, machine_kind TEXT NOT NULL,
        passes INTEGER NOT NULL, dial TEXT NOT NULL, force_n REAL,
        PRIMARY KEY(combination_id, position)
    ) STRICT, WITHOUT ROWID""",
    """CREATE TABLE cell(
        id INTEGER PRIMARY KEY, panel_id INTEGER NOT NULL REFERENCES panel(id),
        row INTEGER NOT NULL, "column" INTEGER NOT NULL,
        combination_id INTEGER REFERENCES combination(id), run_order INTEGER,
        put_away INTEGER NOT NULL DEFAULT 0, UNIQUE(panel_id, row, "column")
    ) STRICT""",
    """CREATE TABLE baseline(
        cell_id INTEGER NOT NULL REFERENCES cell(id), measurand TEXT NOT NULL,
        value REAL NOT NULL, PRIMARY KEY(cell_id, measurand)
    ) STRICT, WITHOUT ROWID""",
    "CREATE TABLE operator(id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE) STRICT",
    """CREATE TABLE reading(
        id INTEGER PRIMARY KEY, cell_id INTEGER NOT NULL REFERENCES cell(id),
        measurand TEXT NOT NULL, phase TEXT NOT NULL CHECK(phase IN ('before','unwiped','after')),
        stage INTEGER NOT NULL, ordinal INTEGER NOT NULL, value REAL NOT NULL,
        scale TEXT NOT NULL, operator_id INTEGER REFERENCES operator(id), day TEXT NOT NULL,
        taken_at TEXT NOT NULL
    ) STRICT""",
    "CREATE INDEX reading_cell ON reading(cell_id, measurand, phase, value)",
    f"""CREATE TRIGGER reading_stands BEFORE UPDATE ON reading
        BEGIN SELECT RAISE(ABORT, '{_READINGS_STAND}'); END""",
    f"""CREATE TRIGGER reading_stays BEFORE DELETE ON reading
        BEGIN SELECT RAISE(ABORT, '{_READINGS_STAND}'); END""",
    """CREATE TABLE strike(
        id INTEGER PRIMARY KEY, reading_id INTEGER NOT NULL REFERENCES reading(id),
        struck INTEGER NOT NULL CHECK(struck IN (0, 1)), reason TEXT NOT NULL, at TEXT NOT NULL
    ) STRICT""",
    "CREATE INDEX strike_reading ON strike(reading_id)",
    f"""CREATE TRIGGER strike_stands BEFORE UPDATE ON strike
        BEGIN SELECT RAISE(ABORT, '{_READINGS_STAND}'); END""",
    f"""CREATE TRIGGER strike_stays BEFORE DELETE ON strike
        BEGIN SELECT RAISE(ABORT, '{_READINGS_STAND}'); END""",
    "CREATE TABLE setting(key TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT, WITHOUT ROWID",
)


def _added_only(table: str, said: str) -> tuple[str, str]:
    """Return the triggers that let a table grow but never change."""
    return (
        f"""CREATE TRIGGER {table}_stands BEFORE UPDATE ON {table}
            BEGIN SELECT RAISE(ABORT, '{said}'); END""",
        f"""CREATE TRIGGER {table}_stays BEFORE DELETE ON {table}
            BEGIN SELECT RAISE(ABORT, '{said}'); END""",
    )


# rows of a trial that is still coming in were never shown, and may be cleared away again
_COMING_IN = """SELECT 1 FROM cell c JOIN taping t ON t.id = c.taping_id
    JOIN trial x ON x.id = t.trial_id WHERE c.id = {cell} AND x.put_away = 2"""

V2: tuple[str, ...] = (
    # what belongs to the workshop: people, sessions, kit in versions, panels in versions
    """CREATE TABLE person(
        id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, role TEXT NOT NULL DEFAULT '',
        put_away INTEGER NOT NULL DEFAULT 0
    ) STRICT""",
    "INSERT INTO person(id, name) SELECT id, name FROM operator",
    """CREATE TABLE session(
        id INTEGER PRIMARY KEY, day TEXT NOT NULL, note TEXT NOT NULL DEFAULT '',
        at TEXT NOT NULL
    ) STRICT""",
    "CREATE INDEX session_day ON session(day)",
    """INSERT INTO session(day, at) SELECT day, min(taken_at) FROM reading WHERE day <> ''
        GROUP BY day ORDER BY day""",
    """CREATE TABLE kit_item(
        id INTEGER PRIMARY KEY, sort TEXT NOT NULL CHECK(sort IN
            ('pad-kind','pad','compound','machine','disc','wipe','light','meter','towel')),
        put_away INTEGER NOT NULL DEFAULT 0
    ) STRICT""",
    """CREATE TABLE kit_version(
        id INTEGER PRIMARY KEY, item_id INTEGER NOT NULL REFERENCES kit_item(id),
        name TEXT NOT NULL, facts TEXT NOT NULL CHECK(json_valid(facts)), at TEXT NOT NULL
    ) STRICT""",
    "CREATE INDEX kit_version_item ON kit_version(item_id)",
    "CREATE INDEX kit_version_name ON kit_version(name)",
    """CREATE TEMP TABLE old_kit AS
        SELECT 'pad-kind' AS sort, pad AS name, json_object('material', pad_material) AS facts
            FROM stage WHERE pad <> '' OR pad_material <> ''
        UNION SELECT 'compound', compound, json_object('class', compound_class)
            FROM stage WHERE compound <> '' OR compound_class <> ''
        UNION SELECT 'machine', machine, json_object('motion', machine_kind)
            FROM stage WHERE machine <> '' OR machine_kind <> ''""",
    "CREATE TEMP TABLE old_item AS SELECT DISTINCT sort, name FROM old_kit ORDER BY sort, name",
    "INSERT INTO kit_item(id, sort) SELECT rowid, sort FROM old_item ORDER BY rowid",
    """INSERT INTO kit_version(item_id, name, facts, at)
        SELECT i.rowid, k.name, k.facts, '' FROM old_kit k
        JOIN old_item i ON i.sort = k.sort AND i.name = k.name ORDER BY i.rowid, k.facts""",
    """CREATE TABLE new_stage(
        combination_id INTEGER NOT NULL REFERENCES combination(id), position INTEGER NOT NULL,
        pad_id INTEGER REFERENCES kit_version(id), compound_id INTEGER REFERENCES kit_version(id),
        machine_id INTEGER REFERENCES kit_version(id), disc_id INTEGER REFERENCES kit_version(id),
        passes INTEGER NOT NULL, dial TEXT NOT NULL, force_n REAL,
        settings TEXT NOT NULL DEFAULT '{}' CHECK(json_valid(settings)),
        PRIMARY KEY(combination_id, position)
    ) STRICT, WITHOUT ROWID""",
    """INSERT INTO new_stage(combination_id, position, pad_id, compound_id, machine_id, passes,
            dial, force_n)
        SELECT s.combination_id, s.position,
            (SELECT v.id FROM kit_version v JOIN kit_item i ON i.id = v.item_id
                WHERE i.sort = 'pad-kind' AND v.name = s.pad
                AND v.facts = json_object('material', s.pad_material)),
            (SELECT v.id FROM kit_version v JOIN kit_item i ON i.id = v.item_id
                WHERE i.sort = 'compound' AND v.name = s.compound
                AND v.facts = json_object('class', s.compound_class)),
            (SELECT v.id FROM kit_version v JOIN kit_item i ON i.id = v.item_id
                WHERE i.sort = 'machine' AND v.name = s.machine
                AND v.facts = json_object('motion', s.machine_kind)),
            s.passes, s.dial, s.force_n
        FROM stage s""",
    "DROP TABLE temp.old_kit",
    "DROP TABLE temp.old_item",
    """ALTER TABLE combination ADD COLUMN control TEXT NOT NULL DEFAULT ''
        CHECK(control IN ('','untouched','damaged'))""",
    """UPDATE combination SET control = 'untouched' WHERE name LIKE '%control%'
        AND id NOT IN (SELECT combination_id FROM stage)""",
    "DROP TABLE stage",
    "ALTER TABLE new_stage RENAME TO stage",
    """CREATE TABLE panel_version(
        id INTEGER PRIMARY KEY, panel_id INTEGER NOT NULL REFERENCES panel(id),
        name TEXT NOT NULL,
        hardness TEXT NOT NULL CHECK(hardness IN ('soft','medium','hard')), paint TEXT NOT NULL,
        width_mm REAL NOT NULL, height_mm REAL NOT NULL,
        build TEXT NOT NULL DEFAULT '{}' CHECK(json_valid(build)),
        outline TEXT NOT NULL DEFAULT '[]' CHECK(json_valid(outline)), at TEXT NOT NULL
    ) STRICT""",
    "CREATE INDEX panel_version_panel ON panel_version(panel_id)",
    """INSERT INTO panel_version(id, panel_id, name, hardness, paint, width_mm, height_mm, at)
        SELECT id, id, name, hardness, paint, width_mm, height_mm, '' FROM panel""",
    """CREATE TABLE taping(
        id INTEGER PRIMARY KEY, trial_id INTEGER NOT NULL REFERENCES trial(id),
        panel_version_id INTEGER NOT NULL REFERENCES panel_version(id),
        rows INTEGER NOT NULL, columns INTEGER NOT NULL, gap_mm REAL NOT NULL,
        margin_mm REAL NOT NULL, put_away INTEGER NOT NULL DEFAULT 0
    ) STRICT""",
    """INSERT INTO taping(id, trial_id, panel_version_id, rows, columns, gap_mm, margin_mm,
            put_away)
        SELECT id, trial_id, id, rows, columns, gap_mm, margin_mm, put_away FROM panel""",
    "CREATE INDEX taping_trial ON taping(trial_id)",
    """CREATE TABLE new_cell(
        id INTEGER PRIMARY KEY, taping_id INTEGER NOT NULL REFERENCES taping(id),
        row INTEGER NOT NULL, "column" INTEGER NOT NULL,
        combination_id INTEGER REFERENCES combination(id), run_order INTEGER,
        put_away INTEGER NOT NULL DEFAULT 0, UNIQUE(taping_id, row, "column")
    ) STRICT""",
    'INSERT INTO new_cell SELECT id, panel_id, row, "column", combination_id, run_order, put_away'
    " FROM cell",
    # who did what: work on a cell, and who read it, are different rows
    """CREATE TABLE work(
        id INTEGER PRIMARY KEY, cell_id INTEGER NOT NULL REFERENCES cell(id),
        stage INTEGER NOT NULL, what TEXT NOT NULL, person_id INTEGER REFERENCES person(id),
        session_id INTEGER REFERENCES session(id), pad_id INTEGER REFERENCES kit_version(id),
        facts TEXT NOT NULL DEFAULT '{}' CHECK(json_valid(facts)), at TEXT NOT NULL
    ) STRICT""",
    """INSERT INTO work(cell_id, stage, what, person_id, session_id, at)
        SELECT g.cell_id, g.stage, 'worked', g.operator_id,
            (SELECT s.id FROM session s WHERE s.day = g.day), g.at
        FROM (SELECT cell_id, stage, operator_id, min(day) AS day, min(taken_at) AS at,
                min(id) AS first FROM reading WHERE operator_id IS NOT NULL
                GROUP BY cell_id, stage, operator_id) g ORDER BY g.first""",
    "CREATE INDEX work_cell ON work(cell_id)",
    """CREATE TABLE raw_line(
        id INTEGER PRIMARY KEY, meter_id INTEGER REFERENCES kit_version(id),
        session_id INTEGER REFERENCES session(id), device_time TEXT NOT NULL DEFAULT '',
        at TEXT NOT NULL, line BLOB NOT NULL
    ) STRICT""",
    """CREATE TABLE new_reading(
        id INTEGER PRIMARY KEY, cell_id INTEGER NOT NULL REFERENCES cell(id),
        measurand TEXT NOT NULL, phase TEXT NOT NULL CHECK(phase IN ('before','unwiped','after')),
        stage INTEGER NOT NULL, ordinal INTEGER NOT NULL, value REAL NOT NULL,
        scale TEXT NOT NULL, work_id INTEGER REFERENCES work(id),
        reader_id INTEGER REFERENCES person(id), meter_id INTEGER REFERENCES kit_version(id),
        session_id INTEGER REFERENCES session(id), raw_line_id INTEGER REFERENCES raw_line(id),
        mark TEXT NOT NULL DEFAULT '', taken_at TEXT NOT NULL
    ) STRICT""",
    """INSERT INTO new_reading(id, cell_id, measurand, phase, stage, ordinal, value, scale,
            work_id, session_id, taken_at)
        SELECT r.id, r.cell_id, r.measurand, r.phase, r.stage, r.ordinal, r.value, r.scale,
            (SELECT w.id FROM work w WHERE w.cell_id = r.cell_id AND w.stage = r.stage
                AND w.person_id = r.operator_id),
            (SELECT s.id FROM session s WHERE s.day = r.day), r.taken_at
        FROM reading r ORDER BY r.id""",
    "DROP TABLE reading",
    "ALTER TABLE new_reading RENAME TO reading",
    "CREATE INDEX reading_cell ON reading(cell_id, measurand, phase, value)",
    "DROP TABLE cell",
    "ALTER TABLE new_cell RENAME TO cell",
    "DROP TABLE panel",
    "CREATE TABLE panel(id INTEGER PRIMARY KEY, put_away INTEGER NOT NULL DEFAULT 0) STRICT",
    "INSERT INTO panel(id) SELECT DISTINCT panel_id FROM panel_version",
    "DROP TABLE operator",
    """CREATE TABLE survey(
        id INTEGER PRIMARY KEY, panel_id INTEGER NOT NULL REFERENCES panel(id),
        x_mm REAL NOT NULL, y_mm REAL NOT NULL, film_um REAL NOT NULL,
        person_id INTEGER REFERENCES person(id), meter_id INTEGER REFERENCES kit_version(id),
        session_id INTEGER REFERENCES session(id), at TEXT NOT NULL
    ) STRICT""",
    """CREATE TABLE photograph(
        id INTEGER PRIMARY KEY, cell_id INTEGER NOT NULL REFERENCES cell(id),
        phase TEXT NOT NULL, light_id INTEGER REFERENCES kit_version(id), name TEXT NOT NULL,
        sha256 TEXT NOT NULL, person_id INTEGER REFERENCES person(id),
        facts TEXT NOT NULL DEFAULT '{}' CHECK(json_valid(facts)), at TEXT NOT NULL
    ) STRICT""",
    f"""CREATE TRIGGER reading_stands BEFORE UPDATE ON reading
        BEGIN SELECT RAISE(ABORT, '{_READINGS_STAND}'); END""",
    f"""CREATE TRIGGER reading_stays BEFORE DELETE ON reading
        WHEN NOT EXISTS ({_COMING_IN.format(cell="old.cell_id")})
        BEGIN SELECT RAISE(ABORT, '{_READINGS_STAND}'); END""",
    "DROP TRIGGER strike_stays",
    f"""CREATE TRIGGER strike_stays BEFORE DELETE ON strike
        WHEN EXISTS (SELECT 1 FROM reading r WHERE r.id = old.reading_id AND NOT EXISTS
            ({_COMING_IN.format(cell="r.cell_id")}))
        BEGIN SELECT RAISE(ABORT, '{_READINGS_STAND}'); END""",
    """CREATE TRIGGER work_stands BEFORE UPDATE ON work
        BEGIN SELECT RAISE(ABORT, 'what was done stays as it was noted'); END""",
    f"""CREATE TRIGGER work_stays BEFORE DELETE ON work
        WHEN NOT EXISTS ({_COMING_IN.format(cell="old.cell_id")})
        BEGIN SELECT RAISE(ABORT, 'what was done stays as it was noted'); END""",
    *_added_only("kit_version", "kit is changed by a new version"),
    """CREATE TRIGGER panel_version_stands BEFORE UPDATE ON panel_version
        BEGIN SELECT RAISE(ABORT, 'a panel is changed by a new version'); END""",
    """CREATE TRIGGER panel_version_stays BEFORE DELETE ON panel_version
        WHEN NOT EXISTS (SELECT 1 FROM panel p WHERE p.id = old.panel_id AND p.put_away = 2)
        BEGIN SELECT RAISE(ABORT, 'a panel is changed by a new version'); END""",
    *_added_only("survey", "a survey stays as it was read"),
    *_added_only("photograph", "a photograph stays as it was taken"),
    *_added_only("raw_line", "what an instrument said stays as it came"),
)

V3: tuple[str, ...] = (
    "CREATE INDEX survey_panel ON survey(panel_id)",
    """CREATE TABLE survey_strike(
        id INTEGER PRIMARY KEY, survey_id INTEGER NOT NULL REFERENCES survey(id),
        struck INTEGER NOT NULL CHECK(struck IN (0, 1)), at TEXT NOT NULL
    ) STRICT""",
    "CREATE INDEX survey_strike_survey ON survey_strike(survey_id)",
    *_added_only("survey_strike", "a survey stays as it was read"),
)

V4: tuple[str, ...] = (
    # a trial's own state of a thing (another size of the pad, say) does not change the shelf's
    "ALTER TABLE kit_version ADD COLUMN on_shelf INTEGER NOT NULL DEFAULT 1",
    """CREATE TABLE panel_photo(
        id INTEGER PRIMARY KEY, panel_id INTEGER NOT NULL REFERENCES panel(id),
        image BLOB NOT NULL, at TEXT NOT NULL
    ) STRICT""",
    """CREATE TABLE panel_photo_shown(
        id INTEGER PRIMARY KEY, panel_id INTEGER NOT NULL REFERENCES panel(id),
        photo_id INTEGER REFERENCES panel_photo(id), at TEXT NOT NULL
    ) STRICT""",
    "CREATE INDEX panel_photo_shown_panel ON panel_photo_shown(panel_id)",
    *_added_only("panel_photo", "a photograph stays as it was taken"),
    *_added_only("panel_photo_shown", "a photograph stays as it was taken"),
)

V5: tuple[str, ...] = (
    """CREATE TABLE gate(
        id INTEGER PRIMARY KEY, taping_id INTEGER NOT NULL REFERENCES taping(id),
        gate TEXT NOT NULL, what TEXT NOT NULL CHECK(what IN ('done','skipped','taken back')),
        person_id INTEGER REFERENCES person(id), session_id INTEGER REFERENCES session(id),
        facts TEXT NOT NULL DEFAULT '{}' CHECK(json_valid(facts)), at TEXT NOT NULL
    ) STRICT""",
    "CREATE INDEX gate_taping ON gate(taping_id)",
    *_added_only("gate", "what was prepared stays as it was noted"),
)

_REBUILT = (
    "DROP TRIGGER strike_stays",
    "DROP TABLE reading",
    "ALTER TABLE new_reading RENAME TO reading",
    "CREATE INDEX reading_cell ON reading(cell_id, measurand, phase, value)",
    f"""CREATE TRIGGER reading_stands BEFORE UPDATE ON reading
        BEGIN SELECT RAISE(ABORT, '{_READINGS_STAND}'); END""",
    f"""CREATE TRIGGER reading_stays BEFORE DELETE ON reading
        WHEN NOT EXISTS ({_COMING_IN.format(cell="old.cell_id")})
        BEGIN SELECT RAISE(ABORT, '{_READINGS_STAND}'); END""",
    f"""CREATE TRIGGER strike_stays BEFORE DELETE ON strike
        WHEN EXISTS (SELECT 1 FROM reading r WHERE r.id = old.reading_id AND NOT EXISTS
            ({_COMING_IN.format(cell="r.cell_id")}))
        BEGIN SELECT RAISE(ABORT, '{_READINGS_STAND}'); END""",
)
"""A new table of readings takes the place of the old one, and is guarded as that was."""

V6: tuple[str, ...] = (
    # readings of another day and after a wash, and how each reading was taken
    """CREATE TABLE new_reading(
        id INTEGER PRIMARY KEY, cell_id INTEGER NOT NULL REFERENCES cell(id),
        measurand TEXT NOT NULL,
        phase TEXT NOT NULL CHECK(phase IN ('before','unwiped','after','day','wash')),
        stage INTEGER NOT NULL, ordinal INTEGER NOT NULL, value REAL NOT NULL,
        scale TEXT NOT NULL, work_id INTEGER REFERENCES work(id),
        reader_id INTEGER REFERENCES person(id), meter_id INTEGER REFERENCES kit_version(id),
        session_id INTEGER REFERENCES session(id), raw_line_id INTEGER REFERENCES raw_line(id),
        mark TEXT NOT NULL DEFAULT '', taken_at TEXT NOT NULL,
        about TEXT NOT NULL DEFAULT '' CHECK(about = '' OR json_valid(about))
    ) STRICT""",
    """INSERT INTO new_reading(id, cell_id, measurand, phase, stage, ordinal, value, scale, work_id,
            reader_id, meter_id, session_id, raw_line_id, mark, taken_at)
        SELECT id, cell_id, measurand, phase, stage, ordinal, value, scale, work_id,
            reader_id, meter_id, session_id, raw_line_id, mark, taken_at
        FROM reading ORDER BY id""",
    *_REBUILT,
    # what is noted beside the readings: tile checks, rounds, peeks, wipes, inspections, photographs
    """CREATE TABLE noted(
        id INTEGER PRIMARY KEY, sort TEXT NOT NULL CHECK(sort IN
            ('tile','round','closed','peek','wipe','inspection','photograph')),
        trial_id INTEGER NOT NULL REFERENCES trial(id), cell_id INTEGER REFERENCES cell(id),
        person_id INTEGER REFERENCES person(id), session_id INTEGER REFERENCES session(id),
        facts TEXT NOT NULL DEFAULT '{}' CHECK(json_valid(facts)), at TEXT NOT NULL
    ) STRICT""",
    "CREATE INDEX noted_trial ON noted(trial_id, sort)",
    "CREATE INDEX noted_cell ON noted(cell_id)",
    """CREATE TABLE noted_strike(
        id INTEGER PRIMARY KEY, noted_id INTEGER NOT NULL REFERENCES noted(id),
        struck INTEGER NOT NULL CHECK(struck IN (0, 1)), reason TEXT NOT NULL, at TEXT NOT NULL
    ) STRICT""",
    "CREATE INDEX noted_strike_noted ON noted_strike(noted_id)",
    *_added_only("noted", "what was noted stays as it was"),
    *_added_only("noted_strike", "what was noted stays as it was"),
    # a small picture of what a pair of photographs showed
    """CREATE TABLE photo_seen(
        id INTEGER PRIMARY KEY, noted_id INTEGER NOT NULL REFERENCES noted(id),
        image BLOB NOT NULL
    ) STRICT""",
    *_added_only("photo_seen", "a photograph stays as it was taken"),
)

V7: tuple[str, ...] = (
    # readings between two stages
    """CREATE TABLE new_reading(
        id INTEGER PRIMARY KEY, cell_id INTEGER NOT NULL REFERENCES cell(id),
        measurand TEXT NOT NULL,
        phase TEXT NOT NULL CHECK(phase IN ('before','unwiped','after','day','wash',
            'stage1','stage2','stage3')),
        stage INTEGER NOT NULL, ordinal INTEGER NOT NULL, value REAL NOT NULL,
        scale TEXT NOT NULL, work_id INTEGER REFERENCES work(id),
        reader_id INTEGER REFERENCES person(id), meter_id INTEGER REFERENCES kit_version(id),
        session_id INTEGER REFERENCES session(id), raw_line_id INTEGER REFERENCES raw_line(id),
        mark TEXT NOT NULL DEFAULT '', taken_at TEXT NOT NULL,
        about TEXT NOT NULL DEFAULT '' CHECK(about = '' OR json_valid(about))
    ) STRICT""",
    """INSERT INTO new_reading(id, cell_id, measurand, phase, stage, ordinal, value, scale, work_id,
            reader_id, meter_id, session_id, raw_line_id, mark, taken_at, about)
        SELECT id, cell_id, measurand, phase, stage, ordinal, value, scale, work_id,
            reader_id, meter_id, session_id, raw_line_id, mark, taken_at, about
        FROM reading ORDER BY id""",
    *_REBUILT,
)

V8: tuple[str, ...] = (
    # what was decided while judging, as it came about
    """CREATE TABLE decision(
        id INTEGER PRIMARY KEY, trial_id INTEGER REFERENCES trial(id), key TEXT NOT NULL,
        value TEXT NOT NULL CHECK(json_valid(value)), words TEXT NOT NULL,
        back INTEGER NOT NULL CHECK(back IN (0, 1)), person TEXT NOT NULL, at TEXT NOT NULL
    ) STRICT""",
    "CREATE INDEX decision_trial ON decision(trial_id)",
    *_added_only("decision", "what was decided stays on record"),
)

V9: tuple[str, ...] = (
    # what a file calls its cells
    "ALTER TABLE cell ADD COLUMN name TEXT NOT NULL DEFAULT ''",
)

V10: tuple[str, ...] = (
    # which log of the database's belongs to this file (`store/belonging.py`)
    """CREATE TABLE mark(
        id INTEGER PRIMARY KEY CHECK(id = 1), token TEXT NOT NULL, before TEXT NOT NULL,
        since INTEGER NOT NULL, commits INTEGER NOT NULL
    ) STRICT""",
    "INSERT INTO mark(id, token, before, since, commits) VALUES (1, '', '', 0, 0)",
)

_NOW = "strftime('%Y-%m-%dT%H:%M:%f', 'now')"


def _named(table: str, sort: str) -> str:
    """Return the trigger that gives every new row an identity, and the moment that it was made."""
    return f"""CREATE TRIGGER {table}_named AFTER INSERT ON {table} BEGIN
        INSERT INTO identity(sort, uid, row, made) VALUES ('{sort}', lower(hex(randomblob(16))),
            new.id, {_NOW} || printf('#%09d', new.id)); END"""


def _logged(table: str, when: str, sort: str, row: str, part: str = "''", says: str = "") -> str:
    """Return a trigger that logs a change of what can be changed, once its trial is there."""
    name = f"{table}_{when.split()[0].lower()}_logged"
    condition = f" WHEN {says}" if says else ""
    return f"""CREATE TRIGGER {name} AFTER {when} ON {table}{condition} BEGIN
        INSERT INTO change(uid, sort, row, part, at) VALUES (lower(hex(randomblob(16))), '{sort}',
            {row}, {part}, {_NOW}); END"""


def _other(*columns: str) -> str:
    old, new = (", ".join(f"{age}.{c}" for c in columns) for age in ("old", "new"))
    return f"({old}) IS NOT ({new})"


_THERE = "(SELECT x.put_away FROM trial x WHERE x.id = {trial}) <> 2"
_CELL_THERE = """(SELECT x.put_away FROM taping t JOIN trial x ON x.id = t.trial_id
    WHERE t.id = {taping}) <> 2"""
_BASELINE_THERE = _CELL_THERE.format(taping="(SELECT c.taping_id FROM cell c WHERE c.id = {cell})")
_CHOSEN = (
    "({0}.key GLOB 'matters:*' OR {0}.key GLOB 'doubts:*' OR {0}.key GLOB 'left_out:*'"
    " OR {0}.key GLOB 'looks:*' OR {0}.key GLOB 'worth:*' OR {0}.key GLOB 'pooled:*'"
    " OR {0}.key GLOB 'plan:*')"
)


def _choices(chosen: str) -> tuple[str, ...]:
    """Return the triggers that keep on record what is chosen of a trial."""
    return tuple(
        _logged("setting", when, "choice", "0", f"{age}.key", f"{says}{chosen.format(age)}")
        for when, age, says in (
            ("INSERT", "new", ""),
            ("DELETE", "old", ""),
            ("UPDATE", "new", "old.value IS NOT new.value AND "),
        )
    )


_TAPED = ("panel_version_id", "rows", "columns", "gap_mm", "margin_mm", "put_away")
_ASKED = ("name", "question", "measurands", "readings_per_cell", "seed", "note")

V11: tuple[str, ...] = (
    # an identity of its own for what several workshops may hold (`store/identity.py`)
    """CREATE TABLE identity(
        sort TEXT NOT NULL, uid TEXT NOT NULL, row INTEGER NOT NULL, made TEXT NOT NULL DEFAULT '',
        PRIMARY KEY(sort, uid)
    ) STRICT, WITHOUT ROWID""",
    "CREATE INDEX identity_row ON identity(sort, row)",
    *(
        _named(table, sort)
        for table, sort in (
            ("trial", "trial"),
            ("taping", "panel"),
            ("panel", "board"),
            ("combination", "combination"),
            ("person", "person"),
            ("kit_item", "item"),
        )
    ),
    # what else is known of a panel (`core/record/panel_facts.py`)
    """ALTER TABLE panel_version ADD COLUMN facts TEXT NOT NULL DEFAULT '{}'
        CHECK(json_valid(facts))""",
    # which changes of what can be changed were made, oldest first (`store/changes.py`)
    """CREATE TABLE change(
        id INTEGER PRIMARY KEY, uid TEXT NOT NULL UNIQUE, sort TEXT NOT NULL, row INTEGER NOT NULL,
        part TEXT NOT NULL, at TEXT NOT NULL
    ) STRICT""",
    "CREATE INDEX change_row ON change(sort, row)",
    _logged("trial", "UPDATE", "trial", "new.id", says=f"old.put_away <> 2 AND {_other(*_ASKED)}"),
    _logged(
        "taping",
        "UPDATE",
        "panel",
        "new.id",
        says=f"{_other(*_TAPED)} AND {_THERE.format(trial='new.trial_id')}",
    ),
    _logged(
        "combination", "UPDATE", "combination", "new.id", says=_THERE.format(trial="new.trial_id")
    ),
    _logged(
        "cell",
        "UPDATE OF combination_id, run_order, name",
        "cell",
        "new.id",
        says=f"{_other('combination_id', 'run_order', 'name')}"
        f" AND {_CELL_THERE.format(taping='new.taping_id')}",
    ),
    *(
        _logged(
            "baseline",
            when,
            "baseline",
            f"{age}.cell_id",
            f"{age}.measurand",
            f"{says}{_BASELINE_THERE.format(cell=f'{age}.cell_id')}",
        )
        for when, age, says in (
            ("INSERT", "new", ""),
            ("DELETE", "old", ""),
            ("UPDATE", "new", "old.value IS NOT new.value AND "),
        )
    ),
    *_choices(_CHOSEN),
    _logged("person", "UPDATE", "person", "new.id", says=_other("name", "role")),
)

_COLUMNS = """id, cell_id, measurand, phase, stage, ordinal, value, scale, work_id, reader_id,
    meter_id, session_id, raw_line_id, mark, taken_at, about"""

V12: tuple[str, ...] = (
    # readings between up to eight stages, and between wipes; the door knows their names
    """CREATE TABLE new_reading(
        id INTEGER PRIMARY KEY, cell_id INTEGER NOT NULL REFERENCES cell(id),
        measurand TEXT NOT NULL,
        phase TEXT NOT NULL CHECK(phase IN ('before','unwiped','after','day','wash')
            OR phase GLOB 'stage[1-9]' OR phase GLOB 'wipe[1-9]'),
        stage INTEGER NOT NULL, ordinal INTEGER NOT NULL, value REAL NOT NULL,
        scale TEXT NOT NULL, work_id INTEGER REFERENCES work(id),
        reader_id INTEGER REFERENCES person(id), meter_id INTEGER REFERENCES kit_version(id),
        session_id INTEGER REFERENCES session(id), raw_line_id INTEGER REFERENCES raw_line(id),
        mark TEXT NOT NULL DEFAULT '', taken_at TEXT NOT NULL,
        about TEXT NOT NULL DEFAULT '' CHECK(about = '' OR json_valid(about))
    ) STRICT""",
    f"INSERT INTO new_reading({_COLUMNS}) SELECT {_COLUMNS} FROM reading ORDER BY id",
    *_REBUILT,
    # what is wanted of a trial is a choice too
    *(f"DROP TRIGGER setting_{when}_logged" for when in ("insert", "delete", "update")),
    *_choices(f"({_CHOSEN[1:-1]} OR {{0}}.key GLOB 'aim:*')"),
)

_JOBS_STAND = "what was noted of a job is never changed or deleted: strike it instead"

V13: tuple[str, ...] = (
    # a vehicle with an aim: the sum of what was noted of it (`core/vehicle/events.py`)
    """CREATE TABLE job(
        id INTEGER PRIMARY KEY, uid TEXT NOT NULL UNIQUE, name TEXT NOT NULL,
        put_away INTEGER NOT NULL DEFAULT 0, created_at TEXT NOT NULL
    ) STRICT""",
    """CREATE TABLE job_note(
        id INTEGER PRIMARY KEY, uid TEXT NOT NULL UNIQUE,
        job_id INTEGER NOT NULL REFERENCES job(id), sort TEXT NOT NULL,
        facts TEXT NOT NULL CHECK(json_valid(facts)), at TEXT NOT NULL
    ) STRICT""",
    "CREATE INDEX job_note_job ON job_note(job_id, id)",
    """CREATE TABLE job_strike(
        id INTEGER PRIMARY KEY, uid TEXT NOT NULL UNIQUE,
        note_id INTEGER NOT NULL REFERENCES job_note(id),
        struck INTEGER NOT NULL CHECK(struck IN (0, 1)), at TEXT NOT NULL
    ) STRICT""",
    "CREATE INDEX job_strike_note ON job_strike(note_id)",
    *_added_only("job_note", _JOBS_STAND),
    *_added_only("job_strike", _JOBS_STAND),
)

MIGRATIONS: tuple[tuple[str, ...], ...] = (
    *(V1, V2, V3, V4, V5, V6),
    *(V7, V8, V9, V10, V11, V12, V13),
)
