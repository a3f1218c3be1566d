"""What a workshop knows of each thing on its shelf, and how each fact is typed and written."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from loam.core.dates import is_date
from loam.core.errors import ValueRefused
from loam.core.kit.materials import COMPOUNDS, PADS
from loam.core.machines import KINDS
from loam.core.readings import KINDS as READING_KINDS
from loam.core.text import check_text
from loam.core.units import Unit, parse_number

NUMBER, WHOLE, CHOICE, SEVERAL, YES, TEXT, DATE, TABLE = (
    "number",
    "whole",
    "choice",
    "several",
    "yes",
    "text",
    "date",
    "table",
)
Choices = tuple[tuple[str, str], ...]
MOST_DIALS = 20
_NO, _SURE = ("no", "n", "false", "0", "none"), ("yes", "y", "true", "1")


@dataclass(frozen=True)
class Fact:
    """One thing that can be known of a piece of kit.

    Attributes
    ----------
    key, label : str
    how : str
        number, whole, choice, several (of the choices), yes, text, date, or table (steps of a
        dial with their speed).
    unit : str
        As it stands beside the figure; ``quantity`` instead where the unit can be chosen.
    low, high : float
        Between which a number lies.
    choices : tuple of (key, words)
    """

    key: str
    label: str
    how: str = NUMBER
    unit: str = ""
    quantity: str = ""
    low: float = 0.0
    high: float = 1e6
    choices: Choices = ()

    def check(self, value: object) -> None:
        """Refuse a value that cannot be, wherever it comes from."""
        if self.how in (NUMBER, WHOLE):
            self._check_number(value)
        elif self.how in (CHOICE, SEVERAL):
            self._check_choice(value)
        elif self.how == TABLE:
            _check_table(self.label, value)
        elif self.how == YES:
            if not isinstance(value, bool):
                raise ValueRefused(f"{self.label}: {str(value)[:40]!r} is neither yes nor no.")
        elif not isinstance(value, str):
            raise ValueRefused(f"{self.label}: {str(value)[:40]!r} is no text.")
        else:
            check_text(value, self.label.lower())
            if self.how == DATE and not is_date(value):
                raise ValueRefused(
                    f"{self.label}: {value[:20]!r} is no date.", todo="Write it like 2026-09-05."
                )

    def _check_number(self, value: object) -> None:
        number = isinstance(value, int | float) and not isinstance(value, bool)
        if not number or not self.low <= value <= self.high:  # type: ignore[operator]
            between = f"{self.low:g} and {self.high:g} {self.unit}".strip()
            raise ValueRefused(
                f"{self.label}: {str(value)[:40]} cannot be.", todo=f"It lies between {between}."
            )
        if self.how == WHOLE and value != int(value):  # type: ignore[call-overload]
            raise ValueRefused(f"{self.label}: it is counted whole.")

    def _check_choice(self, value: object) -> None:
        known = [key for key, _ in self.choices]
        chosen = value if self.how == SEVERAL else [value]
        if not isinstance(chosen, list | tuple) or any(key not in known for key in chosen):
            said = ", ".join(words for _, words in self.choices)
            raise ValueRefused(f"{self.label}: {str(value)[:60]!r} is none.", todo=f"Use {said}.")

    def read(self, text: str, unit: Unit | None = None) -> object:
        """Read a fact as it is typed or stands in a file; None for an empty text.

        Raises
        ------
        ValueRefused
            When it is none.
        """
        text = text.strip()
        if not text:
            return None
        value: object = text
        low = text.casefold()
        if self.how == SEVERAL:
            parts = [part.strip() for part in text.split(";") if part.strip()]
            value = [self._choice(part) for part in parts]
        elif self.how in (NUMBER, WHOLE):
            number = parse_number(text)
            number = unit.stored(number) if unit is not None else number
            value = int(number) if self.how == WHOLE and number == int(number) else number
        elif self.how == CHOICE:
            value = self._choice(text)
        elif self.how == YES:
            value = True if low in _SURE else False if low in _NO else text
        elif self.how == TABLE:
            value = _table(self.label, text)
        self.check(value)
        return value

    def _choice(self, text: str) -> str:
        low = text.casefold()
        return next((k for k, w in self.choices if low in (k.casefold(), w.casefold())), text)

    def write(self, value: object, unit: Unit | None = None) -> str:
        """Write a fact so that it reads back."""
        if value is None:
            return ""
        if self.how == TABLE:
            steps = value if isinstance(value, list | tuple) else ()
            return "; ".join(f"{step}={speed:g}" for step, speed in steps)
        if self.how == YES:
            return "yes" if value else "no"
        if self.how == SEVERAL:
            words = dict(self.choices)
            keys = value if isinstance(value, list | tuple) else ()
            return "; ".join(words.get(key, str(key)) for key in keys)
        if self.how == CHOICE:
            return next((words for key, words in self.choices if key == value), str(value))
        if isinstance(value, int | float):
            if unit is None:
                return f"{value:.10g}"
            return f"{round(unit.shown(value), 2 + unit.finer):g}"
        return str(value)


def _check_table(label: str, value: object) -> None:
    if not isinstance(value, list | tuple) or len(value) > MOST_DIALS:
        raise ValueRefused(f"{label}: at most {MOST_DIALS} steps, each with its speed.")
    for step in value:
        if not isinstance(step, list | tuple) or len(step) != 2 or not isinstance(step[0], str):
            raise ValueRefused(f"{label}: each step is a mark of the dial and its speed.")
        check_text(step[0], "a mark of the dial", 20)
        speed = step[1]
        if isinstance(speed, bool) or not isinstance(speed, int | float) or not 1 <= speed <= 2e4:
            raise ValueRefused(f"{label}: {str(speed)[:20]} a minute cannot be: 1 to 20000.")


def _table(label: str, text: str) -> list[list[object]]:
    """Read "1 = 2000; 2 = 2700"."""
    steps: list[list[object]] = []
    for part in text.replace("\n", ";").split(";"):
        if not part.strip():
            continue
        mark, between, speed = part.replace(":", "=").partition("=")
        if not between or not mark.strip():
            raise ValueRefused(
                f"{label}: {part.strip()[:40]!r} is no step.",
                todo="Write each as mark = speed, with ; between: 1 = 2000; 2 = 2700.",
            )
        steps.append([mark.strip(), parse_number(speed, where=label)])
    return steps


@dataclass(frozen=True)
class Sort:
    """One sort of thing on the shelf.

    Attributes
    ----------
    key, one, many : str
    facts : tuple of Fact
    hint : str
        What to type first, in words.
    """

    key: str
    one: str
    many: str
    facts: tuple[Fact, ...]
    hint: str = ""

    def fact(self, key: str) -> Fact | None:
        """Return the fact of a key."""
        return next((f for f in self.facts if f.key == key), None)

    def named(self, heading: str) -> Fact | None:
        """Return the fact that a heading of a table means: its key or its label."""
        low = heading.strip().casefold().partition(",")[0]
        return next((f for f in self.facts if low in (f.key, f.label.casefold())), None)


_READ = tuple(k for k in READING_KINDS if not k.derived)
_METERED = tuple(
    Fact(f"{k.key}:{what}", f"{k.label}: {words}", unit=k.unit, high=1000)
    for k in _READ
    for what, words in (("step", "step"), ("repeat", "s.d."))
)
PAD_KIND, PAD, COMPOUND, MACHINE, DISC, WIPE, LIGHT, METER, PERSON = (
    "pad-kind",
    "pad",
    "compound",
    "machine",
    "disc",
    "wipe",
    "light",
    "meter",
    "person",
)
CLEAN, LOADED, RETIRED = "clean", "loaded", "retired"
SORTS: tuple[Sort, ...] = (
    Sort(
        PAD_KIND,
        "kind of pad",
        "pads",
        (
            Fact("material", "Made of", CHOICE, choices=tuple((p.key, p.label) for p in PADS)),
            Fact("diameter_mm", "Diameter", unit="mm", quantity="size", low=10, high=400),
            Fact("thick_mm", "Thickness", unit="mm", quantity="size", low=1, high=120),
            Fact("sets_clean", "Washed after", WHOLE, unit="sets", low=1, high=200),
            Fact("sets_most", "Worn out after", WHOLE, unit="sets", low=1, high=10_000),
            Fact("washes_most", "or after", WHOLE, unit="washes", low=1, high=1000),
        ),
        "Name a kind of pad; then press “another single pad” for each that lies there.",
    ),
    Sort(
        PAD,
        "single pad",
        "single pads",
        (
            Fact("kind", "Kind", TEXT),
            Fact("sets", "Worked sets since new", WHOLE, high=100_000),
            Fact("since_wash", "Sets since it was clean", WHOLE, high=100_000),
            Fact("washes", "Washes", WHOLE, high=10_000),
            Fact(
                "cleaned",
                "Cleaned last by",
                CHOICE,
                choices=(("blown", "blowing it out"), ("brushed", "brushing it")),
            ),
            Fact(
                "state",
                "It is",
                CHOICE,
                choices=((CLEAN, "clean"), (LOADED, "loaded"), (RETIRED, "retired")),
            ),
        ),
    ),
    Sort(
        COMPOUND,
        "compound",
        "compounds",
        (
            Fact("class", "For", CHOICE, choices=tuple((c.key, c.label) for c in COMPOUNDS)),
            Fact("cut", "Cut, as its maker says", high=1000),
            Fact("finish", "Finish, as its maker says", high=1000),
            Fact("scale", "On a scale of", TEXT),
            Fact("clears_grit", "Clears marks of grit", unit="P", low=100, high=10_000),
            Fact("diminishing", "Abrasive breaks down", YES),
            Fact("fillers", "Holds fillers", YES),
            Fact("works_s", "Works for", unit="s", low=5, high=3600),
            Fact("batch", "Batch", TEXT),
        ),
        "Name a compound. How long it works before it dries is told where a stage takes longer.",
    ),
    Sort(
        MACHINE,
        "machine",
        "machines",
        (
            Fact("motion", "Moves as", CHOICE, choices=tuple((m.key, m.label) for m in KINDS)),
            Fact("orbit_mm", "Orbit", unit="mm", quantity="size", high=60),
            Fact("dial", "Speed dial: mark=turns or orbits a minute", TABLE),
            Fact("mass_kg", "Mass", unit="kg", low=0.1, high=30),
            Fact("vibration", "Declared vibration", unit="m/s²", high=50),
            Fact("vibration_k", "and its K", unit="m/s²", high=25),
            Fact("plate_mm", "Backing plate", unit="mm", quantity="size", low=10, high=400),
        ),
        "Name a machine. Its dial as marks and speeds: 1 = 2000; 2 = 2700.",
    ),
    Sort(
        DISC,
        "sanding disc",
        "discs",
        (
            Fact("grit", "Grit", unit="P", low=16, high=10_000),
            Fact("diameter_mm", "Diameter", unit="mm", quantity="size", low=10, high=400),
            Fact("damp", "Used damp", YES),
            Fact("sets_worn", "Worn after", WHOLE, unit="sets", low=1, high=200),
            Fact(
                "backing",
                "Backing",
                CHOICE,
                choices=(("film", "film"), ("paper", "paper"), ("foam", "foam")),
            ),
        ),
        "Name a disc or paper by its grit.",
    ),
    Sort(
        WIPE,
        "wipe",
        "wipes",
        (
            Fact(
                "made",
                "It is",
                CHOICE,
                choices=(
                    ("alcohol", "alcohol mix"),
                    ("panel", "panel wipe"),
                    ("tar", "tar remover"),
                    ("water", "water and soap"),
                    ("other", "something else"),
                ),
            ),
            Fact("flash_s", "Flashes off in", unit="s", high=3600),
            Fact("strength", "Share of solvent", unit="%", high=100),
        ),
        "Name a wipe: solvents burn and are breathed in, so follow their safety data sheets.",
    ),
    Sort(
        LIGHT,
        "light",
        "lights",
        (
            Fact(
                "shape",
                "It is a",
                CHOICE,
                choices=(("point", "point light"), ("strip", "strip light"), ("sun", "sun")),
            ),
            Fact("kelvin", "Colour", unit="K", low=1000, high=20_000),
            Fact("lux", "On the panel", unit="lx", high=200_000),
        ),
        "Name a light: a point shows swirls, a strip shows texture and sharpness.",
    ),
    Sort(
        METER,
        "meter",
        "meters",
        (
            Fact("reads", "Reads", SEVERAL, choices=tuple((k.key, k.label) for k in _READ)),
            *_METERED,
            Fact("tile", "Tile, gloss", unit="GU", high=2000),
            Fact("tile_on", "Tile last checked", DATE),
            Fact(
                "basis",
                "Repeatability known from",
                CHOICE,
                choices=(("typed", "its sheet"), ("study", "a gauge study here")),
            ),
        ),
        "Name a meter, then what it reads: the smallest step it shows and its repeatability.",
    ),
    Sort(
        PERSON,
        "person",
        "people",
        (
            Fact(
                "role",
                "Role",
                CHOICE,
                choices=(
                    ("trainer", "trainer"),
                    ("operator", "operator"),
                    ("reader", "reader"),
                    ("student", "student"),
                ),
            ),
        ),
        "First names are enough.",
    ),
)
BY_SORT: dict[str, Sort] = {sort.key: sort for sort in SORTS}


def check_facts(sort: str, facts: Mapping[str, Any]) -> None:
    """Refuse facts that cannot be; what a newer version may know of a thing is let be.

    Raises
    ------
    ValueRefused
    """
    for key, value in facts.items():
        fact = BY_SORT[sort].fact(key)
        if fact is not None:
            fact.check(value)


def speed_at(dial: object, mark: str) -> float | None:
    """Return the speed of a mark of a dial, None where the table does not have it."""
    if not isinstance(dial, list | tuple):
        return None
    wanted = mark.strip().casefold()
    return next((float(speed) for step, speed in dial if step.casefold() == wanted), None)
