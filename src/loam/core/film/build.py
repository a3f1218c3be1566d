"""What a panel was built of, as far as it is known, and what that asks for."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import asdict, dataclass, fields

from loam.core.dates import day_after, is_date
from loam.core.errors import ValueRefused
from loam.core.text import check_text

STEEL, ALUMINIUM, PLASTIC = "steel", "aluminium", "plastic"
SUBSTRATES: tuple[tuple[str, str], ...] = (
    (STEEL, "steel"),
    (ALUMINIUM, "aluminium"),
    (PLASTIC, "plastic"),
)
EVIDENCE: tuple[tuple[str, str], ...] = (
    ("pencil", "pencil test"),
    ("maker", "its maker"),
    ("answer", "its answer"),
)
LIGHTNESSES: tuple[tuple[str, str], ...] = (("dark", "dark"), ("mid", "between"), ("pale", "pale"))
RECENT, OLD = "recent", "old"
AGES: tuple[tuple[str, str], ...] = ((RECENT, "recent"), (OLD, "old"), ("", "not known"))
CLEAR, PAINT = "clear", "paint"
MOST_UM = 2000.0
MOST_DAYS = 3650
FRESH_DAYS = 60
"""Paint younger than this may still gas off: assumed; the paint's maker knows."""
RECENT_DAYS = 20 * 365
"""Paint that cured longer ago counts as old, which may hold lead: assumed."""


_LAYERS = (
    "primer_um",
    "base_um",
    "clear_um",
    "clear_spread_um",
    "colour_um",
    "colour_spread_um",
)


@dataclass(frozen=True)
class FilmBuild:
    """Build record of a panel; what is not known is empty or None.

    Attributes
    ----------
    substrate : str
        steel, aluminium, plastic, or "".
    primer_um, base_um, clear_um, clear_spread_um : float or None
        Thickness of the layers, and the standard deviation of the clear over the panel.
    single_stage : bool
        Colour and gloss in one coat: there is no clear.
    colour_um, colour_spread_um : float or None
        Thickness of that coat, and its standard deviation over the panel.
    chemistry, colour : str
    lightness : str
        dark, mid, pale, or "".
    cured_on : str
        Date (year-month-day) from which on it counts as cured, or "".
    evidence : str
        What its hardness class rests on: pencil, maker, answer, or "".
    age : str
        recent, old, or "": paint that is not known to be recent may hold lead.
    polish_days, seal_days : int or None
        Days after it cured from which on its maker lets it be sanded and polished, and sealed.
    """

    substrate: str = ""
    primer_um: float | None = None
    base_um: float | None = None
    clear_um: float | None = None
    clear_spread_um: float | None = None
    single_stage: bool = False
    chemistry: str = ""
    colour: str = ""
    lightness: str = ""
    cured_on: str = ""
    evidence: str = ""
    colour_um: float | None = None
    colour_spread_um: float | None = None
    age: str = ""
    polish_days: int | None = None
    seal_days: int | None = None

    def __post_init__(self) -> None:
        if self.substrate not in ("", *(key for key, _ in SUBSTRATES)):
            raise ValueRefused(f"{self.substrate[:40]!r} is no substrate that Loam knows.")
        if self.lightness not in ("", *(key for key, _ in LIGHTNESSES)):
            raise ValueRefused(f"{self.lightness[:40]!r} is no lightness that Loam knows.")
        if self.evidence not in ("", *(key for key, _ in EVIDENCE)):
            raise ValueRefused(f"{self.evidence[:40]!r} is no evidence that Loam knows.")
        if self.age not in ("", RECENT, OLD):
            raise ValueRefused(f"{self.age[:40]!r} is no age of paint that Loam knows.")
        for value in (self.polish_days, self.seal_days):
            if value is not None and not 0 <= value <= MOST_DAYS:
                raise ValueRefused(
                    f"{value:g} days cannot be.", todo=f"Whole days, 0 to {MOST_DAYS:g}."
                )
        for name in _LAYERS:
            value = getattr(self, name)
            if value is not None and not 0.0 <= value <= MOST_UM:  # a NaN is refused too
                raise ValueRefused(
                    f"A layer of {value:g} µm cannot be.", todo=f"0 to {MOST_UM:g} µm."
                )
        check_text(self.chemistry, "the chemistry of a paint")
        check_text(self.colour, "the colour of a panel")
        if self.cured_on and not is_date(self.cured_on):
            raise ValueRefused(
                f"{self.cured_on[:20]!r} is no date.", todo="Write it like 2026-09-05."
            )

    @property
    def coat(self) -> str:
        """What is worked: the clear, or paint that has none."""
        return PAINT if self.single_stage else CLEAR

    def as_plain(self) -> dict[str, object]:
        """Return what is known, by name; nothing when nothing is."""
        plain = FilmBuild()
        return {n: v for n, v in asdict(self).items() if v != getattr(plain, n)}

    @classmethod
    def from_plain(cls, value: object) -> FilmBuild:
        """Build a record from what is known, by name.

        Raises
        ------
        ValueRefused
            When it is none.
        """
        names = {f.name for f in fields(cls)}
        if not isinstance(value, dict) or not set(value) <= names:
            raise ValueRefused("The build record of a panel holds something unknown.")
        for name, given in value.items():
            if not _fits(name, given):
                raise ValueRefused(f"The build record of a panel has an odd {name}.")
        return cls(**value)


def _fits(name: str, given: object) -> bool:
    """Whether a fact of a record is of its kind."""
    if name == "single_stage":
        return isinstance(given, bool)
    if isinstance(given, bool):
        return False
    if name.endswith("_days"):
        return isinstance(given, int)
    return isinstance(given, int | float if name.endswith("_um") else str)


def coat_of(builds: Iterable[FilmBuild]) -> str:
    """Return what is worked on panels: clear, or paint where one has no clear."""
    return PAINT if any(b.single_stage for b in builds) else CLEAR


@dataclass(frozen=True)
class Caution:
    """What a panel asks for: in a sentence or two, and in a few words beside the work."""

    said: str
    short: str


def cautions(build: FilmBuild, days: int | None) -> list[Caution]:
    """Say what a panel's build asks for before it is worked, so many days after it cured.

    ``days`` is None where it is not known when it cured, and below 0 before that day.
    """
    said = []
    if build.substrate == PLASTIC:
        said.append(
            Caution(
                "Plastic: magnetic and eddy-current gauges read nothing here; only ultrasound does."
                " It warms and softens sooner.",
                "Plastic: it warms and softens sooner.",
            )
        )
    if build.single_stage:
        said.append(
            Caution(
                "Single stage: colour on the pad or cloth is normal. What must not be reached is"
                " the primer.",
                "Single stage: colour on the pad is normal, the primer must not show.",
            )
        )
    return said + _fresh(build, days) + _aged(build, days)


def _fresh(build: FilmBuild, days: int | None) -> list[Caution]:
    """Say until when paint is too fresh: for sanding and polishing, and for a sealing."""
    if days is None:
        return []
    cured = f"Cured {days} day{'' if days == 1 else 's'} ago" if days >= 0 else "Not cured yet"
    cured = "Cured today" if days == 0 else cured
    said = []
    if build.polish_days is None and days < FRESH_DAYS:
        said.append(
            Caution(
                f"{cured}: fresh paint is sanded and polished only after its maker's time. Ask for"
                " it, and note it with how the panel is built (F4).",
                f"{cured}: polish only after its maker's time, which is not noted.",
            )
        )
    elif build.polish_days is not None and days < build.polish_days:
        then = _then(build.cured_on, build.polish_days)
        said.append(
            Caution(
                f"{cured}: not to be sanded or polished before {then}, by its maker.",
                f"Too fresh: not to be polished before {then}.",
            )
        )
    sealed = FRESH_DAYS if build.seal_days is None else build.seal_days
    if days < sealed:
        then = _then(build.cured_on, sealed)
        whose = "by its maker" if build.seal_days is not None else "assumed; follow its sheet"
        said.append(
            Caution(
                f"{cured}: sealed or waxed only once it has gassed off, from {then} on ({whose}).",
                "",
            )
        )
    return said


def _then(cured_on: str, days: int) -> str:
    """Return the day so many days after it cured."""
    return day_after(cured_on, days) or f"day {days}"


def _aged(build: FilmBuild, days: int | None) -> list[Caution]:
    """Say that old paint may hold lead, until it is known to be recent."""
    recent = days is not None and days < RECENT_DAYS
    if build.age == RECENT or (recent and build.age != OLD):
        return []
    old = build.age == OLD or days is not None
    about = "Old paint" if old else "How old this paint is, is not known: old paint"
    return [
        Caution(
            f"{about} may hold lead: no dry sanding, no dust to breathe or carry home; have it"
            " tested. Take care on edges. Follow safety data sheets, local rules and qualified"
            " practice.",
            "Old paint may hold lead: no dry sanding, have it tested."
            if old
            else "The age of this paint is not known: it may hold lead (F4).",
        )
    ]
