"""What to test next, as drawn and in words, and what it takes to plan it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from loam.app.commands import PlanFurther
from loam.app.questions.price.find import minutes_of
from loam.app.questions.question import Asked, Tell
from loam.app.record import record_of
from loam.core.dataset import source_of, trial_data
from loam.core.design.costs import READ_S, WIPE_S
from loam.core.judging import ClassJudgement, TrialJudgement
from loam.core.judging.further_cells import ENOUGH, footing
from loam.core.next_test import Advice, Minutes, advise, is_enough
from loam.core.panel import Taping
from loam.core.readings import ReadingKind
from loam.core.trial import Cell, Combination, Panel, Trial
from loam.core.units import percent
from loam.core.verdict import counting
from loam.core.words.dose import time_words
from loam.core.words.outlook import short_amount
from loam.core.words.verdict import counted, listed
from loam.store.database import reading_apart

PANEL_MIN = 30.0
"""To tape, wash, damage and read a new panel before work: assumed."""
CELL_MIN = 6.0
"""A cell whose settings are not known: assumed."""
TEST = 2
"""Cells that test a prediction: one alone would not show how they scatter."""
NAMES = ("one cell", "a panel", "until it is likely")


@dataclass(frozen=True)
class Tile:
    """One piece of advice as drawn.

    Attributes
    ----------
    panels : tuple of (str, int, int, tuple of str)
        Each panel's name, its taping, and what goes there.
    words : str
        What it is, how long it takes, what it would probably settle.
    saves : str
        By how much what taking the leader loses on average would fall.
    """

    name: str
    advice: Advice
    panels: tuple[tuple[str, Taping, tuple[str, ...]], ...]
    words: str
    saves: str = ""


@dataclass(frozen=True)
class NextOf:
    """One hardness: what would settle it, or that it is settled (no tiles).

    Attributes
    ----------
    brief : str
        What is open and what that may cost, beside the tiles, which say the rest.
    """

    hardness: str
    ground: str
    pair: tuple[str, str] | None
    tiles: tuple[Tile, ...]
    sentence: str
    enough: bool = False
    brief: str = ""

    @property
    def best(self) -> Tile | None:
        """What saves most a minute; None where nothing more is worth it."""
        if self.enough or not self.tiles:
            return None
        return max(self.tiles, key=lambda tile: tile.advice.per_minute)


@dataclass(frozen=True)
class NextPicture:
    """What to test next for one measurand.

    Attributes
    ----------
    names : mapping of int to str
        Panels by their code in the data.
    """

    kind: ReadingKind
    classes: tuple[NextOf, ...]
    names: tuple[str, ...]

    def said(self) -> tuple[str, ...]:
        """Return what to test next on each hardness."""
        label = self.kind.label.capitalize()
        if all(not own.tiles and own.pair is None for own in self.classes):
            return (f"{label}: settled on every hardness.",)
        each = (f"{own.hardness.capitalize()}: {own.sentence}" for own in self.classes)
        return (f"{label}.", *each)

    @property
    def tiles(self) -> list[tuple[NextOf, Tile]]:
        """Every tile with its hardness, in the order that they are drawn."""
        return [(own, tile) for own in self.classes for tile in own.tiles]

    def table(self) -> list[list[str]]:
        """Return it as a table, its heading first."""
        rows = [
            [
                "hardness",
                "between",
                "advice",
                "cells",
                "minutes",
                "chance to settle",
                "chance of equal",
                "saves, on the scale",
            ]
        ]
        for own in self.classes:
            if not own.tiles:
                rows.append([own.hardness, "", "settled", "", "", "", "", ""])
            for tile in own.tiles:
                a = tile.advice
                rows.append(
                    [
                        own.hardness,
                        " and ".join(own.pair or ()),
                        tile.name,
                        str(len(a.cells)),
                        f"{a.minutes:.0f}",
                        f"{a.chance:.3f}",
                        f"{a.equal:.3f}",
                        f"{a.gain:.4f}",
                    ]
                )
        return rows


def find_next(
    path: Path,
    trial: Trial,
    judged: TrialJudgement,
    combinations: Sequence[Combination],
    kind: ReadingKind | None = None,
) -> NextPicture:
    """Weigh what could be tested next; made for a worker."""
    measurand = judged.measurand
    shown = kind or judged.kind
    with reading_apart(path) as db:
        record = record_of(db, trial.id, [source_of(measurand)])
    panels, cells = record.snapshot.panels, record.snapshot.cells
    snapshot = counting(record).snapshot
    data = trial_data(snapshot, measurand)
    names = data.factors["panel"].names
    room = Counter(c.panel_id for c in cells if c.combination_id is None)
    classes = []
    for found in judged.classes:
        own = [p for p in panels if p.hardness == found.hardness]
        pair = found.open_pair
        if pair is None or not own:
            classes.append(NextOf(found.hardness, found.ground, None, (), _settled(found)))
            continue
        free = {names.index(p.name): room[p.id] for p in own if p.name in names}
        taping = own[0].taping
        foot = footing(data, judged.sd, found.hardness)
        minutes = _minutes(trial, combinations, taping, found.hardness)
        places = len(taping.cells())
        advice = advise(foot, found, free, places, minutes) if foot is not None else None
        if advice is None:
            said = f"not settled between {listed(pair)}; the trial is too large to weigh what next"
            classes.append(NextOf(found.hardness, found.ground, pair, (), f"{said}."))
            continue
        tiles = _tiles(pair, advice, names, own, places, shown)
        classes.append(
            NextOf(
                found.hardness,
                found.ground,
                pair,
                tiles,
                _sentence(found, tiles, shown),
                is_enough(found),
                _brief(found, tiles, shown),
            )
        )
    return NextPicture(shown, tuple(classes), tuple(names))


def _settled(found: ClassJudgement) -> str:
    if len(found.standings) < 2:
        return "there is nothing to compare it with."
    return "settled, nothing is worth a further test."


def _minutes(
    trial: Trial, combinations: Sequence[Combination], taping: Taping, hardness: str
) -> Minutes:
    read = (WIPE_S + READ_S * trial.readings_per_cell * len(trial.measurands)) / 60.0
    cell = {}
    for c in combinations:
        work = minutes_of(c.stages, taping)
        cell[c.code] = (CELL_MIN if work is None else work) + read
    return Minutes(cell, PANEL_MIN)


def _tiles(
    pair: tuple[str, str],
    advice: Sequence[Advice],
    names: Sequence[str],
    own: Sequence[Panel],
    room: int,
    kind: ReadingKind,
) -> tuple[Tile, ...]:
    by_name = {p.name: p for p in own}
    tiles: list[Tile] = []
    for name, one in zip(NAMES, advice, strict=True):
        if any(one.cells == t.advice.cells for t in tiles):
            continue
        panels = []
        for code in dict.fromkeys(c.panel for c in one.cells):
            here = tuple(c.combination for c in one.cells if c.panel == code)
            panel = by_name[names[code]] if code >= 0 else own[0]
            shown = panel.name if code >= 0 else "new panel"
            panels.append((shown, panel.taping, here))
        tiles.append(Tile(name, one, tuple(panels), _words(pair, one, kind), saves(kind, one.gain)))
    return tuple(tiles)


def _words(pair: tuple[str, str], one: Advice, kind: ReadingKind) -> str:
    """Say what further cells would save and probably settle."""
    each = Counter(c.combination for c in one.cells)
    if len(each) == 1:
        ((code, n),) = each.items()
        what = f"{counted(n)} cell{'s' if n > 1 else ''} of {code}"
    else:
        n = each[pair[0]]
        what = f"{counted(n)} cell{'s' if n > 1 else ''} each of {listed(pair)}"
    verb = "settles" if len(one.cells) == 1 else "settle"
    return (
        f"{what} ({time_words(60.0 * one.minutes)}) would save {saves(kind, one.gain)}"
        f" and {verb} it with {percent(one.chance)}"
    )


def saves(kind: ReadingKind, gain: float) -> str:
    """Say what is saved, on average; what would read as nothing is next to nothing."""
    said = short_amount(kind, gain)
    nothing = 1.0 if said.endswith("times") else 0.0
    return "next to nothing" if float(said.split()[0]) == nothing else said


def _sentence(found: ClassJudgement, tiles: Sequence[Tile], kind: ReadingKind) -> str:
    """Say what is open, what taking the leader now may lose, and what would settle it."""
    pair, most = found.open_pair or ("", ""), tiles[-1]
    loses = short_amount(kind, found.expected_loss)
    said = f"not settled between {listed(pair)}; taking {pair[0]} now loses {loses} on average"
    if is_enough(found):
        return f"{said}, less than a tenth of what matters: enough."
    said += f"; {most.words}"
    if most.advice.chance < ENOUGH:
        said += ", so more cells alone would hardly settle it"
    return f"{said}."


def _brief(found: ClassJudgement, tiles: Sequence[Tile], kind: ReadingKind) -> str:
    """Say what is open, and what taking the leader now may lose."""
    lead = (found.open_pair or ("",))[0]
    loses = short_amount(kind, found.expected_loss)
    said = f"Too close to call; taking {lead} now loses {loses} on average"
    if is_enough(found):
        return f"{said}, less than a tenth of what matters: enough."
    hardly = tiles[-1].advice.chance < ENOUGH
    return f"{said}; more cells alone would hardly settle it." if hardly else f"{said}."


def plan_of_tile(
    found: NextPicture,
    own: NextOf,
    tile: Tile,
    trial: Trial,
    combinations: Sequence[Combination],
    panels: Sequence[Panel],
) -> PlanFurther:
    """Return the act that plans what a tile advises."""
    by_code = {c.code: c.id for c in combinations}
    by_name = {p.name: p for p in panels}
    new = dict.fromkeys(c.panel for c in tile.advice.cells if c.panel < 0)
    made = _new_panels(trial, own.hardness, panels, len(new))
    turn: Mapping[int, int] = {code: -i for i, code in enumerate(new, 1)}
    wanted = [
        (turn[c.panel] if c.panel < 0 else by_name[found.names[c.panel]].id, by_code[c.combination])
        for c in tile.advice.cells
    ]
    return PlanFurther(trial.id, made, wanted, trial.seed)


def _new_panels(trial: Trial, hardness: str, panels: Sequence[Panel], count: int) -> list[Panel]:
    """Return panels like those of a hardness, each with a name of its own."""
    like = next(p for p in panels if p.hardness == hardness)
    taken = {p.name for p in panels}
    made = []
    for _ in range(count):
        n = next(i for i in range(1, len(taken) + 2) if f"{hardness.capitalize()} {i}" not in taken)
        name = f"{hardness.capitalize()} {n}"
        taken.add(name)
        made.append(replace(like, id=0, trial_id=trial.id, name=name, physical=0))
    return made


def plan_untried(
    trial: Trial,
    untried: Combination,
    leader: int,
    hardness: str,
    panels: Sequence[Panel],
    cells: Sequence[Cell],
) -> PlanFurther:
    """Return the act that makes a combination of what was not tried, and plans its test.

    `TEST` cells of it on a panel where the leader is, while there is room; else as many of both on
    a new one.

    Parameters
    ----------
    leader : int
        Id of the combination that it is held against.
    """
    own = [p for p in panels if p.hardness == hardness]
    room = Counter(c.panel_id for c in cells if c.combination_id is None)
    there = {c.panel_id for c in cells if c.combination_id == leader}
    beside = [p for p in own if room[p.id] >= TEST and p.id in there]
    if beside:
        panel = max(beside, key=lambda p: room[p.id])
        return PlanFurther(trial.id, [], [(panel.id, 0)] * TEST, trial.seed, untried)
    wanted = [(-1, 0)] * TEST + [(-1, leader)] * TEST
    new = _new_panels(trial, hardness, panels, 1)
    return PlanFurther(trial.id, new, wanted, trial.seed, untried)


def head(asked: Asked) -> str:
    """Return what its part of the report is called."""
    return "What to test next"


def answer(asked: Asked, tell: Tell) -> NextPicture:
    """Weigh what could be tested next."""
    own = asked.ranking
    return find_next(asked.path, asked.trial, own.judgement, asked.combinations, own.kind)
