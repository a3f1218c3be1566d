"""Finding doubts: one test a suspect over all measurands together, few false alarms in all.

A suspect (a panel, a person, a pad, a day's readings, the order of work, the rim of the panels)
is a covariate. Its slope is fitted for each measurand with the variances integrated over; the
one-sided chances are joined by Fisher's sum of logarithms, and multiplied by the number of
suspects of that kind (Bonferroni). Each kind has its share of the false alarms. What is
found is taken out (or corrected for) before the rest is looked at, the surest first.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping

import numpy as np

from loam.core.dataset import trial_data
from loam.core.doubts.heavy import (
    NOISE_DF,
    PANEL,
    as_here,
    chances_apart,
    heavy_chance,
    tails,
    unlike,
)
from loam.core.doubts.plain import apart, masked, slipped
from loam.core.doubts.probe import Probe
from loam.core.doubts.records import Cells, Extras
from loam.core.doubts.suspects import HEAVY, LESS, Looked, Suspect, suspects_of
from loam.core.doubts.values import (
    CLASS,
    DRIFT,
    HAND,
    MASKING,
    ORDER,
    PAD,
    POSITION,
    READS,
    SLIP,
    Doubt,
    Evidence,
    Moved,
    Slope,
)
from loam.core.doubts.without import without
from loam.core.errors import LoamError
from loam.core.prior import READER, Priors
from loam.core.readings import FILM, KINDS, REMOVED
from loam.core.snapshot import FloatArray, Snapshot
from loam.core.trial import AFTER, BEFORE

ALPHA: dict[str, float] = {
    CLASS: 0.0011,
    HAND: 0.0085,
    PAD: 0.012,
    DRIFT: 0.003,
    MASKING: 0.003,
    SLIP: 0.0075,
    ORDER: 0.002,
    POSITION: 0.002,
    READS: 0.004,
}
"""Nominal shares of false alarms. Those of panels and people are set so that all together stay near
5 % a trial also where panels vary 2.5 and people and days 3 times as much as is usual, with errors
of heavy tails (measured by `./run bench doubts`)."""
_SPLIT: dict[str, tuple[float, ...]] = {CLASS: (5.0, 1.25), HAND: (4.0, 1.5, 12.0)}
"""Of the false alarms of panels a fifth goes to moves in any proportion and four to the pattern; of
those of people a quarter and two thirds, and a twelfth to being unlike the others in any way."""


_FADING = 0.3
"""Of the false alarms of pads this much goes to those whose sets are on record: they are soon
found; a combination's one odd day is not."""
_LOOK = 3.0
"""Expected false alarms of a kind at a suspect's quick look, below which it is fitted: an odd panel
still hides behind the spread of panels that it makes, so that this asks for little."""
MOST = 6


def doubts(
    snapshot: Snapshot,
    extras: Extras | None = None,
    priors: Mapping[str, Priors] | None = None,
    told: Callable[[float], None] | None = None,
) -> list[Doubt]:
    """Look a trial through and return what is doubted, the surest first of each round.

    Parameters
    ----------
    snapshot : Snapshot
    extras : Extras, optional
        Aligned with its columns.
    priors : mapping, optional
        By measurand; stated defaults otherwise.
    told : callable, optional
        Told the share done; may raise to stop.
    """
    extras = extras or Extras.unknown(snapshot.columns.value.size)
    found: list[Doubt] = list(slipped(snapshot, ALPHA[SLIP]))
    if found:
        snapshot, extras = without(snapshot, extras, found)
    found += masked(snapshot, ALPHA[MASKING])
    first = True
    for count in range(MOST):
        done = (count + 0.5) / (MOST + 1)
        trial = _trial(snapshot, extras, priors or {}, told, done)
        if first:
            found += apart(trial.probes)
            first = False
        best = min(_tested(trial, told, done), key=lambda d: d.p, default=None)
        if best is None:
            break
        found.append(best)
        snapshot, extras = without(snapshot, extras, [best])
    return found


def _measurands(snapshot: Snapshot) -> list[str]:
    columns = snapshot.columns
    found = [k.key for k in KINDS if k.key in LESS and columns.rows(k.key, AFTER).size]
    if columns.rows(FILM.key, AFTER).size and columns.rows(FILM.key, BEFORE).size:
        found.append(REMOVED.key)
    return found


def _trial(
    snapshot: Snapshot,
    extras: Extras,
    priors: Mapping[str, Priors],
    told: Callable[[float], None] | None = None,
    done: float = 0.0,
) -> Looked:
    probes, cells = {}, {}
    for key in _measurands(snapshot):
        if told is not None:
            told(done)
        try:
            data = trial_data(snapshot, key)
            probes[key] = Probe(data, priors.get(key))
        except LoamError:
            continue
        cells[key] = Cells.of(snapshot, probes[key].rows)
    return Looked(snapshot, extras, probes, cells)


def _tested(
    trial: Looked, told: Callable[[float], None] | None = None, done: float = 0.0
) -> Iterable[Doubt]:
    """Yield every doubt that stands, whatever else does; ``told`` may stop it at each suspect."""
    for kind, suspects in suspects_of(trial).items():
        count = sum(len(s.ways) for s in suspects)
        for suspect in suspects:
            if told is not None:
                told(done)
            found = _judged(trial, suspect, count)
            if found is not None and found.p < ALPHA[kind]:
                yield found


def _judged(trial: Looked, suspect: Suspect, count: int) -> Doubt | None:
    """Return a doubt with its p for all suspects of its kind; None where a glance sees nothing."""
    if suspect.kind == HAND:
        return _heavy(trial, suspect, count)
    if suspect.kind == CLASS:
        return _odd(trial, suspect, count)
    if suspect.kind == READS:
        return _reads_apart(trial, suspect, count)
    looks = {m: trial.probes[m].glance(x) for m, x in suspect.x.items()}
    seen = {m: one for m, one in looks.items() if one is not None}
    ways = [w for w in suspect.ways if seen and _joined(seen, w) * count < _LOOK]
    if not ways:
        return None
    fitted = {m: trial.probes[m].whole(suspect.x[m]) for m in seen}
    moved = {m: one for m, one in fitted.items() if one is not None}
    if not moved:
        return None
    p, way = min(((_joined(moved, w), i) for i, w in enumerate(ways)), key=lambda each: each[0])
    if suspect.kind == PAD and not suspect.by_day:
        p /= _FADING
    slope: tuple[Slope, ...] = ()
    if suspect.kind in (DRIFT, ORDER, POSITION):
        slope = tuple((m, _by_cell(trial, m, suspect.x[m]), v.estimate) for m, v in moved.items())
    return Doubt(
        suspect.kind,
        suspect.subject,
        min(p * count, 1.0),
        tuple(Evidence(m, v) for m, v in moved.items()),
        suspect.panels,
        suspect.cells,
        slope=slope,
        harder=ways[way] is LESS if suspect.kind == CLASS else None,
        by_day=suspect.by_day,
    )


def _odd(trial: Looked, suspect: Suspect, count: int) -> Doubt | None:
    """Return a panel unlike its class with its p for all panels; None where it is like it."""
    (panel,) = suspect.panels
    looks = {m: trial.probes[m].glance(x) for m, x in suspect.x.items()}
    seen = {m: one for m, one in looks.items() if one is not None}
    ways = [w for w in suspect.ways if seen and _joined(seen, w) * count < _LOOK]
    if not ways:
        return None
    found = {}
    for key, x in suspect.x.items():
        probe, cells = trial.probes[key], trial.cells[key]
        beside = probe.data.hardness.codes[probe.units.first]
        one = probe.contrast(x, cells.panel, "panel", beside)
        if one is not None:
            found[key] = one
    best, harder = 1.0, True
    any_way, pattern = _SPLIT[CLASS]
    for way in ways:
        assert way is not None
        seed = np.random.default_rng([len(found), panel, way is LESS])
        p = min(any_way * tails(found, way), 1.0)
        if p * count < _LOOK:
            p = min(p, pattern * heavy_chance(found, way, seed, PANEL))
        if p < best:
            best, harder = p, way is LESS
    if best * count >= ALPHA[CLASS]:
        return None
    moved = {m: v for m in found if (v := trial.probes[m].whole(suspect.x[m])) is not None}
    return Doubt(
        CLASS,
        suspect.subject,
        min(best * count, 1.0),
        tuple(Evidence(m, v) for m, v in moved.items()),
        suspect.panels,
        harder=harder,
    )


def _heavy(trial: Looked, suspect: Suspect, count: int) -> Doubt | None:
    """Return a heavy hand with its p for all people; None where it is nothing unusual."""
    columns = trial.snapshot.columns
    found = {}
    for key, x in suspect.x.items():
        probe = trial.probes[key]
        one = probe.contrast(x, columns.operator[probe.rows])
        if one is not None:
            found[key] = one
    found = as_here(found)
    seed = [len(found), *suspect.subject.encode()[:8]]
    any_way, pattern, other_way = _SPLIT[HAND]
    p = pattern * heavy_chance(found, HEAVY, np.random.default_rng(seed))
    heavy = min(p, any_way * tails(found, HEAVY), 1.0 / count) * count
    other = min(other_way * unlike(found), 1.0 / count) * count
    p = min(heavy, other)
    if p >= ALPHA[HAND]:
        return None
    moved = {m: v for m in found if (v := trial.probes[m].whole(suspect.x[m])) is not None}
    return Doubt(
        HAND,
        suspect.subject,
        p,
        tuple(Evidence(m, v) for m, v in moved.items()),
        cells=suspect.cells,
        unlike=other < heavy,
    )


def _reads_apart(trial: Looked, suspect: Suspect, count: int) -> Doubt | None:
    """Return a reader who reads high or low, with its p for all readers."""
    columns = trial.snapshot.columns
    found = {}
    for key, x in suspect.x.items():
        probe = trial.probes[key]
        one = probe.contrast(x, columns.reader[probe.rows], READER)
        if one is not None:
            found[key] = one
    chances = chances_apart(found, NOISE_DF)
    p = min(len(chances) * min(chances, default=1.0) * count, 1.0)
    if p >= ALPHA[READS]:
        return None
    moved = {m: v for m in found if (v := trial.probes[m].whole(suspect.x[m])) is not None}
    slope: tuple[Slope, ...] = tuple((m, {}, v.estimate) for m, v in moved.items())
    told = tuple(Evidence(m, v) for m, v in moved.items())
    return Doubt(READS, suspect.subject, p, told, cells=suspect.cells, slope=slope)


def _by_cell(trial: Looked, measurand: str, x: FloatArray) -> dict[int, float]:
    """Return a covariate by cell, from its mean."""
    cells = trial.cells[measurand].cell
    return dict(zip(cells.tolist(), (x - trial.probes[measurand].mean(x)).tolist(), strict=True))


def _joined(moved: Mapping[str, Moved], way: Mapping[str, float] | None) -> float:
    """Join the chances of all measurands: weighed by what is expected of each, or as they are.

    The smaller counts, twice.
    """
    from scipy.special import ndtr, ndtri

    if way is None:
        return _fisher(moved, None)
    weight = {m: way[m] / max(v.error, 1e-12) for m, v in moved.items() if m in way}
    total = math.sqrt(sum(w * w for w in weight.values()))
    if total == 0.0:
        return 1.0
    z = sum(w * float(ndtri(moved[m].above)) for m, w in weight.items()) / total
    return min(2.0 * float(ndtr(-z)), 2.0 * _fisher(moved, way), 1.0)


def _fisher(moved: Mapping[str, Moved], way: Mapping[str, float] | None) -> float:
    """Join the chances of all measurands; without a way either side of each counts."""
    from scipy.special import chdtrc

    total, count = 0.0, 0
    for key, one in moved.items():
        if way is None:
            p = 2.0 * min(one.above, 1.0 - one.above)
        elif key in way:
            p = 1.0 - one.above if way[key] > 0.0 else one.above
        else:
            continue
        total -= 2.0 * math.log(max(p, 1e-15))
        count += 1
    return float(chdtrc(2 * count, total)) if count else 1.0
