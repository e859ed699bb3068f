"""What an eye under water sees, laid over a pass: the water's colour with distance, the sky in a
round window, light that waves gather on the bed.

The same as in the view (web/src/view/underWater.ts). The renderer is not asked to follow light
through the surface: what stands above it is seen straight, only the sky bends.
"""

from dataclasses import dataclass

import numpy as np

from ..air.harmonics import arriving
from ..air.light_of import Daylight
from ..build import Build
from ..build.waters import moving_in
from ..cabinet.kind import linear
from ..sample import read_at, values_at
from ..shared import WATER_INDEX
from ..surface.strewn import sampled
from ..water.moving import Moving

LENS_M = 0.3  # as far ahead of the eye the picture is cut by the surface
NEAR_M = 0.12  # so little over the surface the picture may be half in it
OWN = 2.2  # of its own colour: level looks meet five times the light that comes straight up
TAKES = 0.6  # of what is lost there and back, on the way to the eye alone
UP = np.array([0.0, 0.0, 1.0])


def water_about(build: Build, eye: np.ndarray) -> int | None:
    """The standing water that an eye is in, or so near over that a picture may be half in it."""
    masks = build.water()[1] if build.scene.water else []
    for i, (w, wet) in enumerate(zip(build.scene.water, masks)):
        if not w.on or w.reach == "stream" or eye[2] > w.level_m + NEAR_M:
            continue
        here = values_at(wet.astype(np.float32), build.grid, eye[:1], eye[1:2])[0]
        if here > 0.01 or (w.reach == "everywhere" and not _on_plot(build, eye)):
            return i
    return None


def _on_plot(build: Build, eye: np.ndarray) -> bool:
    plot = build.scene.plot
    return bool(0 <= eye[0] <= plot.width_m and 0 <= eye[1] <= plot.depth_m)


@dataclass(frozen=True)
class Under:
    """The water that an eye is in, and the light that comes into it."""

    eye: np.ndarray
    level: float
    takes: np.ndarray
    own: np.ndarray
    moving: Moving
    lit: Daylight
    seconds: float

    def cut(self, rays: np.ndarray) -> np.ndarray:
        """Which looks begin under water, bool of the rays' shape."""
        x = self.eye[0] + rays[..., 0] * LENS_M
        y = self.eye[1] + rays[..., 1] * LENS_M
        t = self.seconds
        wave = np.sin(x * 9 + t * 2.1) + np.sin(y * 11 - x * 4 + t * 1.7)
        return self.eye[2] + rays[..., 2] * LENS_M < self.level + 0.008 * wave

    def _light(self, z: np.ndarray | float) -> np.ndarray:
        """What lights the water at a height, (..., 3)."""
        down = self.lit.sunlight * max(float(self.lit.sun[2]), 0) + arriving(self.lit.numbers, UP)
        deep = np.maximum(self.level - np.asarray(z, np.float64), 0)[..., None]
        return down / np.pi * np.exp(-0.5 * self.takes * deep)

    def _own(self, rays: np.ndarray) -> np.ndarray:
        """The water's own light along looks (n, 3), with shafts of the sun in it."""
        sun = np.asarray(self.lit.sun)
        level = sun[:2] / WATER_INDEX
        down = np.array([*level, np.sqrt(1 - level @ level)])
        side = np.cross(down, (0.3, 1.0, 0.1))
        side /= np.linalg.norm(side)
        around = np.arctan2(rays @ side, rays @ np.cross(down, side))
        t = np.full(len(rays), self.seconds)
        noise = sampled(around * 0.9, 0.03 * t, 0)
        noise = noise + sampled(around * 2.3 + 0.5, 0.05 * t, 1) - 0.94
        toward = np.maximum(rays @ down, 0)
        bright = 0.7 + 0.9 * np.maximum(rays[:, 2], 0) + toward**2 * (0.5 + 2.2 * noise)
        return OWN * self.own * self._light(self.eye[2] - 1.0) * np.maximum(bright, 0.2)[:, None]

    def _gathered(self, p: np.ndarray) -> np.ndarray:
        """How much more light waves gather on places (n, 3) under them."""
        deep = self.level - p[:, 2]
        q = p[:, :2] + np.asarray(self.lit.sun)[:2] / WATER_INDEX * deep[:, None]
        size = 0.5 + 0.12 * np.sqrt(self.moving.sea.long_m)
        t = self.seconds
        of = lambda x, y, wide, run, channel: sampled(
            x / wide + run * t, y / wide + run * t, channel
        )
        bend = 0.35 * size
        bx = bend * (of(q[:, 0], q[:, 1], size * 9, 0.02, 0) - 0.47)
        by = bend * (of(q[:, 0], q[:, 1], size * 9, 0.02, 1) - 0.47)
        a = of(q[:, 0] + bx, q[:, 1] + by, size * 5, 0.013, 0)
        b = of(q[:, 1] - bx, q[:, 0] - by, size * 4, -0.017, 1)
        least = 1 - 2 * np.maximum(np.abs(2 * a - 0.94), np.abs(2 * b - 0.94))
        lines = np.clip(least + 0.3, 0, 1) ** 4
        fades = np.exp(-deep * 0.08)
        return (0.8 + 1.4 * lines) * fades + 1 - fades

    def over(
        self, shown: np.ndarray, light: np.ndarray, depth: np.ndarray, rays: np.ndarray
    ) -> np.ndarray:
        """A pass with its air `shown`, and where a look begins under water with that instead; from
        the `light` that came along it without air (rows, columns, 3).
        """
        under = self.cut(rays)
        if not under.any():
            return shown
        r = rays[under].astype(np.float64)
        d = np.where(depth[under] > 0, depth[under], np.inf).astype(np.float64)
        up = np.maximum(r[:, 2], 1e-6)
        out_at = np.where(r[:, 2] > 0, max(self.level - self.eye[2], 0.0) / up, np.inf)
        leaves = d > out_at
        colour = light[under].astype(np.float64)
        way = np.where(leaves, out_at, d)
        inside = ~leaves & np.isfinite(d)
        if inside.any():
            p = self.eye + r[inside] * d[inside, None]
            falls = np.exp(-0.5 * self.takes * np.maximum(self.level - p[:, 2:], 0))
            colour[inside] *= self._gathered(p)[:, None] * falls
        if leaves.any():
            sky = ~np.isfinite(d[leaves])
            colour[leaves] = self._window(r[leaves], way[leaves], colour[leaves], sky)
        passes = np.exp(-self.takes * np.minimum(way, 1e4)[:, None])
        shown[under] = colour * passes + self._own(r) * (1 - passes)
        return shown

    def _sky(self, r: np.ndarray) -> np.ndarray:
        high, wide = self.lit.sky.shape[:2]
        turn = np.arctan2(r[:, 0], r[:, 1]) / (2 * np.pi) % 1.0
        fall = np.arccos(np.clip(r[:, 2], -1, 1)) / np.pi
        return read_at(self.lit.sky, turn * wide - 0.5, fall * high - 0.5)

    def _window(self, r, way, straight, sky) -> np.ndarray:
        """What looks (n, 3) meet beyond the surface: the sky bent, or what lies straight on, or the
        water mirrored (Snell's window).
        """
        p = self.eye + r * way[:, None]
        w = self.moving.waves.at(p[:, 0], p[:, 1], np.maximum(way * 0.002, 0.01))
        n = np.stack([-w[:, 1], -w[:, 2], np.ones(len(w))], 1).astype(np.float64)
        n /= np.linalg.norm(n, axis=1, keepdims=True)
        inner = np.clip((r * n).sum(1), 1e-3, 1)
        sine2 = WATER_INDEX**2 * (1 - inner**2)
        outer = np.sqrt(np.maximum(1 - sine2, 0))
        bent = WATER_INDEX * r + (outer - WATER_INDEX * inner)[:, None] * n
        length = np.linalg.norm(bent, axis=1, keepdims=True)
        over = self._sky(bent / length)
        seen = np.where(sky[:, None], over, straight)
        back = 1.15 * self._own(r - 2 * inner[:, None] * n)
        share = np.where(sine2 < 1, 0.02 + 0.98 * (1 - outer) ** 5, 1.0)[:, None]
        return seen * (1 - share) + back * share


def under_of(build: Build, eye: np.ndarray, lit: Daylight, seconds: float) -> Under | None:
    """The water that an eye is in at a time, or None in the air."""
    index = water_about(build, eye)
    if index is None:
        return None
    water = build.scene.water[index]
    of = lambda c: linear(np.array([int(c[i : i + 2], 16) for i in (1, 3, 5)], np.uint8))
    takes = -np.log(np.clip(of(water.through), 1e-4, 0.999)) * TAKES / water.clear_m
    moving = moving_in(build, index, seconds)
    own = np.asarray(of(water.tint), np.float64)
    return Under(np.asarray(eye, float), water.level_m, takes, own, moving, lit, seconds)
