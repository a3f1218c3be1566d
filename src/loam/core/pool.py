"""Many trials as one: the same recipes, on panels of trials of workshops, judged together.

What is the same in every trial is the recipe, not its letter. Trials and workshops are random
terms, and so is a recipe in a trial (``trial:combination``): where trials disagree about a recipe,
that spreads its interval. A panel belongs to its trial, a day too; people are who they are.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from loam.core.errors import NotEnough
from loam.core.judging import TrialJudgement
from loam.core.prior import READER
from loam.core.scale import Scale
from loam.core.stats.reduce import FloatArray, IntArray
from loam.core.trial import HARDNESSES, Combination, Stage
from loam.core.trial_rows import Coded, TrialData
from loam.core.wipes import written

TRIAL, WORKSHOP, TOGETHER = "trial", "workshop", "trial:combination"
Recipe = tuple[object, ...]


def recipe_key(combination: Combination) -> Recipe | None:
    """Return what makes a combination the same in another trial; None where it is not given."""
    if combination.control:
        return ("control", combination.control)
    if not combination.stages:
        return None
    return tuple(_stage(s) for s in combination.stages)


def _stage(s: Stage) -> tuple[object, ...]:
    name = (s.pad, s.compound, s.machine, s.dial, s.disc)
    wiped = (written(s.wipes).casefold(),) if s.wipes else ()
    return (*(x.casefold() for x in name), s.passes, s.pad_mm, *wiped)


@dataclass(frozen=True)
class Part:
    """One trial of a pool.

    Attributes
    ----------
    trial, workshop : str
        Its name, and the workshop that it comes from.
    recipes : mapping of str to Recipe
        What each letter stands for; a letter without one stands for itself in this trial only.
    """

    trial: str
    workshop: str
    data: TrialData
    recipes: Mapping[str, Recipe]


@dataclass(frozen=True)
class Pooled:
    """Trials as one.

    Attributes
    ----------
    letters : mapping of str to tuple of (str, str)
        For each code of the pool, the trials that it is in and its letter there.
    left_out : tuple of str
        Trials whose scale is another.
    """

    data: TrialData
    letters: Mapping[str, tuple[tuple[str, str], ...]]
    left_out: tuple[str, ...]
    trials: int
    workshops: int


def pool(parts: Sequence[Part]) -> Pooled:
    """Put trials together.

    A code of the pool is the letter where it stands for one recipe only in all trials, else the
    letter with the number of the trial that had it first.

    Raises
    ------
    NotEnough
        Without any trial.
    """
    if not parts:
        raise NotEnough("No trial can be pooled.", todo="Read some cells first.")
    scales = [p.data.scale for p in parts]
    scale = max(dict.fromkeys(scales), key=scales.count)
    own = [p for p in parts if p.data.scale == scale]
    left = tuple(p.trial for p in parts if p.data.scale != scale)
    codes = _codes(own)
    recipes = {key: i for i, key in enumerate(codes)}
    workshops = {name: i for i, name in enumerate(dict.fromkeys(p.workshop for p in own))}
    people: dict[tuple[str, str], int] = {}
    readers: dict[tuple[str, str], int] = {}
    columns: dict[str, list[IntArray]] = {}
    names: dict[str, list[str]] = {"cell": [], "panel": [], "day": []}
    hardness: list[IntArray] = []
    for t, part in enumerate(own):
        data = part.data
        n = data.y.size
        where = np.array([HARDNESSES.index(h) for h in data.hardness.names], dtype=np.intp)
        hardness.append(where[data.hardness.codes])
        key = np.array([recipes[_key(part, t, c)] for c in data.combination.names], dtype=np.intp)
        columns.setdefault("combination", []).append(key[data.combination.codes])
        columns.setdefault(TRIAL, []).append(np.full(n, t, dtype=np.intp))
        columns.setdefault(WORKSHOP, []).append(np.full(n, workshops[part.workshop], dtype=np.intp))
        for name in ("cell", "panel", "day"):
            factor = data.factors.get(name)
            at = factor.codes if factor is not None else np.zeros(n, dtype=np.intp)
            levels = factor.names if factor is not None else ("",)
            columns.setdefault(name, []).append(at + len(names[name]))
            names[name] += [f"{part.trial}: {level}" for level in levels]
        operator = data.factors.get("operator")
        levels = operator.names if operator is not None else ("",)
        who = [people.setdefault((part.workshop, o), len(people)) for o in levels]
        at = operator.codes if operator is not None else np.zeros(n, dtype=np.intp)
        columns.setdefault("operator", []).append(np.array(who, dtype=np.intp)[at])
        reader = data.factors.get(READER)
        levels = reader.names if reader is not None else ("",)
        who = [readers.setdefault((part.workshop, r), len(readers)) for r in levels]
        at = reader.codes if reader is not None else np.zeros(n, dtype=np.intp)
        columns.setdefault(READER, []).append(np.array(who, dtype=np.intp)[at])
    all_of = {name: np.concatenate(c) for name, c in columns.items()}
    h = np.concatenate(hardness)
    both = (all_of[TRIAL] * len(HARDNESSES) + h) * len(recipes) + all_of["combination"]
    _, both = np.unique(both, return_inverse=True)
    factors = {
        **{name: Coded(all_of[name], tuple(names[name])) for name in names},
        "operator": Coded(all_of["operator"], tuple(o for _, o in people)),
        READER: Coded(all_of[READER], tuple(r for _, r in readers)),
        TRIAL: Coded(all_of[TRIAL], tuple(p.trial for p in own)),
        WORKSHOP: Coded(all_of[WORKSHOP], tuple(workshops)),
        TOGETHER: Coded(both.astype(np.intp), ()),
    }
    present, h_at = np.unique(h, return_inverse=True)
    first = own[0].data
    data = TrialData(
        first.measurand,
        np.concatenate([p.data.y for p in own]),
        Coded(h_at.astype(np.intp), tuple(HARDNESSES[int(i)] for i in present)),
        Coded(all_of["combination"], tuple(codes.values())),
        factors,
        None,
        first.higher_is_better,
        scale,
    )
    letters: dict[str, tuple[tuple[str, str], ...]] = {}
    for t, part in enumerate(own):
        for c in part.data.combination.names:
            code = codes[_key(part, t, c)]
            letters[code] = (*letters.get(code, ()), (part.trial, c))
    return Pooled(data, letters, left, len(own), len(workshops))


def _key(part: Part, number: int, letter: str) -> Recipe:
    return part.recipes.get(letter) or ("only in", number, letter)


def _codes(parts: Sequence[Part]) -> dict[Recipe, str]:
    """Return a code for every recipe, in the order of their first trial."""
    means: dict[str, set[Recipe]] = {}
    first: dict[Recipe, tuple[int, str]] = {}
    for t, part in enumerate(parts):
        for letter in part.data.combination.names:
            key = _key(part, t, letter)
            means.setdefault(letter, set()).add(key)
            first.setdefault(key, (t + 1, letter))
    return {
        key: letter if len(means[letter]) == 1 else f"{letter}{t}"
        for key, (t, letter) in first.items()
    }


@dataclass(frozen=True)
class Disagreement:
    """A recipe that does otherwise in one trial, or workshop, than in all others.

    Attributes
    ----------
    where : str
        The trial or the workshop.
    by : float
        How much higher it reads there, on the scale, than its recipe does beside the same others.
    z : float
        In standard errors of cells and panels.
    """

    combination: str
    hardness: str
    where: str
    by: float
    z: float


def disagreements(
    data: TrialData, judged: TrialJudgement, scale: Scale, by: str = TRIAL, alpha: float = 0.05
) -> list[Disagreement]:
    """Name where trials (or workshops) disagree more than cells and panels vary.

    In each trial a recipe's mean is taken around the mean of all recipes there, and held against
    the same difference of the pooled estimates; Bonferroni over all that is compared.
    """
    from scipy.special import ndtri

    y = scale.to(data.y)
    group = data.factors[by].codes
    cell, panel = data.factors["cell"].codes, data.factors["panel"].codes
    k = len(data.combination.names)
    h_count = len(data.hardness.names)
    key = (group * h_count + data.hardness.codes) * k + data.combination.codes
    keys, at = np.unique(key, return_inverse=True)
    count = np.bincount(at)
    mean = np.bincount(at, weights=y) / count
    cells = _distinct(at, cell, keys.size)
    panels = _distinct(at, panel, keys.size)
    sd = judged.sd
    variance = (
        sd["panel:combination"] ** 2 / panels
        + sd["cell"] ** 2 / cells
        + sd["residual"] ** 2 / count
    )
    estimate = _estimates(data, judged, scale)
    found: list[Disagreement] = []
    g_at, h_at, k_at = keys // (k * h_count), keys // k % h_count, keys % k
    shared = np.bincount(h_at * k + k_at, minlength=h_count * k) > 1
    tested = 0
    for g in np.unique(g_at):
        for h in range(h_count):
            own = np.flatnonzero((g_at == g) & (h_at == h))
            if own.size < 2:
                continue
            away = mean[own] - estimate[h, k_at[own]]
            away = away - np.average(away, weights=1.0 / variance[own])
            total = 1.0 / (1.0 / variance[own]).sum()
            error = np.sqrt(np.maximum(variance[own] - total, 1e-12))
            for i, a, e in zip(own, away, error, strict=True):
                if shared[h * k + k_at[i]]:
                    tested += 1
                    found.append(
                        Disagreement(
                            data.combination.names[int(k_at[i])],
                            data.hardness.names[h],
                            data.factors[by].names[int(g)],
                            float(a),
                            float(a / e),
                        )
                    )
    limit = float(ndtri(1.0 - 0.5 * alpha / max(tested, 1)))
    return sorted((d for d in found if abs(d.z) > limit), key=lambda d: -abs(d.z))


def _distinct(at: IntArray, level: IntArray, size: int) -> FloatArray:
    """Count the distinct levels of each group (size,)."""
    pairs = np.unique(at * (int(level.max()) + 1) + level)
    return np.bincount(pairs // (int(level.max()) + 1), minlength=size).astype(float)


def _estimates(data: TrialData, judged: TrialJudgement, scale: Scale) -> FloatArray:
    """Return the pooled estimates on the scale by hardness and combination."""
    found = np.full((len(data.hardness.names), len(data.combination.names)), np.nan)
    for own in judged.classes:
        h = data.hardness.names.index(own.hardness)
        for s in own.standings:
            k = data.combination.names.index(s.combination)
            found[h, k] = float(scale.to(np.array([s.figures.estimate]))[0])
    return found
