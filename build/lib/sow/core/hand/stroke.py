"""A stroke of a brush: what it does to heights, on any grid, in metres.

A stroke is a path of stamps. Brushes that add (raise, lower, roughen, pull, basin) sum their
stamps; brushes that draw heights towards something (smooth, level, grade, cut, fill, rub, and paint
on a mask) gather a weight 0..1 and then act once. So the result does not depend on how the stroke
was cut into chunks on its way.
"""

from collections.abc import Callable
from typing import Annotated, Any, Literal

import numpy as np
from numba import njit
from pydantic import Field
from scipy.ndimage import gaussian_filter

from .. import noise
from ..document.entry import Strict
from ..document.fields import length_m, percent, setting
from ..plot import Grid, Plot
from ..sample import bicubic, heights_at
from ..where import Conditions

TOOLS = (
    "raise",
    "lower",
    "smooth",
    "level",
    "roughen",
    "pull",
    "grade",
    "basin",
    "cut",
    "fill",
    "rub",
    "paint",
)
ADDS = {"raise", "lower", "roughen", "pull", "basin"}
MOST_POINTS = 20_000
Coordinate = Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)]
Point = Annotated[list[Coordinate], Field(min_length=3, max_length=3)]


class Brush(Strict):
    """A brush as it is set; each stroke keeps a copy of its own."""

    tool: Literal[TOOLS] = Field(  # type: ignore[valid-type]
        "raise", title="Brush"
    )
    size_m: float = length_m(
        "Size", 20, lo=0.01, hi=50000, slider=(0.5, 500), help="Radius of the brush."
    )
    soft: float = percent("Softness", 70, help="Part of the radius over which it fades.")
    strength_m: float = length_m(
        "Strength",
        1.5,
        lo=0.001,
        hi=2000,
        slider=(0.01, 50),
        only={"tool": ["raise", "lower", "roughen", "pull", "basin"]},
        help="In one second of the brush, or in one stamp of a pull or a basin.",
    )
    firm: float = percent(
        "Firmness",
        35,
        lo=1,
        only={"tool": ["smooth", "level", "grade", "cut", "fill", "rub", "paint"]},
        help="How much of the way one pass goes.",
    )
    level: Literal["first", "typed"] = Field(
        "first",
        title="Level",
        json_schema_extra={
            "sow": {
                "labels": {"first": "of the first touch", "typed": "typed"},
                "only": {"tool": ["level", "cut", "fill"]},
            }
        },
    )
    level_m: float = setting(
        0, "At", "m", lo=-12000, hi=12000, slider=("lowest", "highest"), only={"level": ["typed"]}
    )
    rim: float = percent(
        "Rim",
        20,
        hi=200,
        slider=(0, 100),
        only={"tool": ["basin"]},
        help="Height of the basin's rim beside its depth.",
    )
    floor: float = percent("Flat floor", 45, hi=95, only={"tool": ["basin"]})
    grain_m: float = length_m(
        "Grain",
        6,
        lo=0.02,
        hi=5000,
        slider=(0.2, 100),
        only={"tool": ["roughen"]},
        help="Size of the noise.",
    )
    spacing: float = setting(
        12,
        "Stamps every",
        "% of size",
        lo=2,
        hi=200,
        slider=(2, 60),
        help="Distance between stamps along the stroke.",
    )
    jitter: float = percent(
        "Turned at random", 0, help="Symmetrical stamps set aside and turned by chance."
    )
    picture: str = Field(
        "",
        max_length=300,
        title="Shape from a picture",
        json_schema_extra={"sow": {"mark": "mask"}},
    )


def first_brush(plot: Plot) -> dict[str, Any]:
    """A brush's first values, whose sizes (m) suit the plot."""
    reach = max(plot.width_m, plot.depth_m)
    nice = lambda value: float(f"{value:.2g}")
    return Brush().model_dump(mode="json") | {
        "size_m": nice(reach * 0.02),
        "strength_m": nice(reach * 0.002),
        "grain_m": nice(reach * 0.006),
    }


class Stroke(Brush):
    """Points are east and north in m, and a weight: pressure, and the seconds that the brush stayed
    near.
    """

    points: list[Point] = Field(min_length=1, max_length=MOST_POINTS)
    seed: int = Field(1, ge=0, le=2**31 - 1)
    amount: float = percent(
        "Amount", 100, lo=-200, hi=300, slider=(0, 200), help="Of this stroke, after the fact."
    )
    where: Conditions = Field(default_factory=list, title="Kept only where")


def stamps(stroke: Stroke, first: int = 0) -> np.ndarray:
    """Places and weights of the stamps, float64 (n, 4): east, north, weight, turn. `first` leaves
    out the points before it.

    A weight is shared evenly over the stamps of the way to its point, so that a fast and a slow
    stroke give the same for the same time.
    """
    out = []
    every = stroke.size_m * stroke.spacing / 100
    rng = np.random.default_rng(stroke.seed)
    turns = rng.random((MOST_POINTS + 4, 3)) if stroke.jitter else None
    for i, (e, n, w) in enumerate(stroke.points):
        if i < first:
            continue
        if i == 0:
            out.append((e, n, w, 0.0))
            continue
        e0, n0, _ = stroke.points[i - 1]
        count = max(1, int(np.hypot(e - e0, n - n0) / every))
        for k in range(1, count + 1):
            t = k / count
            out.append((e0 + t * (e - e0), n0 + t * (n - n0), w / count, 0.0))
    made = np.array(out, np.float64).reshape(-1, 4)
    if turns is not None and len(made):
        r = turns[np.arange(len(made)) % MOST_POINTS]
        off = stroke.jitter / 100 * stroke.size_m * np.sqrt(r[:, 0]) * 0.7
        made[:, 0] += off * np.cos(2 * np.pi * r[:, 1])
        made[:, 1] += off * np.sin(2 * np.pi * r[:, 1])
        made[:, 3] = 2 * np.pi * r[:, 2]
    return made


def box(grid: Grid, places: np.ndarray, reach: float) -> tuple[int, int, int, int] | None:
    """Rows and columns (r0, r1, c0, c1) of the grid that stamps of this reach touch, or None when
    they miss it.
    """
    if not len(places):
        return None
    c = grid.cols_of(places[:, 0])
    r = grid.rows_of(places[:, 1])
    k = reach / grid.spacing + 1
    r0 = max(int(np.floor(r.min() - k)), 0)
    r1 = min(int(np.ceil(r.max() + k)) + 1, grid.ny)
    c0 = max(int(np.floor(c.min() - k)), 0)
    c1 = min(int(np.ceil(c.max() + k)) + 1, grid.nx)
    return (r0, r1, c0, c1) if r0 < r1 and c0 < c1 else None


@njit(cache=True, nogil=True)
def _gather(out, rows, cols, weights, turns, radius, soft, adds, firm, shape):
    """Stamps of `radius` posts laid on a field: summed, or as a weight that nears 1. `shape` (or 1
    x 1) is a picture in the brush's square.
    """
    ny, nx = out.shape
    for s in range(len(rows)):
        for r in range(
            max(0, int(np.floor(rows[s] - radius))), min(ny, int(np.ceil(rows[s] + radius)) + 1)
        ):
            for c in range(
                max(0, int(np.floor(cols[s] - radius))), min(nx, int(np.ceil(cols[s] + radius)) + 1)
            ):
                y, x = (r - rows[s]) / radius, (c - cols[s]) / radius
                d = np.sqrt(x * x + y * y)
                if d >= 1:
                    continue
                t = min(1.0, (1 - d) / soft) if soft > 1e-6 else 1.0
                f = t * t * (3 - 2 * t)
                if shape.size > 1:
                    ct, st = np.cos(turns[s]), np.sin(turns[s])
                    u = (x * ct - y * st + 1) * 0.5 * (shape.shape[1] - 1)
                    v = (x * st + y * ct + 1) * 0.5 * (shape.shape[0] - 1)
                    iu = min(max(int(u), 0), shape.shape[1] - 2)
                    iv = min(max(int(v), 0), shape.shape[0] - 2)
                    fu, fv = min(max(u - iu, 0.0), 1.0), min(max(v - iv, 0.0), 1.0)
                    f *= (shape[iv, iu] * (1 - fu) + shape[iv, iu + 1] * fu) * (1 - fv) + (
                        shape[iv + 1, iu] * (1 - fu) + shape[iv + 1, iu + 1] * fu
                    ) * fv
                if adds:
                    out[r, c] += np.float32(weights[s] * f)
                else:
                    out[r, c] = np.float32(1 - (1 - out[r, c]) * (1 - firm * f) ** weights[s])


def lay_stamps(
    stroke: Stroke,
    part: np.ndarray,
    grid: Grid,
    places: np.ndarray,
    shape: np.ndarray | None = None,
) -> None:
    """Adds stamps to the gathered field `part` of `grid` (changed in place)."""
    firm = min(0.999, stroke.firm / 100)
    # one second of a firm brush goes `firm` of the way; a second is about ten stamps' weight of 0.1
    _gather(
        part,
        grid.rows_of(places[:, 1]),
        grid.cols_of(places[:, 0]),
        places[:, 2],
        places[:, 3],
        max(stroke.size_m / grid.spacing, 0.51),
        stroke.soft / 100,
        stroke.tool in ADDS,
        firm,
        np.zeros((1, 1), np.float32) if shape is None else shape,
    )


def first_level(stroke: Stroke, height: Callable[[float, float], float]) -> float:
    """The level to work to: the typed one, or the height at the first touch."""
    return (
        stroke.level_m
        if stroke.level == "typed"
        else height(stroke.points[0][0], stroke.points[0][1])
    )


def change(
    stroke: Stroke,
    gathered: np.ndarray,
    heights: np.ndarray,
    grid: Grid,
    level: float,
    plot: Plot,
    ends: tuple[float, float] = (0.0, 0.0),
    made: np.ndarray | None = None,
) -> np.ndarray:
    """What the stroke does to `heights` (both on `grid`), in m, float32.

    `gathered` is of `lay_stamps`; `ends` are the heights at its two ends, for a grade; `made` is
    what was made by hand so far, for rubbing out.
    """
    tool, g = stroke.tool, gathered
    if tool in ("raise", "pull"):
        return g * np.float32(stroke.strength_m)
    if tool == "lower":
        return -g * np.float32(stroke.strength_m)
    if tool == "roughen":
        field = noise.fbm(
            grid, stroke.grain_m, 4, 0.5, seed=(stroke.seed + 977 * plot.seed) & 0x7FFFFFFF
        )
        return g * np.float32(stroke.strength_m * 0.5) * field
    if tool == "basin":
        e, n, _ = stroke.points[0]
        d = np.hypot((grid.xs() - e)[None, :], (grid.ys() - n)[:, None]).astype(
            np.float32
        ) / np.float32(stroke.size_m)
        flat = np.float32(stroke.floor / 100 * 0.72)
        t = np.clip((d - flat) / np.maximum(0.72 - flat, 1e-3), 0, 1)
        bowl = -(1 - t * t * (3 - 2 * t))
        rim = np.clip(1 - np.abs(d - np.float32(0.84)) / np.float32(0.16), 0, 1)
        return (bowl + np.float32(stroke.rim / 100) * rim * rim * (3 - 2 * rim)) * np.float32(
            stroke.strength_m
        )
    if tool == "smooth":
        target = gaussian_filter(
            heights, stroke.size_m * 0.3 / grid.spacing, mode="nearest", truncate=3
        )
    elif tool == "level":
        target = np.float32(level)
    elif tool == "cut":
        target = np.minimum(heights, np.float32(level))
    elif tool == "fill":
        target = np.maximum(heights, np.float32(level))
    elif tool == "rub":
        return -g * (made if made is not None else 0)
    else:  # a grade between the first and the last point
        (e0, n0, _), (e1, n1, _) = stroke.points[0], stroke.points[-1]
        length = max((e1 - e0) ** 2 + (n1 - n0) ** 2, 1e-9)
        t = np.clip(
            ((grid.xs() - e0)[None, :] * (e1 - e0) + (grid.ys() - n0)[:, None] * (n1 - n0))
            / length,
            0,
            1,
        ).astype(np.float32)
        target = np.float32(ends[0]) + t * np.float32(ends[1] - ends[0])
    return g * (target - heights)


def grade_places(stroke: Stroke) -> np.ndarray:
    """A grade's stamps: all along the straight line between its ends, whatever way the pointer
    took, and firm.
    """
    (e0, n0, _), (e1, n1, _) = stroke.points[0], stroke.points[-1]
    count = max(2, int(np.hypot(e1 - e0, n1 - n0) / (stroke.size_m * 0.15)) + 1)
    t = np.linspace(0, 1, count)
    return np.stack(
        [e0 + t * (e1 - e0), n0 + t * (n1 - n0), np.full(count, 6.0), np.zeros(count)], 1
    )


def apply(
    stroke: Stroke,
    heights: np.ndarray,
    grid: Grid,
    plot: Plot,
    made: np.ndarray | None = None,
    shape: np.ndarray | None = None,
    heights_of: Callable[[Any, Any], np.ndarray] | None = None,
) -> tuple[np.ndarray, tuple[int, int, int, int]] | None:
    """The change of a whole stroke on its part of `grid`: metres and (r0, r1, c0, c1); None when it
    misses the grid. `heights_of` tells heights at places where `heights` are those of a part.
    """
    places = grade_places(stroke) if stroke.tool == "grade" else stamps(stroke)
    if stroke.tool in ("basin", "pull"):
        places = places[:1].copy()
        places[:, 2] = (
            stroke.points[0][2] if stroke.tool == "basin" else sum(p[2] for p in stroke.points)
        )
    found = box(grid, places, stroke.size_m)
    if found is None:
        return None
    r0, r1, c0, c1 = found
    # smoothing looks a little beyond its own stamps
    pad = int(stroke.size_m / grid.spacing) + 2 if stroke.tool == "smooth" else 0
    R0 = max(r0 - pad, 0)
    R1 = min(r1 + pad, grid.ny)
    C0 = max(c0 - pad, 0)
    C1 = min(c1 + pad, grid.nx)
    part = grid.window(R0, C0, R1 - R0, C1 - C0)
    here = heights[R0:R1, C0:C1]
    ask = heights_of or (lambda e, n: heights_at(heights, grid, e, n))
    at = lambda e, n: float(ask([e], [n])[0])
    gathered = np.zeros(part.shape, np.float32)
    lay_stamps(stroke, gathered, part, places, shape)
    first, last = stroke.points[0], stroke.points[-1]
    delta = change(
        stroke,
        gathered,
        here,
        part,
        first_level(stroke, at),
        plot,
        (at(*first[:2]), at(*last[:2])) if stroke.tool == "grade" else (0.0, 0.0),
        None if made is None else made[R0:R1, C0:C1],
    )
    delta = np.asarray(delta * np.float32(stroke.amount / 100), np.float32)
    return np.ascontiguousarray(delta[r0 - R0 : r1 - R0, c0 - C0 : c1 - C0]), found


def carried(field: np.ndarray, source: Grid, target: Grid) -> np.ndarray:
    """A field of one grid of the plot read on another (bicubic); beyond its edges it fades out at
    once.
    """
    out = bicubic(field, source.rows_of(target.ys()), source.cols_of(target.xs()))
    beyond_x = (target.xs() < -1e-6) | (target.xs() > source.width_m + 1e-6)
    beyond_y = (target.ys() < -1e-6) | (target.ys() > source.depth_m + 1e-6)
    out[beyond_y] = 0
    out[:, beyond_x] = 0
    return out
