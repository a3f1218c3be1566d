"""What two workshops have changed, each otherwise, in words."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from loam.core.matter import matters
from loam.core.readings import BY_KEY, kind_of
from loam.core.record import CHOICES
from loam.core.record.panel_facts import facts_said
from loam.core.text import listed, some
from loam.core.words.verdict import matters_words
from loam.store.draft import TrialDraft
from loam.store.facts_text import facts_of, value_of

ABSENT, AWAY = "not there", "put away"
Say = Callable[[Any, TrialDraft], str]


@dataclass(frozen=True)
class Differs:
    """What both have changed, each otherwise.

    Attributes
    ----------
    key : str
        The register.
    what, mine, theirs : str
        In words.
    """

    key: str
    what: str
    mine: str
    theirs: str

    def __str__(self) -> str:
        return f"{self.what}: here {self.mine}, in the file {self.theirs}"


def differs(key: str, a: Any, b: Any, mine: TrialDraft, theirs: TrialDraft) -> Differs:
    """Say what both have changed."""
    sort, _, rest = key.partition(":")
    what, say = _WORDS[sort](rest, mine, theirs)
    if sort in _FIELDS and isinstance(a, tuple) and isinstance(b, tuple):
        one, other = _only_what_differs(sort, a, b)
        return Differs(key, what, one, other)
    return Differs(key, what, say(a, mine), say(b, theirs))


def _only_what_differs(sort: str, a: tuple[Any, ...], b: tuple[Any, ...]) -> tuple[str, str]:
    said: tuple[list[str], list[str]] = ([], [])
    for name, one, other in zip(_FIELDS[sort], a, b, strict=True):
        if one != other:
            for words, value in zip(said, (one, other), strict=True):
                words.append(f"{name} {_value(name, value)}".strip())
    return ", ".join(said[0]), ", ".join(said[1])


def _value(name: str, value: Any) -> str:
    if name == "stages":
        return ", then ".join(stage.words() for stage in value) or "none"
    if name == "what is read":
        return listed([kind_of(m).label if m in BY_KEY else m for m in value])
    if name == "facts":
        known = facts_said(facts_of(value))
        return ", ".join(f"{f.label.lower()} {said}" for f, said in known) or "not known"
    if name in ("film", "outline"):
        return "as recorded there" if value not in ("", "{}") else "not recorded"
    return f"“{value}”" if isinstance(value, str) else f"{value:g}"


_FIELDS: dict[str, tuple[str, ...]] = {
    "trial": ("called", "asks", "what is read", "readings a cell", "seed", "note"),
    "panel": (
        "called",
        "hardness",
        "paint",
        "width mm",
        "height mm",
        "rows",
        "columns",
        "gap mm",
        "margin mm",
        "film",
        "outline",
        "facts",
    ),
    "combination": ("letter", "called", "control", "stages"),
}


def _plain(value: Any, _draft: TrialDraft) -> str:
    if value in (ABSENT, AWAY):
        return str(value)
    return f"“{str(value)[:60]}”"


def _tuple_words(value: Any, draft: TrialDraft) -> str:
    if not isinstance(value, tuple):
        return _plain(value, draft)
    return ", ".join(str(part) for part in value if part not in ("", (), "{}"))[:100]


def _cell_words(value: Any, draft: TrialDraft) -> str:
    if not isinstance(value, tuple):
        return _plain(value, draft)
    codes = {
        draft.beside("combination", "uid", i): c.code for i, c in enumerate(draft.combinations)
    }
    order = f", no. {value[1]}" if value[1] is not None else ""
    return f"{codes.get(value[0], 'nothing')}{order}"


def _place(uid: str, drafts: Iterable[TrialDraft]) -> str:
    panel, _, rest = uid.partition(".")
    for draft in drafts:
        for i, p in enumerate(draft.panels):
            if draft.beside("panel", "uid", i) == panel:
                row, _, column = rest.partition(".")
                cell = next(
                    (
                        c
                        for c in draft.cells
                        if c.panel_id == p.id
                        and (c.row + 1, c.column + 1) == (int(row), int(column))
                    ),
                    None,
                )
                return f"{p.name} {cell.code}" if cell is not None else p.name
    return "a cell"


def _named(uid: str, drafts: Iterable[TrialDraft]) -> str:
    for draft in drafts:
        for i, p in enumerate(draft.panels):
            if draft.beside("panel", "uid", i) == uid:
                return f"panel {p.name}"
        for i, c in enumerate(draft.combinations):
            if draft.beside("combination", "uid", i) == uid:
                return f"combination {c.code}"
    return "something put away"


def _choice_words(key: str) -> Say:
    """Return what says a choice in words."""

    def say(value: Any, draft: TrialDraft) -> str:
        if value in (ABSENT, AWAY):
            return "nothing chosen"
        found = value_of(value)
        said = _PLAIN[key](found) if key in _PLAIN else ""
        return said or f"chosen {_short(str(value))}"

    return say


def _matters(found: Any) -> str:
    if not isinstance(found, dict):
        return ""
    parts = [
        f"{kind_of(m).label} {matters_words(matters(kind_of(m), v), kind_of(m))}"
        for m, v in sorted(found.items())
        if m in BY_KEY and isinstance(v, int | float)
    ]
    return ", ".join(parts)


def _doubts(found: Any) -> str:
    names = (
        [str(d.get("subject", "")) for d in found.values() if isinstance(d, dict)]
        if (isinstance(found, dict))
        else []
    )
    return f"taken into account: {some(names)}" if names else "none taken into account"


def _rules(found: Any) -> str:
    if not isinstance(found, dict):
        return ""
    turn, people = found.get("turn", 0), found.get("people", [])
    said = f"layout no. {turn + 1}" if isinstance(turn, int) else "a layout"
    who = f", worked by {some([str(p) for p in people])}" if people else ""
    locked = found.get("locked", [])
    stay = f", {len(locked)} cells stay" if isinstance(locked, list) and locked else ""
    return said + who + stay


def _short(text: str) -> str:
    return text if len(text) <= 80 else f"{text[:77]}…"


_PLAIN: dict[str, Callable[[Any], str]] = {
    "matters": _matters,
    "doubts": _doubts,
    "plan": _rules,
    "left_out": lambda found: "left out" if found is True else "they count",
    "looks": lambda found: f"{found} times" if isinstance(found, int) else "",
}

_WORDS: dict[str, Any] = {
    "trial": lambda _rest, *_drafts: ("the trial itself", _tuple_words),
    "panel": lambda rest, *drafts: (_named(rest, drafts), _tuple_words),
    "combination": lambda rest, *drafts: (_named(rest, drafts), _tuple_words),
    "cell": lambda rest, *drafts: (f"what {_place(rest, drafts)} got", _cell_words),
    "baseline": lambda rest, *drafts: (
        f"{rest.partition(':')[2]} before work of {_place(rest.partition(':')[0], drafts)}",
        _plain,
    ),
    "choice": lambda rest, *_drafts: (CHOICES.get(rest, rest), _choice_words(rest)),
}
