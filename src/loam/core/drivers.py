"""What drives a result: pad, compound, machine, passes and what follows, and their interplay.

Beside the judgement, in which every combination stands for itself, the adjusted means m of one
hardness are taken apart: m = middle + one effect for each factor's level + what they do only
together, each of them partially pooled. The standard deviation of each part has a half-Cauchy
prior and is drawn with the rest (Gibbs; the half-Cauchy as a mixture of inverse gammas, Makalic and
Schmidt 2016). A combination that was not tried is predicted from the same draws: the levels that
were seen, and the whole spread of what levels do only together.

Factors whose levels always change together cannot be told apart and are one.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from loam.core.errors import NotEnough
from loam.core.stats.reduce import FloatArray, IntArray
from loam.core.text import listed

CHAINS, WARM, KEPT = 8, 150, 200
"""Chains that run beside each other, sweeps that each forgets, and sweeps that count."""
TOGETHER = "interplay"
_EACH, _TOGETHER = 0.5, 1.4
"""Scales of the half-Cauchy priors, in standard deviations of the means: of what each level does,
and of what levels do only together, which may be anything (assumed; set on simulated crossings so
that predictions cover 85 to 95 % of what was left out, whichever of the two is the larger)."""
NOISE = 0.02
"""A part whose share may be less than this is no more than noise."""
LEAST = 3
MOST = 60
"""Combinations: with fewer nothing can be told apart; with more the draws would take too long."""


@dataclass(frozen=True)
class Factor:
    """Something that changes from one combination to another.

    Attributes
    ----------
    names : tuple of str
        More than one where they always change together.
    levels : tuple of str
    at : (K,) int
        Level of each combination.
    """

    names: tuple[str, ...]
    levels: tuple[str, ...]
    at: IntArray

    @property
    def label(self) -> str:
        """The factor in words."""
        first, *rest = self.names
        return f"{first} with {listed(rest)}" if rest else first


def factors(columns: Mapping[str, Sequence[str]]) -> list[Factor]:
    """Return what changes among combinations; what always changes together is one.

    Parameters
    ----------
    columns : mapping of str to sequence of str
        Level of each of the K combinations by factor.
    """
    found: list[Factor] = []
    for name, column in columns.items():
        levels, at = np.unique(np.array(column, dtype=object).astype(str), return_inverse=True)
        if levels.size < 2:
            continue
        twin = next((i for i, f in enumerate(found) if _same(f.at, at)), None)
        if twin is None:
            found.append(Factor((name,), tuple(levels.tolist()), at.astype(np.intp)))
            continue
        old = found[twin]
        first = [int(np.flatnonzero(old.at == k)[0]) for k in range(len(old.levels))]
        joined = tuple(f"{a}, {column[i]}" for a, i in zip(old.levels, first, strict=True))
        found[twin] = Factor((*old.names, name), joined, old.at)
    return found


def _same(a: IntArray, b: IntArray) -> bool:
    """Whether two columns of levels split the combinations alike."""
    pairs = len(set(zip(a.tolist(), b.tolist(), strict=True)))
    return pairs == int(a.max()) + 1 == int(b.max()) + 1


@dataclass(frozen=True)
class _Part:
    """A partition of the combinations: a factor, or a pair of factors, or each one for itself."""

    label: str
    at: IntArray
    count: int
    pair: tuple[int, int] | None = None


def _parts(found: Sequence[Factor], size: int) -> list[_Part]:
    """Return the factors, the pairs that there are combinations enough for, and the rest."""
    parts = [_Part(f.label, f.at, len(f.levels)) for f in found]
    spare = size - 1 - sum(len(f.levels) - 1 for f in found)
    for i, j in itertools.combinations(range(len(found)), 2):
        crossed = found[i].at * len(found[j].levels) + found[j].at
        levels, at = np.unique(crossed, return_inverse=True)
        further = levels.size - len(found[i].levels) - len(found[j].levels) + 1
        if not 0 < further < spare or any(_same(p.at, at) for p in parts):
            continue
        label = f"{found[i].label} and {found[j].label}"
        parts.append(_Part(label, at.astype(np.intp), int(levels.size), (i, j)))
    label = " and ".join(f.label for f in found) if len(found) == 2 else TOGETHER
    parts.append(
        _Part(label, np.arange(size, dtype=np.intp), size, (0, 1) if len(found) == 2 else None)
    )
    return parts


@dataclass(frozen=True)
class Drivers:
    """What drives the result of one hardness, in draws on the measurand's scale.

    Attributes
    ----------
    found : tuple of Factor
    effects : tuple of (D, L)
        Of each factor's levels, around what all combinations share.
    pairs : tuple of (tuple of int, (D, L), (K,))
        Interplay of two factors: which, its effects, and the level of each combination.
    rest : (D, K)
        What levels do only together beyond that.
    middle : (D,)
    spread : (D, F + P + 1)
        Standard deviation over the combinations of each factor, pair and the rest.
    labels : tuple of str
        Of the columns of ``spread``.
    deep : tuple of (D,)
        Standard deviations of the parts, for levels that were not seen.
    """

    found: tuple[Factor, ...]
    effects: tuple[FloatArray, ...]
    pairs: tuple[tuple[tuple[int, int], FloatArray, IntArray], ...]
    rest: FloatArray
    middle: FloatArray
    spread: FloatArray
    labels: tuple[str, ...]
    deep: tuple[FloatArray, ...]

    @property
    def means(self) -> FloatArray:
        """Draws of the combinations that were tried (D, K)."""
        total = self.middle[:, None] + self.rest
        for factor, effect in zip(self.found, self.effects, strict=True):
            total = total + effect[:, factor.at]
        for _, effect, at in self.pairs:
            total = total + effect[:, at]
        return np.asarray(total, float)

    @property
    def told(self) -> npt.NDArray[np.bool_]:
        """Which parts the combinations can tell, (parts,).

        What levels do only together cannot be told where every combination is needed to tell the
        levels themselves; it stays in what is predicted.
        """
        spare = self.rest.shape[1] - 1 - sum(len(f.levels) - 1 for f in self.found)
        many = self.spread.shape[1]
        return np.array([i < len(self.found) or spare > 0 for i in range(many)])

    def shares(self) -> FloatArray:
        """Draws of the share of the variance between combinations that each part has (D, parts).

        Parts that cannot be told have none.
        """
        square = np.where(self.told, self.spread**2, 0.0)
        total = np.maximum(square.sum(axis=1, keepdims=True), 1e-300)
        return np.asarray(square / total, float)

    def chance_first(self) -> FloatArray:
        """Chance of each part to be what makes the most difference, (parts,)."""
        first = np.where(self.told, self.spread, -1.0).argmax(axis=1)
        return np.asarray(np.bincount(first, minlength=self.spread.shape[1]) / first.size, float)

    def predict(self, levels: Sequence[int], rng: np.random.Generator) -> FloatArray:
        """Return draws of a combination that was not tried, (D,).

        Parameters
        ----------
        levels : sequence of int
            Level of each factor; -1 for one that was not seen.
        """
        count = self.middle.size
        total = self.middle.copy()
        for i, (level, effect) in enumerate(zip(levels, self.effects, strict=True)):
            total += effect[:, level] if level >= 0 else self.deep[i] * rng.standard_normal(count)
        for k, ((i, j), effect, at) in enumerate(self.pairs):
            alike = np.flatnonzero(
                (self.found[i].at == levels[i]) & (self.found[j].at == levels[j])
            )
            if alike.size:
                total += effect[:, at[alike[0]]]
            else:
                total += self.deep[len(self.found) + k] * rng.standard_normal(count)
        return np.asarray(total + self.deep[-1] * rng.standard_normal(count), float)


def take_apart(
    columns: Mapping[str, Sequence[str]],
    draws: FloatArray,
    rng: np.random.Generator,
    told: Callable[[float], None] | None = None,
) -> Drivers:
    """Take the means of one hardness apart.

    Parameters
    ----------
    columns : mapping of str to sequence of str
        Level of each combination by factor, K each.
    draws : (D, K)
        Of the adjusted means on the scale, not pooled.
    told : callable, optional
        Told the share done; may raise to stop.

    Raises
    ------
    NotEnough
        With fewer than three combinations, more than sixty, or where nothing changes.
    """
    size = draws.shape[1]
    if not LEAST <= size <= MOST:
        raise NotEnough(
            f"What drives a result can be asked of {LEAST} to {MOST} combinations, not of {size}."
        )
    found = factors(columns)
    if not found:
        raise NotEnough(
            "Nothing is said of what these combinations are made of.",
            todo="Give them pads, compounds, machines and passes in Kit (F3).",
        )
    parts = _parts(found, size)
    centre = draws.mean(axis=0)
    around = draws - draws.mean(axis=1, keepdims=True)
    around = around - around.mean(axis=0)
    noise = around.T @ around / draws.shape[0]
    return _sample(found, parts, centre, noise, rng, told)


def _sample(
    found: list[Factor],
    parts: list[_Part],
    m: FloatArray,
    noise: FloatArray,
    rng: np.random.Generator,
    told: Callable[[float], None] | None,
) -> Drivers:
    """Draw from the posterior; what all combinations share is flat, so it may be added freely."""
    size = m.size
    scale = max(float(np.std(m)), 1e-9)
    floor = 1e-6 * scale**2
    v = noise + (float(np.trace(noise)) / size + floor) * np.ones((size, size)) / size
    v += floor * np.eye(size)
    root = np.linalg.cholesky(v)
    designs = [np.eye(p.count)[p.at] for p in parts]
    grams = np.stack([z @ z.T for z in designs])
    alone = [p.pair is None and i < len(found) for i, p in enumerate(parts)]
    limit = (np.where(alone, _EACH, _TOGETHER) * scale) ** 2
    # chains start apart, so that each forgets where it began before it counts
    tau2 = limit * np.exp(rng.uniform(-3.0, 3.0, (CHAINS, len(parts))))
    effects = [np.empty((KEPT, CHAINS, p.count)) for p in parts]
    deep, middle = np.empty((KEPT, CHAINS, len(parts))), np.empty((KEPT, CHAINS))
    for sweep in range(-WARM, KEPT):
        if told is not None and sweep % 50 == 0:
            told((sweep + WARM) / (KEPT + WARM))
        inverse = np.linalg.inv(v + np.tensordot(tau2, grams, 1))
        weight = inverse.sum(axis=2)
        total = weight.sum(axis=1)
        at = weight @ m / total + rng.standard_normal(CHAINS) / np.sqrt(total)
        fresh = [
            np.sqrt(tau2[:, i, None]) * rng.standard_normal((CHAINS, p.count))
            for i, p in enumerate(parts)
        ]
        seen = rng.standard_normal((CHAINS, size)) @ root.T
        for p, each in zip(parts, fresh, strict=True):
            seen = seen + each[:, p.at]
        pull = np.einsum("cij,cj->ci", inverse, m - at[:, None] - seen)
        for i, (p, z) in enumerate(zip(parts, designs, strict=True)):
            own = fresh[i] + tau2[:, i, None] * (pull @ z)
            if sweep >= 0:
                effects[i][sweep] = own
            slack = (1.0 / limit[i] + 1.0 / tau2[:, i]) / rng.gamma(1.0, size=CHAINS)
            square = 1.0 / slack + 0.5 * (own * own).sum(axis=1)
            drawn = square / rng.gamma(0.5 * (p.count + 1), size=CHAINS)
            tau2[:, i] = np.clip(drawn, 1e-8 * limit[i], 1e6 * limit[i])
        if sweep >= 0:
            deep[sweep], middle[sweep] = np.sqrt(tau2), at
    drawn_of = [e.reshape(-1, p.count) for e, p in zip(effects, parts, strict=True)]
    spread = np.stack([e[:, p.at].std(axis=1) for e, p in zip(drawn_of, parts, strict=True)], 1)
    main = len(found)
    pairs = tuple(
        (p.pair or (0, 0), drawn_of[main + k], p.at) for k, p in enumerate(parts[main:-1])
    )
    return Drivers(
        tuple(found),
        tuple(drawn_of[:main]),
        pairs,
        drawn_of[-1],
        middle.reshape(-1),
        spread,
        tuple(p.label for p in parts),
        tuple(deep.reshape(-1, len(parts)).T),
    )
