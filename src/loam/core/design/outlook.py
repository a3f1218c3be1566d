"""What a trial will be able to tell apart, with the priors that its judgement will use.

The variances are those that the judgement assumes before the readings speak. Cells of one
combination on one panel share the term panel:combination; their mean has the variance
tau = sd_pc^2 + (sd_cell^2 + sd_reading^2 / m) / n, and panels are random, so that X'V^-1X follows
in closed form. A variance that is known by its prior and by what the trial itself will show has
the degrees of freedom of both, and its middle value in between; those of a difference are
Satterthwaite's, from how much each variance carries of it. Terms with the same levels (a cell
each; a panel each) are one, as in the judgement. People and days are left out: who works when is
not planned here. Simulated, the middle half-width of the judgement is met within about a tenth.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from loam.core.design.blocks import Ground
from loam.core.design.expect import Expected, Part, expected
from loam.core.design.forecast import detectable, linked_pieces, quantile
from loam.core.design.lay import standing
from loam.core.design.plan import Place, Plan
from loam.core.prior import RESIDUAL, Priors
from loam.core.stats.prior import summed
from loam.core.stats.reduce import FloatArray

_STEP = 1e-3
_TERMS = ("panel", "panel:combination", "cell", RESIDUAL)


@dataclass(frozen=True)
class Outlook:
    """What to expect of one hardness class, on the measurand's scale.

    Attributes
    ----------
    half_width, ahead : float or None
        Of the middle pair: half of the 90 % interval, and the true difference from which on
        "ahead" is said four times in five. None when nothing can be compared.
    worst : float or None
        The same for the pair that is hardest to tell apart.
    df : float
        Degrees of freedom of the middle pair.
    assumed : float
        Share of them that rests on what is assumed, not on what the trial itself will show.
    cells, panels : int
        Worked cells, and panels with one.
    missing : int
        Combinations without a cell.
    verdicts : Expected or None
        What verdicts to expect of the middle pair.
    """

    hardness: str
    half_width: float | None
    ahead: float | None
    worst: float | None
    df: float
    assumed: float
    cells: int
    panels: int
    missing: int
    verdicts: Expected | None = None

    @property
    def answers(self) -> bool:
        """Whether it can answer: what is twice what matters, and what is nothing."""
        return self.verdicts is not None and self.verdicts.answers


def outlook(
    plan: Plan, assigned: Mapping[Place, str], priors: Priors, delta: float = 0.0
) -> list[Outlook]:
    """Return what to expect of every hardness of a layout.

    Parameters
    ----------
    delta : float
        What matters, on the scale.
    """
    parts = _grounds(plan, assigned)
    sizes = _Sizes.of([p for _, p in parts], plan.readings_per_cell)
    readings = plan.readings_per_cell
    return [_one(name, part, priors, sizes, readings, delta) for name, part in parts]


def _grounds(plan: Plan, assigned: Mapping[Place, str]) -> list[tuple[str, _Part]]:
    parts = []
    for hardness in plan.hardnesses():
        label, ground = standing(plan, hardness, assigned)
        if ground is not None:
            parts.append((hardness, _Part(ground.counts(label, len(plan.combinations)), ground)))
    return parts


@dataclass(frozen=True)
class _Part:
    """One hardness: cells of each combination on each panel (v, P)."""

    count: FloatArray
    ground: Ground


@dataclass(frozen=True)
class _Sizes:
    """Degrees of freedom that a trial itself will have for each variance."""

    merged: tuple[tuple[str, ...], ...]
    df: Mapping[str, float]

    @classmethod
    def of(cls, parts: list[_Part], readings: int) -> _Sizes:
        cells = sum(float(p.count.sum()) for p in parts)
        groups = sum(float((p.count > 0).sum()) for p in parts)
        panels = sum(p.count.shape[1] for p in parts)
        used = sum(int((p.count.sum(axis=1) > 0).sum()) for p in parts)
        pieces = sum(linked_pieces(p.count) for p in parts)
        merged: tuple[tuple[str, ...], ...] = ()
        if cells == groups == panels:
            merged = (("panel", "panel:combination", "cell"),)
        elif groups == panels:
            merged = (("panel", "panel:combination"),)
        elif cells == groups:
            merged = (("panel:combination", "cell"),)
        return cls(
            merged,
            {
                RESIDUAL: cells * (readings - 1),
                "cell": cells - groups,
                "panel:combination": max(groups - used - panels + pieces, 0.0),
                "panel": float(panels - pieces),
            },
        )


def _one(
    hardness: str, part: _Part, priors: Priors, sizes: _Sizes, readings: int, delta: float
) -> Outlook:
    count = part.count
    used = np.flatnonzero(count.sum(axis=1) > 0)
    total, panels = int(count.sum()), count.shape[1]
    missing = count.shape[0] - used.size
    if used.size < 2:
        return Outlook(hardness, None, None, None, 0.0, 1.0, total, panels, missing)
    terms = {name: (priors[name].sd ** 2, priors[name].df) for name in _TERMS}
    own = dict(sizes.df)
    for merged in sizes.merged:
        both = summed([priors[name] for name in merged])
        terms |= dict.fromkeys(merged, (0.0, 1.0))
        terms[merged[0]] = (both.sd**2, both.df)
    value = {name: _typical(v, df, own[name]) for name, (v, df) in terms.items()}
    base, carried_by = _carried(count[used], value, readings)
    square, from_prior = np.zeros_like(base), np.zeros_like(base)
    for name, carried in carried_by.items():
        prior_df = terms[name][1]
        square += carried**2 / (prior_df + own[name])
        from_prior += np.abs(carried) * prior_df / (prior_df + own[name])
    upper = np.triu_indices(used.size, 1)
    variance, df = base[upper], base[upper] ** 2 / np.maximum(square[upper], 1e-300)
    rounded, which = np.unique(_rounded(df), return_inverse=True)
    found = np.sqrt(variance) * np.array([detectable(float(d)) for d in rounded])[which]
    middle = int(np.argsort(found, kind="stable")[found.size // 2])
    half = quantile(float(df[middle])) * float(np.sqrt(variance[middle]))
    told = expected(
        [
            Part(
                c[upper][middle],
                c[upper][middle] * terms[n][0] / value[n],
                terms[n][1],
                own[n],
                n != RESIDUAL,
            )
            for n, c in carried_by.items()
        ],
        used.size,
        delta,
    )
    return Outlook(
        hardness,
        half,
        told.ahead,
        told.ahead * float(found.max() / found[middle]),
        float(df[middle]),
        float(np.clip(from_prior[upper][middle] / variance[middle], 0.0, 1.0)),
        total,
        panels,
        missing,
        told,
    )


def expected_pairs(
    plan: Plan,
    assigned: Mapping[Place, str],
    true: Mapping[str, float],
    priors: Priors,
    delta: float,
) -> dict[tuple[str, str, str], Expected]:
    """Return what verdicts to expect of every pair, by hardness and both names.

    Parameters
    ----------
    true : mapping of str to float
        Standard deviations that are taken for true, by term.
    delta : float
        What matters, on the scale.
    """
    found: dict[tuple[str, str, str], Expected] = {}
    parts = _grounds(plan, assigned)
    sizes = _Sizes.of([p for _, p in parts], plan.readings_per_cell)
    value = {name: max(true[name], 1e-9) ** 2 for name in _TERMS}
    terms = {name: (priors[name].sd ** 2, priors[name].df) for name in _TERMS}
    for merged in sizes.merged:
        both, whole = summed([priors[n] for n in merged]), sum(value[n] for n in merged)
        terms |= dict.fromkeys(merged, (0.0, 1.0))
        value |= dict.fromkeys(merged, 0.0)
        terms[merged[0]], value[merged[0]] = (both.sd**2, both.df), whole
    for hardness, part in parts:
        used = np.flatnonzero(part.count.sum(axis=1) > 0)
        if used.size < 2:
            continue
        _, carried_by = _carried(part.count[used], value, plan.readings_per_cell)
        known: dict[tuple[float, ...], Expected] = {}
        for i, j in zip(*np.triu_indices(used.size, 1), strict=True):
            key = tuple(float(f"{c[i, j]:.3g}") for c in carried_by.values())
            if key not in known:
                known[key] = expected(
                    [
                        Part(v, v * terms[n][0] / value[n], terms[n][1], sizes.df[n], n != RESIDUAL)
                        for n, v in zip(carried_by, key, strict=True)
                    ],
                    used.size,
                    delta,
                )
            names = plan.combinations[used[i]], plan.combinations[used[j]]
            found[hardness, *names] = known[key]
    return found


def _carried(
    count: FloatArray, value: Mapping[str, float], readings: int
) -> tuple[FloatArray, dict[str, FloatArray]]:
    """Return the variance of every difference (v, v), and what each term brings to it."""
    base = _variances(count, value, readings)
    found = {}
    for name in _TERMS:
        if value[name] > 0.0:
            raised = _variances(count, {**value, name: value[name] * (1.0 + _STEP)}, readings)
            found[name] = np.maximum((raised - base) / _STEP, 0.0)
    return base, found


def _typical(variance: float, prior_df: float, own_df: float) -> float:
    """Return the scale that a variance will usually have once the trial has shown its share.

    Of a scaled inverse chi-square the middle lies above the scale; what the trial shows is
    around that middle, what it cannot show stays at the scale (and is paid for in the df).
    """
    from scipy.special import chdtri

    middle = variance * prior_df / float(chdtri(prior_df, 0.5))
    return (prior_df * variance + own_df * middle) / (prior_df + own_df)


def _rounded(df: FloatArray) -> FloatArray:
    """Round degrees of freedom so that few different ones are looked up."""
    return np.maximum(0.5, np.where(df < 30.0, np.round(df, 1), np.round(df)))


def _variances(count: FloatArray, value: Mapping[str, float], readings: int) -> FloatArray:
    """Variance of every difference (v, v) at given variances."""
    error = value["cell"] + value[RESIDUAL] / readings
    there = count > 0
    spread = value["panel:combination"] + error / np.where(there, count, 1.0)
    weight = np.where(there, 1.0 / np.maximum(spread, 1e-300), 0.0)
    theta = value["panel"] / (1.0 + value["panel"] * weight.sum(axis=0))
    matrix = np.diag(weight.sum(axis=1)) - (weight * theta) @ weight.T
    values, vectors = np.linalg.eigh(matrix)
    safe = np.maximum(values, 1e-12 * float(values[-1]))
    inverse = (vectors / safe) @ vectors.T
    diagonal = np.diag(inverse)
    return np.asarray(diagonal[:, None] + diagonal[None, :] - inverse - inverse.T, float)
