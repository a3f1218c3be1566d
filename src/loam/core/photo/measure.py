"""Measure a pair of photographs, with an honest error, or refuse it and say what would help."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np

from loam.core.errors import ValueRefused
from loam.core.photo.depth import SPREAD, SPREAD_SD, removed
from loam.core.photo.frame import Frame, Mask, both, frame_of
from loam.core.photo.moments import Answers, Blocks, answers, blocks
from loam.core.photo.register import Fit, laid_over, masks_over, register
from loam.core.stats.reduce import FloatArray

PAINTS: dict[str, float] = {"black": 3.0, "silver": 7.0, "white": 4.0}
"""Kinds of paint, and what the method itself is off by, in points (docs/statistics.md)."""
MOST_PX = 2400
"""A larger photograph is made smaller: marks are wide enough in it then too."""
LEAST_PX = 120
NEAR_LAMP = 0.1
"""Of the frame's shorter side: nearer to the lamp a mark's direction says too little."""
ROUND_PX = 12
LEAST_STRIP_PX = 1000
LEAST_SHARE = 0.05
LEAST_TOGETHER, WARN_TOGETHER = 0.6, 0.85
GAIN_LIMITS, GAIN_WARNS = (0.75, 1.30), (0.85, 1.15)
MOST_GAIN_ERROR = 0.15
LEAST_USABLE = 0.25
MOST_MASKED, MOST_CLIPPED = 0.10, 0.02
MOST_SEEN_PX = 300
MOST_SHIFT_PX, MOST_LAMP_PX = 35.0, 30.0
Told = Callable[[float], bool]


@dataclass(frozen=True)
class Region:
    """A rectangle of a photograph, px from its upper left corner."""

    x: int
    y: int
    width: int
    height: int

    def box(self, scale: int = 1) -> tuple[slice, slice]:
        """Return it as slices of an image that was made smaller ``scale`` times."""
        return (
            slice(self.y // scale, (self.y + self.height) // scale),
            slice(self.x // scale, (self.x + self.width) // scale),
        )


@dataclass(frozen=True)
class Counted:
    """What was counted: how strongly marks answered before, and after, in squares of the picture.

    Attributes
    ----------
    before, after : (m, n)
        At most as 1, the strongest of BEFORE; 0 where nothing is counted.
    """

    before: FloatArray
    after: FloatArray


@dataclass(frozen=True)
class PhotoResult:
    """What a pair of photographs says.

    Attributes
    ----------
    removed_pct : float or None
        Loss of brightness-weighted mark length: not the share of marks that are gone.
    error_points : float or None
        Standard error, the method's own included.
    refused : bool
    reason : str
        Why it was refused, and how to take a better picture.
    warnings : tuple of str
    shift : (x, y), turn_deg : float
        What was undone to lay one over the other.
    gain : float
        Exposure of AFTER over BEFORE, by the untouched strip.
    counted : Counted or None
        Where that was wanted.
    """

    removed_pct: float | None
    error_points: float | None
    refused: bool
    reason: str = ""
    warnings: tuple[str, ...] = ()
    shift: tuple[float, float] = (0.0, 0.0)
    turn_deg: float = 0.0
    gain: float = 1.0
    counted: Counted | None = field(default=None, repr=False, compare=False)


class _Refused(Exception):
    pass


def measure(
    before: FloatArray,
    after: FloatArray,
    paint: str,
    cell: Region,
    strip: Region,
    told: Told | None = None,
    *,
    keep: bool = False,
    outside: Sequence[Region] = (),
) -> PhotoResult:
    """Measure the share of brightness-weighted mark length that work took away.

    Parameters
    ----------
    before, after : (h, w)
        sRGB values 0 to 1, of one taped cell with an untouched strip, from a fixed camera.
    paint : str
        black, silver or white.
    cell, strip : Region
        The worked cell and the untouched strip, in BEFORE.
    told : callable, optional
        Told the share done; answering False cancels.
    keep : bool
        Keep what was counted, to be shown.
    outside : sequence of Region
        Where a scratch catches the nail, in BEFORE: out of scope, and not counted.

    Raises
    ------
    ValueRefused
        For a paint that is none, or regions off the picture.
    """
    if paint not in PAINTS:
        raise ValueRefused(f"{paint!r} is no kind of paint.", todo="Use " + ", ".join(PAINTS) + ".")
    try:
        _check(before, after, cell, strip)
    except _Refused as refusal:
        return PhotoResult(None, None, True, str(refusal))
    scale = max(1, math.ceil(max(before.shape) / MOST_PX))
    b, a = both(lambda values: frame_of(_smaller(values, scale)), before, after)
    try:
        _step(told, 0.15)
        _fit_to_see(b, a, cell.box(scale))
        fit = _best(b, a, register(b, a), strip.box(scale))
        _step(told, 0.5)
        _near_enough(b, a, fit)
        boxes = (cell.box(scale), strip.box(scale), *(o.box(scale) for o in outside))
        return _measured(b, a, fit, paint, boxes, told, keep)
    except _Refused as refusal:
        return PhotoResult(None, None, True, str(refusal))


def _step(told: Told | None, share: float) -> None:
    if told is not None and not told(share):
        raise _Refused("It was stopped.")


def _check(before: FloatArray, after: FloatArray, cell: Region, strip: Region) -> None:
    if before.ndim != 2 or after.ndim != 2:
        raise ValueRefused("A photograph here is one plane of light.")
    if before.shape != after.shape:
        sizes = [f"{x.shape[1]} × {x.shape[0]}" for x in (before, after)]
        raise _Refused(
            f"The pictures are of different size: {sizes[0]} and {sizes[1]} px. Take both with the"
            " same fixed camera."
        )
    h, w = before.shape
    if min(h, w) < LEAST_PX:
        raise _Refused(f"The pictures are too small: {w} × {h} px. Take larger ones.")
    for what, r in (("cell", cell), ("strip", strip)):
        if (
            r.width < 8
            or r.height < 8
            or r.x < 0
            or r.y < 0
            or r.x + r.width > w
            or (r.y + r.height > h)
        ):
            raise ValueRefused(
                f"The {what} {r.x},{r.y},{r.width},{r.height} does not lie on the picture"
                f" ({w} × {h} px)."
            )


def _smaller(values: FloatArray, scale: int) -> FloatArray:
    """Average squares of pixels."""
    v: FloatArray = np.asarray(values, dtype=np.float32)
    if scale == 1:
        return v
    h, w = (n // scale * scale for n in v.shape)
    squares = v[:h, :w].reshape(h // scale, scale, w // scale, scale)
    return np.asarray(squares.mean(axis=(1, 3)), np.float32)


def _fit_to_see(b: Frame, a: Frame, cell: tuple[slice, slice]) -> None:
    for name, frame in (("first", b), ("second", a)):
        if frame.lamp is None:
            raise _Refused(
                f"No lamp spot is seen in the {name} picture: let the point light be reflected in"
                " the cell."
            )
        hidden = float(frame.glare[cell].mean())
        if hidden > MOST_MASKED:
            raise _Refused(
                f"{100 * hidden:.0f} % of the cell is glare in the {name} picture: expose less, or"
                " move the light further away."
            )
        x, y, radius = frame.lamp
        h, w = frame.clipped.shape
        down, across = np.ogrid[:h, :w]
        round_lamp = (across - x) ** 2 + (down - y) ** 2 < (2.2 * radius) ** 2
        burnt = float((frame.clipped & ~round_lamp)[cell].mean())
        if burnt > MOST_CLIPPED:
            raise _Refused(
                f"{100 * burnt:.0f} % of the cell is burnt out in the {name} picture: expose less."
            )


def _best(b: Frame, a: Frame, fits: list[Fit], strip: tuple[slice, slice]) -> Fit:
    """Return the fit by which the untouched strip, flake and all, agrees best."""
    if len(fits) == 1 or b.lamp is None:
        return fits[0]
    rows, columns = (
        slice(max(s.start - ROUND_PX, 0), min(s.stop + ROUND_PX, n))
        for s, n in zip(strip, b.light.shape, strict=True)
    )
    lamp = (b.lamp[0] - columns.start, b.lamp[1] - rows.start)
    agree = []
    for fit in fits:
        light = laid_over(a.light, fit)[rows, columns]
        usable = ~(b.glare | masks_over(a.glare, fit))[rows, columns]
        found = answers(b.light[rows, columns], light, lamp)
        one, other = found.before_across[usable], found.after_across[usable]
        agree.append(
            float(one @ other) / (float(np.linalg.norm(one) * np.linalg.norm(other)) or 1.0)
        )
    return fits[int(np.argmax(agree))]


def _near_enough(b: Frame, a: Frame, fit: Fit) -> None:
    x, y = fit.shift
    if fit.at_limit or math.hypot(x, y) > MOST_SHIFT_PX:
        raise _Refused(
            "The two pictures do not lie over each other: fix the camera, and show the same cell."
        )
    assert b.lamp is not None
    assert a.lamp is not None
    moved = math.hypot(a.lamp[0] + x - b.lamp[0], a.lamp[1] + y - b.lamp[1])
    if moved > MOST_LAMP_PX:
        raise _Refused(
            f"The light moved by {moved:.0f} px between the pictures: fix light and camera."
        )


def _measured(
    b: Frame,
    a: Frame,
    fit: Fit,
    paint: str,
    boxes: Sequence[tuple[slice, slice]],
    told: Told | None,
    keep: bool,
) -> PhotoResult:
    """Measure in the boxes of cell and strip; what lies in the others is not counted."""
    cell, strip, *outside = boxes
    light = laid_over(a.light, fit)
    _step(told, 0.7)
    assert b.lamp is not None
    lamp = (b.lamp[0], b.lamp[1])
    usable = _usable(b, a, fit, lamp)
    for box in outside:
        usable[box] = False
    if usable[cell].mean() < LEAST_USABLE:
        raise _Refused(
            "Too little of the cell is left to count: draw the scratch that catches the nail"
            " no larger than it is."
        )
    found = answers(b.light, light, lamp)
    _step(told, 0.9)
    of_cell = blocks(found, usable, cell, 8, 8)
    of_strip = blocks(found, usable, strip, 1, 20)
    gain, gain_error = _gain(of_strip)
    background = _background(b.light, light, usable, strip)
    warnings = _gain_warnings(gain, background, _together(of_strip)[0])
    product, product_error = _product(of_cell)
    ratio = product / gain
    shares = [removed(ratio, spread) for spread in (SPREAD, SPREAD - SPREAD_SD, SPREAD + SPREAD_SD)]
    step = 0.01
    slope = abs(removed(ratio + step) - removed(ratio - step)) / (2.0 * step)
    noise = slope * math.hypot(product_error / gain, ratio * gain_error)
    depth = 0.5 * abs(shares[2] - shares[1])
    error = math.hypot(100.0 * noise, 100.0 * depth, PAINTS[paint])
    if keep:
        inside = np.zeros_like(usable)
        inside[cell] = inside[strip] = True
        counted: Counted | None = _counted(found, usable & inside, gain)
    else:
        counted = None
    return PhotoResult(
        100.0 * shares[0], error, False, "", tuple(warnings), fit.shift, fit.turn_deg, gain, counted
    )


def _counted(found: Answers, usable: Mask, gain: float) -> Counted:
    """Smooth the products over squares of some pixels: noise cancels, marks stay."""
    b, c, a, d = found.before_across, found.before_along, found.after_across, found.after_along
    step = max(2, max(b.shape) // MOST_SEEN_PX)
    h, w = (n // step for n in b.shape)

    def seen(values: FloatArray) -> FloatArray:
        whole = np.where(usable, values, 0.0)[: h * step, : w * step]
        return np.asarray(whole.reshape(h, step, w, step).mean(axis=(1, 3)), np.float64)

    before, after = seen(b * b - c * c), seen(b * a - c * d) / max(gain, 1e-6)
    top = float(np.quantile(before[before > 0.0], 0.99)) if (before > 0.0).any() else 1.0
    return Counted(np.clip(before / top, 0.0, 1.0), np.clip(after / top, 0.0, 1.0))


def _usable(b: Frame, a: Frame, fit: Fit, lamp: tuple[float, float]) -> Mask:
    h, w = b.light.shape
    near = NEAR_LAMP * min(h, w)
    down, across = np.ogrid[:h, :w]
    far = (across - lamp[0]) ** 2 + (down - lamp[1]) ** 2 > near**2
    return np.asarray(far & ~b.glare & ~masks_over(a.glare, fit))


def _product(of: Blocks) -> tuple[float, float]:
    """Return before-after over before-before, and its error by leaving blocks out."""
    bb, ba = float(of.bb.sum()), float(of.ba.sum())
    if bb <= 0.0:
        raise _Refused(
            "No marks are seen in the cell before work: damage it, or let the light graze less."
        )
    less = bb - of.bb
    each = (ba - of.ba)[less > 0.0] / less[less > 0.0]
    k = each.size
    error = math.sqrt((k - 1) / k * float(((each - each.mean()) ** 2).sum())) if k > 1 else 1.0
    return ba / bb, error


def _gain(of: Blocks) -> tuple[float, float]:
    """Return how marks of the untouched strip answer afterwards, and the relative error of it."""
    if float(of.count.sum()) < LEAST_STRIP_PX:
        raise _Refused(
            "Too little of the untouched strip is seen: leave a broader strip, away from the lamp."
        )
    bb, raw = float(of.bb.sum()), float(of.raw.sum())
    if raw <= 0.0 or bb / raw < LEAST_SHARE:
        raise _Refused(
            "The untouched strip shows no marks of its own: it must be damaged like the cell, and"
            " not worked."
        )
    together, doubt = _together(of)
    if together + 2.0 * doubt < LEAST_TOGETHER:
        raise _Refused(
            "The strip does not show the same marks in both pictures: was it worked, or is it"
            " another panel?"
        )
    value, error = _product(of)
    if value <= 0.0 or error / value > MOST_GAIN_ERROR:
        raise _Refused(
            "The untouched strip is too noisy to compare by: expose more, hold the camera fixed."
        )
    return value, error / value


def _together(of: Blocks) -> tuple[float, float]:
    """Return how much of the strip's marks is the same in both pictures, and its error."""

    def share(bb: FloatArray, ba: FloatArray, aa: FloatArray) -> FloatArray:
        both = np.maximum(bb * aa, 0.0)
        return np.where(both > 0.0, ba / np.sqrt(np.maximum(both, 1e-300)), 0.0)

    sums = [np.atleast_1d(x.sum()) for x in (of.bb, of.ba, of.aa)]
    whole = float(share(*sums)[0])
    each = share(*(s - x for s, x in zip(sums, (of.bb, of.ba, of.aa), strict=True)))
    k = each.size
    return whole, math.sqrt((k - 1) / k * float(((each - each.mean()) ** 2).sum()))


def _background(b: FloatArray, a: FloatArray, usable: Mask, strip: tuple[slice, slice]) -> float:
    ok = usable[strip]
    under = float(np.median(b[strip][ok]))
    return float(np.median(a[strip][ok])) / under if under > 0.0 else 1.0


def _gain_warnings(gain: float, background: float, together: float) -> list[str]:
    apart = gain / background
    low, high = GAIN_LIMITS
    if not low <= apart <= high and together < WARN_TOGETHER:
        raise _Refused(
            f"Marks of the untouched strip answer {100 * apart:.0f} % as strongly as its ground"
            " says: was the camera turned, or refocused?"
        )
    low, high = GAIN_WARNS
    said = []
    if together < WARN_TOGETHER:
        said.append("The strip's marks are not quite the same in both pictures: was it touched?")
    if not low <= apart <= high:
        said.append(
            f"Marks of the strip answer {100 * apart:.0f} % as strongly as its ground says: haze,"
            " or another focus; take the figure with care."
        )
    return said
