"""The settings of a stage that are figures: each declared once, with its limits, label and columns.

What checks a stage, keeps it, writes it to files, reads it from tables and asks for it in a form
goes through `SETTINGS`; a new one is a line here and a field of `Stage`.
"""

from __future__ import annotations

from dataclasses import dataclass

MAX_STAGES = 8
"""Of a combination: a ladder of four grits and three compounds takes seven."""


@dataclass(frozen=True)
class Setting:
    """One setting.

    Attributes
    ----------
    key : str
        The field of `Stage`.
    low, high, unit : float, float, str
        Between which it lies.
    what : str
        What is refused: "An orbit of 90 mm cannot be".
    label, shown : str
        In the form, and the unit beside it; ``quantity`` instead where the unit can be chosen.
    column : str
        In tables; ``names`` are others that suggest it.
    meaning : str
        What a column with it means.
    thing, kit : str
        The thing of the stage (pad, machine, disc) whose fact it is, and that fact; "" where it is
        the stage's own.
    yes : bool
        Whether it is a yes (1) or no (0).
    said : tuple of str
        What no and yes are called, where they have a word each.
    steered : bool
        Whether hands set it, so that it may drive a result by itself.
    since : int
        The first format of a file for exchange that has it.
    """

    key: str
    low: float
    high: float
    unit: str
    what: str
    label: str
    meaning: str
    shown: str = ""
    quantity: str = ""
    column: str = ""
    names: tuple[str, ...] = ()
    thing: str = ""
    kit: str = ""
    yes: bool = False
    said: tuple[str, ...] = ()
    steered: bool = True
    since: int = 3

    @property
    def headed(self) -> str:
        """Its column in tables."""
        return self.column or self.key


SETTINGS: tuple[Setting, ...] = (
    Setting(
        "pad_mm",
        10.0,
        400.0,
        "mm",
        "A pad's diameter",
        "Pad",
        "pad diameter, mm",
        quantity="size",
        thing="pad",
        kit="diameter_mm",
        steered=False,
    ),
    Setting(
        "orbit_mm",
        0.0,
        60.0,
        "mm",
        "An orbit",
        "Orbit",
        "orbit, mm",
        quantity="size",
        thing="machine",
        kit="orbit_mm",
        steered=False,
    ),
    Setting(
        "speed",
        1.0,
        20_000.0,
        "per minute",
        "A speed",
        "Orbits or turns",
        "orbits or turns a minute",
        "/min",
        column="stage_speed",
        names=("orbits_per_min", "rpm"),
        steered=False,
    ),
    Setting(
        "arm_mm_s",
        0.5,
        2_000.0,
        "mm/s",
        "An arm speed",
        "Arm",
        "arm speed, mm/s",
        "mm/s",
    ),
    Setting(
        "overlap",
        0.0,
        0.95,
        "",
        "An overlap",
        "Overlap",
        "overlap, share of the pad",
        "%",
    ),
    Setting(
        "line_shift",
        0.0,
        0.5,
        "",
        "A shift of the lines",
        "Every second crosswise pass",
        "shift of every second hatch, in lines",
    ),
    Setting(
        "tilt_deg",
        0.0,
        30.0,
        "degrees",
        "A tilt",
        "Tilt",
        "tilt of the pad, degrees",
        "°",
        since=5,
    ),
    Setting(
        "burst_s",
        1.0,
        120.0,
        "s",
        "A burst",
        "In bursts of",
        "time of a burst, s",
        "s",
        since=5,
    ),
    Setting(
        "by_weight",
        0.0,
        1.0,
        "",
        "Pressing",
        "It is pressed",
        "pressed by the machine's own weight (1)",
        names=("own_weight",),
        yes=True,
        steered=False,
        since=10,
    ),
    Setting(
        "grit",
        16.0,
        10_000.0,
        "P",
        "A grit",
        "Grit",
        "grit of the sanding disc, P",
        "P",
        names=("sanding_grit",),
        thing="disc",
        kit="grit",
        steered=False,
        since=10,
    ),
    Setting(
        "damp",
        0.0,
        1.0,
        "",
        "Damp",
        "It is used",
        "sanded damp (1) or dry (0)",
        names=("wet",),
        thing="disc",
        kit="damp",
        yes=True,
        said=("dry", "damp"),
        since=10,
    ),
    Setting(
        "primed",
        0.0,
        1.0,
        "",
        "Priming",
        "It goes on",
        "compound spread over the whole pad (1) or in dots (0)",
        yes=True,
        said=("in dots", "spread over the pad"),
        since=10,
    ),
)
OWN = tuple(s.key for s in SETTINGS if not s.kit)
"""Those that a stage keeps itself; the others are facts of its pad, machine and disc."""


def word_of(key: str, value: float | None) -> str:
    """Say a setting's value: its word where no and yes have one, else its figure."""
    own = next((s for s in SETTINGS if s.key == key), None)
    if value is None:
        return "?"
    return own.said[int(bool(value))] if own is not None and own.said else f"{value:g}"


def facts_of_thing(stage: object, thing: str) -> dict[str, object]:
    """Return what a stage says of its pad, machine or disc, as the shelf keeps it."""
    found: dict[str, object] = {}
    for s in SETTINGS:
        value = getattr(stage, s.key) if s.thing == thing else None
        if value is not None:
            found[s.kit] = bool(value) if s.yes else value
    return found
