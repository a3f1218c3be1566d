"""What can be chosen in a folder, and what of a file may join a standing trial."""

import os
from dataclasses import replace

import pytest

from loam.app.presenters.files import entries
from loam.app.presenters.incoming import join, matching_roles
from loam.core.errors import LoamError, ValueRefused
from loam.demo.scenario import motions


def test_only_tables_packages_and_folders_are_offered_newest_first(tmp_path):
    for age, name in enumerate(["new.csv", "old.csv", "notes.odt", ".hidden.csv"]):
        (tmp_path / name).write_text("a")
        os.utime(tmp_path / name, (1e9 - age, 1e9 - age))
    (tmp_path / "datapackage.json").write_text("{}")
    (tmp_path / "Bench").mkdir()
    (tmp_path / "named.csv").mkdir()
    titles = [e.title for e in entries(tmp_path)]
    assert titles == ["datapackage.json", "new.csv", "old.csv", "Bench/", "named.csv/", ".."]


def test_a_folder_that_is_none_is_told(tmp_path):
    with pytest.raises(LoamError, match="cannot be opened"):
        entries(tmp_path / "gone")


def test_a_cell_that_got_nothing_takes_no_reading_of_a_combination():
    draft = motions()
    bare = [replace(c, combination_id=None) for c in draft.cells]
    with pytest.raises(ValueRefused, match="got nothing here and"):
        join(draft, draft.panels, bare, draft.combinations, {})


@pytest.mark.parametrize(
    ("typed", "first"),
    [
        ("panel", "panel"),
        ("run order", "run order"),
        ("haze", "haze"),
        ("pad", "pad"),
        ("pad material", "pad material"),
        ("who", "who worked it"),
        ("doi", "clarity"),
    ],
)
def test_what_is_typed_finds_the_meaning_that_is_called_so(typed, first):
    assert matching_roles(typed)[0].label == first
