"""Trials with a known truth for what Judge says beside the ranking."""

from dataclasses import replace

import numpy as np

from loam.core.drivers import take_apart
from loam.core.judging import judge_readings
from loam.core.pool import Part
from loam.core.trial_rows import Coded, TrialData
from loam.core.verdicts import EQUAL, OPEN


def a(values):
    return np.array(values, dtype=np.intp)


def crossing(rng, *, pads=3, compounds=3, each=1.5, together=0.5, error=0.35, draws=2048):
    """Return factor columns, draws, the truth of all crossings, and the one left out."""
    pad, compound = rng.normal(0, each, pads), rng.normal(0, each, compounds)
    pair = rng.normal(0, together, (pads, compounds))
    truth = 82.0 + pad[:, None] + compound[None, :] + pair
    cells = [(p, c) for p in range(pads) for c in range(compounds)]
    out = cells.pop(int(rng.integers(len(cells))))
    means = np.array([truth[p, c] for p, c in cells]) + rng.normal(0, error, len(cells))
    drawn = means + rng.normal(0, error, (draws, len(cells))) + rng.normal(0, 1, (draws, 1))
    columns = {"pad": [f"pad {p}" for p, _ in cells], "compound": [f"c {c}" for _, c in cells]}
    return columns, drawn, truth, out


CROSSINGS = {
    "3 x 3, one left out": (3, 3, (1.0, 1.0, 1.0), 1),
    "3 x 3, three left out": (3, 3, (1.0, 1.0, 1.0), 3),
    "3 x 4 that must suit, six left out": (3, 4, (0.5, 0.5, 1.5), 6),
    "3 x 4 that add up, six left out": (3, 4, (1.5, 1.5, 0.3), 6),
    "2 x 5, three left out": (2, 5, (1.0, 1.0, 0.5), 3),
}
"""Pads, compounds, standard deviations of both and of what they do only together, left out."""


def predicted_in(rng, spec, error=0.35):
    """Return how many of what was left out of a crossing its predictions hold, and of how many."""
    pads, compounds, (a, b, both), lost = spec
    truth = 82.0 + rng.normal(0, a, (pads, 1)) + rng.normal(0, b, (1, compounds))
    truth = truth + rng.normal(0, both, (pads, compounds))
    every = [(p, c) for p in range(pads) for c in range(compounds)]
    kept: list[tuple[int, int]] = []
    while len({p for p, _ in kept}) < pads or len({c for _, c in kept}) < compounds:
        out = {every[k] for k in rng.choice(len(every), lost, replace=False)}
        kept = [q for q in every if q not in out]
    means = np.array([truth[q] for q in kept]) + rng.normal(0, error, len(kept))
    drawn = means + rng.normal(0, error, (512, len(kept))) + rng.normal(0, 1, (512, 1))
    columns = {"pad": [f"pad {p}" for p, _ in kept], "compound": [f"c {c}" for _, c in kept]}
    found = take_apart(columns, drawn, rng)
    if len(found.found) < 2:  # they always change together: nothing is predicted
        return 0, 0
    tried = np.mean([truth[q] for q in kept])
    middle = found.means.mean(axis=1)
    hits = 0
    for p, c in out:
        levels = [found.found[0].levels.index(f"pad {p}"), found.found[1].levels.index(f"c {c}")]
        low, high = np.quantile(found.predict(levels, rng) - middle, (0.05, 0.95))
        hits += low <= truth[p, c] - tried <= high
    return hits, len(out)


def two_level(rng, means, *, panels=2, cells=3, readings=5, sd=(0.8, 0.3, 0.6, 0.4)):
    """Return the data of one hardness: every combination on every panel."""
    panel_sd, pair_sd, cell_sd, error = sd
    rows = []
    cell = 0
    for p in range(panels):
        panel = rng.normal(0, panel_sd)
        for k, mean in enumerate(means):
            both = rng.normal(0, pair_sd)
            for _ in range(cells):
                level = mean + panel + both + rng.normal(0, cell_sd)
                rows += [(cell, p, k, level + rng.normal(0, error)) for _ in range(readings)]
                cell += 1
    return data_of(rows, len(means))


def data_of(rows, combinations, measurand="gloss20"):
    """Return data from (cell, panel, combination, value) rows, all of hardness soft."""
    cell, panel, combination, y = zip(*rows, strict=True)
    names = tuple("ABCDEFGHIJKLMNOP"[:combinations])
    return TrialData(
        measurand,
        np.array(y),
        Coded(a([0] * len(y)), ("soft",)),
        Coded(a(combination), names),
        {
            "cell": Coded(a(cell), tuple(map(str, range(max(cell) + 1)))),
            "panel": Coded(a(panel), tuple(map(str, range(max(panel) + 1)))),
        },
    )


def parts(rng, trials=6, *, recipes=8, each=4, workshops=2, odd=None, cells=3, panels=2, shift=0.8):
    """Return trials of a pool that share recipes; ``odd`` is (trial, recipe, by how much)."""
    mean = rng.normal(84.0, 1.5, recipes)
    found = []
    for t in range(trials):
        own = rng.permutation(recipes)[:each]
        if odd is not None and t == odd[0] and odd[1] not in own:
            own[0] = odd[1]
        level = [mean[k] + (odd[2] if odd is not None and (t, k) == odd[:2] else 0) for k in own]
        data = two_level(rng, [v + rng.normal(0, 0.0) for v in level], panels=panels, cells=cells)
        data.y[:] += rng.normal(0, shift)
        keys = {"ABCDEFGHIJKLMNOP"[i]: ("recipe", int(k)) for i, k in enumerate(own)}
        found.append(Part(f"trial {t}", f"workshop {t % workshops}", data, keys))
    return found, mean


def settled_after(rng, means, choose, most=40, seed=1):
    """Add pairs of cells until the leader is settled; return how many pairs that took.

    ``choose`` gets the names and the open pair, and returns which two to work.
    """
    panels, each = 2, 1
    sd = (0.8, 0.3, 0.6, 0.4)
    effects = rng.normal(0, sd[0], panels + most)
    pair = {}
    rows, cell = [], 0

    def work(k, p):
        nonlocal cell
        both = pair.setdefault((p, k), rng.normal(0, sd[1]))
        level = means[k] + effects[p] + both + rng.normal(0, sd[2])
        rows.extend((cell, p, k, level + rng.normal(0, sd[3])) for _ in range(5))
        cell += 1

    for p in range(panels):
        for k in range(len(means)):
            for _ in range(each):
                work(k, p)
    for step in range(most):
        data = replace(data_of(rows, len(means)), looked=step > 0)
        found = judge_readings(data, seed=seed).classes[0]
        open_ = found.open_pair
        if open_ is None:
            return step
        new = panels + step // 4  # eight cells a panel
        for k in choose(list(found.columns), open_):
            work("ABCDEFGHIJKLMNOP".index(k), new)
    return most


def falsely_ahead(rng, most=24, seed=1):
    """Work two that are alike, a cell at a time, until a verdict falls; tell if one is ahead."""
    rows, cell, effects, pair = [], 0, rng.normal(0, 0.8, 2), rng.normal(0, 0.3, (2, 2))

    def work(k, p):
        nonlocal cell
        level = 84.0 + effects[p] + pair[p, k] + rng.normal(0, 0.6)
        rows.extend((cell, p, k, level + rng.normal(0, 0.4)) for _ in range(5))
        cell += 1

    for p in range(2):
        work(0, p)
        work(1, p)
    for step in range(most):
        data = replace(data_of(rows, 2), looked=step > 0)
        found = judge_readings(data, seed=seed).classes[0]
        verdict = found.standings[1].relation
        if verdict != OPEN:
            return verdict != EQUAL
        work(step % 2, int(rng.integers(2)))
    return False
