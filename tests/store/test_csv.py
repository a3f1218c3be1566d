"""Files of readings: every dialect in, every fault refused as a whole with its place."""

import pytest

from helpers.reference import ROOT
from loam.store.csv_readings import build_draft, grid_places
from loam.store.datapackage import read_package, write_package
from loam.store.flat import write_flat
from loam.store.mapping import guess_mapping, mapping_problems
from loam.store.table_file import MAX_BYTES, FileRefused, read_table
from loam.store.take_in import write_draft
from loam.store.take_out import read_draft
from loam.store.workshop import Workshop

HEAD = ["panel", "hardness", "cell", "combo", "reading", "operator", "gloss20", "baseline_gloss20"]
ROWS = [
    ["Heron", "soft", "K1", "A", "1", "Ivo", "88.4", "61.5"],
    ["Heron", "soft", "K1", "A", "2", "Ivo", "88.1", "61.5"],
    ["Heron", "soft", "K2", "B", "1", "Lise, Tam", "84.0", "60.2"],
]


def write(path, rows, *, delimiter=",", decimal=".", end="\n", encoding="utf-8", quote=False):
    def cell(text):
        if decimal == "," and text.replace(".", "").isdigit():
            text = text.replace(".", ",")
        return f'"{text}"' if quote or delimiter in text else text

    text = end.join(delimiter.join(cell(c) for c in row) for row in rows) + end
    path.write_bytes(text.encode(encoding))
    return path


def take(path):
    table = read_table(path)
    return build_draft(table, guess_mapping(table.header), "t")


@pytest.mark.parametrize(
    "dialect",
    [
        {},
        {"delimiter": ";"},
        {"delimiter": "\t"},
        {"delimiter": "|"},
        {"delimiter": ";", "decimal": ","},
        {"delimiter": ",", "decimal": ",", "quote": True},
        {"end": "\r\n"},
        {"encoding": "utf-8-sig"},
        {"encoding": "utf-16"},
        {"encoding": "cp1252", "delimiter": ";"},
        {"delimiter": "\t", "decimal": ",", "end": "\r\n", "encoding": "utf-8-sig", "quote": True},
    ],
    ids=str,
)
def test_any_dialect_gives_the_same_trial(tmp_path, dialect):
    draft = take(write(tmp_path / "r.csv", [HEAD, *ROWS], **dialect))
    assert [(r.value, r.ordinal, r.operator) for r in draft.readings] == [
        (88.4, 1, "Ivo"),
        (88.1, 2, "Ivo"),
        (84.0, 1, "Lise, Tam"),
    ]
    assert [c.baseline for c in draft.cells] == [{"gloss20": 61.5}, {"gloss20": 60.2}]
    assert [c.code for c in draft.combinations] == ["A", "B"]


def changed(line, column, value):
    rows = [list(r) for r in ROWS]
    rows[line][HEAD.index(column)] = value
    return [HEAD, *rows]


FAULTS = {
    "text in a number": (changed(1, "gloss20", "abc"), (3, "gloss20", "abc", "not a number")),
    "impossible value": (changed(1, "gloss20", "-3"), (3, "gloss20", "-3", "impossible")),
    "a not-a-number": (changed(0, "gloss20", "nan"), (2, "gloss20", "nan", "not a number")),
    "two hardnesses": (changed(2, "hardness", "hard"), (4, "hardness", "hard", "one hardness")),
    "unknown hardness": (
        changed(0, "hardness", "firm"),
        (2, "hardness", "firm", "soft, medium or"),
    ),
    "same reading twice": (changed(1, "reading", "1"), (3, "reading", "1", "line 2 already")),
    "two combinations": (changed(1, "combo", "B"), (3, "combo", "B", "one cell, one combination")),
    "half a reading number": (changed(1, "reading", "1.5"), (3, "reading", "1.5", "whole number")),
    "no panel": (changed(1, "panel", " "), (3, "panel", "", "nothing stands here")),
    "a short line": ([HEAD, ROWS[0], ROWS[1][:4]], (3, "", "", "4 fields stand where the header")),
}


@pytest.mark.parametrize("name", FAULTS)
def test_faults_are_refused_with_line_column_value_and_rule(tmp_path, name):
    rows, (line, column, value, rule) = FAULTS[name]
    with pytest.raises(FileRefused) as refused:
        take(write(tmp_path / "bad.csv", rows))
    problem = refused.value.problems[0]
    assert (problem.line, problem.column, problem.value) == (line, column, value)
    assert rule in problem.rule
    assert "bad.csv" in str(refused.value)
    assert "Nothing was taken" in str(refused.value)


def test_missing_columns_are_named(tmp_path):
    rows = [[r[i] for i in (0, 2, 6)] for r in (HEAD, *ROWS)]
    with pytest.raises(FileRefused) as refused:
        take(write(tmp_path / "few.csv", rows))
    said = " ".join(str(p) for p in refused.value.problems)
    assert "hardness class" in said
    assert "combination" in said


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"", "empty"),
        (b"   \n\n", "empty"),
        (b"panel,cell\n", "no reading below"),
        (b"\x7fELF\x00\x01\x02" * 50, "not a text file"),
        (b"panel,panel\n1,2\n", "two columns have this name"),
        (b'panel,cell\n"open,2\n', "cannot be read"),
        (b"\xff\xfea", "UTF-16"),
    ],
)
def test_what_is_no_table_is_refused(tmp_path, content, said):
    path = tmp_path / "x.csv"
    path.write_bytes(content)
    with pytest.raises(FileRefused, match=said):
        read_table(path)


def test_a_huge_file_is_refused_before_it_is_read(tmp_path):
    path = tmp_path / "huge.csv"
    with path.open("wb") as file:
        file.truncate(2 * MAX_BYTES)
    with pytest.raises(FileRefused, match=r"200 MB; Loam takes up to 100 MB"):
        read_table(path)


def test_a_missing_file_is_said(tmp_path):
    with pytest.raises(FileRefused, match="cannot be opened"):
        read_table(tmp_path / "nowhere.csv")


def test_only_the_first_problems_are_listed_but_all_are_counted(tmp_path):
    rows = [HEAD] + [
        ["Heron", "soft", "K1", "A", str(i + 1), "Ivo", f"x{i}", "60"] for i in range(50)
    ]
    with pytest.raises(FileRefused) as refused:
        take(write(tmp_path / "many.csv", rows))
    assert len(refused.value.problems) == 20
    assert refused.value.more == 30


def test_the_reference_trial_is_mapped_without_a_hand():
    table = read_table(ROOT / "trials" / "medium" / "medium.csv")
    mapping = guess_mapping(table.header)
    assert mapping_problems(mapping) == []
    draft = build_draft(table, mapping, "medium")
    assert (len(draft.panels), len(draft.cells), len(draft.combinations)) == (8, 128, 10)
    assert sum(r.measurand == "gloss20" for r in draft.readings) == 640
    assert sum(r.measurand == "film" and r.phase == "before" for r in draft.readings) == 640
    assert draft.trial.measurands == ("gloss20", "haze", "film", "defects")
    stage = draft.combinations[0].stages[0]
    assert (stage.pad_material, stage.compound_class, stage.machine_kind, stage.passes) == (
        "foam-soft",
        "fine",
        "free-orbital",
        4,
    )


def test_stages_joined_in_one_field_come_apart(tmp_path):
    head = ["panel", "hardness", "cell", "combo", "pad", "compound", "machine", "passes", "haze"]
    row = [
        "Heron",
        "hard",
        "K1",
        "A",
        "wool>foam-finish",
        "coarse>fine",
        "rotary>orbital-free",
        "4>6",
        "14",
    ]
    draft = take(write(tmp_path / "s.csv", [head, row]))
    assert [s.passes for s in draft.combinations[0].stages] == [4, 6]
    assert [s.machine_kind for s in draft.combinations[0].stages] == ["rotary", "free-orbital"]


def test_stages_that_do_not_pair_up_name_the_pads(tmp_path):
    head = ["panel", "hardness", "cell", "combo", "pad", "compound", "machine", "passes", "haze"]
    row = ["Heron", "hard", "K1", "A", "wool>foam", "coarse>fine", "rotary", "4>6>2", "14"]
    with pytest.raises(FileRefused, match="'wool>foam': pad, compound, machine and passes name"):
        take(write(tmp_path / "s.csv", [head, row]))


@pytest.mark.parametrize(
    ("count", "tail"), [(1, ""), (2, " (1 more line like it)"), (3, " (2 more lines like it)")]
)
def test_the_same_fault_is_counted_in_words(tmp_path, count, tail):
    file = tmp_path / "t.csv"
    rows = [f"P,soft,K{i + 1},A,x" for i in range(count)]
    file.write_text("\n".join(["panel,hardness,cell,combo,gloss20", *rows, "P,soft,K9,A,80"]))
    table = read_table(file)
    with pytest.raises(FileRefused) as refused:
        build_draft(table, guess_mapping(table.header), "t")
    (problem,) = refused.value.problems
    assert str(problem) == f"line 2, column gloss20, 'x': this is not a number.{tail}"


HEADINGS = {
    "de": "Platte;Härte;Zelle;Kombination;Glanz 20°;Schleier;Glanz 20 vorher;Schichtdicke vorher;"
    "Schichtdicke",
    "fr": "Panneau;Dureté;Cellule;Combinaison;Brillant 20;Voile;Brillant 20 avant;Épaisseur avant;"
    "Epaisseur",
    "es": "Placa;Dureza;Celda;Combinación;Brillo 20;Velo;Brillo 20 antes;Espesor antes;Espesor",
}


@pytest.mark.parametrize("language", HEADINGS)
def test_headings_of_other_languages_are_guessed(language):
    found = guess_mapping(HEADINGS[language].split(";"))
    assert list(found.values()) == [
        "panel",
        "hardness",
        "cell",
        "combination",
        "after:gloss20",
        "after:haze",
        "baseline:gloss20",
        "before:film",
        "after:film",
    ]


@pytest.mark.parametrize("name", ["a name that is too long", "=1+1", "A 1", "é1"])
def test_odd_names_of_cells_are_taken_or_left(tmp_path, name):
    path = tmp_path / "odd.csv"
    path.write_text(f"panel,hardness,cell,combination,gloss20\nTeal,soft,{name},A,80\n", "utf-8")
    (cell,) = take(path).cells
    assert cell.name in ("", name)
    assert cell.code.isprintable()


def test_the_files_own_cell_names_are_kept(tmp_path):
    """In the window, in a package, and through a table that Loam writes."""
    cells = ["A1", "A2", "B1", "B2"]
    path = tmp_path / "own.csv"
    rows = [f"Teal,soft,{c},{'AB'[i % 2]},{80 + i}" for i, c in enumerate(cells)]
    path.write_text("panel,hardness,cell,combination,gloss20\n" + "\n".join(rows))
    draft = take(path)
    assert [(c.code, c.row, c.column) for c in draft.cells] == [
        ("A1", 0, 0),
        ("A2", 0, 1),
        ("B1", 1, 0),
        ("B2", 1, 1),
    ]
    workshop = Workshop(tmp_path / "own.loam")
    with workshop.transaction() as db:
        trial = write_draft(db, draft, workshop.now())
    stored = read_draft(workshop.connection, trial)
    assert [c.code for c in stored.cells] == cells
    write_package(stored, tmp_path / "own.zip")
    assert [c.code for c in read_package(tmp_path / "own.zip").cells] == cells
    write_flat(stored, tmp_path / "flat.csv")
    assert [c.code for c in take(tmp_path / "flat.csv").cells] == cells
    with workshop.transaction() as db:
        db.execute("UPDATE cell SET name = char(10) || 'x' WHERE id = 1")
    assert read_draft(workshop.connection, trial).cells[0].code == "K1"
    workshop.close()


@pytest.mark.parametrize(
    ("codes", "places"),
    [
        (["A1", "A4", "B1", "B4"], [(0, 0), (0, 3), (1, 0), (1, 3)]),
        (["1A", "2B"], [(0, 0), (1, 1)]),
        (["R1C2", "R2C1"], [(0, 1), (1, 0)]),
        (["1-2", "2-3"], [(0, 1), (1, 2)]),
        (["K1", "L2"], [(0, 0), (1, 1)]),
        (["A1", "K77x"], [None, None]),
    ],
)
def test_the_files_own_cell_names_keep_their_grid(codes, places):
    """Neighbours and rims stay what they are: A1 to B4 are two rows of four."""
    found = grid_places(codes)
    rows = min((p[0] for p in found if p), default=0)
    assert [p and (p[0] - rows, p[1]) for p in found] == places
