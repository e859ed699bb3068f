"""A line laid over the land, shown as a cross-section."""

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import distance_transform_edt

from ..build import Build
from ..cabinet import kind_of
from ..errors import SceneError
from ..sample import heights_at, values_at


@dataclass
class Transect:
    """Samples along a line: distance from its beginning, place, height, level of water (NaN where
    dry; all m), slope (degrees), the share of each material (count, n), and the plants near it:
    (distance, foot, height, kind, offset to the right), in m.
    """

    along: np.ndarray
    east: np.ndarray
    north: np.ndarray
    height: np.ndarray
    water: np.ndarray
    slope: np.ndarray
    shares: np.ndarray
    names: list[str]
    plants: list[tuple[float, float, float, str, float]]


def transect(
    build: Build,
    a: tuple[float, float],
    b: tuple[float, float],
    samples: int = 400,
    reach_m: float | None = None,
    most: int = 400,
) -> Transect:
    """The cross-section from `a` to `b` (east, north in m).

    Plants within `reach_m` to either hand are told, the tallest `most` of them.
    """
    plot = build.scene.plot
    length = float(np.hypot(b[0] - a[0], b[1] - a[1]))
    if length < 1e-3:
        raise SceneError("The line has no length.", "line", "Give it two ends apart.")
    clip = lambda p: (min(max(p[0], 0), plot.width_m), min(max(p[1], 0), plot.depth_m))
    a, b = clip(a), clip(b)
    length = float(np.hypot(b[0] - a[0], b[1] - a[1]))
    if length < 1e-3:
        raise SceneError("The line lies outside the plot.", "line", "Lay it over the land.")
    t = np.linspace(0, 1, samples)
    east, north = a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])
    level, _ = build.water()
    heights = build.heights
    wet = np.full(samples, -1e9, np.float32)
    if np.isfinite(
        level
    ).any():  # the nearest water's level, where there is water within a post or two
        far, (rows, cols) = distance_transform_edt(~np.isfinite(level), return_indices=True)
        near = values_at(far.astype(np.float32), build.grid, east, north) < 1.5
        wet = np.where(near, values_at(level[rows, cols], build.grid, east, north), wet)
    ground = heights_at(heights, build.grid, east, north)
    shares = build.ground()
    reach = reach_m if reach_m is not None else max(length / 160, 1.0)
    ux, uy = (b[0] - a[0]) / length, (b[1] - a[1]) / length
    plants = []
    for i, s in enumerate(build.scene.planting):
        if not s.on:
            continue
        p = build.plants(i)
        dx, dy = p.east - a[0], p.north - a[1]
        along, off = dx * ux + dy * uy, dx * uy - dy * ux
        beside = np.flatnonzero((np.abs(off) <= reach) & (along >= 0) & (along <= length))
        tall = np.array([kind_of(k.kind).height_m for k in s.mix])
        tops = tall[p.kind[beside]] * p.size[beside]
        for j in np.argsort(-tops, kind="stable")[:most]:
            k = beside[j]
            plants.append(
                (
                    float(along[k]),
                    float(p.up[k]),
                    float(tops[j]),
                    s.mix[p.kind[k]].kind,
                    float(off[k]),
                )
            )
    plants.sort(key=lambda q: -q[2])
    return Transect(
        t * length,
        east,
        north,
        ground,
        np.where((wet > -1e8) & (wet > ground), wet, np.nan),
        values_at(build.slope(), build.grid, east, north),
        np.stack([values_at(w, build.grid, east, north) for w in shares])
        if len(shares)
        else np.zeros((0, samples), np.float32),
        [m.name for m in build.scene.ground],
        plants[:most],
    )
