"""What lies on the demo workshop's shelf. All made up."""

from __future__ import annotations

import sqlite3
from typing import Any

from loam.core.kit import PadLife, after
from loam.core.kit.facts import (
    COMPOUND,
    DISC,
    LIGHT,
    MACHINE,
    METER,
    PAD,
    PAD_KIND,
    PERSON,
    WIPE,
)
from loam.core.kit.life import RETIRE, WASHED, WORKED
from loam.demo import truth
from loam.store import kit

_PADS: dict[str, tuple[float, tuple[str, ...]]] = {
    # thickness, and what each single pad has been through: s a set, w a wash, r retired
    "Fen firm": (25.0, ("sssws", "sssswssssw", "")),
    "Fen medium": (25.0, ("ssssw", "ssw", "sss", "")),
    "Fen soft": (20.0, ("ssw", "")),
    "Down": (20.0, ("w", "ss")),
    "Bracken": (12.0, ("ssssssw", "ssssssws", "sswssssw", "sssssssswsssssssr")),
    "Tussock": (30.0, ("ssssw", "sss")),
}
_COMPOUNDS: dict[str, dict[str, Any]] = {
    "Grist 9": {
        "cut": 9.0,
        "finish": 4.0,
        "scale": "10",
        "clears_grit": 1500.0,
        "diminishing": True,
        "fillers": False,
        "works_s": 150.0,
    },
    "Grist 6": {
        "cut": 6.0,
        "finish": 6.0,
        "scale": "10",
        "clears_grit": 2000.0,
        "diminishing": True,
        "fillers": False,
        "works_s": 180.0,
    },
    "Loess 4": {
        "cut": 4.0,
        "finish": 8.0,
        "scale": "10",
        "diminishing": False,
        "fillers": True,
        "works_s": 210.0,
    },
    "Loess 3": {
        "cut": 3.0,
        "finish": 8.0,
        "scale": "10",
        "diminishing": False,
        "fillers": False,
        "works_s": 210.0,
    },
    "Silt 2": {
        "cut": 2.0,
        "finish": 8.0,
        "scale": "10",
        "diminishing": True,
        "fillers": False,
        "works_s": 240.0,
    },
    "Silt 1": {
        "cut": 1.0,
        "finish": 10.0,
        "scale": "10",
        "diminishing": False,
        "fillers": False,
        "works_s": 240.0,
    },
}
_MACHINES: dict[str, dict[str, Any]] = {
    "Dipper 15": {
        "dial": (2600.0, 3100.0, 3500.0, 3900.0, 4400.0, 4900.0),
        "mass_kg": 2.6,
        "vibration": 3.6,
        "vibration_k": 1.5,
    },
    "Dipper 21": {
        "dial": (2400.0, 2900.0, 3300.0, 3700.0, 4200.0, 4700.0),
        "mass_kg": 2.8,
        "vibration": 4.4,
        "vibration_k": 1.5,
    },
    "Kiln 8": {
        "dial": (3000.0, 3400.0, 3800.0, 4200.0, 4600.0),
        "mass_kg": 2.9,
        "vibration": 4.9,
        "vibration_k": 1.5,
    },
    "Mill": {
        "dial": (900.0, 1200.0, 1500.0, 1900.0),
        "mass_kg": 2.1,
        "vibration": 2.5,
        "vibration_k": 1.5,
    },
}
_FURTHER: tuple[tuple[str, str, dict[str, Any]], ...] = (
    (DISC, "P1500", {"grit": 1500.0, "diameter_mm": 150.0, "damp": True, "backing": "film"}),
    (DISC, "P3000", {"grit": 3000.0, "diameter_mm": 150.0, "damp": True, "backing": "foam"}),
    (WIPE, "Rinse A", {"made": "alcohol", "flash_s": 30.0, "strength": 15.0}),
    (WIPE, "Rinse P", {"made": "panel", "flash_s": 60.0}),
    (LIGHT, "bench point", {"shape": "point", "kelvin": 5000.0, "lux": 3000.0}),
    (LIGHT, "booth strip", {"shape": "strip", "kelvin": 5000.0, "lux": 1800.0}),
    (
        METER,
        "Glim",
        {
            "reads": ["gloss20", "gloss60", "gloss85", "haze"],
            "gloss20:step": 0.1,
            "gloss20:repeat": 0.2,
            "haze:step": 0.1,
            "haze:repeat": 0.9,
            "tile": 92.4,
            "tile_on": "2026-09-19",
            "basis": "typed",
        },
    ),
    (METER, "Ply", {"reads": ["film"], "film:step": 0.1, "film:repeat": 0.5, "basis": "typed"}),
    (
        METER,
        "Ember",
        {
            "reads": ["temperature"],
            "temperature:step": 0.1,
            "temperature:repeat": 0.3,
            "basis": "typed",
        },
    ),
)


def stock(db: sqlite3.Connection, now: str) -> None:
    """Fill the shelf: what trials named gets its facts, the rest is added."""
    for name, (thick, lives) in _PADS.items():
        _also(db, PAD_KIND, name, {"thick_mm": thick}, now)
        for number, told in enumerate(lives, 1):
            _pad(db, name, number, told, now)
    for name, facts in _COMPOUNDS.items():
        _also(db, COMPOUND, name, facts, now)
    for name, facts in _MACHINES.items():
        dial = [[str(i), speed] for i, speed in enumerate(facts["dial"], 1)]
        _also(db, MACHINE, name, facts | {"dial": dial}, now)
    for sort, name, facts in _FURTHER:
        _also(db, sort, name, facts, now)
    _also(db, PERSON, truth.TRAINER, {"role": "trainer"}, now)
    for name in truth.STUDENTS:
        _also(db, PERSON, name, {"role": "student"}, now)


def stock_lessons(db: sqlite3.Connection, now: str) -> None:
    """Add what the lessons of the later evenings brought: a tar remover, and three students."""
    for grit, worn in ((1200, 4), (5000, 8)):
        facts = {"grit": float(grit), "diameter_mm": 75.0, "damp": True, "sets_worn": worn}
        _also(db, DISC, f"P{grit}", facts, now)
    _also(db, WIPE, "Rinse T", {"made": "tar", "flash_s": 300.0}, now)
    for name in truth.CLASS:
        _also(db, PERSON, name, {"role": "student"}, now)


def _also(db: sqlite3.Connection, sort: str, name: str, facts: dict[str, Any], now: str) -> None:
    known = next((t for t in kit.things(db, sort) if t.name == name), None)
    if known is None:
        kit.add(db, sort, name, facts, now)
    else:
        kit.edit(db, sort, known.item_id, name, known.facts | facts, now)


def _pad(db: sqlite3.Connection, kind: str, number: int, told: str, now: str) -> None:
    name = f"{kind} {number}"
    item = kit.add(db, PAD, name, {"kind": kind}, now)
    life = PadLife()
    for letter in told:
        life = after(life, {"s": WORKED, "w": WASHED, "r": RETIRE}[letter])
        facts = {"kind": kind} | life.as_facts()
        kit.edit(db, PAD, item, name, facts, now)
