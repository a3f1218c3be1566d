"""The demo workshop, generated from its seed."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np

from loam.app.planning import Rules, keep_rules
from loam.core.film import Spot, usual_spots
from loam.core.panel import Taping
from loam.core.prepare import (
    BASELINE,
    DECONTAMINATE,
    DONE,
    GATES,
    REASONS,
    SKIPPED,
    WASH,
)
from loam.core.trial import BETWEEN, Cell, Combination, Panel, Reading, Trial
from loam.demo import shelf, truth
from loam.demo.cars import add_cars
from loam.demo.lessons import class_of_six, inspect_class, which_wipe
from loam.demo.planned import DAYS, STEPWISE, chalky, claim, ladders, laid, middle_stage
from loam.demo.truth import TrueCombination
from loam.store import panels as panel_store
from loam.store import people, preparation, surveys
from loam.store import settings as setting_store
from loam.store import trials as trial_store
from loam.store.draft import TrialDraft
from loam.store.take_in import write_draft
from loam.store.workshop import Workshop

MEASURANDS = ("gloss20", "haze", "film", "defects")


class _Maker:
    """Draws one trial from the truth."""

    def __init__(
        self,
        trial: Trial,
        combinations: Sequence[TrueCombination],
        panels: Sequence[tuple[str, str, Taping]],
        seed: int,
    ) -> None:
        self.rng = np.random.default_rng([truth.SEED, seed])
        self.trial, self.true = trial, combinations
        self.panels = [
            Panel(i, 1, name, hardness, taping, truth.PAINTS[hardness])
            for i, (name, hardness, taping) in enumerate(panels, 1)
        ]
        self.operators = {
            o: {
                m: float(self.rng.normal(0, sd)) + (truth.HEAVY[m] if o == truth.HEAVY_HAND else 0)
                for m, sd in truth.OPERATOR_SD.items()
            }
            for o in truth.STUDENTS
        }
        self.readings: list[Reading] = []
        self.cells: list[Cell] = []
        self.wipes = np.random.default_rng([truth.SEED, seed, 7])
        self.all_unwiped = any(c.masked for c in combinations) and len(panels) <= 3

    def lay_out(self) -> None:
        """Lay the trial out as the window does; what was not put on a class is left out there."""
        known: dict[tuple[int, ...], list[Panel]] = {}
        for panel in self.panels:
            usable = tuple(i for i, c in enumerate(self.true, 1) if panel.hardness in c.gloss20)
            known.setdefault(usable, []).append(panel)
        for usable, panels in known.items():
            compared = [
                Combination(i, c.code, c.name, c.stages)
                for i, c in enumerate(self.true, 1)
                if i in usable
            ]
            self.cells += laid(self.trial, panels, compared, len(self.cells) + 1)
        drawn = self.rng.normal(truth.BASELINE_GLOSS, truth.BASELINE_SD, len(self.cells))
        self.cells = [
            replace(cell, baseline={"gloss20": round(float(value), 1)})
            for cell, value in zip(self.cells, drawn, strict=True)
        ]

    def read(self, share: float = 1.0, shift: dict[str, dict[str, float]] | None = None) -> None:
        """Work and read the first ``share`` of the cells, in their places on the panel."""
        shift = shift or {}
        panel_effect = {
            p.id: {m: float(self.rng.normal(0, sd)) for m, sd in truth.PANEL_SD.items()}
            for p in self.panels
        }
        for index, cell in enumerate(self.cells[: round(share * len(self.cells))]):
            panel = self.panels[cell.panel_id - 1]
            true = self.true[(cell.combination_id or 1) - 1]
            operator = truth.STUDENTS[int(self.rng.integers(len(truth.STUDENTS)))]
            day = DAYS[(panel.id - 1) % len(DAYS)]  # every evening has panels of each hardness
            level: dict[str, float] = {}
            for m in truth.PANEL_SD:
                value = getattr(true, m)[panel.hardness]
                value += panel_effect[panel.id][m] + float(self.rng.normal(0, truth.CELL_SD[m]))
                level[m] = value + self.operators[operator][m] + shift.get(panel.name, {}).get(m, 0)
            level["gloss20"] += truth.BASELINE_SLOPE * (
                cell.baseline["gloss20"] - truth.BASELINE_GLOSS
            )
            if true.code == truth.WORN_PAD[0] and day == DAYS[-1] and len(self.panels) > 4:
                level["gloss20"] -= truth.WORN_PAD[1]
            self._cell(cell, true, level, operator, day, 9 * 60 + index % 96 * 5)

    def _cell(
        self,
        cell: Cell,
        true: TrueCombination,
        level: dict[str, float],
        operator: str,
        day: str,
        minute: int,
    ) -> None:
        start = float(self.rng.normal(118, 4))
        scatter = truth.READING_SD
        for k in range(1, self.trial.readings_per_cell + 1):
            at = f"{day}T{(minute // 60) % 24:02d}:{minute % 60:02d}:{4 * k:02d}"

            def keep(measurand: str, value: float, phase: str, k: int = k, at: str = at) -> None:
                scale = "log" if measurand == "haze" else ""
                self.readings.append(
                    Reading(
                        len(self.readings) + 1,
                        cell.id,
                        measurand,
                        value,
                        phase,
                        k,
                        1,
                        scale,
                        operator,
                        day,
                        at,
                    )
                )

            def noisy(middle: float, sd: float, step: float = 0.1) -> float:
                return round(round((middle + float(self.rng.normal(0, sd))) / step) * step, 1)

            for m in self.trial.measurands:
                if m == "film":
                    keep(m, noisy(start, scatter["film"]), "before")
                    keep(m, noisy(start - max(level["removed"], 0.1), scatter["film"]), "after")
                elif m == "defects":
                    middle = min(max(level["defects"], 0), 100)
                    keep(m, min(max(noisy(middle, scatter[m], 5.0), 0), 100), "after")
                elif m == "haze":
                    keep(m, max(noisy(level["haze"], scatter[m]), 0), "after")
                else:
                    if true.masked:
                        keep(m, noisy(level["gloss20"] + true.masked, scatter[m]), "unwiped")
                    elif self.all_unwiped:  # from lots of its own: the rest stays as it was
                        apart = level["gloss20"] + float(self.wipes.normal(0, scatter[m]))
                        keep(m, round(apart, 1), "unwiped")
                    keep(m, noisy(level["gloss20"], scatter[m]), "after")

    def draft(self) -> TrialDraft:
        """Return the trial."""
        return TrialDraft(
            self.trial,
            tuple(self.panels),
            tuple(Combination(i, c.code, c.name, c.stages) for i, c in enumerate(self.true, 1)),
            tuple(self.cells),
            tuple(self.readings),
            created_at=f"{DAYS[0]}T08:30:00",
        )


def one_steps() -> TrialDraft:
    """Trial 1: one-steps on soft clear, with a filler trap and a mislabelled panel."""
    taping = Taping(760, 560, 3, 5, 14, 40)
    trial = Trial(
        1,
        "One-steps on soft",
        "Which one-step is best?",
        MEASURANDS,
        5,
        11,
        f"{truth.SCHOOL}, evening course.",
    )
    panels = [(n, "soft", taping) for n in ("Plover", "Dunlin", truth.MISLABELLED_PANEL)]
    maker = _Maker(trial, truth.ONE_STEPS, panels, 1)
    maker.lay_out()
    maker.read(shift={truth.MISLABELLED_PANEL: truth.MISLABELLED_SHIFT})
    return maker.draft()


def cut_and_finish(seed: int = 2) -> TrialDraft:
    """Trial 2: cut and finish on three hardnesses, eight panels; other seeds repeat it anew."""
    taping = Taping(720, 560, 3, 4, 14, 44)
    trial = Trial(
        2,
        "Cut and finish",
        "Which cut and finish is best?",
        MEASURANDS,
        5,
        12,
        f"{truth.SCHOOL}, evening course.",
    )
    names = ("Heron", "Plover", "Dunlin", "Curlew", "Avocet", "Teal", "Snipe", "Godwit")
    classes = ("soft", "soft", "soft", "medium", "medium", "medium", "hard", "hard")
    panels = [(n, h, taping) for n, h in zip(names, classes, strict=True)]
    maker = _Maker(trial, truth.CUT_AND_FINISH, panels, seed)
    maker.lay_out()
    maker.read()
    return maker.draft()


def motions() -> TrialDraft:
    """Trial 3: orbital, forced and rotary on hard, half read."""
    taping = Taping(780, 620, 4, 5, 14, 40)
    trial = Trial(
        3,
        "Motions on hard",
        "Orbital, forced or rotary for cutting hard clear?",
        ("gloss20",),
        5,
        13,
        f"{truth.SCHOOL}, evening course.",
    )
    maker = _Maker(trial, truth.MOTIONS, [("Snipe", "hard", taping), ("Godwit", "hard", taping)], 3)
    maker.lay_out()
    maker.read(share=11 / 40)
    return maker.draft()


def repeats() -> TrialDraft:
    """Trial 6: how well does the gloss meter repeat, and do its readers agree?"""
    taping = Taping(760, 420, 2, 5, 14, 40)
    trial = Trial(
        6,
        "Glim on untouched paint",
        "How well does Glim repeat?",
        ("gloss20",),
        3,
        16,
        f"{truth.SCHOOL}, evening course. Lifted and turned between readings.",
    )
    panel = Panel(1, 1, "Heron", "soft", taping, truth.PAINTS["soft"], build=truth.BUILD)
    cells = [Cell(i, 1, spot.row, spot.column, 1) for i, spot in enumerate(taping.cells(), 1)]
    rng = np.random.default_rng([truth.SEED, 6])
    level = rng.normal(86.0, truth.SPOT_SD, len(cells))
    readings: list[Reading] = []
    for order, reader in enumerate(truth.STUDENTS):
        for k in range(1, trial.readings_per_cell + 1):
            for cell in cells:
                at = f"{DAYS[-1]}T{18 + order}:{2 * cell.id:02d}:{15 * k:02d}"
                value = level[cell.id - 1] + truth.READER_OFF[reader]
                value = round(float(value + rng.normal(0, truth.METER_SD)), 1)
                readings.append(
                    Reading(
                        len(readings) + 1,
                        cell.id,
                        "gloss20",
                        value,
                        "after",
                        order * trial.readings_per_cell + k,
                        1,
                        "",
                        "",
                        DAYS[-1],
                        at,
                        reader=reader,
                        meter="Glim",
                    )
                )
    untouched = Combination(1, "U", "untouched", (), "untouched")
    return TrialDraft(
        trial,
        (panel,),
        (untouched,),
        tuple(cells),
        tuple(readings),
        created_at=f"{DAYS[-1]}T17:50:00",
    )


def by_stage() -> TrialDraft:
    """Trial 7: read after every stage, so that each can be judged."""
    taping = Taping(760, 560, 3, 5, 14, 40)
    trial = Trial(
        7,
        "Stage by stage on medium",
        "What does each stage add?",
        ("gloss20", "haze", "film"),
        4,
        17,
        f"{truth.SCHOOL}, evening course. Read after each stage.",
    )
    rng = np.random.default_rng([truth.SEED, 7])
    panels = [
        Panel(i, 1, n, "medium", taping, truth.PAINTS["medium"], build=truth.BUILD)
        for i, n in enumerate(("Curlew", "Avocet", "Teal"), 1)
    ]
    combinations = [
        Combination(i, c.code, c.name, c.stages) for i, c in enumerate(truth.BY_STAGE, 1)
    ]
    cells = laid(trial, panels, combinations, 1)
    readings: list[Reading] = []
    shift = {
        p.id: rng.normal(0.0, (truth.PANEL_SD["gloss20"], truth.PANEL_SD["haze"])) for p in panels
    }
    for order, cell in enumerate(cells):
        true = truth.BY_STAGE[(cell.combination_id or 1) - 1]
        own = rng.normal(
            0.0, (truth.CELL_SD["gloss20"], truth.CELL_SD["haze"], truth.CELL_SD["removed"])
        )
        film, grey = float(rng.normal(118.0, 3.0)), float(rng.normal(truth.BASELINE_GLOSS, 1.5))
        day, who = DAYS[order % 2], truth.STUDENTS[order % len(truth.STUDENTS)]
        for done in range(len(true.stages) + 1):
            gloss, haze, left = grey, 60.0, film
            if done:
                gloss = true.gloss20[done - 1] + shift[cell.panel_id][0] + own[0]
                haze = true.haze[done - 1] + shift[cell.panel_id][1] + own[1]
                left = film - max(true.removed[done - 1] + own[2], 0.05)
            phase = ("before", *BETWEEN)[done] if done < len(true.stages) else "after"
            for k in range(1, trial.readings_per_cell + 1):
                at = f"{day}T{9 + order // 6:02d}:{order % 6 * 9 + done:02d}:{12 * k:02d}"
                for m, level in (("gloss20", gloss), ("haze", haze), ("film", left)):
                    value = max(round(level + float(rng.normal(0.0, truth.READING_SD[m])), 1), 0.0)
                    readings.append(
                        Reading(
                            len(readings) + 1,
                            cell.id,
                            m,
                            value,
                            phase,
                            k,
                            max(done, 1),
                            "log" if m == "haze" else "",
                            who,
                            day,
                            at,
                        )
                    )
    return TrialDraft(
        trial,
        tuple(panels),
        tuple(combinations),
        tuple(cells),
        tuple(readings),
        created_at=f"{DAYS[0]}T08:40:00",
    )


def _survey(db: sqlite3.Connection, trial_id: int, now: str, film_um: float = 118.0) -> None:
    """Read the film of the first panel of a trial; one spot was built up twice."""
    panel = panel_store.panels(db, trial_id)[0]
    rng = np.random.default_rng([truth.SEED, 9])
    t = panel.taping
    for i, (x, y) in enumerate(usual_spots(t.width_mm, t.height_mm, t.margin_mm)[:7]):
        film = (
            film_um + float(rng.normal(0, 2.0)) + (34.0 if i == 5 else 0.0) - (9.0 if i == 2 else 0)
        )
        surveys.add_spot(db, panel.physical, Spot(round(x, 1), round(y, 1), round(film, 1)), now)


def _prepare(db: sqlite3.Connection, panels: Sequence[Panel]) -> None:
    """Prepare the first panel of a trial to its end, and wash the others."""
    day = DAYS[-1]
    session = people.session_id(db, day, f"{day}T17:30:00")
    for i, panel in enumerate(panels):
        for at, gate in enumerate(GATES):
            if i and gate.key not in (WASH, DECONTAMINATE):
                continue
            who = people.person_id(db, truth.STUDENTS[at % 2])
            facts: dict[str, str] = {asked.key: asked.choices[0] for asked in gate.asks}
            what = DONE
            if gate.key == BASELINE:
                what, facts = SKIPPED, {"reason": REASONS[0]}
            now = f"{day}T17:{30 + at:02d}:00"
            preparation.add(db, panel.id, gate.key, what, who, session, facts, now)


def make_demo(path: Path) -> None:
    """Write the demo workshop to a new file; the ranked trial 2 is the one at hand."""
    beside = path.with_name(path.name + ".part")
    for old in (beside, Path(f"{beside}-wal"), Path(f"{beside}-shm")):
        old.unlink(missing_ok=True)
    workshop = Workshop(beside)
    try:
        with workshop.transaction() as db:
            ids = [
                write_draft(db, draft, workshop.now())
                for draft in (
                    *(one_steps(), cut_and_finish(), motions()),
                    *(middle_stage(), claim(), repeats(), by_stage()),
                )
            ]
            setting_store.remember(db, "trial", ids[1])
            setting_store.remember(db, "reader_asked", True)  # its people are known
            _survey(db, ids[3], workshop.now())
            shelf.stock(db, workshop.now())
            planned = next(t for t in trial_store.trials(db) if t.id == ids[3])
            panels = panel_store.panels(db, planned.id)
            keep_rules(db, planned.id, Rules().with_people(planned, truth.STUDENTS, panels, ()))
            _prepare(db, panels)
            write_draft(db, which_wipe(), workshop.now())
            inspect_class(db, write_draft(db, class_of_six(), workshop.now()))
            keep_rules(db, write_draft(db, ladders(), workshop.now()), STEPWISE)
            door = write_draft(db, chalky(), workshop.now())
            _survey(db, door, workshop.now(), truth.CHALKY_FILM)
            shelf.stock_lessons(db, workshop.now())
            add_cars(db, ids[1])
        workshop.connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    finally:
        workshop.close()
    beside.with_name(beside.name + ".lock").unlink(missing_ok=True)
    beside.replace(path)
