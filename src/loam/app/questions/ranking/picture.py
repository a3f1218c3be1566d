"""The ranking as drawn: a panel a hardness, a swatch a combination, one axis for all."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from loam.app.presenters.axis import marks_of
from loam.app.questions.ranking.masked import MaskedPicture
from loam.core.judging import ClassJudgement, Standing, TrialJudgement
from loam.core.matter import Matters
from loam.core.readings import ReadingKind
from loam.core.removal import Known
from loam.core.units import fixed, percent
from loam.core.verdicts import ASSUMED, CLEARLY_BETTER
from loam.core.words.verdict import (
    RELATION_WORDS,
    class_sentence,
    matters_words,
    notes,
    sentence,
    unit_of,
)

Place = Callable[[float], float]
WIDEST = 36.0
"""The window shows at most this many usual intervals; what lies further behind is parked."""


@dataclass(frozen=True)
class Swatch:
    """One combination on one hardness. Places run along the axis, better to the right.

    Attributes
    ----------
    place, low, high : float
        Adjusted mean and the 90 % interval for comparing, from the draws that give the verdicts.
    plain : float or None
        Where its own readings alone put it, when that is far from where it is drawn.
    parked : bool
        It lies too far behind to be drawn where it is.
    told : str
        Everything in words, for a tooltip and a screen reader.
    """

    combination: str
    place: float
    low: float
    high: float
    plain: float | None
    text: str
    relation: str
    chance: str
    parked: bool
    told: str


@dataclass(frozen=True)
class Strip:
    """One hardness class.

    Attributes
    ----------
    swatches : tuple of Swatch
        The leader first.
    edge : float
        Place up to which a difference to the leader does not matter.
    lead : tuple of str
        Who leads and how surely; each shorter than the one before.
    """

    hardness: str
    panels: int
    swatches: tuple[Swatch, ...]
    untested: tuple[str, ...]
    edge: float
    lead: tuple[str, ...]

    def swatch(self, combination: str) -> Swatch | None:
        """Return the swatch of a combination."""
        return next((s for s in self.swatches if s.combination == combination), None)


@dataclass(frozen=True)
class ControlLine:
    """What a control reads: its place on the axis, and its words."""

    place: float
    words: str


@dataclass(frozen=True)
class RankingPicture:
    """The whole ranking as drawn, and the words for it.

    Attributes
    ----------
    window : (float, float)
        Places at the left and the right end.
    marks : tuple of (float, str)
        Place and text of each mark of the axis.
    ends : (float or None, float or None)
        Places of the least and the best possible value, where the window reaches them.
    floor : float
        What the meter cannot see, as a length at the best leader's place.
    means : mapping of int to float
        Mean by cell, for the readings behind a figure.
    work : tuple of str
        What the way it was prepared and worked means for the result.
    unlike : bool
        Cells were not worked as planned: they can be left out, or are.
    kp : mapping
        Of clear removed: Kp by combination and hardness.
    masked : MaskedPicture or None
        What the wipe took back.
    trap : str
        Who looked best before the wipe and was flattered by fillers; "" for nobody.
    unwiped : bool
        Ranked on what was read before the wipe, to teach.
    controls : mapping of str to tuple of ControlLine
        What controls read, by hardness: lines to hold the combinations against.
    """

    measurand: str
    kind: ReadingKind
    label: str
    judgement: TrialJudgement
    names: Mapping[str, str]
    strips: tuple[Strip, ...]
    window: tuple[float, float]
    marks: tuple[tuple[float, str], ...]
    ends: tuple[float | None, float | None]
    floor: float
    sentence: str
    notes: tuple[str, ...]
    means: Mapping[int, float] = field(repr=False)
    work: tuple[str, ...] = ()
    unlike: bool = False
    kp: Known = field(default_factory=dict, repr=False)
    masked: MaskedPicture | None = field(default=None, repr=False)
    trap: str = ""
    unwiped: bool = False
    controls: Mapping[str, tuple[ControlLine, ...]] = field(default_factory=dict)

    @property
    def decimals(self) -> int:
        """Decimals of a mean."""
        return max(self.kind.decimals, 1)

    @property
    def unit(self) -> str:
        """Unit that it is shown in."""
        return self.kind.unit

    @property
    def matters(self) -> str:
        """What matters, in words."""
        return matters_words(self.judgement.matters, self.kind)

    def strip(self, hardness: str) -> Strip | None:
        """Return the strip of a hardness class."""
        return next((s for s in self.strips if s.hardness == hardness), None)


def draw_up(
    judgement: TrialJudgement,
    kind: ReadingKind,
    names: Mapping[str, str] | None = None,
    means: Mapping[int, float] | None = None,
) -> RankingPicture:
    """Turn a judgement into what is drawn, in the unit that ``kind`` is shown in."""
    sign = 1.0 if judgement.higher_is_better else -1.0
    names = names or {}

    def place(value: float) -> float:
        return sign * float(judgement.scale.to(np.array([value]))[0])

    window = _window(judgement, place)
    strips = tuple(
        _strip(judgement, found, kind, names, place, window) for found in judgement.classes
    )
    low, high = sorted((sign * window[0], sign * window[1]))
    values = marks_of(judgement.scale, low, high)
    decimals = _decimals([kind.shown(v) for v in values])
    label = f"{kind.label}, {judgement.scale.meter} scale" if judgement.scale.meter else kind.label
    scale = judgement.scale
    ends = sorted(place(v) if np.isfinite(v) else v for v in (scale.least, scale.most))
    best = max(judgement.classes, key=lambda c: c.leader.figures.estimate * sign).leader
    top = best.figures.estimate
    floor = abs(place(top) - place(min(max(top - judgement.floor, scale.least), scale.most)))
    return RankingPicture(
        kind.key,
        kind,
        label,
        judgement,
        names,
        strips,
        window,
        tuple((place(v), fixed(kind.shown(v), decimals)) for v in values),
        (
            ends[0] if ends[0] >= window[0] - 1e-9 else None,
            ends[1] if ends[1] <= window[1] + 1e-9 else None,
        ),
        floor,
        sentence(judgement, names, kind),
        tuple(notes(judgement)),
        means or {},
    )


def reference_lines(
    picture: RankingPicture, means: Mapping[tuple[str, str], float]
) -> dict[str, tuple[ControlLine, ...]]:
    """Return the lines of controls, by hardness.

    Parameters
    ----------
    means : mapping of (str, str) to float
        As measured, by hardness and kind of control.
    """
    judgement, kind = picture.judgement, picture.kind
    sign = 1.0 if judgement.higher_is_better else -1.0
    found: dict[str, tuple[ControlLine, ...]] = {}
    for (hardness, control), value in sorted(means.items()):
        place = sign * float(judgement.scale.to(np.array([value]))[0])
        line = ControlLine(place, f"{control} {kind.write(value)}")
        found[hardness] = (*found.get(hardness, ()), line)
    return found


def with_matters(picture: RankingPicture, chosen: Matters) -> RankingPicture:
    """Draw the same readings up for another difference that matters; quick enough to follow."""
    judgement = picture.judgement.with_matters(chosen)
    again = draw_up(judgement, picture.kind, picture.names, picture.means)
    return replace(
        again,
        window=picture.window,
        marks=picture.marks,
        ends=picture.ends,
        work=picture.work,
        unlike=picture.unlike,
        kp=picture.kp,
        masked=picture.masked,
        trap=picture.trap,
        unwiped=picture.unwiped,
        controls=picture.controls,
    )


def _decimals(values: list[float]) -> int:
    return next((d for d in range(7) if all(abs(round(v, d) - v) < 1e-9 for v in values)), 6)


def _window(judgement: TrialJudgement, place: Place) -> tuple[float, float]:
    """Choose what the axis shows: all intervals and the strip of what does not matter.

    When that would make the intervals too small to see, those furthest behind are left out.
    """
    delta = judgement.matters.on_scale
    spans, near = [], []
    for found in judgement.classes:
        for s in found.standings:
            spans.append(sorted((place(s.figures.own_low), place(s.figures.own_high))))
            if s.relation != CLEARLY_BETTER:
                near.append(spans[-1][0])
    leads = [place(c.leader.figures.estimate) for c in judgement.classes]
    low = min(min(s[0] for s in spans), min(leads) - delta)
    high = max(s[1] for s in spans)
    wide = float(np.median([s[1] - s[0] for s in spans]))
    least = min(min(leads) - 1.5 * delta, high - WIDEST * wide, *near)
    low = max(low, least)
    if not high - low > 0.0:
        low, high = low - 0.5, high + 0.5
    room = 0.02 * (high - low)
    return low - room, high + room


def _strip(
    judgement: TrialJudgement,
    found: ClassJudgement,
    kind: ReadingKind,
    names: Mapping[str, str],
    place: Place,
    window: tuple[float, float],
) -> Strip:
    swatches = tuple(_swatch(found, s, kind, names, place, window) for s in found.standings)
    lead = found.leader
    code, chance = lead.combination, percent(lead.p_best)
    said: tuple[str, ...] = (f"{code} leads, {chance}", f"{code}, {chance}", code)
    said = said if len(swatches) > 1 else (code,)
    edge = swatches[0].place - judgement.matters.on_scale
    return Strip(found.hardness, found.panels, swatches, found.untested, edge, said)


def _swatch(
    found: ClassJudgement,
    s: Standing,
    kind: ReadingKind,
    names: Mapping[str, str],
    place: Place,
    window: tuple[float, float],
) -> Swatch:
    f = s.figures
    low, high = sorted((place(f.own_low), place(f.own_high)))
    at = place(f.estimate)
    d = max(kind.decimals, 1)
    text = fixed(kind.shown(f.estimate), d)
    rank = " to ".join(dict.fromkeys(str(r) for r in s.rank))
    ends = sorted((kind.shown(f.own_low), kind.shown(f.own_high)))
    name = names.get(s.combination, "")
    told = f"{s.combination}{f' ({name})' if name else ''} on {found.hardness}: {text} {kind.unit}"
    told += f", for comparing {fixed(ends[0], d)} to {fixed(ends[1], d)}"
    if len(found.standings) > 1:
        told += f"; best with {percent(s.p_best)}, rank {rank}; {RELATION_WORDS[s.look]}"
    if f.moved:
        told += f"; its own readings alone say {fixed(kind.shown(f.plain), d)} (thin tick)"
    parked = at < window[0]
    return Swatch(
        s.combination,
        at,
        low,
        high,
        place(f.plain) if f.moved else None,
        text,
        s.look,
        percent(s.p_best),
        parked,
        told,
    )


_ROUTINE = ("Levelled to the mean", "How poorly a start", "The wipe takes back")


def rests_on(picture: RankingPicture, *, whole: bool = False) -> tuple[str, ...]:
    """Return what a ranking rests on; not ``whole``: only what is assumed, lacks or went wrong."""
    said = (*picture.notes, *picture.work)
    return said if whole else tuple(s for s in said if not s.startswith(_ROUTINE))


def spoken_class(picture: RankingPicture, hardness: str) -> str:
    """Say who leads a hardness in the measurement at hand; "" where it was not judged."""
    own = picture.judgement.on(hardness)
    if own is None:
        return ""
    return class_sentence(picture.judgement, own, picture.names, picture.kind, whole=False)


def spoken(picture: RankingPicture) -> str:
    """Say the whole picture as text, for those who listen to it."""
    parts = [picture.sentence]
    for strip in picture.strips:
        parts.append(". ".join(f"{i}. {s.told}" for i, s in enumerate(strip.swatches, 1)) + ".")
    return " ".join(parts)


def caption(picture: RankingPicture) -> str:
    """Say how the picture is read."""
    source = {
        "default": "the usual choice",
        "workshop": "chosen for the workshop",
        "trial": "chosen for this trial",
    }.get(picture.judgement.matters.source, "as given")
    said = (
        f"Pale strip: up to {picture.matters} behind the leader does not matter ({source})."
        " Under each swatch its likely range (90 %), for comparing."
    )
    hatched = any(s.relation == ASSUMED for strip in picture.strips for s in strip.swatches)
    return f"{said} Hatched: behind here, resting on what is assumed." if hatched else said


def floor_words(picture: RankingPicture) -> str:
    """Say what the meter cannot see."""
    floor = fixed(picture.kind.span(picture.judgement.floor), picture.decimals)
    return f"too small for the meter: {floor} {unit_of(picture.kind)} between cells"
