"""Trials with a known truth, thrown at the judgement: does it say only what is true?

The designs of docs/statistics.md, each a small layout; readings are made on the measurand's own
scale with variances drawn from the stated priors (or held at them), and brought back to what a
meter shows.
"""

from dataclasses import dataclass, field

import numpy as np

from loam.core.judging import judge_readings
from loam.core.matter import matters
from loam.core.readings import BY_KEY
from loam.core.scale import Scale
from loam.core.trial_rows import Coded, TrialData
from loam.core.verdicts import BETTER, CLEARLY_BETTER, CLEARLY_WORSE, EQUAL, WORSE


@dataclass(frozen=True)
class Design:
    """How a simulated trial is laid out.

    Attributes
    ----------
    layout : list of (int, int)
        Panel and combination of each cell.
    classes : tuple of int
        Hardness class of each panel.
    spread : float
        Standard deviation of the true combinations, on the scale; 0.04 for near ties.
    fixed : dict
        Standard deviations held at a value instead of drawn from their prior.
    lost : float
        Share of cells without readings.
    own : str
        ``operator`` or ``day``: each combination has its own, with the standard deviation in
        ``fixed``.
    starts : float
        Standard deviation of how combinations start apart; cells vary half as much around it.
        They are read with the scatter of a cell, and `slope` of the true start is left.
    """

    name: str
    layout: list[tuple[int, int]]
    classes: tuple[int, ...]
    readings: int = 5
    operators: int = 3
    measurand: str = "gloss20"
    spread: float = 2.5
    centre: float = 85.0
    fixed: dict[str, float] = field(default_factory=dict)
    lost: float = 0.0
    step: float = 0.1
    own: str = ""
    starts: float = 0.0
    slope: float = 0.0


def _full(panels, combinations, times=1):
    return [(p, c) for p in range(panels) for c in range(combinations) for _ in range(times)]


def designs():
    """Return the designs by letter."""
    pairs = [(0, 0), (0, 1), (1, 2), (1, 3)] * 2
    found = [
        Design("a full", _full(4, 5, 2), (0, 0, 1, 1)),
        Design("b one class, one panel", _full(1, 5, 3), (0,)),
        Design("c two panels, four combinations, one cell each", _full(2, 4), (0, 0)),
        Design("d a fifth of the cells lost", _full(4, 5, 2), (0, 0, 1, 1), lost=0.2),
        Design("e people alike", _full(4, 5, 2), (0, 0, 1, 1), fixed={"operator": 0.0}),
        Design("f twelve near ties", _full(2, 12, 2), (0, 0), spread=0.04),
        Design("g one cell each, one panel, 5 readings", _full(1, 4), (0,), operators=1),
        Design("h one cell each, one panel, 10 readings", _full(1, 4), (0,), 10, 1),
        Design("i own panel each", [(c, c) for c in range(4) for _ in range(2)], (0,) * 4),
        Design("j two pairs on two panels", pairs, (0, 0)),
        Design(
            "k defects near the end", _full(3, 4, 2), (0, 0, 0), 3, 2, "defects", 0.6, 1.8, step=5.0
        ),
        Design("l haze near nothing", _full(3, 4, 2), (0, 0, 0), 3, 2, "haze", 0.25, 1.1),
    ]
    restless = {"cell": 1.0}  # in place of 0.6; the others drawn from their priors
    found += [
        Design("c' cells vary more", _full(2, 4), (0, 0), fixed=restless),
        Design("g' cells vary more", _full(1, 4), (0,), operators=1, fixed=restless),
        Design("i' cells vary more", found[8].layout, (0,) * 4, fixed=restless),
        Design("j' cells vary more", pairs, (0, 0), fixed=restless),
    ]
    one_panel, owned = _full(1, 4, 3), [(c, c) for c in range(4) for _ in range(3)]
    chain = [(p, c) for p in range(3) for c in (p, p + 1) for _ in range(2)]
    pair = "panel:combination"
    found += [
        Design("m1 one panel, takes to it by 0.8", one_panel, (0,), fixed={pair: 0.8}),
        Design("m2 one panel, takes to it by 1.5", one_panel, (0,), fixed={pair: 1.5}),
        Design("n own panels, which vary by 2.5", owned, (0,) * 4, fixed={"panel": 2.5}),
        Design(
            "o each by its own person, by 1.0",
            _full(2, 4, 2),
            (0, 0),
            operators=4,
            own="operator",
            fixed={"operator": 1.0},
        ),
        Design(
            "p each on its own day, by 1.0", _full(2, 4, 2), (0, 0), own="day", fixed={"day": 1.0}
        ),
        Design("q1 a chain of pairs", chain, (0,) * 3),
        Design("q2 a chain, takes to a panel by 0.8", chain, (0,) * 3, fixed={pair: 0.8}),
        Design(
            "r1 starts apart by 2, a third of it left",
            _full(3, 4, 2),
            (0,) * 3,
            starts=2.0,
            slope=0.33,
        ),
        Design(
            "r2 starts apart by 2, two thirds left",
            _full(3, 4, 2),
            (0,) * 3,
            starts=2.0,
            slope=0.67,
        ),
        Design("r3 starts apart by 2, nothing left", _full(3, 4, 2), (0,) * 3, starts=2.0),
    ]
    return {d.name.split()[0]: d for d in found}


def _scale(design):
    kind = BY_KEY[design.measurand]
    half = 0.5 * design.step if kind.scale == "logit" else 0.0
    return Scale(kind.scale, kind.low, kind.high, half)


def simulate(design, rng):
    """Return a trial's readings and the true mean of each (class, combination) on the scale."""
    kind = BY_KEY[design.measurand]

    def sd(term):
        if term in design.fixed:
            return design.fixed[term]
        return kind.usual[term] * np.sqrt(3.0 / rng.chisquare(3.0))

    terms = ("panel", "panel:combination", "operator", "cell", "residual")
    spread = {t: sd(t) for t in terms}
    cells = [at for at in design.layout if rng.random() >= design.lost] or design.layout
    classes = max(design.classes) + 1
    combinations = max(c for _, c in design.layout) + 1
    truth = design.centre + design.spread * rng.standard_normal((classes, combinations))
    panel = spread["panel"] * rng.standard_normal(len(design.classes))
    own = spread["panel:combination"] * rng.standard_normal((len(design.classes), combinations))
    person = spread["operator"] * rng.standard_normal(design.operators)
    n = design.readings
    p = np.repeat([at[0] for at in cells], n)
    c = np.repeat([at[1] for at in cells], n)
    o = np.repeat(rng.integers(design.operators, size=len(cells)), n)
    o = c.copy() if design.own == "operator" else o
    cell = np.repeat(np.arange(len(cells)), n)
    h = np.array(design.classes)[p]
    x = truth[h, c] + panel[p] + own[p, c] + person[o]
    x = x + spread["cell"] * rng.standard_normal(len(cells))[cell]
    x = x + spread["residual"] * rng.standard_normal(x.size)
    days = {}
    if design.own == "day":
        x = x + (sd("day") * rng.standard_normal(combinations))[c]
        days = {"day": c}
    before = None
    if design.starts:
        begun = design.starts * rng.standard_normal(combinations)
        begun = begun[c[::n]] + 0.5 * design.starts * rng.standard_normal(len(cells))
        x = x + design.slope * begun[cell]
        before = (50.0 + begun + spread["cell"] * rng.standard_normal(len(cells)))[cell]
    y = np.clip(np.round(_scale(design).back(x) / design.step) * design.step, kind.low, kind.high)

    def coded(codes, letter):
        present, at = np.unique(codes, return_inverse=True)
        return Coded(at.astype(np.intp), tuple(f"{letter}{i}" for i in present))

    data = TrialData(
        design.measurand,
        y,
        coded(h, "h"),
        coded(c, "c"),
        {
            "cell": coded(cell, "x"),
            "panel": coded(p, "p"),
            "operator": coded(o, "o"),
            **{name: coded(codes, "d") for name, codes in days.items()},
        },
        before,
        kind.higher_is_better,
    )
    return data, truth


def trial(design, seed=0):
    """Return a simulated trial's readings and truth, from a seed."""
    return simulate(design, np.random.default_rng(seed))


@dataclass
class Tally:
    """What was counted over many trials."""

    covered: int = 0
    pairs: int = 0
    clear: int = 0
    clear_false: int = 0
    trials: int = 0
    better_false: int = 0
    any_clear_false: int = 0
    equal: int = 0
    equal_false: int = 0
    best: list[tuple[float, bool]] = field(default_factory=list)

    @property
    def coverage(self):
        """Share of 90 % intervals of a contrast that hold the truth."""
        return self.covered / max(self.pairs, 1)

    def calibration(self):
        """Return the gap between chance and share over fifths of P(best): its mean over all
        that was said, and the largest in a fifth with 150 or more."""
        p, hit = np.array([b[0] for b in self.best]), np.array([b[1] for b in self.best])
        mean = worst = 0.0
        for low in np.arange(0.0, 1.0, 0.2):
            own = (p >= low) & (p < low + 0.2 + (low > 0.75))
            if own.any():
                gap = abs(float(p[own].mean() - hit[own].mean()))
                mean += gap * own.mean()
                worst = max(worst, gap if own.sum() >= 150 else 0.0)
        return float(mean), worst

    def line(self, name):
        """Say it in one line."""
        return (
            f"{name:<48} coverage {100 * self.coverage:5.1f} %  clear {self.clear:5d} of which"
            f" false {100 * self.clear_false / max(self.clear, 1):4.1f} %  trials with a false"
            f" clear {100 * self.any_clear_false / self.trials:4.1f} %, a wrong better"
            f" {100 * self.better_false / self.trials:4.1f} %  equal {self.equal} false"
            f" {100 * self.equal_false / max(self.equal, 1):4.1f} %  P(best) off by"
            f" {self.calibration()[0]:.3f}, at most {self.calibration()[1]:.3f}"
        )


def run(design, trials, seed=1):
    """Judge so many simulated trials and count what was true."""
    tally = Tally()
    kind = BY_KEY[design.measurand]
    delta, sign = matters(kind).on_scale, 1.0 if kind.higher_is_better else -1.0
    for t in range(trials):
        rng = np.random.default_rng([seed, t, len(design.name)])
        data, truth = simulate(design, rng)
        judged = judge_readings(data, seed=t)
        tally.trials += 1
        false_clear = wrong = False
        for found in judged.classes:
            row = truth[int(found.hardness[1:])]
            true = {n: float(row[int(n[1:])]) for n in found.names}
            best = max(true, key=lambda n, t=true: sign * t[n])
            if len(true) > 1:
                tally.best += [(s.p_best, s.combination == best) for s in found.standings]
            names = sorted(true)
            for i, a in enumerate(names):
                for b in names[i + 1 :]:
                    c, d = found.compare(a, b), true[a] - true[b]
                    tally.pairs += 1
                    tally.covered += c.low <= d <= c.high
                    m = sign * d if c.verdict in (CLEARLY_BETTER, BETTER) else -sign * d
                    if c.verdict in (CLEARLY_BETTER, CLEARLY_WORSE):
                        tally.clear += 1
                        tally.clear_false += m < delta
                        false_clear |= m < delta
                    if c.verdict in (BETTER, WORSE, CLEARLY_BETTER, CLEARLY_WORSE):
                        wrong |= m < 0
                    if c.verdict == EQUAL:
                        tally.equal += 1
                        tally.equal_false += abs(d) > delta
        tally.any_clear_false += false_clear
        tally.better_false += wrong
    return tally
