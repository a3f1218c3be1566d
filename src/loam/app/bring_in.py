"""Bringing files into a workshop without asking: what the window shows, headless doors do."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from pathlib import Path

from loam.core.errors import LoamError
from loam.core.text import plain
from loam.store.csv_readings import build_draft
from loam.store.datapackage import read_package
from loam.store.draft import TrialDraft
from loam.store.kit_table import is_kit
from loam.store.mapping import ROLE_BY_KEY, guess_mapping, signature
from loam.store.table_file import TableFile, read_table


def is_package(path: Path) -> bool:
    """Tell whether a path names a Data Package by its ending, or is the folder of one."""
    return path.suffix.lower() == ".zip" or path.name == "datapackage.json" or path.is_dir()


def trial_name(path: Path) -> str:
    """Return a name for the trial of a file: its stem, as far as it can be a name."""
    return plain(path.stem) or "readings"


def remembered(
    table: TableFile, guessed: Mapping[str, str], recall: Callable[[str, object], object]
) -> dict[str, str]:
    """Return what each column means: as it was chosen last time for such a header, else guessed."""
    mapping = dict(guessed)
    kept = recall(signature(table.header), {})
    if isinstance(kept, Mapping):
        mapping.update(
            {
                c: r
                for c, r in kept.items()
                if c in mapping and isinstance(r, str) and (not r or r in ROLE_BY_KEY)
            }
        )
    return mapping


def read_file(
    path: Path, progress: Callable[[float], None] | None = None, *, seed: int = 1
) -> TrialDraft:
    """Read a CSV or a Data Package into a trial, with the guessed meaning of its columns.

    Raises
    ------
    FileRefused
        With every rule broken; nothing is taken then.
    """
    if is_package(path):
        return read_package(path, progress)
    table = read_table(path, progress)
    if is_kit(table.header):
        raise LoamError(
            "This is a shelf, not readings.",
            where=path.name,
            todo="Bring it in from the window (Ctrl+I).",
            kept="Nothing was taken from it.",
        )
    draft = build_draft(table, guess_mapping(table.header), trial_name(path), progress)
    return replace(draft, trial=replace(draft.trial, seed=seed))
