"""Doubts that are seen at once: starts that differ, gloss that falls back at the wipe, slips."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import numpy as np

from loam.core.doubts.probe import Probe
from loam.core.doubts.slips import slips
from loam.core.doubts.values import MASKING, SLIP, START, Doubt, Evidence, Moved
from loam.core.judging.starts import UNLIKE
from loam.core.masking import cells_masked, masking
from loam.core.readings import KINDS, kind_of
from loam.core.snapshot import Snapshot
from loam.core.trial import UNWIPED

_FLATTERED = tuple(k.key for k in KINDS if k.doubted is not None and k.doubted.masked)


def apart(probes: Mapping[str, Probe]) -> Iterable[Doubt]:
    """Return the measurand whose combinations start furthest apart, if by more than chance."""
    chance = {m: probe.model.starts.p for m, probe in probes.items()}
    key = min(chance, key=lambda m: chance[m], default=None)
    if key is None:
        return
    p = min(chance[key] * len(chance), 1.0)
    if p >= UNLIKE:
        return
    data = probes[key].data
    assert data.baseline is not None
    starts = probes[key].scale.to(data.baseline)
    named: dict[str, float] = {}
    for h in range(len(data.hardness.names)):
        here = (data.hardness.codes == h) & np.isfinite(starts)
        if not here.any():
            continue
        middle = float(starts[here].mean())
        for c, name in enumerate(data.combination.names):
            own = here & (data.combination.codes == c)
            if own.any():
                off = float(starts[own].mean()) - middle
                named[name] = max(named.get(name, 0.0), off, key=abs)
    name = max(named, key=lambda n: abs(named[n]))
    moved = Moved(named[name], 0.0, 1.0 if named[name] > 0 else 0.0)
    yield Doubt(START, name, max(p, 1e-15), (Evidence(key, moved),))


def masked(snapshot: Snapshot, alpha: float) -> Iterable[Doubt]:
    """Return the combinations whose gloss falls back at the wipe."""
    from scipy.special import ndtr, ndtri

    code = {c.id: c.code for c in snapshot.combinations}
    group = {c.id: code[c.combination_id] for c in snapshot.cells if c.combination_id in code}
    best: dict[str, Doubt] = {}
    for key in _FLATTERED:
        kind = kind_of(key)
        if not snapshot.columns.rows(key, UNWIPED).size:
            continue
        cells = cells_masked(
            snapshot.columns,
            key,
            group,
            higher_is_better=kind.higher_is_better,
            repeatability=kind.repeatability,
        )
        rows = masking(cells, kind.repeatability)
        for m in rows:
            p = max(1.0 - m.sure, 1e-15) * len(rows)
            error = (m.high - m.low) / (2.0 * float(ndtri(0.95)))
            if p >= alpha or m.masked < _least(key) or float(ndtr(-m.masked / error)) > p:
                continue
            evidence = (Evidence(key, Moved(-kind_sign(key) * m.masked, error, m.sure)),)
            own = frozenset(c.cell_id for c in cells if c.group == m.group)
            doubt = Doubt(MASKING, m.group, min(p, 1.0), evidence, cells=own)
            if m.group not in best:
                best[m.group] = doubt
    return best.values()


def _least(measurand: str) -> float:
    """Return what falls back at least, to be worth a word: half of what matters."""
    kind = kind_of(measurand)
    return 0.5 * kind.matters if kind.scale == "identity" else 1.0


def kind_sign(measurand: str) -> float:
    """Return 1 where more is better, else -1."""
    return 1.0 if kind_of(measurand).higher_is_better else -1.0


def slipped(snapshot: Snapshot, alpha: float) -> Iterable[Doubt]:
    """Return the readings that look like a slip of the decimal mark, or of two digits."""
    for slip in slips(snapshot.columns, alpha):
        cell = frozenset({int(snapshot.columns.cell[slip.row])})
        yield Doubt(SLIP, "", slip.p, cells=cell, readings=(slip.row,), likely=(slip.meant,))
