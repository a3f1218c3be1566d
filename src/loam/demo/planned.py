"""Trials of the demo that are planned and not worked, laid out as the window does."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from loam.app.planning import Rules, plan_of
from loam.core.design import lay_out
from loam.core.film import FilmBuild
from loam.core.panel import Taping
from loam.core.trial import Cell, Combination, Panel, Trial
from loam.demo import truth
from loam.store.draft import TrialDraft

DAYS = ("2026-09-05", "2026-09-12", "2026-09-19")
STEPWISE = Rules(by_stage=True)


def middle_stage() -> TrialDraft:
    """Trial 4: planned and laid out, not yet worked: does a middle stage earn its clear?"""
    taping = Taping(1040, 720, 2, 3, 14, 40)
    trial = Trial(
        4,
        "Middle stage on medium",
        "Does a middle stage earn its clear?",
        ("gloss20", "haze", "film"),
        4,
        14,
        f"{truth.SCHOOL}, evening course.",
    )
    panels = [(n, "medium", taping) for n in ("Curlew", "Avocet", "Teal", "Dunlin")]
    return planned(trial, panels, truth.MIDDLE_STAGE)


def claim() -> TrialDraft:
    """Trial 5: does a compound clear sanding marks as its maker claims? Laid out, not worked."""
    taping = Taping(780, 620, 3, 4, 14, 40)
    trial = Trial(
        5,
        "P1500 on hard",
        "Does Grist 9 do what is claimed?",
        ("gloss60", "defects"),
        3,
        15,
        f"{truth.SCHOOL}, evening course. Sanded with P1500, damp.",
    )
    panels = [(n, "hard", taping) for n in ("Snipe", "Godwit")]
    return planned(trial, panels, truth.CLAIM)


def ladders() -> TrialDraft:
    """Trial 10: planned, stage by stage: how far is sanding refined before the compounds?"""
    taping = Taping(1040, 560, 2, 3, 14, 40)
    trial = Trial(
        10,
        "Ladders from P1200",
        "How far is P1200 refined before it is compounded?",
        ("gloss20", "haze", "film"),
        4,
        20,
        f"{truth.SCHOOL}, evening course. Sanded damp on an interface, one step at a time.",
    )
    panels = [(n, "medium", taping) for n in ("Dunlin", "Teal")]
    return planned(trial, panels, truth.LADDERS, rules=STEPWISE)


def chalky() -> TrialDraft:
    """Trial 11: planned, on a door that chalks: colour and gloss in one coat, and little of it."""
    taping = Taping(760, 560, 2, 3, 14, 40)
    trial = Trial(
        11,
        "A door that chalks",
        "What brings a chalked single stage back with the least of its colour?",
        ("gloss20", "film"),
        4,
        21,
        f"{truth.SCHOOL}, evening course. Colour on the pad is normal here, and no sign to go on.",
    )
    return planned(trial, [("Snipe", "soft", taping)], truth.CHALKY, truth.SINGLE)


def planned(
    trial: Trial,
    panels: Sequence[tuple[str, str, Taping]],
    combinations: Sequence[Combination],
    build: FilmBuild = truth.BUILD,
    rules: Rules | None = None,
) -> TrialDraft:
    """Lay a trial out as the window does."""
    taped = [
        Panel(i, 1, n, h, t, "" if build.single_stage else truth.PAINTS[h], build=build)
        for i, (n, h, t) in enumerate(panels, 1)
    ]
    cells = laid(trial, taped, combinations, 1, rules)
    return TrialDraft(
        trial,
        tuple(taped),
        tuple(combinations),
        tuple(cells),
        (),
        created_at=f"{DAYS[-1]}T18:00:00",
    )


def laid(
    trial: Trial,
    panels: Sequence[Panel],
    combinations: Sequence[Combination],
    first: int,
    rules: Rules | None = None,
) -> list[Cell]:
    """Return the cells of some panels, laid out as the window does; ids count from ``first``."""
    spots = [(p.id, spot) for p in panels for spot in p.taping.cells()]
    cells = {i: Cell(i, p, s.row, s.column) for i, (p, s) in enumerate(spots, first)}
    found = plan_of(trial, panels, combinations, cells.values(), frozenset(), rules or Rules())
    for cell_id, combination, order in found.placements(lay_out(found.plan)):
        cells[cell_id] = replace(cells[cell_id], combination_id=combination, run_order=order)
    return list(cells.values())
