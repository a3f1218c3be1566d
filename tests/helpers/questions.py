"""Trials with a known truth for what Judge says beside the ranking."""

from dataclasses import replace

import numpy as np

from loam.core.judgement import Coded, TrialData
from loam.core.judging import judge_readings
from loam.core.pool import Part
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
        measurand, np.array(y), Coded(a([0] * len(y)), ("soft",)), Coded(a(combination), names),
        {"cell": Coded(a(cell), tuple(map(str, range(max(cell) + 1)))),
         "panel": Coded(a(panel), tuple(map(str, range(max(panel) + 1))))},
    )  # fmt: skip


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
