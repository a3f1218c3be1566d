"""What each column of a file means, guessed from its name and changed by hand."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from loam.core.readings import KINDS, kind_of

LEAVE_OUT = ""
AFTER, BEFORE, BASELINE = "after", "before", "baseline"


@dataclass(frozen=True)
class Role:
    """A meaning that a column can have.

    Attributes
    ----------
    key : str
        Stable name; ``after:gloss20`` and the like for readings.
    label : str
        Words on screen.
    columns : tuple of str
        Names that suggest it, lower case.
    needed : bool
        A file without it is refused.
    """

    key: str
    label: str
    columns: tuple[str, ...]
    needed: bool = False


_PLAIN: tuple[Role, ...] = (
    Role("panel", "panel", ("panel", "panel_id", "panel name", "board"), True),
    Role("hardness", "hardness class", ("hardness", "hardness_class", "clear", "class"), True),
    Role(
        "combination",
        "combination",
        ("combo", "combination", "combination_code", "treatment"),
        True,
    ),
    Role("cell", "cell", ("cell", "cell_id", "cell code", "square")),
    Role("row", "row of the cell", ("cell_row", "row")),
    Role("column", "column of the cell", ("cell_col", "cell_column", "col", "column")),
    Role(
        "reading", "number of the reading", ("reading", "reading_no", "repeat", "replicate", "no")
    ),
    Role("operator", "operator", ("operator", "worked_by", "by", "person")),
    Role("day", "day", ("day", "date", "session")),
    Role("run_order", "run order", ("run_order", "order", "run")),
    Role("stage", "stages done", ("stage", "stages", "stages_done")),
    Role("scale", "haze scale", ("haze_scale", "scale")),
    Role("pad", "pad", ("pad",)),
    Role("compound", "compound", ("compound", "product", "polish")),
    Role("machine", "machine", ("machine", "tool")),
    Role("passes", "section passes", ("passes", "section_passes")),
)


def _reading_roles() -> list[Role]:
    roles = []
    for kind in KINDS:
        if kind.derived:
            continue
        roles.append(Role(f"{AFTER}:{kind.key}", kind.label, kind.columns))
        per_row = kind.key == "film"
        before = kind.before_columns
        roles.append(
            Role(f"{BEFORE}:{kind.key}", f"{kind.label} before work", before if per_row else ())
        )
        if not per_row:
            roles.append(Role(f"{BASELINE}:{kind.key}", f"{kind.label} before, cell mean", before))
    return roles


ROLES: tuple[Role, ...] = (*_PLAIN, *_reading_roles())
ROLE_BY_KEY: dict[str, Role] = {role.key: role for role in ROLES}


def guess_mapping(header: Sequence[str]) -> dict[str, str]:
    """Guess what each column means.

    Returns
    -------
    dict
        Column name to role key; ``""`` leaves a column out. No role is given twice.
    """
    by_name = {name: role.key for role in reversed(ROLES) for name in role.columns}
    mapping: dict[str, str] = {}
    taken: set[str] = set()
    for column in header:
        low = column.strip().lower()
        role = by_name.get(low) or by_name.get(low.replace(" ", "_").replace("-", "_"), LEAVE_OUT)
        if role in taken:
            role = LEAVE_OUT
        taken.add(role)
        mapping[column] = role
    return mapping


def mapping_problems(mapping: Mapping[str, str]) -> list[str]:
    """Say what a mapping lacks, in plain sentences; empty when it can be used."""
    used = [role for role in mapping.values() if role]
    said = [
        f"No column is the {role.label} yet."
        for role in ROLES
        if role.needed and role.key not in used
    ]
    if "cell" not in used and not {"row", "column"} <= set(used):
        said.append("No column says which cell: choose the cell, or its row and column.")
    if not any(role.startswith(f"{AFTER}:") for role in used):
        said.append("No column holds a reading after work yet.")
    for role in sorted({r for r in used if used.count(r) > 1}):
        label = ROLE_BY_KEY[role].label
        said.append(f"Two columns are the {label}: leave one of them out.")
    return said


def signature(header: Sequence[str]) -> str:
    """Return a key under which a mapping is remembered for files with this header."""
    return "mapping:" + "\x1f".join(name.strip().lower() for name in header)


def reading_role(role: str) -> tuple[str, str] | None:
    """Split a reading's role into phase and measurand; None for other roles."""
    phase, colon, key = role.partition(":")
    return (phase, kind_of(key).key) if colon else None
