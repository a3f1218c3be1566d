"""What each column of a file means, guessed from its name and changed by hand."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache

from loam.core.readings import KINDS, kind_of
from loam.core.record.panel_facts import PANEL_FACTS, column_of
from loam.core.stage_settings import SETTINGS
from loam.core.trial import BETWEEN, BETWEEN_WIPES
from loam.store.other_words import named, plain_name

LEAVE_OUT = ""
AFTER, UNWIPED, BEFORE, BASELINE = "after", "unwiped", "before", "baseline"
DAY, WASH = "day", "wash"
_NUMBERED = re.compile(r"^(.*?)[ _.\-]*(?:\(|#|r|no)?(\d{1,2})\)?$")


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
    several : bool
        Several columns may have it: readings that stand side by side.
    about : str
        What a reading says beside its figure, by this key; "" for what is looked at by itself.
    whole : bool
        Of that: whether it is counted, and no name.
    """

    key: str
    label: str
    columns: tuple[str, ...]
    needed: bool = False
    several: bool = False
    about: str = ""
    whole: bool = False


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
    Role("operator", "who worked it", ("operator", "worked_by", "by", "person")),
    Role("reader", "who read it", ("reader", "read_by")),
    Role("meter", "meter", ("meter", "gauge", "instrument")),
    Role("day", "day", ("day", "date", "session")),
    Role("run_order", "run order", ("run_order", "order", "run")),
    Role("stage", "stages done", ("stage", "stages", "stages_done")),
    Role("scale", "haze scale", ("haze_scale", "scale")),
    Role(
        "read_order",
        "order in which the meter read",
        ("read_order",),
        about="read_order",
        whole=True,
    ),
    Role("pad_id", "the very pad", ("pad_id",), about="pad_id"),
    Role(
        "worked_sets",
        "sets on that pad",
        ("worked_sets", "pad_sets"),
        about="worked_sets",
        whole=True,
    ),
    Role("removed_by", "what the residue was wiped off with", ("removed_by",), about="wipe"),
    Role("defects_scale", "how defects were found", ("defects_scale",)),
    Role("struck", "why it does not count", ("struck", "struck_because")),
    Role("mark", "mark of the reading", ("mark",)),
    Role("name", "name of the combination", ("combination_name", "combo_name")),
    Role("control", "kind of control", ("control",)),
    Role("pad", "pad", ("pad",)),
    Role("compound", "compound", ("compound", "product", "polish")),
    Role("machine", "machine", ("machine", "tool")),
    Role("passes", "section passes", ("passes", "section_passes")),
    Role("dial", "speed dial", ("dial", "speed_dial", "speed")),
    Role("force", "force in N", ("force_n", "force")),
    Role("pad_material", "pad material", ("pad_material",)),
    Role("compound_class", "class of compound", ("compound_class",)),
    Role("machine_kind", "motion of the machine", ("machine_kind", "motion")),
    *(Role(s.key, s.meaning, (s.headed, *s.names)) for s in SETTINGS),
    Role("disc", "sanding disc", ("disc", "sanding_disc")),
    Role("wipes", "wipes after each stage", ("wipes",)),
    Role("paint", "paint", ("paint",)),
    Role("width_mm", "panel width, mm", ("panel_width_mm",)),
    Role("height_mm", "panel height, mm", ("panel_height_mm",)),
    Role("rows", "rows of cells", ("panel_rows",)),
    Role("columns", "columns of cells", ("panel_columns",)),
    Role("gap_mm", "tape gap, mm", ("tape_gap_mm",)),
    Role("margin_mm", "margin, mm", ("margin_mm",)),
    *(Role(column_of(f), f"panel: {f.label.lower()}", (column_of(f),)) for f in PANEL_FACTS),
)


SAID: tuple[Role, ...] = tuple(role for role in _PLAIN if role.about)
"""What a reading may say beside its figure."""


def _reading_roles() -> list[Role]:
    roles = []
    for kind in KINDS:
        if kind.derived:
            continue
        roles.append(Role(f"{AFTER}:{kind.key}", kind.label, kind.columns, several=True))
        per_row = kind.one_by_one
        each = (f"{kind.key}_before_reading",)
        before = kind.before_columns
        roles.append(
            Role(
                f"{BEFORE}:{kind.key}",
                f"{kind.label} before work",
                (*before, *each) if per_row else each,
                several=True,
            )
        )
        roles.append(
            Role(
                f"{UNWIPED}:{kind.key}",
                f"{kind.label} before the wipe",
                tuple(f"{c}_unwiped" for c in (kind.key, *kind.columns)),
                several=True,
            )
        )
        for phase, said, end in (
            (DAY, "a day later", "next_day"),
            (WASH, "after a wash", "after_wash"),
            *((p, f"after stage {p[5:]}", f"after_stage_{p[5:]}") for p in BETWEEN),
            *((p, f"after wipe {p[4:]}", f"after_wipe_{p[4:]}") for p in BETWEEN_WIPES),
        ):
            names = tuple(f"{c}_{end}" for c in (kind.key, *kind.columns))
            roles.append(Role(f"{phase}:{kind.key}", f"{kind.label} {said}", names, several=True))
        if not per_row:
            names = tuple(dict.fromkeys((*before, f"{kind.key}_baseline")))
            roles.append(Role(f"{BASELINE}:{kind.key}", f"{kind.label} before, cell mean", names))
    return roles


def _scale_roles() -> list[Role]:
    """Return the meanings of columns that hold the scale of a measurand of other packages."""
    known = {role.key for role in _PLAIN}
    return [
        Role(k.scale_column, f"scale of {k.label}", (f"{k.key}_scale",))
        for k in KINDS
        if k.scale_column and k.scale_column not in known
    ]


ROLES: tuple[Role, ...] = (*_PLAIN, *_reading_roles(), *_scale_roles())
ROLE_BY_KEY: dict[str, Role] = {role.key: role for role in ROLES}


def guess_mapping(header: Sequence[str]) -> dict[str, str]:
    """Guess what each column means.

    Readings that stand side by side (gloss20_1, gloss20_2) are recognised by their numbers.

    Returns
    -------
    dict
        Column name to role key; ``""`` leaves a column out. Only a reading is given twice.
    """
    by_name = {name: role.key for role in reversed(ROLES) for name in role.columns}
    abroad = _abroad()
    mapping: dict[str, str] = {}
    taken: set[str] = set()

    def known(name: str) -> str:
        joined = name.replace(" ", "_").replace("-", "_")
        return by_name.get(name) or by_name.get(joined) or abroad.get(plain_name(name), LEAVE_OUT)

    for column in header:
        role = known(column.strip().lower())
        if role in taken:
            role = LEAVE_OUT
        taken.add(role)
        mapping[column] = role
    for column in header:
        numbered = _NUMBERED.match(column.strip().lower())
        if mapping[column] == LEAVE_OUT and numbered:
            role = known(numbered.group(1).strip(" _.-"))
            if role and ROLE_BY_KEY[role].several and mapping.get(numbered.group(1)) != role:
                mapping[column] = role
    return mapping


@cache
def _abroad() -> dict[str, str]:
    """Return what headings in other languages mean; the first of two meanings counts."""
    roles: dict[str, tuple[str, str]] = {}
    for kind in KINDS:
        if not kind.derived:
            before = BEFORE if kind.one_by_one else BASELINE
            roles[kind.key] = (f"{AFTER}:{kind.key}", f"{before}:{kind.key}")
    found: dict[str, str] = {}
    for name, role in named(roles):
        found.setdefault(name, role)
    return found


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
    for key in sorted({r for r in used if used.count(r) > 1}):
        role = ROLE_BY_KEY[key]
        if not role.several:
            said.append(f"Two columns are the {role.label}: leave one of them out.")
        elif "reading" in used:
            said.append(
                f"Several columns are {role.label}, so none can be the number of the reading."
            )
    return said


def signature(header: Sequence[str]) -> str:
    """Return a key under which a mapping is remembered for files with this header."""
    names = "\x1f".join(name.strip().lower() for name in header)
    return "mapping:" + hashlib.sha256(names.encode("utf-8", "replace")).hexdigest()[:24]


def reading_role(role: str) -> tuple[str, str] | None:
    """Split a reading's role into phase and measurand; None for other roles."""
    phase, colon, key = role.partition(":")
    return (phase, kind_of(key).key) if colon else None
