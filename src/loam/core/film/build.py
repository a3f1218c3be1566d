"""What a panel was built of, as far as it is known, and what that asks for."""

from __future__ import annotations

from dataclasses import asdict, dataclass, fields

from loam.core.dates import is_date
from loam.core.errors import ValueRefused
from loam.core.text import check_text

STEEL, ALUMINIUM, PLASTIC = "steel", "aluminium", "plastic"
SUBSTRATES: tuple[tuple[str, str], ...] = (
    (STEEL, "steel"), (ALUMINIUM, "aluminium"), (PLASTIC, "plastic"),
)  # fmt: skip
EVIDENCE: tuple[tuple[str, str], ...] = (
    ("pencil", "pencil test"), ("maker", "its maker"), ("answer", "its answer"),
)  # fmt: skip
LIGHTNESSES: tuple[tuple[str, str], ...] = (("dark", "dark"), ("mid", "between"), ("pale", "pale"))
MOST_UM = 2000.0
FRESH_DAYS = 60
"""Clear younger than this may still gas off: assumed; the paint's maker knows."""


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
    chemistry, colour : str
    lightness : str
        dark, mid, pale, or "".
    cured_on : str
        Date (year-month-day) from which on it counts as cured, or "".
    evidence : str
        What its hardness class rests on: pencil, maker, answer, or "".
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

    def __post_init__(self) -> None:
        if self.substrate not in ("", *(key for key, _ in SUBSTRATES)):
            raise ValueRefused(f"{self.substrate[:40]!r} is no substrate that Loam knows.")
        if self.lightness not in ("", *(key for key, _ in LIGHTNESSES)):
            raise ValueRefused(f"{self.lightness[:40]!r} is no lightness that Loam knows.")
        if self.evidence not in ("", *(key for key, _ in EVIDENCE)):
            raise ValueRefused(f"{self.evidence[:40]!r} is no evidence that Loam knows.")
        for name in ("primer_um", "base_um", "clear_um", "clear_spread_um"):
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
        names = {f.name: f.type for f in fields(cls)}
        if not isinstance(value, dict) or not set(value) <= set(names):
            raise ValueRefused("The build record of a panel holds something unknown.")
        for name, given in value.items():
            number = name.endswith("_um")
            fits = (
                isinstance(given, int | float) and not isinstance(given, bool)
                if number
                else isinstance(given, bool if name == "single_stage" else str)
            )
            if not fits:
                raise ValueRefused(f"The build record of a panel has an odd {name}.")
        return cls(**value)


def cautions(build: FilmBuild, days: int | None) -> list[str]:
    """Say what a panel's build asks for before it is worked, so many days after it cured."""
    said = []
    if build.substrate == PLASTIC:
        said.append(
            "Plastic: magnetic and eddy-current gauges read nothing here; only ultrasound does."
            " It warms and softens sooner."
        )
    if build.single_stage:
        said.append("Single stage: there is no clear; colour on the pad is normal, and no budget.")
    if days is not None and days < FRESH_DAYS:
        said.append(
            f"Cured {max(days, 0)} days ago: fresh clear is not worked until it has gassed off;"
            " follow its maker's sheet."
        )
    if build == FilmBuild():
        said.append(
            "Nothing is known of this paint: take care on edges, and mind that old paint may hold"
            " lead. Follow safety data sheets, local rules and qualified practice."
        )
    return said
