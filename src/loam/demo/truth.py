"""What is really so in the demo. All made up; tests ask whether Loam finds it."""

from __future__ import annotations

from dataclasses import dataclass, replace

from loam.core.film import FilmBuild
from loam.core.trial import Combination, Stage

SEED = 20260905
SCHOOL = "Saltmarsh Skills Centre"
PAINTS = {"soft": "Reed clear", "medium": "Sedge clear", "hard": "Marram clear"}
TRAINER = "Maren"
STUDENTS = ("Ivo", "Lise", "Tam")
CLASS = (*STUDENTS, "Nils", "Ruth", "Emil")
"""Six of the evening course, who work and read the same cells: one presses, one reads high."""
READS_HIGH = ("Ruth", 1.6)
PRESSES = {"gloss20": -3.0, "haze": 4.0, "removed": 1.8}
HIDES = {"Loess 4": 4.4, "Silt 2": 2.1, "Grist 6": 0.0}
"""What products hide of gloss 20, GU."""
TAKES = (("Rinse A", 1, 0.45), ("Rinse T", 1, 0.9), ("Rinse P", 1, 0.8), ("Rinse P", 2, 1.0))
"""What part of it each wipe takes."""
STILL_SEEN = {"A": 0.12, "B": 0.3, "C": 0.22}
INSPECTORS = ("Lise", "Nils", "Emil")
SEES_MORE = ("Nils", 0.7)
"""What share of squares still shows a swirl in trial 9, who counted, and who sees more (logits)."""
READER_SD = 0.15
HEAVY_HAND = "Tam"

PANEL_SD = {"gloss20": 0.7, "haze": 0.9, "removed": 0.15, "defects": 1.5}
CELL_SD = {"gloss20": 0.6, "haze": 0.8, "removed": 0.25, "defects": 2.0}
READING_SD = {"gloss20": 0.38, "haze": 0.9, "film": 0.5, "defects": 2.0}
OPERATOR_SD = {"gloss20": 0.15, "haze": 0.3, "removed": 0.05, "defects": 0.5}
HEAVY = {"gloss20": -0.5, "haze": 1.5, "removed": 0.8, "defects": 1.0}
BASELINE_SLOPE = 0.1
BASELINE_GLOSS, BASELINE_SD = 62.0, 3.0


_ORBIT = {"Dipper 15": 15.0, "Dipper 21": 21.0, "Kiln 8": 8.0}
_SPEED = {
    ("Dipper 15", "4"): 3900.0,
    ("Dipper 21", "4"): 3700.0,
    ("Dipper 21", "5"): 4200.0,
    ("Kiln 8", "3"): 3800.0,
    ("Kiln 8", "4"): 4200.0,
    ("Kiln 8", "5"): 4600.0,
    ("Mill", "2"): 1200.0,
}


def _stage(
    pad: str, compound: str, machine: str, passes: int, dial: str, pad_mm: float = 75.0
) -> Stage:
    pads = {
        "Fen firm": "foam-firm",
        "Fen medium": "foam",
        "Fen soft": "foam-soft",
        "Bracken": "microfibre",
        "Tussock": "wool",
        "Down": "foam-soft",
    }
    compounds = {
        "Grist 9": "coarse",
        "Grist 6": "coarse",
        "Loess 4": "polish",
        "Loess 3": "polish",
        "Silt 2": "polish",
        "Silt 1": "fine",
    }
    machines = {
        "Dipper 15": "free-orbital",
        "Dipper 21": "free-orbital",
        "Kiln 8": "forced-orbital",
        "Mill": "rotary",
    }
    return Stage(
        pad,
        compound,
        machine,
        pads[pad],
        compounds[compound],
        machines[machine],
        passes,
        dial,
        40.0,
        pad_mm,
        _ORBIT.get(machine),
        _SPEED[machine, dial],
        25.0,
        0.5,
        0.5,
    )


@dataclass(frozen=True)
class TrueCombination:
    """A combination and what it really does, by hardness.

    ``gloss20`` in GU, ``haze`` in HU (log scale), ``removed`` in µm, ``defects`` in %;
    ``masked`` is the gloss in GU that the wipe takes back.
    """

    code: str
    name: str
    stages: tuple[Stage, ...]
    gloss20: dict[str, float]
    haze: dict[str, float]
    removed: dict[str, float]
    defects: dict[str, float]
    masked: float = 0.0


def _by_class(soft: float | None, medium: float | None, hard: float | None) -> dict[str, float]:
    pairs = {"soft": soft, "medium": medium, "hard": hard}
    return {k: v for k, v in pairs.items() if v is not None}


ONE_STEPS: tuple[TrueCombination, ...] = (
    TrueCombination(
        "A",
        "plain one-step",
        (_stage("Fen medium", "Loess 3", "Dipper 15", 6, "4"),),
        {"soft": 88.4},
        {"soft": 11},
        {"soft": 1.1},
        {"soft": 88},
    ),
    TrueCombination(
        "B",
        "one-step with fillers",
        (_stage("Fen medium", "Loess 4", "Dipper 15", 6, "4"),),
        {"soft": 86.0},
        {"soft": 15},
        {"soft": 0.7},
        {"soft": 78},
        masked=4.2,
    ),
    TrueCombination(
        "C",
        "short-nap cut",
        (_stage("Bracken", "Loess 3", "Dipper 21", 4, "4"),),
        {"soft": 85.1},
        {"soft": 19},
        {"soft": 1.9},
        {"soft": 92},
    ),
    TrueCombination(
        "D",
        "long throw, fillers",
        (_stage("Fen soft", "Loess 4", "Dipper 21", 6, "4"),),
        {"soft": 87.0},
        {"soft": 12},
        {"soft": 0.6},
        {"soft": 74},
        masked=2.6,
    ),
    TrueCombination(
        "E",
        "forced finish",
        (_stage("Fen soft", "Loess 3", "Kiln 8", 6, "3"),),
        {"soft": 88.0},
        {"soft": 12},
        {"soft": 1.3},
        {"soft": 89},
    ),
)
"""Trial 1: B looks best before the wipe and is not."""

CUT_AND_FINISH: tuple[TrueCombination, ...] = (
    TrueCombination(
        "A",
        "one-step",
        (_stage("Fen medium", "Loess 3", "Dipper 15", 6, "4"),),
        _by_class(88.6, 82.7, 76.2),
        _by_class(10, 17, 26),
        _by_class(1.2, 0.9, 0.6),
        _by_class(88, 71, 52),
    ),
    TrueCombination(
        "B",
        "heavy cut, polish",
        (
            _stage("Bracken", "Grist 9", "Dipper 21", 6, "5"),
            _stage("Fen medium", "Silt 2", "Dipper 15", 4, "4"),
        ),
        _by_class(84.0, 87.1, 86.9),
        _by_class(18, 12, 14),
        _by_class(5.2, 4.6, 4.1),
        _by_class(97, 95, 91),
    ),
    TrueCombination(
        "C",
        "wool cut, finish",
        (
            _stage("Tussock", "Grist 9", "Mill", 4, "2"),
            _stage("Fen soft", "Silt 1", "Dipper 15", 4, "4"),
        ),
        _by_class(80.1, 84.6, 84.0),
        _by_class(29, 19, 18),
        _by_class(6.1, 5.5, 4.9),
        _by_class(98, 96, 94),
    ),
    TrueCombination(
        "D",
        "medium cut, polish",
        (
            _stage("Bracken", "Grist 6", "Dipper 21", 4, "5"),
            _stage("Fen medium", "Silt 2", "Dipper 15", 4, "4"),
        ),
        _by_class(88.1, 87.8, 86.2),
        _by_class(12, 11, 15),
        _by_class(3.6, 3.1, 2.7),
        _by_class(95, 92, 86),
    ),
    TrueCombination(
        "E",
        "soft one-step",
        (_stage("Down", "Loess 4", "Dipper 15", 6, "4"),),
        _by_class(86.2, 80.3, None),
        _by_class(13, 21, None),
        _by_class(0.5, 0.4, None),
        _by_class(75, 58, None),
        masked=2.0,
    ),
    TrueCombination(
        "F",
        "forced cut, finish",
        (
            _stage("Fen firm", "Grist 6", "Kiln 8", 6, "4"),
            _stage("Down", "Silt 1", "Dipper 15", 4, "4"),
        ),
        _by_class(87.5, 85.0, 80.9),
        _by_class(12, 16, 22),
        _by_class(2.8, 2.4, 2.0),
        _by_class(92, 86, 77),
    ),
)
"""Trial 2: B and D lead on hard; A, D and F lie close together on soft; E was not put on hard."""

MOTIONS: tuple[TrueCombination, ...] = tuple(
    TrueCombination(
        code,
        name,
        (_stage(pad, "Grist 9", machine, passes, dial),),
        {"hard": gloss},
        {"hard": haze},
        {"hard": removed},
        {"hard": defects},
    )
    for code, name, pad, machine, passes, dial, gloss, haze, removed, defects in (
        ("A", "long throw", "Bracken", "Dipper 21", 6, "5", 84.8, 19.0, 3.9, 88.0),
        ("B", "forced", "Bracken", "Kiln 8", 6, "5", 83.6, 22.0, 4.4, 91.0),
        ("C", "rotary wool", "Tussock", "Mill", 4, "2", 80.2, 31.0, 5.3, 95.0),
        ("D", "rotary foam", "Fen firm", "Mill", 4, "2", 82.0, 26.0, 4.0, 87.0),
    )
)
"""Trial 3: half read."""

MISLABELLED_PANEL = "Teal"
"""Trial 1 declares it soft; it is medium, and every one-step does less on it."""
MISLABELLED_SHIFT = {"gloss20": -4.5, "haze": 6.0, "removed": -0.3, "defects": -14.0}
WORN_PAD = ("F", 4.0)
"""Trial 2: the pad of F was worn out on the last evening, when Dunlin and Teal were worked, and its
gloss fell by this much there."""


METER_SD = 0.32
"""Trial 6: how the gloss meter repeats on paint, lifted and turned; in GU."""
SPOT_SD = 1.1
READER_OFF = {"Ivo": 0.0, "Lise": 0.12, "Tam": -0.45}
"""Trial 6: Tam leans on the meter."""

BUILD = FilmBuild(
    "steel",
    30.0,
    15.0,
    62.0,
    4.0,
    chemistry="two-part clear",
    colour="marsh blue",
    lightness="dark",
    cured_on="2026-03-14",
)
"""How the course's booth builds a panel."""

_CUT = _stage("Bracken", "Grist 9", "Dipper 21", 6, "5", 125.0)
_FINISH = _stage("Down", "Silt 1", "Dipper 15", 4, "4", 125.0)
MIDDLE_STAGE: tuple[Combination, ...] = (
    Combination(1, "A", "cut, finish", (_CUT, _FINISH)),
    Combination(
        2,
        "B",
        "cut, polish, finish",
        (_CUT, _stage("Fen medium", "Silt 2", "Dipper 15", 4, "4", 125.0), _FINISH),
    ),
    Combination(
        3,
        "C",
        "milder cut, finish",
        (_stage("Bracken", "Grist 6", "Dipper 21", 6, "5", 125.0), _FINISH),
    ),
    Combination(4, "X", "damaged only", (), "damaged"),
)
"""Trial 4: planned."""


def _sanded(grit: int, passes: int = 4) -> Stage:
    return Stage(
        "interface",
        "",
        "Dipper 15",
        machine_kind="free-orbital",
        passes=passes,
        dial="4",
        force_n=15.0,
        pad_mm=75.0,
        orbit_mm=15.0,
        speed=3900.0,
        arm_mm_s=25.0,
        overlap=0.5,
        grit=float(grit),
        damp=1.0,
        disc=f"P{grit}",
    )


_AFTER_SANDING = (
    _stage("Bracken", "Grist 9", "Dipper 15", 6, "4"),
    _stage("Fen medium", "Silt 2", "Dipper 15", 4, "4"),
    _stage("Down", "Silt 1", "Dipper 15", 4, "4"),
)
LADDERS: tuple[Combination, ...] = (
    Combination(1, "A", "to P5000", (*map(_sanded, (1200, 3000, 5000)), *_AFTER_SANDING)),
    Combination(2, "B", "to P3000", (*map(_sanded, (1200, 3000)), *_AFTER_SANDING)),
    Combination(3, "C", "P1200 only", (_sanded(1200), *_AFTER_SANDING)),
)
"""Trial 10: planned, stage by stage."""
SINGLE = FilmBuild(
    "steel",
    25.0,
    single_stage=True,
    colour_um=48.0,
    colour_spread_um=5.0,
    chemistry="one coat, two parts",
    colour="faded red",
    lightness="mid",
    cured_on="1998-06-01",
    age="old",
)
CHALKY_FILM = 74.0
CHALKY: tuple[Combination, ...] = (
    Combination(
        1,
        "A",
        "finish only",
        (replace(_stage("Down", "Silt 1", "Dipper 15", 4, "4"), force_n=20.0, primed=1.0),),
    ),
    Combination(
        2,
        "B",
        "a mild polish",
        (replace(_stage("Fen soft", "Silt 2", "Dipper 15", 4, "4"), force_n=20.0, primed=1.0),),
    ),
    Combination(3, "X", "as it is", (), "untouched"),
)
"""Trial 11: planned, on a single stage that chalks."""

_CUT_75 = _stage("Bracken", "Grist 9", "Dipper 21", 6, "5")
_MILD_75 = _stage("Bracken", "Grist 6", "Dipper 21", 6, "5")
_POLISH_75 = _stage("Fen medium", "Silt 2", "Dipper 15", 4, "4")
_FINISH_75 = _stage("Down", "Silt 1", "Dipper 15", 4, "4")


@dataclass(frozen=True)
class TrueStages:
    """A combination and what it reads after each of its stages; ``removed`` adds up, µm."""

    code: str
    name: str
    stages: tuple[Stage, ...]
    gloss20: tuple[float, ...]
    haze: tuple[float, ...]
    removed: tuple[float, ...]


BY_STAGE: tuple[TrueStages, ...] = (
    TrueStages(
        "A",
        "one-step",
        (_stage("Fen medium", "Loess 3", "Dipper 15", 6, "4"),),
        (83.4,),
        (17.0,),
        (1.0,),
    ),
    TrueStages("B", "cut, finish", (_CUT_75, _FINISH_75), (79.0, 87.2), (27.0, 11.5), (4.4, 4.6)),
    TrueStages(
        "C",
        "cut, polish, finish",
        (_CUT_75, _POLISH_75, _FINISH_75),
        (79.0, 86.4, 87.3),
        (27.0, 13.0, 11.0),
        (4.4, 5.6, 5.8),
    ),
    TrueStages(
        "D", "milder cut, finish", (_MILD_75, _FINISH_75), (82.5, 86.6), (20.0, 12.0), (3.0, 3.2)
    ),
    TrueStages(
        "E",
        "milder cut, polish, finish",
        (_MILD_75, _POLISH_75, _FINISH_75),
        (82.5, 88.9, 89.2),
        (20.0, 9.5, 9.0),
        (3.0, 4.1, 4.2),
    ),
)
"""Trial 7, read after each stage: after the heavy cut the middle stage adds nothing that matters,
after the milder one it does."""

CLAIM: tuple[Combination, ...] = (
    Combination(1, "A", "wool", (_stage("Tussock", "Grist 9", "Mill", 4, "2", 80.0),)),
    Combination(2, "B", "microfibre", (_stage("Bracken", "Grist 9", "Dipper 21", 6, "5", 80.0),)),
    Combination(3, "X", "sanded only", (), "damaged"),
    Combination(4, "Y", "untouched", (), "untouched"),
)
"""Trial 5: a claim."""
