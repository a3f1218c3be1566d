"""What a stage does to a section, in sentences."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from loam.core.dose import SectionDose
from loam.core.dose.edge import SEAM_SHARES, Edge
from loam.core.panel import Taping
from loam.core.units import Unit, fixed
from loam.core.words.verdict import listed

ROOM_PADS = 2.5
"""A cell of so many pad diameters holds even ground enough (notes on dose)."""
ROOM_MM = 20.0
"""A meter of 10 mm, put down within 5 mm, needs this much even ground."""
LONG_PASS_S = 60.0
"""Most compounds do not last a pass longer than this, several times over: assumed."""


@dataclass(frozen=True)
class Said:
    """Sentences about a dose; ``care`` are those to act on."""

    facts: tuple[str, ...]
    care: tuple[str, ...]


def time_words(seconds: float) -> str:
    """Say a time as one would count it: 24 s; 3 min 12."""
    whole = round(seconds)
    if whole < 60:
        return f"{whole} s"
    minutes, rest = divmod(whole, 60)
    if minutes >= 60:
        return f"{minutes // 60} h {minutes % 60:02d}"
    return f"{minutes} min {rest:02d}" if rest else f"{minutes} min"


def passes_words(passes: int) -> str:
    """Say section passes crosswise too: 4 (2 crosswise)."""
    hatches, odd = divmod(passes, 2)
    if not hatches:
        return f"{passes}"
    return f"{passes} ({hatches} crosswise{' and one' if odd else ''})"


PASS_HINT = (
    "A section pass crosses the whole cell once; a crosswise pass (a hatch) is two; a set is as"
    " many as a combination says, usually four."
)


def edge_words(edge: Edge) -> str:
    """Say what an edge and a seam come to."""
    return (
        f"At the tape {100 * edge.at_tape:.0f} %, full from {edge.full_mm:.0f} mm inside; a seam of"
        f" {edge.overlap_mm:.0f} mm comes to {100 * edge.low:.0f} to {100 * edge.high:.0f} %."
    )


def lasting_words(compound: str, works_s: float | None, seconds: float, passes: int) -> str:
    """Say when a compound dries before its passes are done; "" when it lasts or is not known."""
    if works_s is None or works_s >= seconds:
        return ""
    done = int(passes * works_s / seconds)
    help_ = "spread it anew before that" if done else "a smaller section or a faster arm helps"
    after = f" after pass {done}" if done else " within the first pass"
    return (
        f"{compound or 'The compound'} works for about {time_words(works_s)}, {passes} passes take"
        f" {time_words(seconds)}: it may dry{after}; {help_}."
    )


def dose_words(
    dose: SectionDose, assumed: Sequence[str], compound: str = "", works_s: float | None = None
) -> Said:
    """Say how even a section comes out, where to read it, and how long it takes.

    ``works_s`` is how long the compound works, where that is known.
    """
    s = dose.settings
    each = dose.time_s / s.passes
    facts = [
        f"{time_words(each)} a pass, {time_words(dose.time_s)} for {passes_words(s.passes)}.",
        f"Ripple {100 * dose.cv:.1f} % over the middle; lines {dose.ways[0].spacing_mm:.0f} mm"
        " apart.",
    ]
    care = []
    room = dose.circle_mm
    if room >= ROOM_MM:
        facts.append(f"Evenly worked: a circle of {room:.0f} mm.")
    else:
        care.append(f"Only {room:.0f} mm are evenly worked: too little for a meter. {_help(dose)}")
    dries = lasting_words(compound, works_s, dose.time_s, s.passes)
    if dries:
        care.append(dries)
    elif works_s is None and each > LONG_PASS_S:
        care.append(
            f"A pass of {time_words(each)} outlasts most compounds: a smaller section, a faster arm"
            " or a larger pad helps."
        )
    low, high = (s.pad_mm * share for share in SEAM_SHARES)
    facts.append(f"Let the next section overlap by {low:.0f} to {high:.0f} mm.")
    if assumed:
        facts.append(f"Assumed: {listed(list(assumed))}.")
    return Said(tuple(facts), tuple(care))


def _help(dose: SectionDose) -> str:
    s = dose.settings
    wanted = ROOM_PADS * s.pad_mm
    short = min(s.width_mm, s.height_mm)
    ways = []
    if not s.half_line_shift and s.passes >= 4:
        ways.append("shifting every second crosswise pass by half a line")
    if short < wanted:
        ways.append(f"a section of {wanted:.0f} mm for this pad")
        ways.append(f"a pad of {max(25.0, 25 * int(short / 2.5 / 25)):.0f} mm")
    if s.machine == "rotary" and s.overlap < 0.6:
        ways.append("60 to 75 % overlap")
    return f"What helps: {listed(ways)}." if ways else "More overlap helps."


def wider_cells(taping: Taping, pad_mm: float, unit: Unit) -> str:
    """Say how a panel would be taped for its largest pad; "" where its cells are wide enough."""
    wanted = ROOM_PADS * pad_mm
    if not pad_mm or min(taping.cell_width_mm, taping.cell_height_mm) >= wanted:
        return ""
    free = (taping.width_mm - 2 * taping.margin_mm, taping.height_mm - 2 * taping.margin_mm)
    columns, rows = (int((room + taping.gap_mm) // (wanted + taping.gap_mm)) for room in free)
    said = f"A pad of {unit.shown(pad_mm):.3g} {unit.symbol} works cells evenly from"
    said += f" {unit.shown(wanted):.3g} {unit.symbol} on: "
    if columns < 1 or rows < 1:
        return said + "this panel is too small for that; take a smaller pad."
    return said + f"{min(columns, taping.columns)} columns, {min(rows, taping.rows)} rows."


def removed_words(
    ranges: Sequence[tuple[str, float, float, int]], coat: str = "clear", stages: int = 1
) -> str:
    """Say what clear may go, by hardness: name, from and to in µm, and on how many cells that was
    measured (0 where it is only assumed).
    """
    measured = sum(cells for *_, cells in ranges)
    all_ = all(cells for *_, cells in ranges)
    by = " by both stages" if stages == 2 else f" by all {stages} stages" if stages > 2 else ""
    parts = [
        f"{_figure(low)} to {_figure(high)} µm on {h}"
        + (" (measured)" if cells and not all_ else "")
        for h, low, high, cells in ranges
    ]
    if all_:
        rests = f"measured on {measured} cells here"
    else:
        rests = (
            "the rest is " if measured else ""
        ) + "assumed by compound, pad and grit until it is"
        rests += " measured"
    return f"{coat.capitalize()} taken off{by}: {', '.join(parts)}; {rests}."


def _figure(value: float) -> str:
    return fixed(value, 2 if value < 0.1 else 1 if value < 3 else 0)
