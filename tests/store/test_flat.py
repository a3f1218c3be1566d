"""A trial as a flat table: read back the same, whatever was taken beside what."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from loam.core.trial import Reading
from loam.demo.scenario import cut_and_finish, motions
from loam.store.csv_readings import build_draft
from loam.store.flat import flat_text
from loam.store.mapping import guess_mapping
from loam.store.table_file import read_table


def back(tmp_path, draft):
    file = tmp_path / "flat.csv"
    file.write_bytes(flat_text(draft).encode())
    table = read_table(file)
    return build_draft(table, guess_mapping(table.header), draft.trial.name)


def content(draft):
    """Return all readings of a draft with their cell by name, in no order."""
    panels = {p.id: p.name for p in draft.panels}
    cells = {c.id: (panels[c.panel_id], c.row, c.column) for c in draft.cells}
    struck = {}
    for s in draft.strikes:
        struck[s.reading_id] = s.reason if s.struck else ""
    return sorted(
        (
            cells[r.cell_id],
            r.measurand,
            r.phase,
            r.stage,
            r.ordinal,
            r.value,
            r.scale,
            r.operator,
            r.reader,
            r.meter,
            r.day,
            r.mark,
            struck.get(r.id, ""),
        )
        for r in draft.readings
    )


@pytest.mark.parametrize("make", [motions, cut_and_finish])
def test_a_trial_reads_back_the_same(tmp_path, make):
    draft = make()
    found = back(tmp_path, draft)
    assert content(found) == content(draft)
    assert [(p.name, p.hardness, p.paint, p.taping) for p in found.panels] == [
        (p.name, p.hardness, p.paint, p.taping) for p in draft.panels
    ]
    assert {c.code: (c.name, c.stages) for c in found.combinations} == {
        c.code: (c.name, c.stages) for c in draft.combinations
    }


READINGS = st.lists(
    st.tuples(
        st.sampled_from(["gloss20", "haze", "film"]),
        st.sampled_from(["before", "unwiped", "after"]),
        st.integers(1, 3),
        st.sampled_from(["", "log", "linear"]),
        st.sampled_from(["", "Ivo", "=1+1", "-2", "+x", "@y", "'z"]),
        st.floats(0, 100, allow_nan=False),
    ),
    max_size=14,
    unique_by=lambda r: (r[0], r[1], r[2]),
)


@given(READINGS)
def test_any_readings_side_by_side_come_apart_again(tmp_path_factory, readings):
    """Scales, persons that look like formulas, phases and numbers that do not line up."""
    draft = motions()
    made = tuple(
        Reading(i, 1, m, v, phase, n, 1, scale if m == "haze" else "", who, "", reader=who)
        for i, (m, phase, n, scale, who, v) in enumerate(readings, 1)
    )
    one = Reading(len(made) + 1, 2, "gloss20", 80.0)
    changed = replace(draft, readings=(*made, one), strikes=())
    found = back(tmp_path_factory.mktemp("f"), changed)
    assert content(found) == content(changed)


def test_text_like_a_formula_never_runs(tmp_path):
    draft = motions()
    panels = (replace(draft.panels[0], name='=cmd|"/c calc"!A1'), *draft.panels[1:])
    text = flat_text(replace(draft, panels=panels))
    for line in text.splitlines():
        assert not line.startswith(("=", "+", "-", "@", '"='))
    assert back(tmp_path, replace(draft, panels=panels)).panels[0].name == '=cmd|"/c calc"!A1'


def test_a_file_without_sizes_gets_cells_of_120_mm(tmp_path):
    """Two rows of three cells: 3 x 120 + 2 x 12 + 2 x 40 wide, 2 x 120 + 12 + 2 x 40 high."""
    file = tmp_path / "t.csv"
    rows = [f"P,soft,{row},{column},A,80" for row in (1, 2) for column in (1, 2, 3)]
    file.write_text("\n".join(["panel,hardness,row,column,combo,gloss20", *rows]))
    table = read_table(file)
    draft = build_draft(table, guess_mapping(table.header), "t")
    t = draft.panels[0].taping
    assert (t.width_mm, t.height_mm) == (464.0, 332.0)
    assert (t.cell_width_mm, t.cell_height_mm) == (pytest.approx(120.0), pytest.approx(120.0))
    assert "cells of 120 mm are assumed" in draft.notes[0]
