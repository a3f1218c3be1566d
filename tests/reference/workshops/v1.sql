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
INSERT INTO "baseline" VALUES(41,'gloss20',6.68571428571428612048e+01);
INSERT INTO "baseline" VALUES(42,'gloss20',67.0);
INSERT INTO "baseline" VALUES(43,'gloss20',6.7142857142857138796e+01);
INSERT INTO "baseline" VALUES(44,'gloss20',6.72857142857142918055e+01);
INSERT INTO "baseline" VALUES(45,'gloss20',6.74285714285714306032e+01);
INSERT INTO "baseline" VALUES(46,'gloss20',6.75714285714285693967e+01);
INSERT INTO "baseline" VALUES(47,'gloss20',6.77142857142857081944e+01);
INSERT INTO "baseline" VALUES(48,'gloss20',6.78571428571428612039e+01);
CREATE TABLE cell(
        id INTEGER PRIMARY KEY, panel_id INTEGER NOT NULL REFERENCES panel(id),
        row INTEGER NOT NULL, "column" INTEGER NOT NULL,
        combination_id INTEGER REFERENCES combination(id), run_order INTEGER,
        put_away INTEGER NOT NULL DEFAULT 0, UNIQUE(panel_id, row, "column")
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
INSERT INTO "cell" VALUES(41,3,0,0,5,1,0);
INSERT INTO "cell" VALUES(42,3,0,1,6,2,0);
INSERT INTO "cell" VALUES(43,3,0,2,7,3,0);
INSERT INTO "cell" VALUES(44,3,1,0,5,4,0);
INSERT INTO "cell" VALUES(45,3,1,1,6,5,0);
INSERT INTO "cell" VALUES(46,3,1,2,7,6,0);
INSERT INTO "cell" VALUES(47,4,0,0,5,7,0);
INSERT INTO "cell" VALUES(48,4,0,1,NULL,8,0);
CREATE TABLE combination(
        id INTEGER PRIMARY KEY, trial_id INTEGER NOT NULL REFERENCES trial(id),
        code TEXT NOT NULL, name TEXT NOT NULL, put_away INTEGER NOT NULL DEFAULT 0
    ) STRICT;
INSERT INTO "combination" VALUES(1,1,'A','long throw',0);
INSERT INTO "combination" VALUES(2,1,'B','forced',0);
INSERT INTO "combination" VALUES(3,1,'C','rotary wool',0);
INSERT INTO "combination" VALUES(4,1,'D','rotary foam',0);
INSERT INTO "combination" VALUES(5,2,'A','plain',0);
INSERT INTO "combination" VALUES(6,2,'B','',0);
INSERT INTO "combination" VALUES(7,2,'K','control',0);
INSERT INTO "combination" VALUES(8,2,'X','gone',1);
CREATE TABLE operator(id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE) STRICT;
INSERT INTO "operator" VALUES(1,'Tam');
INSERT INTO "operator" VALUES(2,'Lise');
INSERT INTO "operator" VALUES(3,'Ivo');
CREATE TABLE panel(
        id INTEGER PRIMARY KEY, trial_id INTEGER NOT NULL REFERENCES trial(id),
        name TEXT NOT NULL, hardness TEXT NOT NULL CHECK(hardness IN ('soft','medium','hard')),
        paint TEXT NOT NULL, width_mm REAL NOT NULL, height_mm REAL NOT NULL,
        rows INTEGER NOT NULL, columns INTEGER NOT NULL, gap_mm REAL NOT NULL,
        margin_mm REAL NOT NULL, put_away INTEGER NOT NULL DEFAULT 0
    ) STRICT;
INSERT INTO "panel" VALUES(1,1,'Snipe','hard','Marram clear',780.0,620.0,4,5,14.0,40.0,0);
INSERT INTO "panel" VALUES(2,1,'Godwit','hard','Marram clear',780.0,620.0,4,5,14.0,40.0,0);
INSERT INTO "panel" VALUES(3,2,'Heron','soft','Reed clear',400.0,300.0,2,3,10.0,20.0,0);
INSERT INTO "panel" VALUES(4,2,'Snipe','hard','Marram clear',500.0,300.0,1,2,10.0,20.0,0);
CREATE TABLE reading(
        id INTEGER PRIMARY KEY, cell_id INTEGER NOT NULL REFERENCES cell(id),
        measurand TEXT NOT NULL, phase TEXT NOT NULL CHECK(phase IN ('before','unwiped','after')),
        stage INTEGER NOT NULL, ordinal INTEGER NOT NULL, value REAL NOT NULL,
        scale TEXT NOT NULL, operator_id INTEGER REFERENCES operator(id), day TEXT NOT NULL,
        taken_at TEXT NOT NULL
    ) STRICT;
INSERT INTO "reading" VALUES(1,1,'gloss20','after',1,1,79.5,'',1,'2026-09-05','2026-09-05T09:00:04');
INSERT INTO "reading" VALUES(2,1,'gloss20','after',1,2,79.4,'',1,'2026-09-05','2026-09-05T09:00:08');
INSERT INTO "reading" VALUES(3,1,'gloss20','after',1,3,80.4,'',1,'2026-09-05','2026-09-05T09:00:12');
INSERT INTO "reading" VALUES(4,1,'gloss20','after',1,4,79.8,'',1,'2026-09-05','2026-09-05T09:00:16');
INSERT INTO "reading" VALUES(5,1,'gloss20','after',1,5,80.1,'',1,'2026-09-05','2026-09-05T09:00:20');
INSERT INTO "reading" VALUES(6,2,'gloss20','after',1,1,81.9,'',2,'2026-09-05','2026-09-05T09:05:04');
INSERT INTO "reading" VALUES(7,2,'gloss20','after',1,2,81.0,'',2,'2026-09-05','2026-09-05T09:05:08');
INSERT INTO "reading" VALUES(8,2,'gloss20','after',1,3,82.5,'',2,'2026-09-05','2026-09-05T09:05:12');
INSERT INTO "reading" VALUES(9,2,'gloss20','after',1,4,81.8,'',2,'2026-09-05','2026-09-05T09:05:16');
INSERT INTO "reading" VALUES(10,2,'gloss20','after',1,5,81.2,'',2,'2026-09-05','2026-09-05T09:05:20');
INSERT INTO "reading" VALUES(11,3,'gloss20','after',1,1,82.3,'',1,'2026-09-05','2026-09-05T09:10:04');
INSERT INTO "reading" VALUES(12,3,'gloss20','after',1,2,81.9,'',1,'2026-09-05','2026-09-05T09:10:08');
INSERT INTO "reading" VALUES(13,3,'gloss20','after',1,3,82.0,'',1,'2026-09-05','2026-09-05T09:10:12');
INSERT INTO "reading" VALUES(14,3,'gloss20','after',1,4,82.4,'',1,'2026-09-05','2026-09-05T09:10:16');
INSERT INTO "reading" VALUES(15,3,'gloss20','after',1,5,82.4,'',1,'2026-09-05','2026-09-05T09:10:20');
INSERT INTO "reading" VALUES(16,4,'gloss20','after',1,1,82.5,'',3,'2026-09-05','2026-09-05T09:15:04');
INSERT INTO "reading" VALUES(17,4,'gloss20','after',1,2,82.3,'',3,'2026-09-05','2026-09-05T09:15:08');
INSERT INTO "reading" VALUES(18,4,'gloss20','after',1,3,82.1,'',3,'2026-09-05','2026-09-05T09:15:12');
INSERT INTO "reading" VALUES(19,4,'gloss20','after',1,4,82.4,'',3,'2026-09-05','2026-09-05T09:15:16');
INSERT INTO "reading" VALUES(20,4,'gloss20','after',1,5,82.2,'',3,'2026-09-05','2026-09-05T09:15:20');
INSERT INTO "reading" VALUES(21,5,'gloss20','after',1,1,79.6,'',1,'2026-09-05','2026-09-05T09:20:04');
INSERT INTO "reading" VALUES(22,5,'gloss20','after',1,2,80.4,'',1,'2026-09-05','2026-09-05T09:20:08');
INSERT INTO "reading" VALUES(23,5,'gloss20','after',1,3,80.6,'',1,'2026-09-05','2026-09-05T09:20:12');
INSERT INTO "reading" VALUES(24,5,'gloss20','after',1,4,80.5,'',1,'2026-09-05','2026-09-05T09:20:16');
INSERT INTO "reading" VALUES(25,5,'gloss20','after',1,5,79.7,'',1,'2026-09-05','2026-09-05T09:20:20');
INSERT INTO "reading" VALUES(26,6,'gloss20','after',1,1,76.8,'',1,'2026-09-05','2026-09-05T09:25:04');
INSERT INTO "reading" VALUES(27,6,'gloss20','after',1,2,76.7,'',1,'2026-09-05','2026-09-05T09:25:08');
INSERT INTO "reading" VALUES(28,6,'gloss20','after',1,3,76.5,'',1,'2026-09-05','2026-09-05T09:25:12');
INSERT INTO "reading" VALUES(29,6,'gloss20','after',1,4,77.0,'',1,'2026-09-05','2026-09-05T09:25:16');
INSERT INTO "reading" VALUES(30,6,'gloss20','after',1,5,76.7,'',1,'2026-09-05','2026-09-05T09:25:20');
INSERT INTO "reading" VALUES(31,7,'gloss20','after',1,1,79.1,'',1,'2026-09-05','2026-09-05T09:30:04');
INSERT INTO "reading" VALUES(32,7,'gloss20','after',1,2,78.7,'',1,'2026-09-05','2026-09-05T09:30:08');
INSERT INTO "reading" VALUES(33,7,'gloss20','after',1,3,79.0,'',1,'2026-09-05','2026-09-05T09:30:12');
INSERT INTO "reading" VALUES(34,7,'gloss20','after',1,4,78.1,'',1,'2026-09-05','2026-09-05T09:30:16');
INSERT INTO "reading" VALUES(35,7,'gloss20','after',1,5,78.5,'',1,'2026-09-05','2026-09-05T09:30:20');
INSERT INTO "reading" VALUES(36,8,'gloss20','after',1,1,83.8,'',2,'2026-09-05','2026-09-05T09:35:04');
INSERT INTO "reading" VALUES(37,8,'gloss20','after',1,2,83.0,'',2,'2026-09-05','2026-09-05T09:35:08');
INSERT INTO "reading" VALUES(38,8,'gloss20','after',1,3,83.3,'',2,'2026-09-05','2026-09-05T09:35:12');
INSERT INTO "reading" VALUES(39,8,'gloss20','after',1,4,84.1,'',2,'2026-09-05','2026-09-05T09:35:16');
INSERT INTO "reading" VALUES(40,8,'gloss20','after',1,5,83.5,'',2,'2026-09-05','2026-09-05T09:35:20');
INSERT INTO "reading" VALUES(41,9,'gloss20','after',1,1,79.7,'',1,'2026-09-05','2026-09-05T09:40:04');
INSERT INTO "reading" VALUES(42,9,'gloss20','after',1,2,79.9,'',1,'2026-09-05','2026-09-05T09:40:08');
INSERT INTO "reading" VALUES(43,9,'gloss20','after',1,3,80.4,'',1,'2026-09-05','2026-09-05T09:40:12');
INSERT INTO "reading" VALUES(44,9,'gloss20','after',1,4,79.2,'',1,'2026-09-05','2026-09-05T09:40:16');
INSERT INTO "reading" VALUES(45,9,'gloss20','after',1,5,79.7,'',1,'2026-09-05','2026-09-05T09:40:20');
INSERT INTO "reading" VALUES(46,10,'gloss20','after',1,1,83.0,'',3,'2026-09-05','2026-09-05T09:45:04');
INSERT INTO "reading" VALUES(47,10,'gloss20','after',1,2,83.2,'',3,'2026-09-05','2026-09-05T09:45:08');
INSERT INTO "reading" VALUES(48,10,'gloss20','after',1,3,82.6,'',3,'2026-09-05','2026-09-05T09:45:12');
INSERT INTO "reading" VALUES(49,10,'gloss20','after',1,4,82.8,'',3,'2026-09-05','2026-09-05T09:45:16');
INSERT INTO "reading" VALUES(50,10,'gloss20','after',1,5,82.8,'',3,'2026-09-05','2026-09-05T09:45:20');
INSERT INTO "reading" VALUES(51,11,'gloss20','after',1,1,80.9,'',3,'2026-09-05','2026-09-05T09:50:04');
INSERT INTO "reading" VALUES(52,11,'gloss20','after',1,2,81.9,'',3,'2026-09-05','2026-09-05T09:50:08');
INSERT INTO "reading" VALUES(53,11,'gloss20','after',1,3,80.5,'',3,'2026-09-05','2026-09-05T09:50:12');
INSERT INTO "reading" VALUES(54,11,'gloss20','after',1,4,80.7,'',3,'2026-09-05','2026-09-05T09:50:16');
INSERT INTO "reading" VALUES(55,11,'gloss20','after',1,5,81.7,'',3,'2026-09-05','2026-09-05T09:50:20');
INSERT INTO "reading" VALUES(56,41,'film','before',1,1,118.2,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(57,41,'film','after',1,1,116.9,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(58,41,'gloss20','after',2,1,84.1,'',3,'2026-09-27','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(59,41,'film','before',1,2,118.3,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(60,41,'film','after',1,2,117.0,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(61,41,'gloss20','after',2,2,8.44333333333333229103e+01,'',3,'2026-09-27','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(62,41,'film','before',1,3,118.4,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(63,41,'film','after',1,3,1.1710000000000000853e+02,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(64,41,'gloss20','after',2,3,8.47666666666666657192e+01,'',3,'2026-09-27','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(65,41,'haze','unwiped',1,1,11.5,'log',3,'2026-09-27','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(66,42,'film','before',1,1,118.2,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(67,42,'film','after',1,1,116.7,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(68,42,'gloss20','after',1,1,84.1,'',3,'2026-09-27','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(69,42,'film','before',1,2,118.3,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(70,42,'film','after',1,2,116.8,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(71,42,'gloss20','after',1,2,8.44333333333333229103e+01,'',3,'2026-09-27','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(72,42,'film','before',1,3,118.4,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(73,42,'film','after',1,3,116.9,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(74,42,'gloss20','after',1,3,8.47666666666666657192e+01,'',3,'2026-09-27','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(75,42,'haze','unwiped',1,1,11.5,'log',3,'2026-09-27','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(76,43,'film','before',1,1,118.2,'',1,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(77,43,'film','after',1,1,116.5,'',1,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(78,43,'gloss20','after',1,1,84.1,'',3,'2026-09-27','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(79,43,'film','before',1,2,118.3,'',2,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(80,43,'film','after',1,2,116.6,'',2,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(81,43,'gloss20','after',1,2,8.44333333333333229103e+01,'',3,'2026-09-27','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(82,43,'film','before',1,3,118.4,'',2,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(83,43,'film','after',1,3,116.7,'',2,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(84,43,'gloss20','after',1,3,8.47666666666666657192e+01,'',3,'2026-09-27','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(85,43,'haze','unwiped',1,1,11.5,'log',3,'2026-09-27','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(86,44,'film','before',1,1,118.2,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(87,44,'film','after',1,1,1.16300000000000011365e+02,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(88,44,'gloss20','after',1,1,84.1,'',NULL,'2026-09-27','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(89,44,'film','before',1,2,118.3,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(90,44,'film','after',1,2,116.4,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(91,44,'gloss20','after',1,2,8.44333333333333229103e+01,'',NULL,'2026-09-27','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(92,44,'film','before',1,3,118.4,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(93,44,'film','after',1,3,1.1650000000000001421e+02,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(94,44,'gloss20','after',1,3,8.47666666666666657192e+01,'',NULL,'2026-09-27','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(95,44,'haze','unwiped',1,1,11.5,'log',3,'2026-09-27','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(96,45,'film','before',1,1,118.2,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(97,45,'film','after',1,1,1.16100000000000008531e+02,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(98,45,'gloss20','after',1,1,84.1,'',3,'2026-09-27','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(99,45,'film','before',1,2,118.3,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(100,45,'film','after',1,2,116.2,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(101,45,'gloss20','after',1,2,8.44333333333333229103e+01,'',3,'2026-09-27','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(102,45,'film','before',1,3,118.4,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(103,45,'film','after',1,3,1.16300000000000011365e+02,'',3,'2026-09-26','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(104,45,'gloss20','after',1,3,8.47666666666666657192e+01,'',3,'2026-09-27','2026-09-26T14:02:11');
INSERT INTO "reading" VALUES(105,45,'haze','unwiped',1,1,11.5,'log',3,'2026-09-27','2026-09-26T14:02:11');
CREATE TABLE setting(key TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT, WITHOUT ROWID;
INSERT INTO "setting" VALUES('trial','2');
CREATE TABLE stage(
        combination_id INTEGER NOT NULL REFERENCES combination(id), position INTEGER NOT NULL,
        pad TEXT NOT NULL, compound TEXT NOT NULL, machine TEXT NOT NULL,
        pad_material TEXT NOT NULL, compound_class TEXT NOT NULL, machine_kind TEXT NOT NULL,
        passes INTEGER NOT NULL, dial TEXT NOT NULL, force_n REAL,
        PRIMARY KEY(combination_id, position)
    ) STRICT, WITHOUT ROWID;
INSERT INTO "stage" VALUES(1,0,'Bracken','Grist 9','Dipper 21','microfibre','coarse','free-orbital',6,'5',40.0);
INSERT INTO "stage" VALUES(2,0,'Bracken','Grist 9','Kiln 8','microfibre','coarse','forced-orbital',6,'5',40.0);
INSERT INTO "stage" VALUES(3,0,'Tussock','Grist 9','Mill','wool','coarse','rotary',4,'2',40.0);
INSERT INTO "stage" VALUES(4,0,'Fen firm','Grist 9','Mill','foam-firm','coarse','rotary',4,'2',40.0);
INSERT INTO "stage" VALUES(5,0,'Fen firm','Loess 3','Dipper 15','foam-firm','polish','free-orbital',6,'4',40.0);
INSERT INTO "stage" VALUES(6,0,'Bracken','Grist 9','Mill','microfibre','coarse','rotary',4,'2',NULL);
INSERT INTO "stage" VALUES(6,1,'Fen firm','Silt 1','Dipper 15','foam-soft','fine','free-orbital',2,'',NULL);
CREATE TABLE strike(
        id INTEGER PRIMARY KEY, reading_id INTEGER NOT NULL REFERENCES reading(id),
        struck INTEGER NOT NULL CHECK(struck IN (0, 1)), reason TEXT NOT NULL, at TEXT NOT NULL
    ) STRICT;
INSERT INTO "strike" VALUES(1,3,1,'hair, "dust"','2026-09-26T14:02:11');
INSERT INTO "strike" VALUES(2,5,1,'hair, "dust"','2026-09-26T14:02:11');
INSERT INTO "strike" VALUES(3,5,0,'counts again','2026-09-26T14:02:11');
INSERT INTO "strike" VALUES(4,105,1,'taken back','2026-09-26T14:02:11');
CREATE TABLE trial(
        id INTEGER PRIMARY KEY, name TEXT NOT NULL, question TEXT NOT NULL,
        measurands TEXT NOT NULL, readings_per_cell INTEGER NOT NULL, seed INTEGER NOT NULL,
        note TEXT NOT NULL, created_at TEXT NOT NULL, put_away INTEGER NOT NULL DEFAULT 0
    ) STRICT;
INSERT INTO "trial" VALUES(1,'Motions on hard','Orbital, forced or rotary for cutting hard clear?','["gloss20"]',5,13,'Saltmarsh Skills Centre, evening course.','2026-09-05T08:30:00',0);
INSERT INTO "trial" VALUES(2,'Typed','Which one?','["gloss20", "haze", "film"]',3,5,'by hand','2026-09-26T14:02:11',0);
INSERT INTO "trial" VALUES(3,'Away','','["gloss20"]',5,1,'','2026-09-26T14:02:11',1);
CREATE UNIQUE INDEX panel_name ON panel(trial_id, name) WHERE put_away = 0;
CREATE UNIQUE INDEX combination_code ON combination(trial_id, code) WHERE put_away = 0;
CREATE INDEX reading_cell ON reading(cell_id, measurand, phase, value);
CREATE TRIGGER reading_stands BEFORE UPDATE ON reading
        BEGIN SELECT RAISE(ABORT, 'a reading is never changed or deleted: strike it instead'); END;
CREATE TRIGGER reading_stays BEFORE DELETE ON reading
        BEGIN SELECT RAISE(ABORT, 'a reading is never changed or deleted: strike it instead'); END;
CREATE INDEX strike_reading ON strike(reading_id);
CREATE TRIGGER strike_stands BEFORE UPDATE ON strike
        BEGIN SELECT RAISE(ABORT, 'a reading is never changed or deleted: strike it instead'); END;
CREATE TRIGGER strike_stays BEFORE DELETE ON strike
        BEGIN SELECT RAISE(ABORT, 'a reading is never changed or deleted: strike it instead'); END;
COMMIT;
PRAGMA application_id = 1280262477;
PRAGMA user_version = 1;
