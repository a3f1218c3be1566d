BEGIN TRANSACTION;
CREATE TABLE baseline(
        cell_id INTEGER NOT NULL REFERENCES cell(id), measurand TEXT NOT NULL,
        value REAL NOT NULL, PRIMARY KEY(cell_id, measurand)
    ) STRICT, WITHOUT ROWID;
INSERT INTO "baseline" VALUES(1,'gloss20',60.8);
INSERT INTO "baseline" VALUES(2,'gloss20',60.5);
INSERT INTO "baseline" VALUES(3,'gloss20',62.7);
INSERT INTO "baseline" VALUES(4,'gloss20',57.9);
INSERT INTO "baseline" VALUES(5,'gloss20',59.1);
INSERT INTO "baseline" VALUES(6,'gloss20',56.0);
INSERT INTO "baseline" VALUES(7,'gloss20',63.4);
INSERT INTO "baseline" VALUES(8,'gloss20',62.4);
INSERT INTO "baseline" VALUES(9,'gloss20',65.1);
INSERT INTO "baseline" VALUES(10,'gloss20',66.6);
INSERT INTO "baseline" VALUES(11,'gloss20',60.0);
INSERT INTO "baseline" VALUES(12,'gloss20',64.2);
INSERT INTO "baseline" VALUES(13,'gloss20',57.0);
INSERT INTO "baseline" VALUES(14,'gloss20',62.6);
INSERT INTO "baseline" VALUES(15,'gloss20',67.3);
INSERT INTO "baseline" VALUES(16,'gloss20',57.6);
INSERT INTO "baseline" VALUES(17,'gloss20',61.2);
INSERT INTO "baseline" VALUES(18,'gloss20',58.1);
INSERT INTO "baseline" VALUES(19,'gloss20',59.7);
INSERT INTO "baseline" VALUES(20,'gloss20',66.9);
INSERT INTO "baseline" VALUES(21,'gloss20',62.0);
INSERT INTO "baseline" VALUES(22,'gloss20',59.3);
INSERT INTO "baseline" VALUES(23,'gloss20',61.8);
INSERT INTO "baseline" VALUES(24,'gloss20',60.2);
INSERT INTO "baseline" VALUES(25,'gloss20',55.3);
INSERT INTO "baseline" VALUES(26,'gloss20',66.5);
INSERT INTO "baseline" VALUES(27,'gloss20',62.0);
INSERT INTO "baseline" VALUES(28,'gloss20',57.9);
INSERT INTO "baseline" VALUES(29,'gloss20',63.4);
INSERT INTO "baseline" VALUES(30,'gloss20',58.0);
INSERT INTO "baseline" VALUES(31,'gloss20',61.1);
INSERT INTO "baseline" VALUES(32,'gloss20',59.8);
INSERT INTO "baseline" VALUES(33,'gloss20',60.7);
INSERT INTO "baseline" VALUES(34,'gloss20',57.3);
INSERT INTO "baseline" VALUES(35,'gloss20',61.5);
INSERT INTO "baseline" VALUES(36,'gloss20',59.6);
INSERT INTO "baseline" VALUES(37,'gloss20',62.7);
INSERT INTO "baseline" VALUES(38,'gloss20',60.1);
INSERT INTO "baseline" VALUES(39,'gloss20',58.9);
INSERT INTO "baseline" VALUES(40,'gloss20',61.5);
CREATE TABLE "cell"(
        id INTEGER PRIMARY KEY, taping_id INTEGER NOT NULL REFERENCES taping(id),
        row INTEGER NOT NULL, "column" INTEGER NOT NULL,
        combination_id INTEGER REFERENCES combination(id), run_order INTEGER,
        put_away INTEGER NOT NULL DEFAULT 0, UNIQUE(taping_id, row, "column")
    ) STRICT;
INSERT INTO "cell" VALUES(1,1,0,0,4,13,0);
INSERT INTO "cell" VALUES(2,1,0,1,2,7,0);
INSERT INTO "cell" VALUES(3,1,0,2,2,6,0);
INSERT INTO "cell" VALUES(4,1,0,3,2,18,0);
INSERT INTO "cell" VALUES(5,1,0,4,4,9,0);
INSERT INTO "cell" VALUES(6,1,1,0,3,16,0);
INSERT INTO "cell" VALUES(7,1,1,1,4,8,0);
INSERT INTO "cell" VALUES(8,1,1,2,1,12,0);
INSERT INTO "cell" VALUES(9,1,1,3,3,15,0);
INSERT INTO "cell" VALUES(10,1,1,4,1,11,0);
INSERT INTO "cell" VALUES(11,1,2,0,4,2,0);
INSERT INTO "cell" VALUES(12,1,2,1,4,10,0);
INSERT INTO "cell" VALUES(13,1,2,2,2,5,0);
INSERT INTO "cell" VALUES(14,1,2,3,1,20,0);
INSERT INTO "cell" VALUES(15,1,2,4,3,14,0);
INSERT INTO "cell" VALUES(16,1,3,0,3,17,0);
INSERT INTO "cell" VALUES(17,1,3,1,2,3,0);
INSERT INTO "cell" VALUES(18,1,3,2,1,1,0);
INSERT INTO "cell" VALUES(19,1,3,3,1,4,0);
INSERT INTO "cell" VALUES(20,1,3,4,3,19,0);
INSERT INTO "cell" VALUES(21,2,0,0,3,4,0);
INSERT INTO "cell" VALUES(22,2,0,1,3,13,0);
INSERT INTO "cell" VALUES(23,2,0,2,3,9,0);
INSERT INTO "cell" VALUES(24,2,0,3,1,16,0);
INSERT INTO "cell" VALUES(25,2,0,4,1,1,0);
INSERT INTO "cell" VALUES(26,2,1,0,3,8,0);
INSERT INTO "cell" VALUES(27,2,1,1,1,20,0);
INSERT INTO "cell" VALUES(28,2,1,2,4,10,0);
INSERT INTO "cell" VALUES(29,2,1,3,4,14,0);
INSERT INTO "cell" VALUES(30,2,1,4,2,3,0);
INSERT INTO "cell" VALUES(31,2,2,0,2,5,0);
INSERT INTO "cell" VALUES(32,2,2,1,4,7,0);
INSERT INTO "cell" VALUES(33,2,2,2,2,18,0);
INSERT INTO "cell" VALUES(34,2,2,3,4,12,0);
INSERT INTO "cell" VALUES(35,2,2,4,1,2,0);
INSERT INTO "cell" VALUES(36,2,3,0,2,19,0);
INSERT INTO "cell" VALUES(37,2,3,1,4,17,0);
INSERT INTO "cell" VALUES(38,2,3,2,1,6,0);
INSERT INTO "cell" VALUES(39,2,3,3,2,15,0);
INSERT INTO "cell" VALUES(40,2,3,4,3,11,0);
CREATE TABLE combination(
        id INTEGER PRIMARY KEY, trial_id INTEGER NOT NULL REFERENCES trial(id),
        code TEXT NOT NULL, name TEXT NOT NULL, put_away INTEGER NOT NULL DEFAULT 0
    , control TEXT NOT NULL DEFAULT ''
        CHECK(control IN ('','untouched','damaged'))) STRICT;
INSERT INTO "combination" VALUES(1,1,'A','long throw',0,'');
INSERT INTO "combination" VALUES(2,1,'B','forced',0,'');
INSERT INTO "combination" VALUES(3,1,'C','rotary wool',0,'');
INSERT INTO "combination" VALUES(4,1,'D','rotary foam',0,'');
CREATE TABLE gate(
        id INTEGER PRIMARY KEY, taping_id INTEGER NOT NULL REFERENCES taping(id),
        gate TEXT NOT NULL, what TEXT NOT NULL CHECK(what IN ('done','skipped','taken back')),
        person_id INTEGER REFERENCES person(id), session_id INTEGER REFERENCES session(id),
        facts TEXT NOT NULL DEFAULT '{}' CHECK(json_valid(facts)), at TEXT NOT NULL
    ) STRICT;
INSERT INTO "gate" VALUES(1,1,'wash','done',NULL,NULL,'{}','2026-09-26T10:00:00');
CREATE TABLE kit_item(
        id INTEGER PRIMARY KEY, sort TEXT NOT NULL CHECK(sort IN
            ('pad-kind','pad','compound','machine','disc','wipe','light','meter','towel')),
        put_away INTEGER NOT NULL DEFAULT 0
    ) STRICT;
INSERT INTO "kit_item" VALUES(1,'pad-kind',0);
INSERT INTO "kit_item" VALUES(2,'compound',0);
INSERT INTO "kit_item" VALUES(3,'machine',0);
INSERT INTO "kit_item" VALUES(4,'machine',0);
INSERT INTO "kit_item" VALUES(5,'pad-kind',0);
INSERT INTO "kit_item" VALUES(6,'machine',0);
INSERT INTO "kit_item" VALUES(7,'pad-kind',0);
INSERT INTO "kit_item" VALUES(8,'meter',0);
CREATE TABLE kit_version(
        id INTEGER PRIMARY KEY, item_id INTEGER NOT NULL REFERENCES kit_item(id),
        name TEXT NOT NULL, facts TEXT NOT NULL CHECK(json_valid(facts)), at TEXT NOT NULL
    , on_shelf INTEGER NOT NULL DEFAULT 1) STRICT;
INSERT INTO "kit_version" VALUES(1,1,'Bracken','{"material":"microfibre"}','2026-09-26T10:00:00',1);
INSERT INTO "kit_version" VALUES(2,2,'Grist 9','{"class":"coarse"}','2026-09-26T10:00:00',1);
INSERT INTO "kit_version" VALUES(3,3,'Dipper 21','{"motion":"free-orbital"}','2026-09-26T10:00:00',1);
INSERT INTO "kit_version" VALUES(4,4,'Kiln 8','{"motion":"forced-orbital"}','2026-09-26T10:00:00',1);
INSERT INTO "kit_version" VALUES(5,5,'Tussock','{"material":"wool"}','2026-09-26T10:00:00',1);
INSERT INTO "kit_version" VALUES(6,6,'Mill','{"motion":"rotary"}','2026-09-26T10:00:00',1);
INSERT INTO "kit_version" VALUES(7,7,'Fen firm','{"material":"foam-firm"}','2026-09-26T10:00:00',1);
INSERT INTO "kit_version" VALUES(8,8,'Glim','{}','2026-09-26T10:05:00',1);
CREATE TABLE noted(
        id INTEGER PRIMARY KEY, sort TEXT NOT NULL CHECK(sort IN
            ('tile','round','closed','peek','wipe','inspection','photograph')),
        trial_id INTEGER NOT NULL REFERENCES trial(id), cell_id INTEGER REFERENCES cell(id),
        person_id INTEGER REFERENCES person(id), session_id INTEGER REFERENCES session(id),
        facts TEXT NOT NULL DEFAULT '{}' CHECK(json_valid(facts)), at TEXT NOT NULL
    ) STRICT;
INSERT INTO "noted" VALUES(1,'wipe',1,NULL,NULL,NULL,'{"how": "twice"}','2026-09-26T11:00:00');
CREATE TABLE noted_strike(
        id INTEGER PRIMARY KEY, noted_id INTEGER NOT NULL REFERENCES noted(id),
        struck INTEGER NOT NULL CHECK(struck IN (0, 1)), reason TEXT NOT NULL, at TEXT NOT NULL
    ) STRICT;
CREATE TABLE panel(id INTEGER PRIMARY KEY, put_away INTEGER NOT NULL DEFAULT 0) STRICT;
INSERT INTO "panel" VALUES(1,0);
INSERT INTO "panel" VALUES(2,0);
CREATE TABLE panel_photo(
        id INTEGER PRIMARY KEY, panel_id INTEGER NOT NULL REFERENCES panel(id),
        image BLOB NOT NULL, at TEXT NOT NULL
    ) STRICT;
CREATE TABLE panel_photo_shown(
        id INTEGER PRIMARY KEY, panel_id INTEGER NOT NULL REFERENCES panel(id),
        photo_id INTEGER REFERENCES panel_photo(id), at TEXT NOT NULL
    ) STRICT;
CREATE TABLE panel_version(
        id INTEGER PRIMARY KEY, panel_id INTEGER NOT NULL REFERENCES panel(id),
        name TEXT NOT NULL,
        hardness TEXT NOT NULL CHECK(hardness IN ('soft','medium','hard')), paint TEXT NOT NULL,
        width_mm REAL NOT NULL, height_mm REAL NOT NULL,
        build TEXT NOT NULL DEFAULT '{}' CHECK(json_valid(build)),
        outline TEXT NOT NULL DEFAULT '[]' CHECK(json_valid(outline)), at TEXT NOT NULL
    ) STRICT;
INSERT INTO "panel_version" VALUES(1,1,'Snipe','hard','Marram clear',780.0,620.0,'{}','{}','2026-09-26T10:00:00');
INSERT INTO "panel_version" VALUES(2,2,'Godwit','hard','Marram clear',780.0,620.0,'{}','{}','2026-09-26T10:00:00');
CREATE TABLE person(
        id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE, role TEXT NOT NULL DEFAULT '',
        put_away INTEGER NOT NULL DEFAULT 0
    ) STRICT;
INSERT INTO "person" VALUES(1,'Tam','',0);
INSERT INTO "person" VALUES(2,'Lise','',0);
INSERT INTO "person" VALUES(3,'Ivo','',0);
CREATE TABLE photo_seen(
        id INTEGER PRIMARY KEY, noted_id INTEGER NOT NULL REFERENCES noted(id),
        image BLOB NOT NULL
    ) STRICT;
CREATE TABLE photograph(
        id INTEGER PRIMARY KEY, cell_id INTEGER NOT NULL REFERENCES cell(id),
        phase TEXT NOT NULL, light_id INTEGER REFERENCES kit_version(id), name TEXT NOT NULL,
        sha256 TEXT NOT NULL, person_id INTEGER REFERENCES person(id),
        facts TEXT NOT NULL DEFAULT '{}' CHECK(json_valid(facts)), at TEXT NOT NULL
    ) STRICT;
CREATE TABLE raw_line(
        id INTEGER PRIMARY KEY, meter_id INTEGER REFERENCES kit_version(id),
        session_id INTEGER REFERENCES session(id), device_time TEXT NOT NULL DEFAULT '',
        at TEXT NOT NULL, line BLOB NOT NULL
    ) STRICT;
INSERT INTO "raw_line" VALUES(1,8,2,'412.3','2026-09-26T10:05:00',X'37204F4B206732303D38342E3620743D3431322E3320666C61673D6F6B2A3146');
CREATE TABLE "reading"(
        id INTEGER PRIMARY KEY, cell_id INTEGER NOT NULL REFERENCES cell(id),
        measurand TEXT NOT NULL,
        phase TEXT NOT NULL CHECK(phase IN ('before','unwiped','after','day','wash')),
        stage INTEGER NOT NULL, ordinal INTEGER NOT NULL, value REAL NOT NULL,
        scale TEXT NOT NULL, work_id INTEGER REFERENCES work(id),
        reader_id INTEGER REFERENCES person(id), meter_id INTEGER REFERENCES kit_version(id),
        session_id INTEGER REFERENCES session(id), raw_line_id INTEGER REFERENCES raw_line(id),
        mark TEXT NOT NULL DEFAULT '', taken_at TEXT NOT NULL,
        about TEXT NOT NULL DEFAULT '' CHECK(about = '' OR json_valid(about))
    ) STRICT;
INSERT INTO "reading" VALUES(1,1,'gloss20','after',1,1,79.5,'',1,NULL,NULL,1,NULL,'','2026-09-05T09:00:04','');
INSERT INTO "reading" VALUES(2,1,'gloss20','after',1,2,79.4,'',1,NULL,NULL,1,NULL,'','2026-09-05T09:00:08','');
INSERT INTO "reading" VALUES(3,1,'gloss20','after',1,3,80.4,'',1,NULL,NULL,1,NULL,'','2026-09-05T09:00:12','');
INSERT INTO "reading" VALUES(4,1,'gloss20','after',1,4,79.8,'',1,NULL,NULL,1,NULL,'','2026-09-05T09:00:16','');
INSERT INTO "reading" VALUES(5,1,'gloss20','after',1,5,80.1,'',1,NULL,NULL,1,NULL,'','2026-09-05T09:00:20','');
INSERT INTO "reading" VALUES(6,2,'gloss20','after',1,1,81.9,'',2,NULL,NULL,1,NULL,'','2026-09-05T09:05:04','');
INSERT INTO "reading" VALUES(7,2,'gloss20','after',1,2,81.0,'',2,NULL,NULL,1,NULL,'','2026-09-05T09:05:08','');
INSERT INTO "reading" VALUES(8,2,'gloss20','after',1,3,82.5,'',2,NULL,NULL,1,NULL,'','2026-09-05T09:05:12','');
INSERT INTO "reading" VALUES(9,2,'gloss20','after',1,4,81.8,'',2,NULL,NULL,1,NULL,'','2026-09-05T09:05:16','');
INSERT INTO "reading" VALUES(10,2,'gloss20','after',1,5,81.2,'',2,NULL,NULL,1,NULL,'','2026-09-05T09:05:20','');
INSERT INTO "reading" VALUES(11,3,'gloss20','after',1,1,82.3,'',3,NULL,NULL,1,NULL,'','2026-09-05T09:10:04','');
INSERT INTO "reading" VALUES(12,3,'gloss20','after',1,2,81.9,'',3,NULL,NULL,1,NULL,'','2026-09-05T09:10:08','');
INSERT INTO "reading" VALUES(13,3,'gloss20','after',1,3,82.0,'',3,NULL,NULL,1,NULL,'','2026-09-05T09:10:12','');
INSERT INTO "reading" VALUES(14,3,'gloss20','after',1,4,82.4,'',3,NULL,NULL,1,NULL,'','2026-09-05T09:10:16','');
INSERT INTO "reading" VALUES(15,3,'gloss20','after',1,5,82.4,'',3,NULL,NULL,1,NULL,'','2026-09-05T09:10:20','');
INSERT INTO "reading" VALUES(16,4,'gloss20','after',1,1,82.5,'',4,NULL,NULL,1,NULL,'','2026-09-05T09:15:04','');
INSERT INTO "reading" VALUES(17,4,'gloss20','after',1,2,82.3,'',4,NULL,NULL,1,NULL,'','2026-09-05T09:15:08','');
INSERT INTO "reading" VALUES(18,4,'gloss20','after',1,3,82.1,'',4,NULL,NULL,1,NULL,'','2026-09-05T09:15:12','');
INSERT INTO "reading" VALUES(19,4,'gloss20','after',1,4,82.4,'',4,NULL,NULL,1,NULL,'','2026-09-05T09:15:16','');
INSERT INTO "reading" VALUES(20,4,'gloss20','after',1,5,82.2,'',4,NULL,NULL,1,NULL,'','2026-09-05T09:15:20','');
INSERT INTO "reading" VALUES(21,5,'gloss20','after',1,1,79.6,'',5,NULL,NULL,1,NULL,'','2026-09-05T09:20:04','');
INSERT INTO "reading" VALUES(22,5,'gloss20','after',1,2,80.4,'',5,NULL,NULL,1,NULL,'','2026-09-05T09:20:08','');
INSERT INTO "reading" VALUES(23,5,'gloss20','after',1,3,80.6,'',5,NULL,NULL,1,NULL,'','2026-09-05T09:20:12','');
INSERT INTO "reading" VALUES(24,5,'gloss20','after',1,4,80.5,'',5,NULL,NULL,1,NULL,'','2026-09-05T09:20:16','');
INSERT INTO "reading" VALUES(25,5,'gloss20','after',1,5,79.7,'',5,NULL,NULL,1,NULL,'','2026-09-05T09:20:20','');
INSERT INTO "reading" VALUES(26,6,'gloss20','after',1,1,76.8,'',6,NULL,NULL,1,NULL,'','2026-09-05T09:25:04','');
INSERT INTO "reading" VALUES(27,6,'gloss20','after',1,2,76.7,'',6,NULL,NULL,1,NULL,'','2026-09-05T09:25:08','');
INSERT INTO "reading" VALUES(28,6,'gloss20','after',1,3,76.5,'',6,NULL,NULL,1,NULL,'','2026-09-05T09:25:12','');
INSERT INTO "reading" VALUES(29,6,'gloss20','after',1,4,77.0,'',6,NULL,NULL,1,NULL,'','2026-09-05T09:25:16','');
INSERT INTO "reading" VALUES(30,6,'gloss20','after',1,5,76.7,'',6,NULL,NULL,1,NULL,'','2026-09-05T09:25:20','');
INSERT INTO "reading" VALUES(31,7,'gloss20','after',1,1,79.1,'',7,NULL,NULL,1,NULL,'','2026-09-05T09:30:04','');
INSERT INTO "reading" VALUES(32,7,'gloss20','after',1,2,78.7,'',7,NULL,NULL,1,NULL,'','2026-09-05T09:30:08','');
INSERT INTO "reading" VALUES(33,7,'gloss20','after',1,3,79.0,'',7,NULL,NULL,1,NULL,'','2026-09-05T09:30:12','');
INSERT INTO "reading" VALUES(34,7,'gloss20','after',1,4,78.1,'',7,NULL,NULL,1,NULL,'','2026-09-05T09:30:16','');
INSERT INTO "reading" VALUES(35,7,'gloss20','after',1,5,78.5,'',7,NULL,NULL,1,NULL,'','2026-09-05T09:30:20','');
INSERT INTO "reading" VALUES(36,8,'gloss20','after',1,1,83.8,'',8,NULL,NULL,1,NULL,'','2026-09-05T09:35:04','');
INSERT INTO "reading" VALUES(37,8,'gloss20','after',1,2,83.0,'',8,NULL,NULL,1,NULL,'','2026-09-05T09:35:08','');
INSERT INTO "reading" VALUES(38,8,'gloss20','after',1,3,83.3,'',8,NULL,NULL,1,NULL,'','2026-09-05T09:35:12','');
INSERT INTO "reading" VALUES(39,8,'gloss20','after',1,4,84.1,'',8,NULL,NULL,1,NULL,'','2026-09-05T09:35:16','');
INSERT INTO "reading" VALUES(40,8,'gloss20','after',1,5,83.5,'',8,NULL,NULL,1,NULL,'','2026-09-05T09:35:20','');
INSERT INTO "reading" VALUES(41,9,'gloss20','after',1,1,79.7,'',9,NULL,NULL,1,NULL,'','2026-09-05T09:40:04','');
INSERT INTO "reading" VALUES(42,9,'gloss20','after',1,2,79.9,'',9,NULL,NULL,1,NULL,'','2026-09-05T09:40:08','');
INSERT INTO "reading" VALUES(43,9,'gloss20','after',1,3,80.4,'',9,NULL,NULL,1,NULL,'','2026-09-05T09:40:12','');
INSERT INTO "reading" VALUES(44,9,'gloss20','after',1,4,79.2,'',9,NULL,NULL,1,NULL,'','2026-09-05T09:40:16','');
INSERT INTO "reading" VALUES(45,9,'gloss20','after',1,5,79.7,'',9,NULL,NULL,1,NULL,'','2026-09-05T09:40:20','');
INSERT INTO "reading" VALUES(46,10,'gloss20','after',1,1,83.0,'',10,NULL,NULL,1,NULL,'','2026-09-05T09:45:04','');
INSERT INTO "reading" VALUES(47,10,'gloss20','after',1,2,83.2,'',10,NULL,NULL,1,NULL,'','2026-09-05T09:45:08','');
INSERT INTO "reading" VALUES(48,10,'gloss20','after',1,3,82.6,'',10,NULL,NULL,1,NULL,'','2026-09-05T09:45:12','');
INSERT INTO "reading" VALUES(49,10,'gloss20','after',1,4,82.8,'',10,NULL,NULL,1,NULL,'','2026-09-05T09:45:16','');
INSERT INTO "reading" VALUES(50,10,'gloss20','after',1,5,82.8,'',10,NULL,NULL,1,NULL,'','2026-09-05T09:45:20','');
INSERT INTO "reading" VALUES(51,11,'gloss20','after',1,1,80.9,'',11,NULL,NULL,1,NULL,'','2026-09-05T09:50:04','');
INSERT INTO "reading" VALUES(52,11,'gloss20','after',1,2,81.9,'',11,NULL,NULL,1,NULL,'','2026-09-05T09:50:08','');
INSERT INTO "reading" VALUES(53,11,'gloss20','after',1,3,80.5,'',11,NULL,NULL,1,NULL,'','2026-09-05T09:50:12','');
INSERT INTO "reading" VALUES(54,11,'gloss20','after',1,4,80.7,'',11,NULL,NULL,1,NULL,'','2026-09-05T09:50:16','');
INSERT INTO "reading" VALUES(55,11,'gloss20','after',1,5,81.7,'',11,NULL,NULL,1,NULL,'','2026-09-05T09:50:20','');
INSERT INTO "reading" VALUES(56,1,'gloss20','after',1,9,84.6,'',1,2,8,2,1,'','2026-09-26T10:05:00','');
INSERT INTO "reading" VALUES(57,1,'gloss20','day',1,1,83.9,'',1,2,8,3,NULL,'','2026-09-27T10:05:00','{"light": "out"}');
CREATE TABLE session(
        id INTEGER PRIMARY KEY, day TEXT NOT NULL, note TEXT NOT NULL DEFAULT '',
        at TEXT NOT NULL
    ) STRICT;
INSERT INTO "session" VALUES(1,'2026-09-05','','2026-09-05T09:00:04');
INSERT INTO "session" VALUES(2,'2026-09-26','','2026-09-26T10:00:00');
INSERT INTO "session" VALUES(3,'2026-09-27','','2026-09-27T10:05:00');
CREATE TABLE setting(key TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT, WITHOUT ROWID;
CREATE TABLE "stage"(
        combination_id INTEGER NOT NULL REFERENCES combination(id), position INTEGER NOT NULL,
        pad_id INTEGER REFERENCES kit_version(id), compound_id INTEGER REFERENCES kit_version(id),
        machine_id INTEGER REFERENCES kit_version(id), disc_id INTEGER REFERENCES kit_version(id),
        passes INTEGER NOT NULL, dial TEXT NOT NULL, force_n REAL,
        settings TEXT NOT NULL DEFAULT '{}' CHECK(json_valid(settings)),
        PRIMARY KEY(combination_id, position)
    ) STRICT, WITHOUT ROWID;
INSERT INTO "stage" VALUES(1,0,1,2,3,NULL,6,'5',40.0,'{}');
INSERT INTO "stage" VALUES(2,0,1,2,4,NULL,6,'5',40.0,'{}');
INSERT INTO "stage" VALUES(3,0,5,2,6,NULL,4,'2',40.0,'{}');
INSERT INTO "stage" VALUES(4,0,7,2,6,NULL,4,'2',40.0,'{}');
CREATE TABLE strike(
        id INTEGER PRIMARY KEY, reading_id INTEGER NOT NULL REFERENCES reading(id),
        struck INTEGER NOT NULL CHECK(struck IN (0, 1)), reason TEXT NOT NULL, at TEXT NOT NULL
    ) STRICT;
INSERT INTO "strike" VALUES(1,56,1,'meter tilted or lifted','2026-09-26T10:06:00');
CREATE TABLE survey(
        id INTEGER PRIMARY KEY, panel_id INTEGER NOT NULL REFERENCES panel(id),
        x_mm REAL NOT NULL, y_mm REAL NOT NULL, film_um REAL NOT NULL,
        person_id INTEGER REFERENCES person(id), meter_id INTEGER REFERENCES kit_version(id),
        session_id INTEGER REFERENCES session(id), at TEXT NOT NULL
    ) STRICT;
INSERT INTO "survey" VALUES(1,1,100.0,80.0,124.5,NULL,NULL,NULL,'2026-09-26T10:00:00');
CREATE TABLE survey_strike(
        id INTEGER PRIMARY KEY, survey_id INTEGER NOT NULL REFERENCES survey(id),
        struck INTEGER NOT NULL CHECK(struck IN (0, 1)), at TEXT NOT NULL
    ) STRICT;
CREATE TABLE taping(
        id INTEGER PRIMARY KEY, trial_id INTEGER NOT NULL REFERENCES trial(id),
        panel_version_id INTEGER NOT NULL REFERENCES panel_version(id),
        rows INTEGER NOT NULL, columns INTEGER NOT NULL, gap_mm REAL NOT NULL,
        margin_mm REAL NOT NULL, put_away INTEGER NOT NULL DEFAULT 0
    ) STRICT;
INSERT INTO "taping" VALUES(1,1,1,4,5,14.0,40.0,0);
INSERT INTO "taping" VALUES(2,1,2,4,5,14.0,40.0,0);
CREATE TABLE trial(
        id INTEGER PRIMARY KEY, name TEXT NOT NULL, question TEXT NOT NULL,
        measurands TEXT NOT NULL, readings_per_cell INTEGER NOT NULL, seed INTEGER NOT NULL,
        note TEXT NOT NULL, created_at TEXT NOT NULL, put_away INTEGER NOT NULL DEFAULT 0
    ) STRICT;
INSERT INTO "trial" VALUES(1,'Motions on hard','Orbital, forced or rotary for cutting hard clear?','["gloss20"]',5,13,'Saltmarsh Skills Centre, evening course.','2026-09-05T08:30:00',0);
CREATE TABLE work(
        id INTEGER PRIMARY KEY, cell_id INTEGER NOT NULL REFERENCES cell(id),
        stage INTEGER NOT NULL, what TEXT NOT NULL, person_id INTEGER REFERENCES person(id),
        session_id INTEGER REFERENCES session(id), pad_id INTEGER REFERENCES kit_version(id),
        facts TEXT NOT NULL DEFAULT '{}' CHECK(json_valid(facts)), at TEXT NOT NULL
    ) STRICT;
INSERT INTO "work" VALUES(1,1,1,'worked',1,1,NULL,'{}','2026-09-05T09:00:04');
INSERT INTO "work" VALUES(2,2,1,'worked',2,1,NULL,'{}','2026-09-05T09:05:04');
INSERT INTO "work" VALUES(3,3,1,'worked',1,1,NULL,'{}','2026-09-05T09:10:04');
INSERT INTO "work" VALUES(4,4,1,'worked',3,1,NULL,'{}','2026-09-05T09:15:04');
INSERT INTO "work" VALUES(5,5,1,'worked',1,1,NULL,'{}','2026-09-05T09:20:04');
INSERT INTO "work" VALUES(6,6,1,'worked',1,1,NULL,'{}','2026-09-05T09:25:04');
INSERT INTO "work" VALUES(7,7,1,'worked',1,1,NULL,'{}','2026-09-05T09:30:04');
INSERT INTO "work" VALUES(8,8,1,'worked',2,1,NULL,'{}','2026-09-05T09:35:04');
INSERT INTO "work" VALUES(9,9,1,'worked',1,1,NULL,'{}','2026-09-05T09:40:04');
INSERT INTO "work" VALUES(10,10,1,'worked',3,1,NULL,'{}','2026-09-05T09:45:04');
INSERT INTO "work" VALUES(11,11,1,'worked',3,1,NULL,'{}','2026-09-05T09:50:04');
INSERT INTO "work" VALUES(12,1,1,'pass',1,2,NULL,'{"machine": "Dipper 15", "number": 1, "seconds": 41.5}','2026-09-26T10:00:00');
CREATE UNIQUE INDEX combination_code ON combination(trial_id, code) WHERE put_away = 0;
CREATE INDEX strike_reading ON strike(reading_id);
CREATE TRIGGER strike_stands BEFORE UPDATE ON strike
        BEGIN SELECT RAISE(ABORT, 'a reading is never changed or deleted: strike it instead'); END;
CREATE INDEX session_day ON session(day);
CREATE INDEX kit_version_item ON kit_version(item_id);
CREATE INDEX kit_version_name ON kit_version(name);
CREATE INDEX panel_version_panel ON panel_version(panel_id);
CREATE INDEX taping_trial ON taping(trial_id);
CREATE INDEX work_cell ON work(cell_id);
CREATE TRIGGER work_stands BEFORE UPDATE ON work
        BEGIN SELECT RAISE(ABORT, 'what was done stays as it was noted'); END;
CREATE TRIGGER work_stays BEFORE DELETE ON work
        WHEN NOT EXISTS (SELECT 1 FROM cell c JOIN taping t ON t.id = c.taping_id
    JOIN trial x ON x.id = t.trial_id WHERE c.id = old.cell_id AND x.put_away = 2)
        BEGIN SELECT RAISE(ABORT, 'what was done stays as it was noted'); END;
CREATE TRIGGER kit_version_stands BEFORE UPDATE ON kit_version
            BEGIN SELECT RAISE(ABORT, 'kit is changed by a new version'); END;
CREATE TRIGGER kit_version_stays BEFORE DELETE ON kit_version
            BEGIN SELECT RAISE(ABORT, 'kit is changed by a new version'); END;
CREATE TRIGGER panel_version_stands BEFORE UPDATE ON panel_version
        BEGIN SELECT RAISE(ABORT, 'a panel is changed by a new version'); END;
CREATE TRIGGER panel_version_stays BEFORE DELETE ON panel_version
        WHEN NOT EXISTS (SELECT 1 FROM panel p WHERE p.id = old.panel_id AND p.put_away = 2)
        BEGIN SELECT RAISE(ABORT, 'a panel is changed by a new version'); END;
CREATE TRIGGER survey_stands BEFORE UPDATE ON survey
            BEGIN SELECT RAISE(ABORT, 'a survey stays as it was read'); END;
CREATE TRIGGER survey_stays BEFORE DELETE ON survey
            BEGIN SELECT RAISE(ABORT, 'a survey stays as it was read'); END;
CREATE TRIGGER photograph_stands BEFORE UPDATE ON photograph
            BEGIN SELECT RAISE(ABORT, 'a photograph stays as it was taken'); END;
CREATE TRIGGER photograph_stays BEFORE DELETE ON photograph
            BEGIN SELECT RAISE(ABORT, 'a photograph stays as it was taken'); END;
CREATE TRIGGER raw_line_stands BEFORE UPDATE ON raw_line
            BEGIN SELECT RAISE(ABORT, 'what an instrument said stays as it came'); END;
CREATE TRIGGER raw_line_stays BEFORE DELETE ON raw_line
            BEGIN SELECT RAISE(ABORT, 'what an instrument said stays as it came'); END;
CREATE INDEX survey_panel ON survey(panel_id);
CREATE INDEX survey_strike_survey ON survey_strike(survey_id);
CREATE TRIGGER survey_strike_stands BEFORE UPDATE ON survey_strike
            BEGIN SELECT RAISE(ABORT, 'a survey stays as it was read'); END;
CREATE TRIGGER survey_strike_stays BEFORE DELETE ON survey_strike
            BEGIN SELECT RAISE(ABORT, 'a survey stays as it was read'); END;
CREATE INDEX panel_photo_shown_panel ON panel_photo_shown(panel_id);
CREATE TRIGGER panel_photo_stands BEFORE UPDATE ON panel_photo
            BEGIN SELECT RAISE(ABORT, 'a photograph stays as it was taken'); END;
CREATE TRIGGER panel_photo_stays BEFORE DELETE ON panel_photo
            BEGIN SELECT RAISE(ABORT, 'a photograph stays as it was taken'); END;
CREATE TRIGGER panel_photo_shown_stands BEFORE UPDATE ON panel_photo_shown
            BEGIN SELECT RAISE(ABORT, 'a photograph stays as it was taken'); END;
CREATE TRIGGER panel_photo_shown_stays BEFORE DELETE ON panel_photo_shown
            BEGIN SELECT RAISE(ABORT, 'a photograph stays as it was taken'); END;
CREATE INDEX gate_taping ON gate(taping_id);
CREATE TRIGGER gate_stands BEFORE UPDATE ON gate
            BEGIN SELECT RAISE(ABORT, 'what was prepared stays as it was noted'); END;
CREATE TRIGGER gate_stays BEFORE DELETE ON gate
            BEGIN SELECT RAISE(ABORT, 'what was prepared stays as it was noted'); END;
CREATE INDEX reading_cell ON reading(cell_id, measurand, phase, value);
CREATE TRIGGER reading_stands BEFORE UPDATE ON reading
        BEGIN SELECT RAISE(ABORT, 'a reading is never changed or deleted: strike it instead'); END;
CREATE TRIGGER reading_stays BEFORE DELETE ON reading
        WHEN NOT EXISTS (SELECT 1 FROM cell c JOIN taping t ON t.id = c.taping_id
    JOIN trial x ON x.id = t.trial_id WHERE c.id = old.cell_id AND x.put_away = 2)
        BEGIN SELECT RAISE(ABORT, 'a reading is never changed or deleted: strike it instead'); END;
CREATE TRIGGER strike_stays BEFORE DELETE ON strike
        WHEN EXISTS (SELECT 1 FROM reading r WHERE r.id = old.reading_id AND NOT EXISTS
            (SELECT 1 FROM cell c JOIN taping t ON t.id = c.taping_id
    JOIN trial x ON x.id = t.trial_id WHERE c.id = r.cell_id AND x.put_away = 2))
        BEGIN SELECT RAISE(ABORT, 'a reading is never changed or deleted: strike it instead'); END;
CREATE INDEX noted_trial ON noted(trial_id, sort);
CREATE INDEX noted_cell ON noted(cell_id);
CREATE INDEX noted_strike_noted ON noted_strike(noted_id);
CREATE TRIGGER noted_stands BEFORE UPDATE ON noted
            BEGIN SELECT RAISE(ABORT, 'what was noted stays as it was'); END;
CREATE TRIGGER noted_stays BEFORE DELETE ON noted
            BEGIN SELECT RAISE(ABORT, 'what was noted stays as it was'); END;
CREATE TRIGGER noted_strike_stands BEFORE UPDATE ON noted_strike
            BEGIN SELECT RAISE(ABORT, 'what was noted stays as it was'); END;
CREATE TRIGGER noted_strike_stays BEFORE DELETE ON noted_strike
            BEGIN SELECT RAISE(ABORT, 'what was noted stays as it was'); END;
CREATE TRIGGER photo_seen_stands BEFORE UPDATE ON photo_seen
            BEGIN SELECT RAISE(ABORT, 'a photograph stays as it was taken'); END;
CREATE TRIGGER photo_seen_stays BEFORE DELETE ON photo_seen
            BEGIN SELECT RAISE(ABORT, 'a photograph stays as it was taken'); END;
PRAGMA application_id = 1280262477;
PRAGMA user_version = 6;
COMMIT;
