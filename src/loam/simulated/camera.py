"""A simulated camera: a taped cell with its strip under a point light, before and after work.

Marks are grooves of log-normal depth that light up where they run round the lamp spot; polishing
takes the same depth off every one of them. Seeded; the truth comes with the pictures.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from loam.core.photo import Region
from loam.core.stats.reduce import FloatArray

PAINTS: dict[str, tuple[float, float, float, float]] = {
    # ground in linear light, how strongly marks shine, metallic flake, noise
    "black": (0.012, 0.16, 0.0, 0.0016),
    "silver": (0.30, 0.085, 0.055, 0.005),
    "white": (0.75, 0.075, 0.0, 0.0095),
}
MARKS = 2500
"""On a picture of 900 px."""
MEDIAN_UM = 0.56
SPECULAR_DEG = 12.0
STEPS = 160
EDGE = 0.19
"""Share of the picture above which the strip lies."""
TAPE = 0.32


@dataclass(frozen=True)
class Scene:
    """What is photographed, and how.

    Attributes
    ----------
    cut_um : float
        Depth that work takes off.
    spread : float
        Of the logarithm of depths.
    exposure : float
        AFTER over BEFORE.
    shift : (x, y), turn_deg : float
        How the camera moved between the pictures.
    bloom : float
        Haze round the lamp in AFTER.
    noise : float
        Times the usual.
    """

    seed: int
    paint: str = "black"
    size: int = 900
    cut_um: float = 0.35
    spread: float = 0.45
    exposure: float = 1.0
    shift: tuple[float, float] = (0.0, 0.0)
    turn_deg: float = 0.0
    bloom: float = 0.0
    noise: float = 1.0
    marked_strip: bool = True
    other_panel: bool = False
    tape: bool = False


@dataclass(frozen=True)
class Pair:
    """Two pictures, (h, w) of sRGB values 0 to 1 in steps of 1/255, and what is true of them."""

    before: FloatArray
    after: FloatArray
    cell: Region
    strip: Region
    removed_pct: float


class _Marks:
    """Grooves on a panel, in px and µm."""

    def __init__(self, rng: np.random.Generator, scene: Scene) -> None:
        size = scene.size
        count = int(MARKS * (size / 900.0) ** 2)
        self.x, self.y = rng.uniform(-40, size + 40, count), rng.uniform(-40, size + 40, count)
        self.along = rng.uniform(0.0, np.pi, count)
        self.length = rng.gamma(4.0, 18.0, count)
        self.bend = rng.normal(0.0, 0.002, count)
        self.depth = MEDIAN_UM * np.exp(scene.spread * rng.standard_normal(count))

    def light(
        self, size: int, lamp: tuple[float, float], cut: float, edge: float, *, strip: bool
    ) -> FloatArray:
        """Return how bright the marks shine, (size, size)."""
        image = np.zeros(size * size)
        run = np.linspace(-0.5, 0.5, STEPS)
        for start in range(0, self.x.size, 500):
            part = slice(start, start + 500)
            step = run[None, :] * self.length[part, None]
            angle = self.along[part, None] + self.bend[part, None] * step
            x = self.x[part, None] + step * np.cos(angle)
            y = self.y[part, None] + step * np.sin(angle)
            off = (angle - np.arctan2(y - lamp[1], x - lamp[0])) % np.pi - np.pi / 2
            lit = np.exp(-0.5 * (off / np.deg2rad(SPECULAR_DEG)) ** 2)
            left = np.maximum(self.depth[part, None] - np.where(y < edge, 0.0, cut), 0.0)
            if not strip:
                left = np.where(y < edge, 0.0, left)
            value = left * lit * self.length[part, None] / STEPS
            inside = (x >= 0) & (x < size - 1) & (y >= 0) & (y < size - 1)
            _splat(image, size, x[inside], y[inside], value[inside])
        return np.asarray(ndimage.gaussian_filter(image.reshape(size, size), 0.9))


def _splat(image: FloatArray, size: int, x: FloatArray, y: FloatArray, value: FloatArray) -> None:
    left, top = x.astype(int), y.astype(int)
    fx, fy = x - left, y - top
    for right, down, share in (
        (0, 0, (1 - fx) * (1 - fy)),
        (1, 0, fx * (1 - fy)),
        (0, 1, (1 - fx) * fy),
        (1, 1, fx * fy),
    ):
        at = (top + down) * size + left + right
        image += np.bincount(at, weights=value * share, minlength=image.size)


def photograph(scene: Scene) -> Pair:
    """Take both pictures of a scene."""
    rng = np.random.default_rng(scene.seed)
    size = scene.size
    lamp = (size * rng.uniform(0.35, 0.65), size * rng.uniform(0.4, 0.6))
    edge = EDGE * size
    marks = _Marks(rng, scene)
    other = _Marks(rng, scene) if scene.other_panel else marks
    flake = _flake(rng, scene)
    texture = ndimage.gaussian_filter(rng.standard_normal((size, size)), 9)
    ground = _Ground(scene, lamp, flake, texture / texture.std())
    lit = {"strip": scene.marked_strip}
    before = ground.expose(marks.light(size, lamp, 0.0, edge, **lit), 1, after=False)
    after = ground.expose(other.light(size, lamp, scene.cut_um, edge, **lit), 2, after=True)
    own = marks.y > edge
    whole = float((marks.depth * marks.length)[own].sum())
    rest = float((np.maximum(marks.depth - scene.cut_um, 0.0) * marks.length)[own].sum())
    return Pair(before, after, *_regions(size), 100.0 * (1.0 - rest / whole))


def _flake(rng: np.random.Generator, scene: Scene) -> FloatArray:
    strength = PAINTS[scene.paint][2]
    if not strength:
        return np.zeros((scene.size, scene.size))
    grain = ndimage.gaussian_filter(rng.standard_normal((scene.size, scene.size)), 0.7)
    return np.asarray(strength * (np.maximum(grain / grain.std(), 0.0) ** 1.5 - 0.5))


class _Ground:
    """The paint with its texture under the lamp."""

    def __init__(
        self, scene: Scene, lamp: tuple[float, float], flake: FloatArray, texture: FloatArray
    ) -> None:
        self.scene, self.flake, self.texture = scene, flake, texture
        across = np.arange(scene.size)[None, :] - lamp[0]
        down = np.arange(scene.size)[:, None] - lamp[1]
        self.far = np.hypot(across, down)
        self.fall = 1.0 / (1.0 + (self.far / (0.45 * scene.size)) ** 2)

    def expose(self, marks: FloatArray, number: int, *, after: bool) -> FloatArray:
        """Take the picture: light, haze, movement, noise, eight bits."""
        s = self.scene
        base, shine, _, shot = PAINTS[s.paint]
        bloom = s.bloom if after else 0.0
        glow = 0.125 * np.exp(-self.far / (0.05 * s.size)) * (1.0 + 3.0 * bloom)
        glow += 0.04 * bloom * np.exp(-self.far / (0.25 * s.size))
        light = base * (0.5 + 0.5 * self.fall) * (1.0 + 0.01 * self.texture)
        light = light + self.flake * self.fall + glow + 2.2 * shine * marks * self.fall
        light = light * (s.exposure if after else 1.0)
        light = np.where(self.far < 0.014 * s.size, 1.2, light)
        if s.tape:
            light = np.where(_taped(s.size), TAPE * (0.6 + 0.4 * self.fall), light)
        if after:
            light = _moved(light, s)
        rng = np.random.default_rng([s.seed, number])
        grain = rng.standard_normal(light.shape)
        light = light + s.noise * shot * np.sqrt(np.maximum(light, 1e-3) / 0.3) * grain
        light = light + s.noise * 0.0008 * rng.standard_normal(light.shape)
        return _coded(light)


def _regions(size: int) -> tuple[Region, Region]:
    """Return the cell and the strip, inside their tape."""
    top, side, gap = round(EDGE * size), round(24 * size / 900), round(20 * size / 900)
    cell = Region(side, top + gap, size - 2 * side, size - top - gap - side)
    return cell, Region(side, side, size - 2 * side, top - gap - side)


def _taped(size: int) -> np.ndarray[tuple[int, int], np.dtype[np.bool_]]:
    """Mark what is taped: the frame, and a line between strip and cell."""
    tape = np.ones((size, size), dtype=bool)
    out = round(10 * size / 900)
    for r in _regions(size):
        tape[r.y - out : r.y + r.height + out, r.x - out : r.x + r.width + out] = False
    return tape


def _moved(light: FloatArray, scene: Scene) -> FloatArray:
    if scene.turn_deg:
        turn = np.deg2rad(scene.turn_deg)
        matrix = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
        middle = np.full(2, scene.size / 2.0)
        light = ndimage.affine_transform(
            light, matrix, middle - matrix @ middle, order=1, mode="nearest"
        )
    if scene.shift != (0.0, 0.0):
        light = ndimage.shift(light, scene.shift[::-1], order=1, mode="nearest")
    return np.asarray(light)


def _coded(light: FloatArray) -> FloatArray:
    v = np.clip(light, 0.0, 1.0)
    coded = np.where(v <= 0.0031308, 12.92 * v, 1.055 * np.maximum(v, 1e-9) ** (1.0 / 2.4) - 0.055)
    return np.round(np.clip(coded, 0.0, 1.0) * 255.0) / 255.0
