"""Two lessons of the course: which wipe takes the fillers off, and six on the same cells."""

from __future__ import annotations

import itertools
import sqlite3
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from loam.app.presenters.inspecting import facts_of
from loam.core.inspection import GRID, GRID_SIDE, Looked
from loam.core.panel import Taping
from loam.core.trial import AFTER, BEFORE, UNWIPED, Cell, Combination, Panel, Reading, Stage, Trial
from loam.core.wipes import Wipe
from loam.demo import truth
from loam.store import cells as cell_store
from loam.store import combinations as combination_store
from loam.store import noted, people
from loam.store.draft import TrialDraft

EVENINGS = ("2026-09-26", "2026-10-03")
_CLEAN = 84.0
LETTERS = "ABCDEFGHIJKL"


def _stage(pad: str, material: str, compound: str, grade: str) -> Stage:
    return Stage(
        pad,
        compound,
        "Dipper 15",
        material,
        grade,
        "free-orbital",
        4,
        "4",
        pad_mm=75.0,
        orbit_mm=15.0,
        speed=3900.0,
        overlap=0.5,
    )


_PRODUCTS = {
    "Loess 4": _stage("Fen medium", "foam", "Loess 4", "polish"),
    "Silt 2": _stage("Fen soft", "foam-soft", "Silt 2", "fine"),
    "Grist 6": _stage("Fen firm", "foam-firm", "Grist 6", "coarse"),
}


def which_wipe() -> TrialDraft:
    """Trial 8: fillers of three products, four ways to wipe beside each other, untouched strips."""
    rng = np.random.default_rng([truth.SEED, 8])
    taping = Taping(760, 560, 3, 5, 14, 40)
    trial = Trial(
        8,
        "Which wipe takes the fillers off",
        "Which wipe removes the fillers of Loess 4, Silt 2 and Grist 6?",
        ("gloss20",),
        3,
        18,
        f"{truth.SCHOOL}, evening course. Each cell before the wipe and after every wipe.",
    )
    panels = [
        Panel(i, 1, name, "soft", taping, truth.PAINTS["soft"], build=truth.BUILD)
        for i, name in enumerate(("Heron", "Plover"), 1)
    ]
    combinations = [Combination(13, "U", "untouched", (), "untouched")]
    taken: dict[int, tuple[str, tuple[float, ...]]] = {}
    kinds = itertools.product(_PRODUCTS, truth.TAKES)
    for i, (product, (name, times, share)) in enumerate(kinds, 1):
        wipes = (Wipe(name, times),)
        stage = _PRODUCTS[product]
        own = replace(stage, wipes=wipes)
        combinations.insert(i - 1, Combination(i, LETTERS[i - 1], "", (own,)))
        once = next(s for n, t, s in truth.TAKES if (n, t) == (name, 1))
        taken[i] = (product, (once, share) if times > 1 else (share,))
    cells, readings = _lay(panels, taping, [*range(1, 13), 13, 13, 13], rng), []
    for cell in cells:
        clean = _CLEAN + rng.normal(0.0, truth.CELL_SD["gloss20"])
        product, shares = taken.get(cell.combination_id or 0, ("", (0.0,)))
        hid = truth.HIDES.get(product, 0.0)
        phases = [(UNWIPED, clean + hid)]
        phases += [(f"wipe{k}", clean + hid * (1.0 - s)) for k, s in enumerate(shares[:-1], 1)]
        phases.append((AFTER, clean + hid * (1.0 - shares[-1])))
        for step, (phase, level) in enumerate(phases):
            who = truth.STUDENTS[cell.id % 3]
            readings += _read(trial, cell, phase, level, rng, who, "Maren", EVENINGS[0], step)
    return _draft(trial, panels, combinations, cells, readings, EVENINGS[0])


def class_of_six() -> TrialDraft:
    """Trial 9: six students work cells of one panel each way, and all of them read every cell."""
    rng = np.random.default_rng([truth.SEED, 9])
    taping = Taping(1040, 560, 3, 6, 14, 40)
    trial = Trial(
        9,
        "Six students, the same cells",
        "Which of three on medium clear, worked and read by six?",
        ("gloss20", "haze", "film"),
        6,
        19,
        f"{truth.SCHOOL}, evening course. Everybody works six cells and reads all of them once.",
    )
    panels = [
        Panel(i, 1, name, "medium", taping, truth.PAINTS["medium"], build=truth.BUILD)
        for i, name in enumerate(("Curlew", "Avocet"), 1)
    ]
    combinations = [
        Combination(i, LETTERS[i - 1], "", (stage,))
        for i, stage in enumerate(
            (
                _stage("Fen medium", "foam", "Loess 3", "polish"),
                _stage("Bracken", "microfibre", "Grist 6", "coarse"),
                _stage("Fen soft", "foam-soft", "Silt 2", "fine"),
            ),
            1,
        )
    ]
    truth_of = {1: (86.0, 14.0, 1.2), 2: (83.0, 26.0, 2.9), 3: (87.5, 11.0, 0.5)}
    cells = _lay(panels, taping, [1, 2, 3] * 6, rng)
    high = {w: float(rng.normal(0.0, truth.READER_SD)) for w in truth.CLASS}
    high[truth.READS_HIGH[0]] += truth.READS_HIGH[1]
    hands = [w for w in truth.CLASS for _ in range(len(cells) // len(truth.CLASS))]
    shared = [hands[int(i)] for i in rng.permutation(len(hands))]
    readings: list[Reading] = []
    for cell, worker in zip(cells, shared, strict=True):
        gloss, haze, removed = truth_of[cell.combination_id or 1]
        presses = truth.PRESSES if worker == truth.HEAVY_HAND else {}
        gloss += presses.get("gloss20", 0.0) + rng.normal(0.0, truth.CELL_SD["gloss20"])
        haze += presses.get("haze", 0.0) + rng.normal(0.0, truth.CELL_SD["haze"])
        removed += presses.get("removed", 0.0) + rng.normal(0.0, truth.CELL_SD["removed"])
        film = 118.0 + rng.normal(0.0, 3.0)
        for k, reader in enumerate(truth.CLASS, 1):
            at = f"{EVENINGS[1]}T{18 + k // 4:02d}:{cell.id % 60:02d}:{7 * k:02d}"
            for m, phase, level in (
                ("film", BEFORE, film),
                ("gloss20", AFTER, gloss + high[reader]),
                ("haze", AFTER, haze),
                ("film", AFTER, film - removed),
            ):
                value = max(round(level + rng.normal(0.0, truth.READING_SD[m]), 1), 0.0)
                readings.append(
                    Reading(
                        len(readings) + 1,
                        cell.id,
                        m,
                        float(value),
                        phase,
                        k,
                        1,
                        "log" if m == "haze" else "",
                        worker,
                        EVENINGS[1],
                        at,
                        reader=reader,
                        meter="Ply" if m == "film" else "Glim",
                    )
                )
    return _draft(trial, panels, combinations, cells, readings, EVENINGS[1])


def inspect_class(db: sqlite3.Connection, trial_id: int) -> None:
    """Let three of the class count, by the grid, where swirls are still seen; one sees more.

    In one cell a scratch catches the nail: its squares are in no count.
    """
    rng = np.random.default_rng([truth.SEED, 90])
    cells = cell_store.cells(db, trial_id)
    codes = {c.id: c.code for c in combination_store.combinations(db, trial_id)}
    session = people.session_id(db, EVENINGS[1], f"{EVENINGS[1]}T20:00:00")
    for cell in cells:
        share = truth.STILL_SEEN[codes[cell.combination_id or 0]]
        own = np.log(share / (1.0 - share)) + rng.normal(0.0, 0.35)
        for k, reader in enumerate(truth.INSPECTORS):
            out = (27, 28) if cell.id == cells[7].id else ()
            more = truth.SEES_MORE[1] if reader == truth.SEES_MORE[0] else 0.0
            squares = GRID_SIDE**2 - len(out)
            marked = int(rng.binomial(squares, 1.0 / (1.0 + np.exp(-(own + more)))))
            look = Looked("swirls", "point", "several", GRID, None, marked, squares, out)
            now = f"{EVENINGS[1]}T20:{cell.id % 60:02d}:{10 * k:02d}"
            who = people.person_id(db, reader)
            noted.add(db, trial_id, noted.INSPECTION, cell.id, who, session, facts_of(look), now)


def _lay(
    panels: Sequence[Panel], taping: Taping, each: Sequence[int], rng: np.random.Generator
) -> list[Cell]:
    """Deal combinations to the cells of every panel by lot; controls are not worked."""
    cells: list[Cell] = []
    order = 0
    for panel in panels:
        dealt = [each[int(i)] for i in rng.permutation(len(each))]
        for place, combination in zip(taping.cells(), dealt, strict=True):
            order += combination <= 12
            run = order if combination <= 12 else None
            cells.append(Cell(len(cells) + 1, panel.id, place.row, place.column, combination, run))
    return cells


def _read(
    trial: Trial,
    cell: Cell,
    phase: str,
    level: float,
    rng: np.random.Generator,
    worker: str,
    reader: str,
    day: str,
    step: int,
) -> list[Reading]:
    found = []
    for k in range(1, trial.readings_per_cell + 1):
        value = round(level + rng.normal(0.0, truth.METER_SD), 1)
        at = f"{day}T{18 + step}:{cell.id % 60:02d}:{12 * k:02d}"
        found.append(
            Reading(
                0,
                cell.id,
                "gloss20",
                float(value),
                phase,
                k,
                1,
                "",
                worker,
                day,
                at,
                reader=reader,
                meter="Glim",
            )
        )
    return found


def _draft(
    trial: Trial,
    panels: Sequence[Panel],
    combinations: Sequence[Combination],
    cells: Sequence[Cell],
    readings: Sequence[Reading],
    day: str,
) -> TrialDraft:
    numbered = [replace(r, id=i) for i, r in enumerate(readings, 1)]
    return TrialDraft(
        trial,
        tuple(panels),
        tuple(combinations),
        tuple(cells),
        tuple(numbered),
        created_at=f"{day}T17:30:00",
    )
