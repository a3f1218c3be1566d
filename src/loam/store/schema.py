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

MIGRATIONS: tuple[tuple[str, ...], ...] = (V1,)
