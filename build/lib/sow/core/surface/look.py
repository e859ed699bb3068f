"""What the ground looks like at a place, whatever the light: its materials laid over each other by
their weights, as the view lays them (web/src/view/groundLook.ts).
"""

from dataclasses import dataclass

import cv2
import numpy as np

from ..build import Build
from ..build.waters import wet_level
from ..cabinet.kind import Ground
from .material import Material, stood_out, tuned
from .strewn import ranks, sampled, strewn
from .textured import Maps, maps_of, taken

LEAST = 0.012  # share below which a material does not show
BARE = (0.23, 0.22, 0.19)
GRAIN = 0.02  # height of a texture's grain, as a part of its repeat
AFAR_M = (0.12, 0.5)  # fineness from which on materials part in patches, and wholly do
PARTS, PATCH_SOFT = 0.95, 0.25  # how far they part, softness of the patches
GROWN = 0.25  # of it, where the grain is of what grows: stills set that out blade by blade


@dataclass(frozen=True)
class Look:
    """The ground at n places: linear colour (n, 3); what the grain adds to its normal (n, 3); how
    rough it is and how open its hollows are, 0..1 (n,); height of its grain in m (n,); how wet
    water near by keeps it, 0..1 (n,).
    """

    colour: np.ndarray
    bump: np.ndarray
    rough: np.ndarray
    open: np.ndarray
    grain_m: np.ndarray
    wet: np.ndarray


def _smooth(low: float, high: float, v: np.ndarray) -> np.ndarray:
    t = np.clip((v - low) / (high - low), 0, 1)
    return t * t * (3 - 2 * t)


def field_at(build: Build, field: np.ndarray, x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """A field of the build's grid (ny, nx) or (ny, nx, k) at places in m, float32 (n, ...)."""
    grid = build.grid
    columns = np.asarray(grid.cols_of(x), np.float32)
    rows = np.asarray(grid.rows_of(y), np.float32)
    return _remapped(field, columns, rows)


def _remapped(field: np.ndarray, columns: np.ndarray, rows: np.ndarray) -> np.ndarray:
    # the library's pictures have fewer than 32768 columns: places are folded into a sheet
    n = len(columns)
    wide = 8192
    fill = -n % wide
    fold = lambda v: np.pad(v, (0, fill)).reshape(-1, wide)
    whole = np.ascontiguousarray(field, np.float32)
    parts = []
    for at in range(0, n + fill, wide * 8192):
        here = slice(at // wide, at // wide + 8192)
        parts.append(
            cv2.remap(
                whole,
                fold(columns)[here],
                fold(rows)[here],
                cv2.INTER_LINEAR,
                borderMode=cv2.BORDER_REPLICATE,
            )
        )
    out = np.concatenate(parts)
    return out.reshape(-1, *out.shape[2:])[:n]


def _seen(
    m: Material,
    ground: Ground,
    maps: Maps,
    place: np.ndarray,
    n: np.ndarray,
    fine_m: float,
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A material at places (k, 3) of ground with normals (k, 3): colour with height (k, 4),
    roughness and openness (k, 2), what it adds to the normal (k, 3). On steep ground it is laid
    from two sides.
    """
    side = _smooth(0.94, 0.82, n[:, 2]) if ground.directed else _smooth(0.8, 0.62, n[:, 2])
    level = np.abs(n[:, 0]) + np.abs(n[:, 1])
    ew = _smooth(0.4, 0.6, np.abs(n[:, 0]) / np.maximum(level, 1e-4))
    colour = np.zeros((len(place), 4), np.float32)
    detail = np.zeros((len(place), 2), np.float32)
    push = np.zeros((len(place), 3), np.float32)
    x, y, z = place.T
    ways = (
        (1 - side, x, y, (0, 1)),
        (side * ew, y, z, (1, 2)),
        (side * (1 - ew), x + 31.7, z + 31.7, (0, 2)),
    )
    for part, u, v, axes in ways:
        here = np.flatnonzero(part > 0.01)
        if not len(here):
            continue
        c, t = taken(m, ground, maps, u[here], v[here], fine_m)
        w = part[here].astype(np.float32)
        colour[here] += w[:, None] * c
        detail[here] += w[:, None] * t[:, 2:]
        for k, axis in enumerate(axes):
            push[here, axis] += w * t[:, k]
    return colour, detail, push


class Laying:
    """The materials of a build, ready to be laid anywhere on its plot."""

    def __init__(self, build: Build):
        self.build = build
        self.shore = wet_level(build)
        self._maps: dict[str, Maps] = {}

    def _maps_of(self, ground: Ground) -> Maps:
        if ground.name not in self._maps:
            self._maps[ground.name] = maps_of(ground)
        return self._maps[ground.name]

    def at(self, place: np.ndarray, normal: np.ndarray, fine_m: float) -> Look:
        """The ground's look at places (n, 3) in m on ground of unit normals (n, 3), without what is
        finer than `fine_m`.
        """
        build = self.build
        x, y = np.ascontiguousarray(place[:, 0]), np.ascontiguousarray(place[:, 1])
        shares = [field_at(build, w, x, y) for w in build.ground()]
        total = np.sum(shares, axis=0) if shares else np.zeros(len(x))
        laid_ = _Laid(len(x), total > 0)
        under = np.zeros(len(x), np.float32)
        crumble = _crumble(x, y, build.grid.spacing)
        afar = float(_smooth(*AFAR_M, np.array(fine_m)))
        for index, (m, share) in enumerate(zip(build.scene.ground, shares)):
            w = share / np.maximum(total, 1e-4)
            under = under + w
            shows = np.flatnonzero(w >= LEAST)
            if not m.on or not len(shows):
                continue
            c = laid_.covers(m, shows, w[shows] / under[shows], crumble[shows], fine_m)
            if afar and m.broken and index:
                late = ranks(x[shows], y[shows], fine_m, index + 20)
                c = stood_out(c, late, afar * PARTS * min(0.5 + m.broken / 100, 1.0), PATCH_SOFT)
                c = np.clip(c, 0, 1).astype(np.float32)
            kept = c >= LEAST
            here, c = shows[kept], c[kept]
            if not len(here):
                continue
            ground = build.ground_of(m)
            seen = _seen(m, ground, self._maps_of(ground), place[here], normal[here], fine_m)
            if m.picture:
                picture = build.picture_at(m, x[here], y[here])[..., :3].reshape(-1, 3)
                mean = np.maximum(np.asarray(ground.map_means()[:3]), 0.01)
                seen[0][:, :3] = picture * (0.5 + 0.5 * seen[0][:, :3] / mean)
            laid_.lay(m, here, c, ground.grown, *seen)
        return self._finished(laid_, place, fine_m)

    def _finished(self, laid_: "_Laid", place: np.ndarray, fine_m: float) -> Look:
        """Broad changes of tone, and the band that water keeps wet."""
        x, y = np.ascontiguousarray(place[:, 0]), np.ascontiguousarray(place[:, 1])
        slow = strewn(x, y, 61.0, fine_m, 0)
        macro = strewn(x, y, 331.0, fine_m, 1)
        mid = strewn(x, y, 13.7, fine_m, 3)
        far = float(_smooth(0.04, 0.2, np.array(fine_m)))
        tone = 0.7 + 0.42 * macro + 0.45 * (slow - 0.45) + 0.5 * (mid - 0.47) * far
        shore = field_at(self.build, self.shore, x, y)
        wet = 1 - _smooth(0.0, 1.0, (place[:, 2] - shore - 0.06) / (0.34 + 0.5 * slow))
        tone = tone * (1 - np.clip(0.52 * laid_.darkens, 0, 0.95) * wet)
        colour = np.maximum(laid_.colour, 0) * tone[:, None]
        rough = np.clip(laid_.rough, 0.02, 1) * (1 - wet) + 0.3 * wet
        as_floats = lambda v: np.asarray(v, np.float32)
        return Look(
            as_floats(colour), laid_.bump, as_floats(rough), laid_.open, laid_.grain, as_floats(wet)
        )


def _crumble(x: np.ndarray, y: np.ndarray, spacing: float) -> np.ndarray:
    """How edges between materials break up between posts, about -2..2."""
    wide, fine = spacing * 19, spacing * 4.3
    return (sampled(x / wide, y / wide, 2) * 0.6 + sampled(y / fine, x / fine, 3) * 0.4 - 0.46) * 4


class _Laid:
    """What has been laid so far at n places."""

    def __init__(self, count: int, covered: np.ndarray):
        self.colour = np.where(covered[:, None], 0.0, np.array(BARE)).astype(np.float32)
        self.bump = np.zeros((count, 3), np.float32)
        self.open, self.rough, self.darkens = (np.ones(count, np.float32) for _ in range(3))
        self.grain = np.zeros(count, np.float32)
        self.below = np.full(count, 0.5, np.float32)
        self.first = np.ones(count, bool)

    def covers(
        self, m: Material, here: np.ndarray, c: np.ndarray, crumble: np.ndarray, fine_m: float
    ) -> np.ndarray:
        """How much of what lies there a material covers, 0..1, from its share of all so far: its
        edge broken up by noise, then by the height of what lies below.
        """
        fresh = self.first[here]
        c = np.where(fresh, 1.0, np.clip(c, 0, 1))
        edged = np.clip(c + m.broken / 100 * 0.7 * crumble * c * (1 - c), 0, 1)
        high = np.where(edged <= 0.85, edged + 0.15, 1.3 - np.sqrt(0.6 * (1 - edged)))
        rise = np.where(edged < 0.15, np.sqrt(0.6 * edged), high)
        t = np.clip((rise - self.below[here]) / 0.3, 0, 1)
        lost = float(_smooth(m.size_m * 0.012, m.size_m * 0.09, np.array(fine_m)))
        stands = m.stands / 100 * (1 - lost)
        return np.where(fresh, 1.0, edged * (1 - stands) + t * stands).astype(np.float32)

    def lay(
        self,
        m: Material,
        here: np.ndarray,
        c: np.ndarray,
        grown: bool,
        own: np.ndarray,
        detail: np.ndarray,
        push: np.ndarray,
    ) -> None:
        """Lays a material over what lies at the places `here` so far as it covers them."""
        wide = c[:, None]
        tinted = np.asarray(tuned(m, own[:, :3]), np.float32)
        relief = m.relief / 100
        self.colour[here] = self.colour[here] * (1 - wide) + tinted * wide
        self.bump[here] = self.bump[here] * (1 - wide) + push * (relief * wide)
        grain = (own[:, 3] - 0.5) * (GRAIN * m.size_m * relief * (GROWN if grown else 1.0))
        rough = detail[:, 0] * (m.rough / 100)
        for field, value in (
            (self.open, detail[:, 1]),
            (self.rough, rough),
            (self.darkens, np.float32(m.wet / 100)),
            (self.below, own[:, 3]),
            (self.grain, grain),
        ):
            field[here] = field[here] * (1 - c) + value * c
        self.first[here] = False
