"""Small and odd trials from a seed: what a trainer's own first trial may be, and worse.

One to four panels, one to 26 combinations, one to five readings; some measurands, some starts, lost
cells, controls, constants, ends of the scale, one person or day, begun and undone.
"""

from __future__ import annotations

import string
from dataclasses import dataclass, replace

import numpy as np

from loam.core.film import FilmBuild
from loam.core.panel import Taping
from loam.core.readings import kind_of
from loam.core.trial import Cell, Combination, Panel, Reading, Stage, Trial
from loam.core.wipes import Wipe
from loam.store.draft import TrialDraft

PEOPLE = ("Ivo", "Lise", "Tam")
DAYS = ("2026-09-05", "2026-09-12", "2026-09-19")
MEASURANDS = ("gloss20", "gloss60", "haze", "clarity", "defects", "film", "temperature")
LEVEL = {
    "gloss20": (84.0, 4.0, 0.5),
    "gloss60": (92.0, 2.0, 0.3),
    "gloss85": (95.0, 1.0, 0.2),
    "haze": (18.0, 6.0, 1.0),
    "clarity": (80.0, 6.0, 1.0),
    "defects": (75.0, 15.0, 5.0),
    "film": (115.0, 3.0, 0.8),
    "temperature": (28.0, 4.0, 0.5),
}
"""Middle, spread of combinations and noise of a reading."""
ODDITIES = (
    "plain",
    "constant",
    "low end",
    "high end",
    "one read of four",
    "one person",
    "one day",
    "begun",
    "undone",
    "starts of some",
    "starts of one panel",
    "starts apart",
    "controls only",
    "one combination",
    "a slip",
    "lost cells",
    "no stages",
    "one reading",
    "alike",
)


@dataclass(frozen=True)
class Odd:
    """A trial with what is odd about it."""

    draft: TrialDraft
    how: tuple[str, ...]


def odd_trial(seed: int) -> Odd:
    """Return a small, odd trial."""
    rng = np.random.default_rng([seed, 404])
    how = tuple(rng.choice(ODDITIES, int(rng.integers(1, 4)), replace=False).tolist())
    count = 1 if "one combination" in how else int(rng.choice([1, 2, 3, 4, 5, 6, 12, 26]))
    built = np.random.default_rng([seed, 405])  # apart: what came before stays as it was
    panels = [replace(p, build=_build(built)) for p in _panels(rng, count)]
    combinations = _combinations(rng, count, how)
    cells = _cells(rng, panels, combinations, how)
    if built.random() < 0.2:
        cells = [replace(c, name=f"{chr(65 + c.row)}{c.column + 1}") for c in cells]
    kinds = _measurands(rng)
    per = 1 if "one reading" in how else int(rng.integers(1, 6))
    readings = _readings(rng, panels, combinations, cells, kinds, per, how)
    trial = Trial(1, f"Odd {seed}", "", tuple(kinds), per, seed)
    bench = np.random.default_rng([seed, 406])  # apart, too
    combinations, kind = _as_worked(bench, combinations)
    readings, by = _as_read(bench, readings, combinations, cells)
    draft = TrialDraft(trial, tuple(panels), tuple(combinations), tuple(cells), tuple(readings))
    return Odd(draft, (*how, *kind, *by))


def _as_worked(
    rng: np.random.Generator, combinations: list[Combination]
) -> tuple[list[Combination], tuple[str, ...]]:
    """Let some sand first, up to eight stages, damp or dry, and some be wiped in their own way."""
    kind = [name for name in ("sands", "wiped") if rng.random() < 0.3]
    made = []
    for c in combinations:
        stages = list(c.stages)
        if stages and "sands" in kind and rng.random() < 0.7:
            room = min(int(rng.integers(1, 5)), 8 - len(stages))
            grits = np.sort(rng.choice([320, 800, 1200, 2000, 3000, 5000], room, replace=False))
            said = rng.random() < 0.7
            sanded = [
                Stage(
                    "",
                    "",
                    "Dipper 15",
                    machine_kind="free-orbital",
                    passes=int(rng.integers(0, 5)),
                    disc=f"P{g}" if rng.random() < 0.8 else "a disc",
                    grit=float(g) if said else None,
                    damp=[None, 0.0, 1.0][int(rng.integers(3))],
                )
                for g in grits
            ]
            stages = [*sanded, *stages]
        if stages and "wiped" in kind and rng.random() < 0.8:
            wipes = (
                Wipe(["alcohol mix", "panel wipe"][int(rng.integers(2))], int(rng.integers(1, 4))),
            )
            stages[-1] = replace(stages[-1], wipes=wipes)
        made.append(replace(c, stages=tuple(stages)))
    return made, tuple(kind)


def _as_read(
    rng: np.random.Generator,
    readings: list[Reading],
    combinations: list[Combination],
    cells: list[Cell],
) -> tuple[list[Reading], tuple[str, ...]]:
    """Let some be read by several readers, and before and between their wipes."""
    made, by = list(readings), ()
    if rng.random() < 0.4:
        count = int(rng.integers(1, 5))
        by = (f"{count} readers",)
        readers = ("Maren", "Jory", "", "Ana")[:count]
        made = [replace(r, reader=readers[int(rng.integers(count))]) for r in made]
    wipes = {c.id: c.stages[-1].wipes for c in combinations if c.stages}
    wiped = {c.id: wipes.get(c.combination_id or 0, ()) for c in cells}
    more = []
    for r in made:
        own = wiped.get(r.cell_id, ())
        if own and r.phase == "after" and rng.random() < 0.7:
            for phase in ("unwiped", "wipe1") if own[0].times > 1 else ("unwiped",):
                more.append(replace(r, id=len(made) + len(more) + 1, phase=phase))
    return [*made, *more], by


def _panels(rng: np.random.Generator, count: int) -> list[Panel]:
    number = int(rng.integers(1, 5))
    wide = int(np.ceil(np.sqrt(min(count + 2, 30))))
    made = []
    for i in range(1, number + 1):
        rows, columns = int(rng.integers(1, wide + 1)), int(rng.integers(wide, wide + 3))
        taping = Taping(100.0 * columns + 200, 100.0 * rows + 200, rows, columns, 12, 40)
        hardness = (
            ("soft", "medium", "hard")[int(rng.integers(3))]
            if rng.random() < 0.5
            else (made[0].hardness if made else "medium")
        )
        made.append(Panel(i, 1, f"P{i}", hardness, taping))
    return made


def _build(rng: np.random.Generator) -> FilmBuild:
    """Return how a panel is built, as far as somebody noted it."""
    if rng.random() < 0.5:
        return FilmBuild()
    single = bool(rng.random() < 0.5)

    def um(low: float, high: float) -> float | None:
        return float(rng.uniform(low, high)) if rng.random() < 0.5 else None

    return FilmBuild(
        str(rng.choice(["", "steel", "plastic"])),
        um(0, 60),
        um(0, 30),
        um(0, 90),
        um(0, 20),
        single,
        age=str(rng.choice(["", "recent", "old"])),
        colour_um=um(0, 120),
        cured_on=str(rng.choice(["", "2026-09-10", "2031-01-01", "1970-05-01"])),
        polish_days=int(rng.integers(0, 90)) if rng.random() < 0.5 else None,
    )


def _combinations(rng: np.random.Generator, count: int, how: tuple[str, ...]) -> list[Combination]:
    pads, compounds = ("Fen firm", "Fen soft", "Bracken"), ("Grist 9", "Loess 4", "Silt 1")
    made = []
    for i in range(count):
        stages: tuple[Stage, ...] = ()
        if "no stages" not in how:
            stages = tuple(
                Stage(
                    pads[int(rng.integers(3))],
                    compounds[int(rng.integers(3))],
                    "Dipper 15",
                    "foam-firm",
                    "coarse",
                    "free-orbital",
                    int(rng.integers(1, 6)),
                    "4",
                    40.0,
                )
                for _ in range(int(rng.integers(1, 4)))
            )
        made.append(Combination(i + 1, string.ascii_uppercase[i], "", stages))
    if "controls only" in how:
        made = []
    if "controls only" in how or rng.random() < 0.4:
        made.append(Combination(len(made) + 1, "U0", "untouched", (), "untouched"))
    if "controls only" in how or rng.random() < 0.3:
        made.append(Combination(len(made) + 1, "D0", "damaged", (), "damaged"))
    return made


def _cells(
    rng: np.random.Generator,
    panels: list[Panel],
    combinations: list[Combination],
    how: tuple[str, ...],
) -> list[Cell]:
    cells: list[Cell] = []
    for panel in panels:
        own = rng.permutation([c.id for c in combinations]).tolist()
        t = panel.taping
        for k in range(t.rows * t.columns):
            given = own[k % len(own)] if own and rng.random() < 0.85 else None
            order = k + 1 if given and rng.random() < 0.9 else None
            if "undone" in how and rng.random() < 0.3:
                given, order = None, None
            cells.append(
                Cell(len(cells) + 1, panel.id, k // t.columns, k % t.columns, given, order)
            )
    return cells


def _measurands(rng: np.random.Generator) -> list[str]:
    count = int(rng.integers(1, 4))
    chosen = rng.choice(MEASURANDS, count, replace=False)
    return [m for m in MEASURANDS if m in chosen]


def _readings(  # noqa: C901 - one oddity after the other
    rng: np.random.Generator,
    panels: list[Panel],
    combinations: list[Combination],
    cells: list[Cell],
    kinds: list[str],
    per: int,
    how: tuple[str, ...],
) -> list[Reading]:
    people = PEOPLE[:1] if "one person" in how else PEOPLE
    days = DAYS[:1] if "one day" in how else DAYS
    effect = {(m, c.id): rng.normal() for m in kinds for c in combinations}
    panel = {(m, p.id): rng.normal(0, 0.3) for m in kinds for p in panels}
    read = {p.id for p in panels}
    if "one read of four" in how:
        read = {panels[0].id}
    found: list[Reading] = []

    def keep(cell: Cell, m: str, value: float, phase: str, k: int, who: str, day: str) -> None:
        kind = kind_of(m)
        step = 5.0 if m == "defects" else 10.0**-kind.decimals
        value = min(max(round(round(value / step) * step, 2), kind.low), kind.high)
        scale = "linear" if kind.scales else ""
        found.append(Reading(len(found) + 1, cell.id, m, value, phase, k, 1, scale, who, day))

    for cell in cells:
        if cell.combination_id is None or cell.panel_id not in read:
            continue
        if "lost cells" in how and rng.random() < 0.4:
            continue
        if "begun" in how and rng.random() < 0.7:
            continue
        who, day = str(rng.choice(people)), str(rng.choice(days))
        for m in kinds:
            middle, spread, noise = LEVEL[m]
            level = middle + spread * (effect[m, cell.combination_id] + panel[m, cell.panel_id])
            if "alike" in how:
                level = middle
            if "constant" in how:
                level, noise = middle, 0.0
            if "low end" in how:
                level = kind_of(m).low
            if "high end" in how:
                level = kind_of(m).high
            if _starts(rng, m, cell, how):
                start = (
                    0.6 * middle
                    + rng.normal(0, spread)
                    + (6.0 * (cell.combination_id % 3) if "starts apart" in how else 0.0)
                )
                for k in range(1, per + 1):
                    keep(cell, m, start + rng.normal(0, noise), "before", k, who, day)
            for k in range(1, per + 1):
                value = level + rng.normal(0, noise)
                if "a slip" in how and rng.random() < 0.02:
                    value *= 10.0
                keep(cell, m, value, "after", k, who, day)
            if m in ("gloss20", "haze") and rng.random() < 0.2:
                keep(cell, m, level + rng.normal(0, noise), "unwiped", 1, who, day)
    return found


def _starts(rng: np.random.Generator, m: str, cell: Cell, how: tuple[str, ...]) -> bool:
    if "starts of one panel" in how:
        return cell.panel_id == 1
    if "starts of some" in how or "starts apart" in how:
        return bool(rng.random() < 0.5)
    return m == "film" and bool(rng.random() < 0.7)
