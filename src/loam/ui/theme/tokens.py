"""The two themes: bench (day) and lights-out (almost no light onto the panel)."""

from __future__ import annotations

from dataclasses import dataclass, replace


@dataclass(frozen=True)
class Tokens:
    """Colours of one theme, as #RRGGBB.

    ``ink`` and ``quiet`` are for text; ``faint`` only for what carries no meaning alone. ``edge``
    outlines tape and bands where their fill alone would give too little light to be seen by.
    """

    name: str
    ground: str
    sheet: str
    ink: str
    quiet: str
    faint: str
    line: str
    tape: str
    tape_grain: str
    edge: str
    on_tape: str
    quiet_on_tape: str
    strong: str
    on_strong: str
    care: str
    chip: str
    on_chip: str
    band: str
    panel: str
    panel_cell: str
    on_panel: str
    quiet_on_panel: str
    clear: str
    primer: str
    metal: str


BENCH = Tokens(
    name="bench",
    ground="#E9ECE6",
    sheet="#F6F7F3",
    ink="#1C2420",
    quiet="#56615A",
    faint="#97A098",
    line="#C9CFC6",
    tape="#DAD7A4",
    tape_grain="#CBC78C",
    edge="#DAD7A4",
    on_tape="#2C2B14",
    quiet_on_tape="#5A5836",
    strong="#155E63",
    on_strong="#F6F7F3",
    care="#9A3F17",
    chip="#1C2420",
    on_chip="#F6F7F3",
    band="#DDE2DA",
    panel="#22303A",
    panel_cell="#2E3E49",
    on_panel="#F1F2EA",
    quiet_on_panel="#A9B6BC",
    clear="#BFD3D6",
    primer="#8B8F88",
    metal="#B9BDB8",
)
LIGHTS_OUT = Tokens(
    name="lights-out",
    ground="#080A09",
    sheet="#0E1110",
    ink="#C98A3A",
    quiet="#AA7D3E",
    faint="#5A4422",
    line="#241D14",
    tape="#2A2112",
    tape_grain="#33291A",
    edge="#8C6630",
    on_tape="#C98A3A",
    quiet_on_tape="#B98344",
    strong="#C98A3A",
    on_strong="#080A09",
    care="#D8603A",
    chip="#2A2112",
    on_chip="#C98A3A",
    band="#1B170F",
    panel="#14130E",
    panel_cell="#0E1110",
    on_panel="#C98A3A",
    quiet_on_panel="#AA7D3E",
    clear="#2A2112",
    primer="#1B170F",
    metal="#241D14",
)
PAPER = replace(
    BENCH,
    name="paper",
    panel="#FFFFFF",
    panel_cell="#FFFFFF",
    on_panel=BENCH.ink,
    quiet_on_panel=BENCH.quiet,
    edge=BENCH.quiet,
)
"""Panels of what is printed: light, so that they spare ink and can be written on."""
