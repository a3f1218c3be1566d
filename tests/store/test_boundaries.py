"""Every limit at its edge, and a table compared cell by cell with what comes out of it."""

from dataclasses import replace

import pytest

from loam.core.errors import LoamError, ValueRefused
from loam.core.panel import Taping
from loam.core.readings import BY_KEY, KINDS
from loam.core.trial import (
    MAX_ORDER,
    Cell,
    Combination,
    Panel,
    Reading,
    Stage,
    Trial,
    check_reading,
)
from loam.demo.scenario import motions
from loam.store.admission import MOST, check_draft, too_many
from loam.store.csv_readings import build_draft, unknown_classes
from loam.store.draft import Strike
from loam.store.mapping import guess_mapping
from loam.store.table_file import read_table

DIRECTION = {
    "gloss20": (True, 0.0, 2000.0),
    "gloss60": (True, 0.0, 1000.0),
    "gloss85": (True, 0.0, 160.0),
    "haze": (False, 0.0, 2000.0),
    "clarity": (True, 0.0, 100.0),
    "film": (True, 0.0, 5000.0),
    "removed": (False, -100.0, 1000.0),
    "defects": (True, 0.0, 100.0),
    "temperature": (False, -20.0, 200.0),
}


def test_every_measurand_has_its_direction_and_limits():
    assert {k.key: (k.higher_is_better, k.low, k.high) for k in KINDS} == DIRECTION


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: k.key)
def test_a_value_at_its_limit_is_taken_and_beyond_it_refused(kind):
    for good in (kind.low, kind.high):
        assert kind.check(good) == good
    for bad in (kind.low - 0.01, kind.high + 0.01, float("nan"), float("inf"), -float("inf")):
        with pytest.raises(ValueRefused):
            kind.check(bad)


def reading(**changed):
    return replace(Reading(1, 1, "gloss20", 84.6), **changed)


@pytest.mark.parametrize(
    ("field", "good", "bad"),
    [
        ("ordinal", (1, 2, MAX_ORDER), (0, -1, MAX_ORDER + 1)),
        ("stage", (1, 8), (0, 9, -1)),
        ("phase", ("before", "unwiped", "after"), ("", "later", "After")),
        ("scale", ("",), ("log", "linear")),
        ("operator", ("", "x" * 120), ("x" * 121, "a\u202eb", "a\nb")),
        ("reader", ("Ivo",), ("y" * 121,)),
        ("meter", ("Glim",), ("\ufeff",)),
        ("mark", ("", "odd"), ("z" * 121,)),
        ("day", ("2026-09-05",), ("\u200f",)),
    ],
)
def test_a_reading_is_checked_at_every_edge(field, good, bad):
    for value in good:
        check_reading(reading(**{field: value}))
    for value in bad:
        with pytest.raises(ValueRefused):
            check_reading(reading(**{field: value}))


def test_a_scale_belongs_to_haze_and_a_computed_measurand_is_never_read():
    for scale in ("", "log", "linear"):
        check_reading(reading(measurand="haze", scale=scale))
    with pytest.raises(ValueRefused, match="log or linear"):
        check_reading(reading(measurand="haze", scale="ln"))
    with pytest.raises(ValueRefused, match="computed"):
        check_reading(reading(measurand="removed", value=1.0))


@pytest.mark.parametrize(
    ("make", "good", "bad"),
    [
        (lambda n: Trial(1, "t", readings_per_cell=n), (1, 50), (0, 51, -1)),
        (lambda n: Trial(1, "t", seed=n), (0, 2**53 - 1), (-1, 2**53)),
        (lambda n: Trial(1, "t" * n), (1, 120), (0, 121)),
        (lambda n: Stage("", "", "", passes=n), (0, 1, 99), (-1, 100)),
        (lambda n: Stage("", "", "", force_n=n), (0.1, 500.0), (0.0, -1.0, 500.1)),
        (lambda n: Combination(1, "A" * n), (1, 12), (0, 13)),
        (lambda n: Combination(1, "A", stages=(Stage("", "", ""),) * n), (0, 8), (9,)),
        (lambda n: Taping(720, 560, n, 1, 0, 0), (1, 28), (0, 29, 61)),
        (lambda n: Taping(n, 560, 1, 1, 0, 0), (20.0, 5000.0), (0.0, 19.9, 5000.1)),
        (lambda n: Taping(720, 560, 2, 2, n, 0), (0.0, 10.0), (-0.1, 600.0)),
    ],
)
def test_every_value_is_checked_at_its_edges(make, good, bad):
    for n in good:
        make(n)
    for n in bad:
        with pytest.raises(ValueRefused):
            make(n)


def cell_changed(**changed):
    return lambda d: replace(d, cells=(replace(d.cells[0], **changed), *d.cells[1:]))


def reading_changed(**changed):
    return lambda d: replace(d, readings=(replace(d.readings[0], **changed), *d.readings[1:]))


FAULTS = {
    "row below": (cell_changed(row=-1), "off its panel"),
    "row beyond": (cell_changed(row=4), "off its panel"),
    "column below": (cell_changed(column=-1), "off its panel"),
    "column beyond": (cell_changed(column=5), "off its panel"),
    "no panel": (cell_changed(panel_id=99), "no such panel"),
    "no combination": (cell_changed(combination_id=99), "no such combination"),
    "order below": (cell_changed(run_order=-1), "run order"),
    "order beyond": (cell_changed(run_order=MAX_ORDER + 1), "run order"),
    "two in one place": (cell_changed(column=1), "lies there already"),
    "endless baseline": (cell_changed(baseline={"gloss20": float("inf")}), "impossible"),
    "computed baseline": (cell_changed(baseline={"removed": 1.0}), "no reading before work"),
    "unknown baseline": (cell_changed(baseline={"smell": 1.0}), "smell"),
    "cell zero": (reading_changed(cell_id=0), "no such cell"),
    "cell beyond": (reading_changed(cell_id=41), "no such cell"),
    "value": (reading_changed(value=-1.0), "impossible"),
    "measurand": (reading_changed(measurand="smell"), "smell"),
    "twice": (lambda d: replace(d, readings=(d.readings[0], *d.readings)), "stands twice"),
    "panel twice": (
        lambda d: replace(d, panels=(d.panels[0], replace(d.panels[1], name=d.panels[0].name))),
        "stands twice",
    ),
    "code twice": (
        lambda d: replace(
            d,
            combinations=(
                d.combinations[0],
                replace(d.combinations[1], code=d.combinations[0].code),
                *d.combinations[2:],
            ),
        ),
        "stands twice",
    ),
    "strike of nothing": (lambda d: replace(d, strikes=(Strike(0, True, "x", ""),)), "no such"),
    "strike beyond": (lambda d: replace(d, strikes=(Strike(999, True, "x", ""),)), "no such"),
    "strike without reason": (lambda d: replace(d, strikes=(Strike(1, True, " ", ""),)), "reason"),
    "long reason": (lambda d: replace(d, strikes=(Strike(1, True, "x" * 4001, ""),)), "letters"),
}


@pytest.mark.parametrize("name", FAULTS)
def test_what_typing_could_not_make_no_file_brings(name):
    change, said = FAULTS[name]
    draft = motions()
    assert check_draft(draft) is None
    fault = check_draft(change(draft))
    assert fault is not None
    assert said in fault.rule


@pytest.mark.parametrize(
    "change",
    [
        cell_changed(run_order=0),
        cell_changed(run_order=MAX_ORDER),
        cell_changed(combination_id=None),
        cell_changed(baseline={"gloss20": 0.0}),
        cell_changed(baseline={"gloss20": 2000.0}),
        reading_changed(cell_id=40, ordinal=77),
        lambda d: replace(d, strikes=(Strike(1, True, "hair", ""), Strike(1, False, "", ""))),
        lambda d: replace(d, strikes=(Strike(len(d.readings), True, "x" * 4000, ""),)),
    ],
)
def test_what_is_just_possible_is_taken(change):
    assert check_draft(change(motions())) is None


@pytest.mark.parametrize("table", MOST)
def test_a_trial_has_a_largest_size(table):
    assert too_many(table, MOST[table]) == ""
    assert "split the file" in too_many(table, MOST[table] + 1)


HEAD = (
    "panel,hardness,paint,cell,row,column,combo,pad,compound,machine,passes,operator,reader,meter,"
    "day,run_order,stage,reading,scale,gloss20,haze,gloss20_before,gloss20_baseline"
)
LINES = (
    "Heron,soft,Reed,K1,1,1,A,Fen firm,Grist 6,Mill rotary,6,Ivo,Lise,Glim,2026-09-05,7,1,1,log,"
    "84.1,11.1,61.0,60.0",
    "Heron,soft,Reed,K1,1,1,A,Fen firm,Grist 6,Mill rotary,6,Ivo,Lise,Glim,2026-09-05,7,1,2,log,"
    "84.2,11.2,62.0,61.0",
    "Heron,soft,Reed,K1,1,1,A,Fen firm,Grist 6,Mill rotary,6,Tam,Lise,Glim,2026-09-06,7,2,1,linear,"
    "88.1,3.1,,65.0",
    "Heron,soft,Reed,L3,2,3,B,Tussock wool,Silt 2,Dipper orbital,4,Tam,Ivo,Glim,2026-09-06,8,1,1,,"
    "80.0,,59.0,59.5",
    "Snipe,hard,,K2,1,2,B,Tussock wool,Silt 2,Dipper orbital,4,Tam,Ivo,Glim,2026-09-06,9,1,1,log,"
    "79.0,21.5,58.0,58.5",
)


def test_a_table_comes_out_cell_by_cell_as_it_stands(tmp_path):
    """Rows are not columns, baselines differ from line to line, scales and stages change."""
    file = tmp_path / "t.csv"
    file.write_text("\n".join([HEAD, *LINES]))
    table = read_table(file)
    mapping = guess_mapping(table.header)
    mapping["gloss20_before"] = "before:gloss20"
    mapping["gloss20_baseline"] = "baseline:gloss20"
    draft = build_draft(table, mapping, "t")
    panels = {p.id: p.name for p in draft.panels}
    codes = {c.id: c.code for c in draft.combinations}
    cells = {
        c.id: (panels[c.panel_id], c.row, c.column, codes[c.combination_id], c.run_order)
        for c in draft.cells
    }
    assert sorted(cells.values()) == [
        ("Heron", 0, 0, "A", 7),
        ("Heron", 1, 2, "B", 8),
        ("Snipe", 0, 1, "B", 9),
    ]
    named = {v[:3]: c for c, v in cells.items()}
    baseline = {cells[c.id][:3]: c.baseline for c in draft.cells}
    assert baseline["Heron", 0, 0] == {"gloss20": pytest.approx((60.0 + 61.0 + 65.0) / 3)}
    assert baseline["Heron", 1, 2] == {"gloss20": 59.5}
    found = {
        (r.cell_id, r.measurand, r.phase, r.stage, r.ordinal): (
            r.value,
            r.scale,
            r.operator,
            r.reader,
            r.meter,
            r.day,
        )
        for r in draft.readings
    }
    first, second, third = (named[k] for k in (("Heron", 0, 0), ("Heron", 1, 2), ("Snipe", 0, 1)))
    five, six = "2026-09-05", "2026-09-06"
    assert found == {
        (first, "gloss20", "after", 1, 1): (84.1, "", "Ivo", "Lise", "Glim", five),
        (first, "haze", "after", 1, 1): (11.1, "log", "Ivo", "Lise", "Glim", five),
        (first, "gloss20", "before", 1, 1): (61.0, "", "Ivo", "Lise", "Glim", five),
        (first, "gloss20", "after", 1, 2): (84.2, "", "Ivo", "Lise", "Glim", five),
        (first, "haze", "after", 1, 2): (11.2, "log", "Ivo", "Lise", "Glim", five),
        (first, "gloss20", "before", 1, 2): (62.0, "", "Ivo", "Lise", "Glim", five),
        (first, "gloss20", "after", 2, 1): (88.1, "", "Tam", "Lise", "Glim", six),
        (first, "haze", "after", 2, 1): (3.1, "linear", "Tam", "Lise", "Glim", six),
        (second, "gloss20", "after", 1, 1): (80.0, "", "Tam", "Ivo", "Glim", six),
        (second, "gloss20", "before", 1, 1): (59.0, "", "Tam", "Ivo", "Glim", six),
        (third, "gloss20", "after", 1, 1): (79.0, "", "Tam", "Ivo", "Glim", six),
        (third, "haze", "after", 1, 1): (21.5, "log", "Tam", "Ivo", "Glim", six),
        (third, "gloss20", "before", 1, 1): (58.0, "", "Tam", "Ivo", "Glim", six),
    }
    assert [(p.name, p.hardness, p.paint) for p in draft.panels] == [
        ("Heron", "soft", "Reed"),
        ("Snipe", "hard", ""),
    ]
    stage = next(c for c in draft.combinations if c.code == "A").stages[0]
    assert (stage.pad, stage.compound, stage.machine, stage.passes) == (
        "Fen firm",
        "Grist 6",
        "Mill rotary",
        6,
    )


@pytest.mark.parametrize(
    ("word", "meaning"),
    [
        ("soft", "soft"),
        ("WEICH", "soft"),
        ("m", "medium"),
        ("mittel", "medium"),
        ("Hart", "hard"),
        ("h", "hard"),
        ("1", ""),
        ("hardish", ""),
        ("softer", ""),
    ],
)
def test_the_files_own_words_for_hardness(tmp_path, word, meaning):
    file = tmp_path / "t.csv"
    file.write_text(f"panel,hardness,cell,combo,gloss20\nP,{word},K1,A,80\n")
    table = read_table(file)
    mapping = guess_mapping(table.header)
    if meaning:
        assert unknown_classes(table, mapping, {}) == []
        assert build_draft(table, mapping, "t").panels[0].hardness == meaning
    else:
        assert unknown_classes(table, mapping, {}) == [word.lower()]
        with pytest.raises(LoamError, match="soft, medium or hard"):
            build_draft(table, mapping, "t")
        said = build_draft(table, mapping, "t", words={word.lower(): "hard"})
        assert said.panels[0].hardness == "hard"


def test_cells_lie_where_their_names_say(tmp_path):
    file = tmp_path / "t.csv"
    rows = [f"P,soft,{code},A,80" for code in ("L2", "K1", "M4")]
    file.write_text("\n".join(["panel,hardness,cell,combo,gloss20", *rows]))
    table = read_table(file)
    draft = build_draft(table, guess_mapping(table.header), "t")
    assert [(c.row, c.column) for c in draft.cells] == [(1, 1), (0, 0), (2, 3)]
    assert (draft.panels[0].taping.rows, draft.panels[0].taping.columns) == (3, 4)


def test_a_panel_and_a_cell_know_their_names():
    assert Cell(1, 1, 2, 4).code == "M5"
    with pytest.raises(ValueRefused, match="not a hardness class"):
        Panel(1, 1, "P", "firm", Taping(720, 560, 2, 2, 0, 0))
    assert set(DIRECTION) == set(BY_KEY)
