"""A file without identities, or of an older format, as part of a trial: found by its names.

Panels are found by name, combinations by code, cells by what the file calls them or by place, and
readings by all that they say, so that a file that is brought in twice brings nothing twice.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import Any

from loam.core.errors import LoamError, ValueRefused
from loam.core.readings import kind_of
from loam.core.trial import Cell, Panel, Reading
from loam.store.draft import Strike, TrialDraft
from loam.store.identity import cell_uid, digest

_NEW = "Take the file in as a new trial, or mend it."
Said = tuple[Any, ...]


def as_part_of(mine: TrialDraft, draft: TrialDraft) -> TrialDraft:
    """Return a file as what it adds to a trial: the trial as it stands, with the file's readings.

    Raises
    ------
    LoamError
        When the file is of another trial.
    ValueRefused
        Naming the first cell that got something else here, or reading that says otherwise.
    """
    if draft.uid:
        raise LoamError(
            f"This file is of another trial, {draft.trial.name}.",
            todo="Bring it in without naming a trial.",
            kept="Nothing was joined.",
        )
    panels, places = _panels(mine, draft)
    combinations, codes = _combinations(mine, draft)
    cells, at = _cells(mine, draft, places, codes)
    grown = replace(mine, panels=panels.things, combinations=combinations.things, cells=cells)
    side = dict(mine.side)
    side["panel"] = panels.beside(mine.side["panel"])
    side["combination"] = combinations.beside(mine.side["combination"])
    grown = replace(grown, side=side, rest={}, images={})
    return _with_readings(grown, mine, draft, at)


class _More:
    """Things of a trial, and the identities of those that the file adds; these stand last."""

    def __init__(self, things: tuple[Any, ...]) -> None:
        self.things = things
        self.uids: list[str] = []
        self.names: list[str] = []

    def add(self, thing: Any, uid: str, name: str) -> None:
        """Add one."""
        self.things += (thing,)
        self.uids.append(uid)
        self.names.append(f"~{name}")

    def beside(self, side: Mapping[str, tuple[Any, ...]]) -> dict[str, tuple[Any, ...]]:
        """Return what stands beside all of them."""
        return {
            name: (*values, *(self.names if name == "made" else self.uids))
            for name, values in side.items()
        }


def _panels(mine: TrialDraft, draft: TrialDraft) -> tuple[_More, dict[int, int]]:
    found = _More(mine.panels)
    places: dict[int, int] = {}
    known = {p.name: p.id for p in mine.panels}
    for panel in draft.panels:
        if panel.name not in known:
            known[panel.name] = len(found.things) + 1
            uid = digest("panel", mine.uid, panel.name)
            found.add(replace(panel, id=known[panel.name]), uid, panel.name)
        elif mine.panels[known[panel.name] - 1].hardness != panel.hardness:
            here = mine.panels[known[panel.name] - 1].hardness
            raise ValueRefused(
                f"Panel {panel.name} is {here} here and {panel.hardness} in the file.", todo=_NEW
            )
        places[panel.id] = known[panel.name]
    return found, places


def _combinations(mine: TrialDraft, draft: TrialDraft) -> tuple[_More, dict[int | None, int]]:
    found = _More(mine.combinations)
    codes: dict[int | None, int] = {}
    known = {c.code: c.id for c in mine.combinations}
    for combination in draft.combinations:
        if combination.code not in known:
            known[combination.code] = number = len(found.things) + 1
            uid = digest("combination", mine.uid, combination.code)
            found.add(replace(combination, id=number), uid, combination.code)
        codes[combination.id] = known[combination.code]
    return found, codes


def _cells(
    mine: TrialDraft,
    draft: TrialDraft,
    places: Mapping[int, int],
    codes: Mapping[int | None, int],
) -> tuple[tuple[Cell, ...], dict[int, int]]:
    """Return the cells of the trial and the file's new ones, and where each of the file's lies."""
    cells, at = list(mine.cells), {}
    named = {(c.panel_id, c.code): c.id for c in mine.cells}
    lying = {(c.panel_id, c.row, c.column): c.id for c in mine.cells}
    new = {n for n in places.values() if n > len(mine.panels)}
    for i, cell in enumerate(draft.cells):
        panel, combination = places[cell.panel_id], codes.get(cell.combination_id)
        if panel in new:
            at[cell.id] = len(cells) + 1
            cells.append(replace(cell, id=at[cell.id], panel_id=panel, combination_id=combination))
            continue
        called = draft.called[i] if i < len(draft.called) else cell.code
        found = named.get((panel, called)) or lying.get((panel, cell.row, cell.column))
        if found is None:
            name = mine.panels[panel - 1].name
            raise ValueRefused(f"Panel {name} has no cell {called} in this trial.", todo=_NEW)
        _same(mine, cells[found - 1], combination, called)
        lacking = {m: v for m, v in cell.baseline.items() if m not in cells[found - 1].baseline}
        if lacking:
            before = {**cells[found - 1].baseline, **lacking}
            cells[found - 1] = replace(cells[found - 1], baseline=before)
        at[cell.id] = found
    return tuple(cells), at


def _same(mine: TrialDraft, cell: Cell, combination: int | None, called: str) -> None:
    """Refuse a cell that got something else here than the file says."""
    if combination is None or cell.combination_id == combination:
        return
    codes = {c.id: c.code for c in mine.combinations}
    here = codes.get(cell.combination_id or 0, "nothing")
    name = mine.panels[cell.panel_id - 1].name
    said = codes.get(combination, "something new")
    raise ValueRefused(
        f"Cell {called} of panel {name} got {here} here and {said} in the file.", todo=_NEW
    )


def _with_readings(
    grown: TrialDraft, mine: TrialDraft, draft: TrialDraft, at: Mapping[int, int]
) -> TrialDraft:
    panel = grown.side["panel"]["uid"]
    uid = {c.id: cell_uid(panel[c.panel_id - 1], c.row, c.column) for c in grown.cells}
    here: dict[Said, list[int]] = {}
    for r in mine.readings:
        here.setdefault(said_of(r), []).append(r.id)
    standing = _standing(mine)
    readings: list[Reading] = []
    uids: list[str] = []
    numbers: dict[int, int] = {}
    seen: Counter[Said] = Counter()
    for r in draft.readings:
        own = replace(r, id=len(readings) + 1, cell_id=at[r.cell_id])
        says = said_of(own)
        same = here.get(says, [])
        if seen[says] < len(same):
            found = same[seen[says]]
            uids.append(str(mine.beside("reading", "uid", found - 1)))
        else:
            _contradicts(own, standing, grown)
            uids.append(digest("line", uid[own.cell_id], *says[1:], seen[says]))
        seen[says] += 1
        numbers[r.id] = own.id
        readings.append(own)
    strikes, struck = list(_strikes(draft, numbers, uids)), []
    for entry in strikes:
        struck.append(digest("struck", uids[entry.reading_id - 1], entry.struck, entry.reason))
    kept = [
        i
        for i, entry in enumerate(strikes)
        if not _struck_already(mine, uids[entry.reading_id - 1], entry)
    ]
    side = {
        **grown.side,
        "reading": {"line": (None,) * len(uids), "uid": tuple(uids)},
        "strike": {
            "uid": tuple(struck[i] for i in kept),
            "made": tuple(strikes[i].at for i in kept),
        },
    }
    return replace(
        grown, readings=tuple(readings), strikes=tuple(strikes[i] for i in kept), side=side
    )


def said_of(r: Reading) -> Said:
    """Return what tells a reading from others, where it has no identity."""
    return (
        r.cell_id,
        r.measurand,
        r.phase,
        r.stage,
        r.ordinal,
        float(r.value).hex(),
        r.scale,
        r.operator,
        r.reader,
        r.day,
    )


def _standing(mine: TrialDraft) -> dict[Said, float]:
    """Return what stands at each place and number of a reading, by whom and on which day."""
    struck = {s.reading_id: s.struck for s in mine.strikes}
    return {
        (r.cell_id, r.measurand, r.phase, r.stage, r.ordinal, r.operator, r.reader, r.day): r.value
        for r in mine.readings
        if not struck.get(r.id)
    }


def _contradicts(r: Reading, standing: Mapping[Said, float], grown: TrialDraft) -> None:
    key = (r.cell_id, r.measurand, r.phase, r.stage, r.ordinal, r.operator, r.reader, r.day)
    value = standing.get(key)
    if value is None:
        return
    cell, kind = grown.cells[r.cell_id - 1], kind_of(r.measurand)
    panel: Panel = grown.panels[cell.panel_id - 1]
    raise ValueRefused(
        f"Reading {r.ordinal} of {kind.label} in {panel.name} {cell.code} is {value:g} here and"
        f" {r.value:g} in the file.",
        todo="Number it on, or strike the one here.",
        kept="Nothing was joined.",
    )


def _strikes(draft: TrialDraft, numbers: Mapping[int, int], uids: list[str]) -> Iterator[Strike]:
    for entry in draft.strikes:
        yield replace(entry, reading_id=numbers[entry.reading_id])


def _struck_already(mine: TrialDraft, uid: str, entry: Strike) -> bool:
    """Tell whether a reading that is here stands as the file says."""
    known = mine.side.get("reading", {}).get("uid", ())
    if uid not in known:
        return False
    number = known.index(uid) + 1
    last = [s for s in mine.strikes if s.reading_id == number]
    return bool(last and last[-1].struck == entry.struck)
