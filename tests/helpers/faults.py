"""Whole trials with a fault planted, or none: does the search for doubts find it, and nothing else?

Every measurand is made on its own scale with the stated usual variances (or drawn round them), and
brought back to what a meter shows; plants have the sizes of the demo's.
"""

from dataclasses import dataclass, field, replace

import numpy as np

from loam.core.doubts import Extras, doubts
from loam.core.panel import Taping
from loam.core.readings import BY_KEY
from loam.core.scale import Scale
from loam.core.snapshot import Snapshot, columns_of
from loam.core.trial import Cell, Combination, Panel, Reading, Stage

MEASURANDS = ("gloss20", "haze", "film", "defects")
CLASSES = ("soft", "soft", "soft", "medium", "medium", "medium", "hard", "hard")
PEOPLE = ("Ivo", "Lise", "Tam", "Nils", "Ruth", "Emil")
LETTERS = "ABCDEFGHIJKL"
DAYS = ("2026-09-05", "2026-09-12", "2026-09-19")
PLANTS = ("class", "hand", "pad", "fade", "drift", "masking", "slip", "order", "position", "reader")
READERS = ("Maren", "Jory", "Ana", "Peer", "Wim", "Elin")
"""A pad worn on one day, and one whose cut fades with its sets, are two plants of a kind."""
KIND = {"fade": "pad"}
DEMO = {
    "gloss20": {"panel": 0.7, "panel:combination": 0.0, "operator": 0.15, "day": 0.0, "cell": 0.6},
    "haze": {"panel": 0.02, "panel:combination": 0.0, "operator": 0.007, "day": 0.0, "cell": 0.018},
    "removed": {
        "panel": 0.15,
        "panel:combination": 0.0,
        "operator": 0.05,
        "day": 0.0,
        "cell": 0.25,
    },
    "defects": {
        "panel": 0.14,
        "panel:combination": 0.0,
        "operator": 0.05,
        "day": 0.0,
        "cell": 0.19,
    },
}
"""Standard deviations of the demo's truth, on the scales."""
_CENTRE = {"gloss20": 85.0, "haze": 0.45, "removed": 2.5, "defects": 2.0}
_SPREAD = {"gloss20": 2.5, "haze": 0.15, "removed": 1.2, "defects": 0.6}


@dataclass(frozen=True)
class Shape:
    """How a simulated trial is laid out: classes of its panels, cells of each combination on each
    panel, people and days at hand, readings a cell; readers, each of cells by lot (0: not
    noted), or all of them of the same cells.
    """

    classes: tuple[str, ...] = CLASSES
    combinations: int = 6
    each: int = 2
    people: int = 3
    days: int = 3
    readings: int = 5
    readers: int = 0
    same: bool = False


SHAPES = {
    "eight panels": Shape(),
    "two panels": Shape(("soft", "soft"), 4, 2, 2, 1, 5),
    "one panel": Shape(("medium",), 5, 3, 3, 1, 5),
    "two classes": Shape(("soft", "soft", "hard", "hard"), 5, 2, 2, 2, 3),
    "twelve combinations": Shape(("hard", "hard", "hard"), 12, 1, 3, 3, 4),
    "a cell each": Shape(("soft", "medium", "hard") * 2, 4, 1, 3, 2, 3),
}
"""Six sorts of trials, from a first one to a large one."""
OTHER = {
    "class": {"gloss20": -7.0, "haze": 0.3, "removed": -0.8, "defects": -1.4},
    "hand": {"gloss20": -1.8, "haze": 0.26, "removed": 0.7},
    "drift": {"gloss20": 4.0},
    "masking": {"gloss20": 2.6},
    "pad": {"gloss20": -2.8, "removed": -0.5},
    "fade": {"gloss20": -4.5, "haze": 0.2},
}
"""Faults of other sizes than the demo's."""


@dataclass
class Made:
    """A simulated trial: as the judgement sees it, and what was planted."""

    snapshot: Snapshot
    extras: Extras
    plant: str = ""
    subject: str = ""
    rows: list[int] = field(default_factory=list)


def _usual(measurand):
    usual = dict(BY_KEY[measurand].usual)
    return usual | {"residual": 0.5} if measurand == "removed" else usual


def make(seed, plant="", how="usual", *, pads=True, order=True, shape=None, sizes=None):
    """Make a trial.

    Parameters
    ----------
    how : str
        ``usual`` variances, ``drawn`` round them (3 df), or the ``demo``'s; ``heavy``: the usual
        ones with t3 errors; ``apart``: panels vary 2.5 times, people and days 3 times as much;
        ``both`` of them.
    shape : Shape, optional
        Of the demo's size otherwise.
    sizes : mapping, optional
        What a fault does; the demo's otherwise.
    """
    shape = shape or Shape()
    if plant == "reader" and not shape.readers:
        shape = replace(shape, readers=6, same=True, readings=6)
    rng = np.random.default_rng([seed, PLANTS.index(plant) + 1 if plant else 0])
    per = shape.combinations * shape.each
    rows = next(r for r in (4, 3, 2, 1) if per % r == 0 and per // r >= r)
    taping = Taping(720, 560, rows, per // rows, 14, 44)
    panels = [Panel(i, 1, f"P{i}", h, taping) for i, h in enumerate(shape.classes, 1)]
    combos = [
        Combination(i, LETTERS[i - 1], "", (Stage(f"pad {i}", f"c{i}", "m", passes=4),))
        for i in range(1, shape.combinations + 1)
    ]
    cells, n = [], 0
    for p in panels:
        codes = rng.permutation(np.repeat(np.arange(1, shape.combinations + 1), shape.each))
        runs = rng.permutation(per) + 1
        for k, (code, run) in enumerate(zip(codes, runs, strict=True)):
            n += 1
            wide = per // rows
            cells.append(Cell(n, p.id, k // wide, k % wide, int(code), int(run)))
    person = {c.id: int(rng.integers(shape.people)) for c in cells}
    day = {p.id: (p.id - 1) % shape.days for p in panels}
    walk = {d: [c.id for c in cells if day[c.panel_id] == d] for d in range(shape.days)}
    place = {c: i for d in walk for i, c in enumerate(rng.permutation(walk[d]).tolist())}
    sets = _sets(cells, day)
    odd = {
        "class": int(rng.integers(min(6, len(panels)))) + 1,
        "hand": int(rng.integers(shape.people)),
        "pad": int(rng.integers(min(6, len(combos)))) + 1,
    }
    level = {}
    for m in ("gloss20", "haze", "removed", "defects"):
        level[m] = _levels(rng, m, panels, combos, cells, person, day, how)
    _plant(plant, odd, level, cells, person, day, sets, taping, sizes or {})
    read_by = _read_by(rng, cells, shape.readers, how, shape.same)
    odd["reader"] = read_by.odd
    readings, extras = _read(
        rng,
        read_by,
        plant,
        level,
        cells,
        person,
        day,
        place,
        sets,
        pads,
        order,
        shape.readings,
        how in ("heavy", "both"),
        sizes or {},
    )
    made = Made(
        Snapshot(tuple(panels), tuple(combos), tuple(cells), columns_of(readings)), extras, plant
    )
    made.subject = {
        "class": f"P{odd['class']}",
        "hand": PEOPLE[odd["hand"]],
        "masking": "B",
        "pad": f"{LETTERS[odd['pad'] - 1]} on {DAYS[2]}",
        "fade": f"pad {odd['pad']}",
        "reader": READERS[odd["reader"]],
    }.get(plant, "")
    return made


@dataclass
class ReadBy:
    """Who reads which cell, and how high each reads on the scale of gloss."""

    of: dict
    high: list
    odd: int = 0
    same: bool = False

    def at(self, cell, k):
        return k % len(self.high) if self.same else self.of[cell]

    def name(self, cell, k):
        return READERS[self.at(cell, k)] if self.high else ""

    def bias(self, measurand, cell, k, plant, sizes):
        if measurand != "gloss20" or not self.high:
            return 0.0
        own = self.at(cell, k)
        planted = plant == "reader" and own == self.odd
        return self.high[own] + (sizes.get("gloss20", 1.5) if planted else 0.0)


def _read_by(rng, cells, readers, how, same):
    if not readers:
        return ReadBy({}, [])
    own = np.random.default_rng([int(rng.integers(2**31)), 77])
    wider = 3.0 if how in ("apart", "both") else 1.0
    high = wider * BY_KEY["gloss20"].usual["reader"] * own.standard_normal(readers)
    of = {c.id: int(own.integers(readers)) for c in cells}
    return ReadBy(of, high.tolist(), int(own.integers(readers)), same)


def _sets(cells, day):
    """Number the cells of each combination in the order in which its one pad worked them."""
    found, count = {}, {}
    for c in sorted(cells, key=lambda c: (day[c.panel_id], c.panel_id, c.run_order)):
        found[c.id] = count.get(c.combination_id, 0)
        count[c.combination_id] = found[c.id] + 1
    return found


def _levels(rng, m, panels, combos, cells, person, day, how):
    usual = _usual(m) | (DEMO[m] if how == "demo" else {})

    wider = {"panel": 2.5, "operator": 3.0, "day": 3.0} if how in ("apart", "both") else {}

    def sd(term):
        drawn = np.sqrt(3.0 / rng.chisquare(3.0)) if how == "drawn" else 1.0
        return usual[term] * drawn * wider.get(term, 1.0)

    def error():
        if how in ("heavy", "both"):
            return rng.standard_t(3.0) / np.sqrt(3.0)
        return rng.standard_normal()

    truth = {
        (h, c.id): _CENTRE[m] + _SPREAD[m] * rng.standard_normal()
        for h in ("soft", "medium", "hard")
        for c in combos
    }
    panel = {p.id: sd_panel * rng.standard_normal() for sd_panel in [sd("panel")] for p in panels}
    both_sd, cell_sd = sd("panel:combination"), sd("cell")
    own = {(p.id, c.id): both_sd * rng.standard_normal() for p in panels for c in combos}
    people = sd("operator") * rng.standard_normal(max(person.values()) + 1)
    days = sd("day") * rng.standard_normal(max(day.values()) + 1)
    return {
        c.id: truth[panels[c.panel_id - 1].hardness, c.combination_id]
        + panel[c.panel_id]
        + own[c.panel_id, c.combination_id]
        + people[person[c.id]]
        + days[day[c.panel_id]]
        + cell_sd * error()
        for c in cells
    }


def _plant(plant, odd, level, cells, person, day, sets, taping, sizes):
    shift = {
        "class": {"gloss20": -4.5, "haze": 0.14, "removed": -0.3, "defects": -0.9},
        "hand": {"gloss20": -0.5, "haze": 0.03, "removed": 0.8, "defects": 0.1},
        "pad": {"gloss20": -4.0},
        "fade": {"gloss20": -3.0, "removed": -0.8, "defects": -0.8},
        "order": {"gloss20": -2.0, "removed": -0.6},
        "position": {"gloss20": -1.2, "removed": -0.5},
    }.get(plant, {})
    if plant in ("class", "hand", "pad", "fade"):
        shift = sizes or shift
    most = max(sets.values(), default=1)
    for c in cells:
        here = {
            "class": c.panel_id == odd["class"],
            "hand": person[c.id] == odd["hand"],
            "pad": c.combination_id == odd["pad"] and day[c.panel_id] == 2,
            "fade": (c.combination_id == odd["pad"]) * sets[c.id] / most,
            "order": (c.run_order - 6.5) / 11.0,
            "position": c.row in (0, 2) or c.column in (0, 3),
        }.get(plant, 0)
        for m, size in shift.items():
            level[m][c.id] += size * here


def _read(
    rng, read_by, plant, level, cells, person, day, place, sets, pads, order, per, heavy, sizes
):
    def error():
        return rng.standard_t(3.0) / np.sqrt(3.0) if heavy else rng.standard_normal()

    readings, known = [], []
    for c in cells:
        start = 118.0 + 4.0 * rng.standard_normal()
        for k in range(1, per + 1):
            at = place[c.id] * per + k
            whole = sizes.get("gloss20", 2.0) if plant == "drift" else 0.0
            drift = whole * at / (per * (max(place.values()) + 1))

            def keep(m, value, phase, c=c, k=k, at=at):
                kind = BY_KEY[m]
                step = 5.0 if m == "defects" else 0.1
                value += read_by.bias(m, c.id, k, plant, sizes)
                shown = min(max(round(round(value / step) * step, 1), kind.low), kind.high)
                scale = "linear" if m == "haze" else ""
                readings.append(
                    Reading(
                        len(readings) + 1,
                        c.id,
                        m,
                        shown,
                        phase,
                        k,
                        1,
                        scale,
                        PEOPLE[person[c.id]],
                        DAYS[day[c.panel_id]],
                        reader=read_by.name(c.id, k),
                    )
                )
                known.append((float(at), c.combination_id - 1, float(sets[c.id])))

            noise = {m: _usual(m)["residual"] * error() for m in level}
            gloss = level["gloss20"][c.id] + noise["gloss20"]
            masked = sizes.get("gloss20", 4.2) if plant == "masking" else 0.0
            masked *= c.combination_id == 2
            keep("gloss20", gloss + masked + 0.2 * rng.standard_normal(), "unwiped")
            keep("gloss20", gloss + drift, "after")
            keep("haze", np.expm1(max(level["haze"][c.id] + noise["haze"], 0.0)), "after")
            keep("film", start + 0.5 * rng.standard_normal(), "before")
            keep("film", start - level["removed"][c.id] + noise["removed"], "after")
            at_scale = Scale("logit", 0.0, 100.0, 2.5)
            value = level["defects"][c.id] + noise["defects"]
            keep("defects", float(at_scale.back(np.array([value]))[0]), "after")
    if plant == "slip":
        _slip(rng, readings)
    rows = np.array(known)
    unknown = np.full(len(known), np.nan)
    return readings, Extras(
        rows[:, 0] if order else unknown,
        rows[:, 1].astype(np.intp) if pads and plant != "pad" else np.full(len(known), -1),
        rows[:, 2] if pads and plant != "pad" else unknown,
        np.arange(1, len(known) + 1),
        tuple(f"pad {i}" for i in range(1, 1 + max(c.combination_id for c in cells))),
    )


def _slip(rng, readings):
    """Let one gloss reading be typed with its decimal mark elsewhere, or two digits swapped."""
    own = [i for i, r in enumerate(readings) if r.measurand == "gloss20" and r.phase == "after"]
    while True:
        at = own[int(rng.integers(len(own)))]
        value = readings[at].value
        text = f"{value:.1f}"
        swapped = float(text[1] + text[0] + text[2:])
        wrong = swapped if rng.random() < 0.5 else value * 10.0
        if abs(wrong - value) > 12.0:
            break
    from dataclasses import replace

    readings[at] = replace(readings[at], value=round(wrong, 1))


@dataclass
class Found:
    """What was found over many trials."""

    trials: int = 0
    hit: int = 0
    alarms: int = 0
    kinds: dict[str, int] = field(default_factory=dict)


def run(plant, trials, seed=1, **how):
    """Look through so many trials; a hit is the planted kind (and subject), all else an alarm."""
    total = Found()
    for t in range(trials):
        made = make(seed * 100_003 + t, plant, **how)
        found = doubts(made.snapshot, made.extras)
        wanted = KIND.get(plant, plant)
        own = [d for d in found if d.kind == wanted and made.subject in ("", d.subject)]
        rest = [d for d in found if d not in own]
        total.trials += 1
        total.hit += bool(own)
        total.alarms += bool(rest)
        for d in rest:
            total.kinds[d.kind] = total.kinds.get(d.kind, 0) + 1
    return total
