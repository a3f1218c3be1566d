"""Who and what may be doubted: panels, people, readers, pads, a day's readings, order and place.

Each suspect is a covariate of the readings of every measurand, with the ways in which it could
move them; `find` tests them.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from loam.core.doubts.probe import Probe
from loam.core.doubts.records import Cells, Extras
from loam.core.doubts.values import CLASS, DRIFT, HAND, ORDER, PAD, POSITION, READS
from loam.core.readings import KINDS, REMOVED, kind_of
from loam.core.snapshot import FloatArray, Snapshot

_DOUBTED = {k.key: k.doubted for k in KINDS if k.doubted is not None}
LESS = {m: d.harder for m, d in _DOUBTED.items()}
FADE = {m: d.faded for m, d in _DOUBTED.items()}
HEAVY = {m: d.heavy for m, d in _DOUBTED.items()}
_METERED = tuple(m for m, d in _DOUBTED.items() if d.drifts)
LEAST_CELLS = 4


@dataclass(frozen=True)
class Suspect:
    """A covariate of each measurand's units, and the ways in which it could move them."""

    kind: str
    subject: str
    x: Mapping[str, FloatArray]
    ways: tuple[Mapping[str, float] | None, ...]
    panels: frozenset[int] = frozenset()
    cells: frozenset[int] = frozenset()
    by_day: bool = False


@dataclass(frozen=True)
class Looked:
    """A trial that is looked through."""

    snapshot: Snapshot
    extras: Extras
    probes: Mapping[str, Probe]
    cells: Mapping[str, Cells]


def suspects_of(trial: Looked) -> dict[str, list[Suspect]]:
    """Return every suspect of a trial that its readings can say anything of, by kind."""
    found: dict[str, list[Suspect]] = {}
    for suspect in (
        *_panels(trial),
        *_people(trial),
        *_readers(trial),
        *_pads(trial),
        *_drifts(trial),
        *_orders(trial),
    ):
        if suspect.x:
            found.setdefault(suspect.kind, []).append(suspect)
    return found


class _OnPanel(Mapping[str, FloatArray]):
    """The units of one panel, made when they are asked for: many panels would fill the memory."""

    def __init__(self, cells: Mapping[str, Cells], panel: int, keys: Iterable[str]) -> None:
        self._cells, self._panel, self._keys = cells, panel, tuple(keys)

    def __getitem__(self, key: str) -> FloatArray:
        return np.asarray(self._cells[key].panel == self._panel, float)

    def __iter__(self) -> Iterator[str]:
        return iter(self._keys)

    def __len__(self) -> int:
        return len(self._keys)


def _panels(trial: Looked) -> Iterable[Suspect]:
    panels = trial.snapshot.panels
    of_class = Counter(p.hardness for p in panels)
    for panel in panels:
        if of_class[panel.hardness] < 2:
            continue
        x = _OnPanel(trial.cells, panel.id, [m for m in trial.cells if m in LESS])
        free = [m for m, v in x.items() if trial.probes[m].free(v)]
        x = _OnPanel(trial.cells, panel.id, free)
        more = {m: -s for m, s in LESS.items()}
        ways = {"soft": (LESS,), "hard": (more,)}.get(panel.hardness, (LESS, more))
        yield Suspect(CLASS, panel.name, x, ways, panels=frozenset({panel.id}))


def _people(trial: Looked) -> Iterable[Suspect]:
    columns = trial.snapshot.columns
    for code, name in enumerate(columns.operators):
        if not name:
            continue
        x, own = {}, set()
        for m, probe in trial.probes.items():
            mine = columns.operator[probe.rows] == code
            if mine.any() and not mine.all() and probe.free(mine.astype(float)):
                x[m] = mine.astype(float)
                own |= set(trial.cells[m].cell[mine].tolist())
        yield Suspect(HAND, name, x, (HEAVY,), cells=frozenset(own))


def _readers(trial: Looked) -> Iterable[Suspect]:
    """Who held the meter, where that is not who worked: a loss of film is its own reader's both."""
    columns = trial.snapshot.columns
    for code, name in enumerate(columns.readers):
        if not name:
            continue
        x, own = {}, set()
        for m, probe in trial.probes.items():
            reader, worker = columns.reader[probe.rows], columns.operator[probe.rows]
            mine = reader == code
            if m == REMOVED.key or not mine.any() or mine.all():
                continue
            alone = np.unique(worker[mine])
            if alone.size == 1 and (mine == (worker == alone[0])).all():
                continue  # who worked and who read cannot be told apart
            if probe.free(mine.astype(float)):
                x[m] = mine.astype(float)
                own |= set(trial.cells[m].cell[mine].tolist())
        yield Suspect(READS, name, x, (None,), cells=frozenset(own))


def _pads(trial: Looked) -> Iterable[Suspect]:
    extras = trial.extras
    if (extras.pad >= 0).any():
        for code, name in enumerate(extras.pads):
            yield from _fading(trial, code, name)
        return
    yield from _off_days(trial)


def _fading(trial: Looked, code: int, name: str) -> Iterable[Suspect]:
    """A pad whose cut falls from set to set."""
    x, own = {}, set()
    for m, probe in trial.probes.items():
        rows = probe.rows
        mine = (trial.extras.pad[rows] == code) & np.isfinite(trial.extras.sets[rows])
        sets = trial.extras.sets[rows]
        cells = trial.cells[m].cell[mine]
        if np.unique(cells).size < LEAST_CELLS or np.unique(sets[mine]).size < 3:
            continue
        value = np.where(mine, sets - sets[mine].mean(), 0.0)
        if probe.free(value):
            x[m] = value
            own |= set(cells.tolist())
    yield Suspect(PAD, name, x, (FADE,), cells=frozenset(own))


def _off_days(trial: Looked) -> Iterable[Suspect]:
    """Without pads on record: a combination that does less on one day than on the others."""
    columns = trial.snapshot.columns
    if sum(bool(d) for d in columns.days) < 2:
        return
    for combination in trial.snapshot.combinations:
        own = frozenset(c.id for c in trial.snapshot.cells if c.combination_id == combination.id)
        for code, day in enumerate(columns.days):
            x, there = {}, set()
            for m, probe in trial.probes.items():
                mine = np.isin(trial.cells[m].cell, list(own))
                today = columns.day[probe.rows] == code
                both = (mine & today).astype(float)
                if both.any() and (mine & ~today).any() and probe.free(both):
                    x[m] = both
                    there |= set(trial.cells[m].cell[both > 0].tolist())
            if day and x:
                yield Suspect(
                    PAD,
                    f"{combination.code} on {day}",
                    x,
                    (FADE,),
                    cells=frozenset(there),
                    by_day=True,
                )


def _drifts(trial: Looked) -> Iterable[Suspect]:
    columns, order = trial.snapshot.columns, trial.extras.order
    if not np.isfinite(order).any():
        return
    for m, probe in trial.probes.items():
        if m not in _METERED:
            continue
        rows = probe.data.rows
        assert rows is not None
        for code in np.unique(columns.day[rows]):
            today = (columns.day[rows] == code) & np.isfinite(order[rows])
            if np.unique(columns.cell[rows[today]]).size < LEAST_CELLS:
                continue
            own = order[rows]
            spread = float(own[today].max() - own[today].min())
            if spread <= 0.0:
                continue
            x = np.where(today, (own - own[today].mean()) / spread, 0.0)
            day = columns.days[int(code)]
            name = f"{kind_of(m).label} on {day}" if day else kind_of(m).label
            yield Suspect(DRIFT, name, {m: probe.by_unit(x)}, (None,))


def _orders(trial: Looked) -> Iterable[Suspect]:
    def each(kind: str, subject: str, of: Callable[[Cells], FloatArray]) -> Suspect:
        x = {m: of(cells) for m, cells in trial.cells.items()}
        x = {m: v for m, v in x.items() if np.isfinite(v).all() and trial.probes[m].free(v)}
        return Suspect(kind, subject, x, (None,))

    yield each(ORDER, "order of work", lambda c: _within(c.run, c.panel))
    yield each(POSITION, "rim of the panels", lambda c: c.edge)
    yield each(POSITION, "top to bottom", lambda c: _within(c.row, c.panel))
    yield each(POSITION, "left to right", lambda c: _within(c.column, c.panel))


def _within(values: FloatArray, groups: np.ndarray) -> FloatArray:
    """Return values from the middle of their group, by its range."""
    found = np.array(values, float)
    for g in np.unique(groups):
        own = groups == g
        low, high = values[own].min(), values[own].max()
        found[own] = (values[own] - 0.5 * (low + high)) / (high - low) if high > low else 0.0
    return found
