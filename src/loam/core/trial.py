"""The values of a trial. Identifiers are whole numbers given by the workshop."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

from loam.core.errors import ValueRefused
from loam.core.film.build import FilmBuild, coat_of
from loam.core.kit import COMPOUND_BY_KEY, PAD_BY_KEY
from loam.core.machines import BY_KEY as MACHINE_BY_KEY
from loam.core.outline import Outline
from loam.core.panel import Taping, cell_code
from loam.core.readings import BY_KEY, kind_of
from loam.core.record.panel_facts import check_panel_facts
from loam.core.stage_settings import MAX_STAGES, SETTINGS
from loam.core.text import LINE, NOTE, check_text
from loam.core.wipes import MOST_TIMES, Wipe, check_wipes, said

HARDNESSES: tuple[str, ...] = ("soft", "medium", "hard")
LETTERS = "ABCDEFGHIJ"
"""Letters of combinations; those of rows of cells are others."""
MAX_READINGS = 50
MAX_CODE = MAX_CELL_NAME = 12
MAX_ORDER = 1_000_000
MAX_SEED = 2**53 - 1
"""Seeds beyond this would not survive a file of numbers."""
BEFORE, UNWIPED, AFTER = "before", "unwiped", "after"
DAY, WASH = "day", "wash"
"""Read again on another day, or after a wash: what has fallen back since."""
CONTROLS: dict[str, str] = {
    "untouched": "control, untouched",
    "damaged": "control, damaged and not worked",
}
BETWEEN: tuple[str, ...] = tuple(f"stage{done}" for done in range(1, MAX_STAGES))
"""Read after a stage that is not the last, before the next is worked."""
BETWEEN_WIPES: tuple[str, ...] = tuple(f"wipe{done}" for done in range(1, MOST_TIMES))
"""Read after a single wipe that is not the last, where a combination says that several come."""
PHASES: tuple[str, ...] = (BEFORE, UNWIPED, AFTER, DAY, WASH, *BETWEEN, *BETWEEN_WIPES)


@dataclass(frozen=True)
class Stage:
    """One pad, compound and machine with its settings and section passes.

    ``pad_mm`` and ``orbit_mm`` are diameters, ``speed`` is in orbits or (rotary) turns a minute,
    ``overlap`` and ``line_shift`` are shares: of the pad's width, and of a line by which every
    second hatch is shifted; ``by_weight`` (1) is pressed by the machine's own weight, which
    ``force_n`` gives where it is known; ``tilt_deg`` is how the pad is held against the paint (0:
    flat), and ``burst_s`` the time of a section pass that a small machine works in bursts. None is
    not said.
    ``primed`` (1) has its compound spread over the whole pad before work, (0) put on in dots.
    A stage with a sanding disc (``disc``) sands, with its ``grit`` (P) and ``damp`` (1) or dry (0).
    ``wipes`` are done after it, in their order; after the last stage they are what the cell is
    read after.
    """

    pad: str
    compound: str
    machine: str
    pad_material: str = ""
    compound_class: str = ""
    machine_kind: str = ""
    passes: int = 0
    dial: str = ""
    force_n: float | None = None
    pad_mm: float | None = None
    orbit_mm: float | None = None
    speed: float | None = None
    arm_mm_s: float | None = None
    overlap: float | None = None
    line_shift: float | None = None
    tilt_deg: float | None = None
    burst_s: float | None = None
    by_weight: float | None = None
    grit: float | None = None
    damp: float | None = None
    primed: float | None = None
    disc: str = ""
    wipes: tuple[Wipe, ...] = ()

    def __post_init__(self) -> None:
        check_text(self.pad, "the name of a pad")
        check_text(self.compound, "the name of a compound")
        check_text(self.machine, "the name of a machine")
        check_text(self.disc, "the name of a sanding disc")
        check_text(self.dial, "the speed dial", 20)
        check_wipes(self.wipes)
        for what, key, known in (
            ("pad material", self.pad_material, PAD_BY_KEY),
            ("class of compound", self.compound_class, COMPOUND_BY_KEY),
            ("motion of a machine", self.machine_kind, MACHINE_BY_KEY),
        ):
            if key and key not in known:
                raise ValueRefused(
                    f"{key[:60]!r} is no {what}.", todo="Use " + ", ".join(known) + "."
                )
        if not 0 <= self.passes <= 99:
            raise ValueRefused(f"{self.passes} section passes cannot be: 0 to 99.")
        if self.force_n is not None and not 0 < self.force_n <= 500:
            raise ValueRefused(f"A force of {self.force_n:g} N cannot be: above 0, up to 500 N.")
        for s in SETTINGS:
            value = getattr(self, s.key)
            if value is not None and not s.low <= value <= s.high:  # a NaN is refused too
                said = f"{s.what} of {value:g} {s.unit}".rstrip()
                raise ValueRefused(f"{said} cannot be: {s.low:g} to {s.high:g}.")

    def words(self) -> str:
        """Say the stage in the trade's order: pad, compound, machine, passes."""
        parts = [p for p in (self.pad, self.compound, self.machine) if p]
        if self.disc:
            parts = [p for p in (self.disc, self.compound or self.pad, self.machine) if p]
        text = " + ".join(parts[:2]) + (f" on {parts[2]}" if len(parts) == 3 else "")
        if self.passes:
            text += f", {self.passes} pass" + ("es" if self.passes != 1 else "")
        if self.wipes:
            text += f"; {said(self.wipes)}"
        return text or "nothing yet"


@dataclass(frozen=True)
class Combination:
    """What a cell gets: one to eight stages in their order, or none.

    Without stages it is a control, ``untouched`` or ``damaged`` and not worked; or its recipe is
    not given.
    """

    id: int
    code: str
    name: str = ""
    stages: tuple[Stage, ...] = ()
    control: str = ""

    def __post_init__(self) -> None:
        if not self.code.strip():
            raise ValueRefused("A combination needs a code.", todo="Give it a letter, like A.")
        check_text(self.code, "the code of a combination", MAX_CODE)
        check_text(self.name, "the name of a combination")
        if len(self.stages) > MAX_STAGES:
            raise ValueRefused(f"A combination has at most {MAX_STAGES} stages.")
        if self.control and (self.stages or self.control not in CONTROLS):
            raise ValueRefused("A control has no stages: it is untouched, or damaged only.")

    def words(self) -> str:
        """Say the whole combination, first stage first."""
        if not self.stages:
            return CONTROLS.get(self.control, "recipe not given")
        return ", then ".join(stage.words() for stage in self.stages)


MANY_STAGES = 3


def brief(combination: Combination) -> str:
    """Say a combination; one of many stages by what it is worked with alone."""
    if len(combination.stages) <= MANY_STAGES:
        return combination.words()
    return ", ".join(s.disc or s.compound or s.pad or "?" for s in combination.stages)


def worked_with(stage: Stage) -> str:
    """Say a stage by its pad (or disc) and compound alone; "" where nothing is named."""
    return " + ".join(part for part in (stage.disc or stage.pad, stage.compound) if part)


def free_code(used: Iterable[Combination]) -> str:
    """Return the next letter that no combination has, or C11 and so on."""
    taken = {c.code for c in used}
    first = len(LETTERS) + 1
    numbered = [f"C{i}" for i in range(first, first + len(taken) + 1)]
    free: list[str] = [code for code in [*LETTERS, *numbered] if code not in taken]
    return free[0]


@dataclass(frozen=True)
class Cell:
    """One taped area.

    ``baseline`` holds the mean reading before work, by measurand; ``name`` what a file calls it,
    where that is not what Loam would.
    """

    id: int
    panel_id: int
    row: int
    column: int
    combination_id: int | None = None
    run_order: int | None = None
    baseline: dict[str, float] = field(default_factory=dict)
    name: str = ""

    def __post_init__(self) -> None:
        if self.name:
            check_text(self.name, "the name of a cell", MAX_CELL_NAME)

    @property
    def code(self) -> str:
        """The cell's name on the tape."""
        return self.name or cell_code(self.row, self.column)


@dataclass(frozen=True)
class Panel:
    """A painted panel in a trial, with its declared hardness and its taping.

    ``physical`` is the id of the panel as a thing of the workshop; 0 before it is one. ``facts``
    holds what else is known of it (`core.record.panel_facts`).
    """

    id: int
    trial_id: int
    name: str
    hardness: str
    taping: Taping
    paint: str = ""
    physical: int = 0
    build: FilmBuild = field(default_factory=FilmBuild)
    outline: Outline = field(default_factory=Outline)
    facts: Mapping[str, Any] = field(default_factory=dict)

    @property
    def ground(self) -> str:
        """What is worked, in words: soft clear; soft paint where there is no clear."""
        return f"{self.hardness} {self.build.coat}"

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise ValueRefused("A panel needs a name.", todo="Type one, like Heron.")
        check_text(self.name, "the name of a panel")
        check_text(self.paint, "the name of a paint")
        if self.hardness not in HARDNESSES:
            raise ValueRefused(
                f"{self.hardness!r} is not a hardness class.",
                where=f"panel {self.name}",
                todo="Use " + ", ".join(HARDNESSES) + ".",
            )
        check_panel_facts(self.facts, self.name)


def coats_of(panels: Iterable[Panel]) -> dict[str, str]:
    """Return what is worked by hardness class: clear, or paint where a panel has no clear."""
    classes: dict[str, list[FilmBuild]] = {}
    for panel in panels:
        classes.setdefault(panel.hardness, []).append(panel.build)
    return {hardness: coat_of(builds) for hardness, builds in classes.items()}


@dataclass(frozen=True, slots=True)
class Reading:
    """One number from one meter at one spot. Never changed, only struck.

    ``phase`` is ``before`` work, ``unwiped`` (worked, fillers may still mask), ``after`` the wipe,
    again on another ``day`` or after a ``wash``, or between two stages (``stage1``: after the
    first); judgements rest on ``after``. ``operator``
    worked the cell, ``reader`` held the meter. ``mark`` says what was odd about it when it was
    taken; ``about`` is how it was taken, as JSON (`store.about`).
    """

    id: int
    cell_id: int
    measurand: str
    value: float
    phase: str = "after"
    ordinal: int = 1
    stage: int = 1
    scale: str = ""
    operator: str = ""
    day: str = ""
    taken_at: str = ""
    struck: str | None = None
    reader: str = ""
    meter: str = ""
    mark: str = ""
    about: str = ""


def check_reading(reading: Reading) -> None:
    """Refuse a reading that cannot be, wherever it comes from: typed, a file, a package.

    Raises
    ------
    ValueRefused
        With the rule that it breaks.
    """
    kind = kind_of(reading.measurand)
    if kind.derived:
        raise ValueRefused(f"{kind.label} is computed from other readings, not read.")
    kind.check(reading.value)
    if reading.phase not in PHASES:
        raise ValueRefused("the phase is one of " + ", ".join(PHASES))
    if not 1 <= reading.ordinal <= MAX_ORDER:
        raise ValueRefused(f"the number of a reading lies between 1 and {MAX_ORDER}")
    if not 1 <= reading.stage <= MAX_STAGES:
        raise ValueRefused(f"a combination has 1 to {MAX_STAGES} stages")
    if reading.scale and reading.scale not in kind.scales:
        known = " or ".join(kind.scales)
        raise ValueRefused(f"the scale is {known}" if known else f"{kind.label} has no scales")
    check_text(reading.about, "how a reading was taken", LINE)
    for text, what in (
        (reading.operator, "the name of a person"),
        (reading.reader, "the name of a person"),
        (reading.meter, "the name of a meter"),
        (reading.day, "the day"),
        (reading.mark, "the mark"),
        (reading.taken_at, "the time"),
    ):
        if text:
            check_text(text, what)


@dataclass(frozen=True)
class Trial:
    """A question put to panels.

    ``unknown`` holds what a newer Loam reads and this one does not know; it is kept.
    """

    id: int
    name: str
    question: str = ""
    measurands: tuple[str, ...] = ("gloss20",)
    readings_per_cell: int = 5
    seed: int = 1
    note: str = ""
    unknown: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        if not self.name.strip():
            raise ValueRefused("A trial needs a name.", todo="Type one.")
        check_text(self.name, "the name of a trial")
        check_text(self.question, "the question", LINE, lines=True)
        check_text(self.note, "the note", NOTE, lines=True)
        if not 1 <= self.readings_per_cell <= MAX_READINGS:
            raise ValueRefused(f"Between 1 and {MAX_READINGS} readings a cell.")
        if not 0 <= self.seed <= MAX_SEED:
            raise ValueRefused(f"A seed is a whole number from 0 to {MAX_SEED}.")
        if not self.measurands:
            raise ValueRefused("A trial reads at least one thing.", todo="Choose what you read.")
        for key in self.measurands:
            if kind_of(key).derived:
                raise ValueRefused(f"{BY_KEY[key].label} is computed, not read.")
        if len(set(self.measurands)) < len(self.measurands):
            raise ValueRefused("A trial names what it reads once each.")
