"""Where the panels, swatches and bars of a ranking lie, and what lies at a point."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from loam.app.drawings.rect import Rect
from loam.app.questions.ranking.picture import RankingPicture, Strip

GAP, FOOT, EDGE = 10.0, 44.0, 14.0
SIZES = (
    126.0,
    112.0,
    100.0,
    90.0,
    82.0,
    74.0,
    66.0,
    62.0,
    58.0,
    54.0,
    50.0,
    46.0,
    42.0,
    38.0,
    34.0,
    30.0,
    26.0,
    22.0,
    18.0,
    14.0,
    10.0,
)
BAR, BETWEEN, TOP = 7.0, 5.0, 9.0
LEAST_GUTTER, MOST_GUTTER = 64.0, 150.0
LEAST_ADVICE, MOST_ADVICE = 210.0, 460.0
HANDLE = 7.0
Key = tuple[str, str]


@dataclass(frozen=True)
class StripPlace:
    """One hardness class: its panel, the plot on it, and its swatches.

    Attributes
    ----------
    size : float
        Side of a swatch.
    swatches : dict
        Square of each combination.
    bars : dict
        Interval of each combination, below its square.
    """

    strip: Strip
    panel: Rect
    plot: Rect
    size: float
    low: float
    scale: float
    swatches: dict[str, Rect]
    bars: dict[str, Rect]

    def x(self, place: float) -> float:
        """Return where a place of the axis lies."""
        return self.plot.x + (place - self.low) * self.scale

    def place(self, x: float) -> float:
        """Return the place of the axis at a point."""
        return self.low + (x - self.plot.x) / self.scale

    @property
    def band(self) -> Rect:
        """What does not matter, left of the leader."""
        left, right = self.x(self.strip.edge), self.x(self.strip.swatches[0].place)
        left = max(left, self.plot.x)
        return Rect(left, self.panel.y, max(right - left, 0.0), self.panel.height)


def gutter_of(width: float, *, advised: bool = False) -> float:
    """Return the room for words at the left of a panel: what to use takes more of it."""
    if advised:
        return min(max(0.37 * width, LEAST_ADVICE), MOST_ADVICE)
    return min(max(0.16 * width, LEAST_GUTTER), MOST_GUTTER)


def strip_places(area: Rect, picture: RankingPicture, *, advised: bool = False) -> list[StripPlace]:
    """Lay the panels out one below the other, their swatches as large as they can be.

    ``advised`` leaves room at the left for what to use.
    """
    count = max(len(picture.strips), 1)
    height = (area.height - FOOT - GAP * (count - 1)) / count
    gutter = gutter_of(area.width, advised=advised)
    low, high = picture.window
    plots = []
    for i in range(count):
        panel = Rect(area.x, area.y + i * (height + GAP), area.width, height)
        plots.append((panel, Rect(area.x + gutter, panel.y, area.width - gutter - EDGE, height)))
    size, lanes = SIZES[-1], None
    for size in SIZES:
        if (lanes := _all_lanes(picture, plots, size, loose=False)) is not None:
            break
    if lanes is None:
        lanes = _all_lanes(picture, plots, size, loose=True) or []
    places = []
    for strip, (panel, plot), own in zip(picture.strips, plots, lanes, strict=False):
        scale = _inner(plot, size).width / (high - low)
        at = _inner(plot, size)
        swatches, bars = {}, {}
        for s in strip.swatches:
            box = own[s.combination]
            swatches[s.combination] = box
            left, right = at.x + (s.low - low) * scale, at.x + (s.high - low) * scale
            left, right = max(left, plot.x - 4), min(right, plot.right + 4)
            if s.parked:
                left, right = box.x, box.right
            thick = min(BAR - 2, _below(size) - 2)
            bars[s.combination] = Rect(left, box.bottom + 1, max(right - left, 2.0), thick)
        bars = _staggered(bars, _below(size))
        places.append(StripPlace(strip, panel, at, size, low, scale, swatches, bars))
    return places


def _staggered(bars: dict[str, Rect], room: float) -> dict[str, Rect]:
    """Put bars of a lane that run into each other one below the other, in two lines."""
    found, ends = {}, dict[float, list[float]]()
    for name, bar in sorted(bars.items(), key=lambda item: item[1].x):
        lines = ends.setdefault(bar.y, [-1e9, -1e9] if room >= 2 * bar.height + 2 else [-1e9])
        line = next((i for i, end in enumerate(lines) if bar.x > end + 1), None)
        line = lines.index(min(lines)) if line is None else line
        lines[line] = max(lines[line], bar.right)
        found[name] = Rect(bar.x, bar.y + line * bar.height, bar.width, bar.height)
    return {name: found[name] for name in bars}


def _all_lanes(
    picture: RankingPicture, plots: Sequence[tuple[Rect, Rect]], size: float, *, loose: bool
) -> list[dict[str, Rect]] | None:
    """Put the swatches of every panel into lanes; None as soon as one has no room."""
    found = []
    for strip, (_, plot) in zip(picture.strips, plots, strict=False):
        own = _lanes(strip, plot, size, picture.window, loose=loose)
        if own is None:
            return None
        found.append(own)
    return found


def _inner(plot: Rect, size: float) -> Rect:
    """Leave half a swatch free at the right, so that none hangs over."""
    return Rect(plot.x + 4, plot.y, max(plot.width - 4 - 0.5 * size, 10.0), plot.height)


def _lanes(
    strip: Strip, plot: Rect, size: float, window: tuple[float, float], *, loose: bool
) -> dict[str, Rect] | None:
    """Put swatches of a size into lanes where none covers another; None when they do not fit.

    With ``loose`` they are put where they cover least.
    """
    each = size + _below(size)
    lanes = int((plot.height - TOP) // each)
    if lanes < 1:
        if not loose:
            return None
        lanes = 1
    fit = lanes * max(int((plot.width + EDGE + 6) // (size + 6)), 1)
    if not loose and len(strip.swatches) > fit:
        return None
    at = _inner(plot, size)
    scale = at.width / (window[1] - window[0])
    taken: list[list[tuple[float, float]]] = [[] for _ in range(lanes)]
    boxes = {}
    parked_at = plot.x + 2
    for s in strip.swatches:
        middle = at.x + (s.place - window[0]) * scale
        if s.parked:
            middle = parked_at + size / 2
        left = min(max(middle - size / 2, plot.x), plot.right + EDGE - size - 3)
        lane = _free(taken, left - 3, left + size + 3)
        while lane is None and s.parked and left + size < plot.x + 0.5 * plot.width:
            left += size + 6  # a queue at the left end
            lane = _free(taken, left - 3, left + size + 3)
        if lane is None:
            if not loose:
                return None
            lane = min(range(lanes), key=lambda i: len(taken[i]))
        taken[lane].append((left - 3, left + size + 3))
        boxes[s.combination] = Rect(left, plot.y + TOP + lane * each, size, size)
    return boxes


def _below(size: float) -> float:
    """Room below a swatch for its interval."""
    return BAR + BETWEEN if size >= 18 else 5.0


def _free(taken: list[list[tuple[float, float]]], left: float, right: float) -> int | None:
    for lane, own in enumerate(taken):
        for a, b in own:  # a plain loop: drawn anew at every look, for hundreds of swatches
            if right > a and left < b:
                break
        else:
            return lane
    return None


@dataclass
class RankingPlaces:
    """Where the swatches came to lie, by hardness and combination; and the panels."""

    swatches: dict[Key, Rect] = field(default_factory=dict)
    strips: list[StripPlace] = field(default_factory=list)

    def add(self, place: StripPlace) -> None:
        """Note the swatches of a panel."""
        self.strips.append(place)
        for name, box in place.swatches.items():
            bar = place.bars[name]
            self.swatches[place.strip.hardness, name] = Rect(
                box.x, box.y, box.width, bar.bottom - box.y
            )

    def at(self, x: float, y: float) -> Key | None:
        """Return the swatch at a point; where two lie over each other the one nearer."""
        held = [(k, b) for k, b in self.swatches.items() if b.holds(x, y)]
        if not held:
            return None
        return min(held, key=lambda kb: abs(kb[1].middle[0] - x) + abs(kb[1].middle[1] - y))[0]

    def handle_at(self, x: float, y: float) -> StripPlace | None:
        """Return the panel whose edge of what does not matter lies at a point."""
        for place in self.strips:
            inside = place.panel.y <= y <= place.panel.bottom + GAP
            if inside and abs(place.x(place.strip.edge) - x) <= HANDLE:
                return place
        return None
