"""What the eye still sees: the share of marks that remains, by combination, with honest intervals.

An inspection has a class of defect, a light and a method; each is a measurand of its own and never
mixed with another, nor with measured removal. A cell's squares (or its percent by eye, as if of
twenty) are a beta-binomial count: the share of a combination scatters from cell to cell with an
intraclass correlation rho that all combinations have alike. Both are integrated over on a grid:
the share with Jeffreys' prior, rho evenly in its logarithm from 0.005 to 0.6 (assumed).
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from loam.core.inspection import EYE, LEVEL, Looked
from loam.core.stats.reduce import FloatArray
from loam.core.verdicts import SURE

EYE_STEPS = 20
"""An estimate in percent is given in steps of 5: as if of so many squares."""
_SHARES = (np.arange(400) + 0.5) / 400.0
_COARSE = (np.arange(120) + 0.5) / 120.0
_RHO = np.exp(np.linspace(np.log(0.005), np.log(0.6), 14))
DRAWS = 8000
Key = tuple[str, str, str]
"""Class of defect, light, method."""


@dataclass(frozen=True)
class SeenIn:
    """One inspection: where, and what was found."""

    cell: int
    hardness: str
    combination: str
    look: Looked
    reader: str = ""


@dataclass(frozen=True)
class Seen:
    """What remains under one combination, shares from 0 to 1.

    Attributes
    ----------
    p_best : float
        Chance that least remains, of all on its hardness.
    p_more : float
        Chance that more remains than under the one that leads.
    """

    combination: str
    cells: int
    marked: float
    of: float
    share: float
    low: float
    high: float
    p_best: float
    p_more: float

    @property
    def behind(self) -> bool:
        """Whether more surely remains than under the leader."""
        return self.p_more >= SURE


@dataclass(frozen=True)
class SeenClass:
    """One kind of inspection on one hardness; who leaves least first."""

    key: Key
    hardness: str
    seen: tuple[Seen, ...]
    readers: tuple[str, ...]


def counts(look: Looked) -> tuple[float, float] | None:
    """Return how many squares show a mark, of how many; None for what is out of scope."""
    if look.percent is None:
        return None
    if look.method == EYE:
        return EYE_STEPS * look.percent / 100.0, float(EYE_STEPS)
    return float(look.marked or 0), float(look.squares or 0)


def judge_seen(found: Iterable[SeenIn], seed: int = 1) -> list[SeenClass]:
    """Judge inspections, each kind by itself; of one reader and cell the last counts.

    Several readers of a cell are its mean: they see one cell, not several.
    """
    last: dict[tuple[Key, str, str, int, str], tuple[float, float]] = {}
    for one in found:
        read = counts(one.look)
        if read is not None:
            key = (one.look.defect, one.look.light, one.look.method)
            last[key, one.hardness, one.combination, one.cell, one.reader] = read
    groups: dict[tuple[Key, str], dict[str, dict[int, list[tuple[float, float]]]]] = {}
    who: dict[tuple[Key, str], set[str]] = {}
    for (key, hardness, combination, cell, reader), read in last.items():
        own = groups.setdefault((key, hardness), {}).setdefault(combination, {})
        own.setdefault(cell, []).append(read)
        who.setdefault((key, hardness), set()).add(reader)
    told = []
    for (key, hardness), by in groups.items():
        rng = np.random.default_rng([seed, len(by)])
        cells = {
            c: np.array([np.mean(np.array(sorted(own[i])), axis=0) for i in sorted(own)])
            for c, own in by.items()
        }
        readers = tuple(sorted(who[key, hardness] - {""}))
        told.append(SeenClass(key, hardness, _judged(cells, rng), readers))
    return told


def _judged(cells: dict[str, FloatArray], rng: np.random.Generator) -> tuple[Seen, ...]:
    names = sorted(cells)
    log = np.stack([_log_likelihood(cells[n]) for n in names])  # (combinations, rho, shares)
    log += -0.5 * (np.log(_SHARES) + np.log1p(-_SHARES))
    top = log.max(axis=2, keepdims=True)
    density = np.exp(log - top)
    evidence = (np.log(density.sum(axis=2)) + top[..., 0]).sum(axis=0)
    weight = np.exp(evidence - evidence.max())
    weight /= weight.sum()
    density /= density.sum(axis=2, keepdims=True)
    posterior = np.einsum("r,crs->cs", weight, density)
    at = rng.choice(_RHO.size, DRAWS, p=weight)
    edges = np.cumsum(density, axis=2)
    drawn = np.stack(
        [
            _SHARES[np.minimum((edges[c][at] < rng.random((DRAWS, 1))).sum(axis=1), 399)]
            for c in range(len(names))
        ]
    )
    drawn = drawn + rng.uniform(-0.5, 0.5, drawn.shape) / _SHARES.size
    best = np.bincount(drawn.argmin(axis=0), minlength=len(names)) / DRAWS
    lead = int(best.argmax())
    tails = (0.5 * (1.0 - LEVEL), 0.5 * (1.0 + LEVEL))
    sums = np.cumsum(posterior, axis=1)
    seen = []
    for c, name in enumerate(names):
        low, high = (float(np.interp(t, sums[c], _SHARES)) for t in tails)
        k, n = cells[name].sum(axis=0)
        more = 0.5 if c == lead else float((drawn[c] > drawn[lead]).mean())
        share = float(posterior[c] @ _SHARES)
        count = len(cells[name])
        seen.append(Seen(name, count, float(k), float(n), share, low, high, float(best[c]), more))
    return tuple(sorted(seen, key=lambda s: (-s.p_best, s.share)))


def _log_likelihood(cells: FloatArray) -> FloatArray:
    """Return the beta-binomial log likelihood of cells (n, 2) at every rho and share."""
    from scipy.special import betaln

    size = (1.0 - _RHO[:, None]) / _RHO[:, None]
    a, b = _SHARES * size, (1.0 - _SHARES) * size
    total = np.zeros(a.shape)
    for k, n in cells:
        total += betaln(k + a, n - k + b) - betaln(a, b)
    return total


@lru_cache(maxsize=8)
def _log_chances(n: int) -> FloatArray:
    """Return the log chance of 0 to n of n squares, (n + 1, rho, shares), on a coarser grid."""
    from scipy.special import betaln, gammaln

    size = ((1.0 - _RHO) / _RHO)[:, None]
    a, b = _COARSE * size, (1.0 - _COARSE) * size
    j = np.arange(n + 1.0)[:, None, None]
    ways = gammaln(n + 1.0) - gammaln(j + 1.0) - gammaln(n - j + 1.0)
    return np.asarray(betaln(j + a, n - j + b) - betaln(a, b) + ways)


def chances_beside(cells: Sequence[tuple[int, int]]) -> FloatArray:
    """Return how likely each cell's count is beside the others of its combination, two-sided.

    Parameters
    ----------
    cells : sequence of (k, n)
        Squares that show a mark, of how many.

    Returns
    -------
    (m,) float
        Twice the smaller of P(K <= k) and P(K >= k), at most 1, over the posterior of share and
        rho by the other cells.
    """
    each = np.stack([_log_chances(n)[k] for k, n in cells])
    every = each.sum(axis=0) - 0.5 * (np.log(_COARSE) + np.log1p(-_COARSE))
    found = []
    for own, (k, n) in zip(each, cells, strict=True):
        log = every - own
        weight = np.exp(log - log.max())
        chance = np.einsum("rs,jrs->j", weight / weight.sum(), np.exp(_log_chances(n)))
        found.append(min(1.0, 2.0 * float(min(chance[: k + 1].sum(), chance[k:].sum()))))
    return np.array(found)


def leads_words(found: Sequence[Seen]) -> str:
    """Say who leaves least, and who surely leaves more; the leader stands first."""
    lead, rest = found[0], found[1:]
    said = f"under {lead.combination} least remains, {share_words(lead)}"
    if not rest:
        return said
    behind = [s.combination for s in rest if s.behind]
    open_ = [s.combination for s in rest if not s.behind]
    chance = min(round(100 * lead.p_best), 99)
    if not open_:
        return f"{said}; under {_listed(behind)} surely more"
    more = f"; under {_listed(behind)} surely more" if behind else ""
    return f"{said} ({chance} %){more}; not settled against {_listed(open_)}"


def share_words(seen: Seen) -> str:
    """Say a share: 6 % (3 to 11)."""
    return f"{100 * seen.share:.0f} % ({100 * seen.low:.0f} to {100 * seen.high:.0f})"


def _listed(names: Sequence[str]) -> str:
    *first, last = names
    return f"{', '.join(first)} and {last}" if first else last
