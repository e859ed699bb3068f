"""Lines and areas, and how near each place lies to them."""

from typing import TYPE_CHECKING, Annotated, Literal

import numpy as np
from numba import njit, prange
from pydantic import Field, field_validator

from ..document.entry import Entry
from ..document.fields import setting
from ..errors import SceneError
from ..plot import Grid

FAR = np.float32(1e9)


class Drawn(Entry):
    """Points east and north in m; a third value of 1 makes a point of a smooth line a corner. As a
    clearing, all sowings but the excepted ones keep out of it and thin towards it.
    """

    if TYPE_CHECKING:
        kind: str  # each of the two sorts says its own

    points: list[Annotated[list[float], Field(min_length=2, max_length=3)]] = Field(
        default_factory=list, max_length=5000, json_schema_extra={"sow": {"points": True}}
    )
    smooth: bool = Field(True, title="Smooth", description="Off, its points are corners.")
    clearing: bool = Field(False, title="A clearing for all sowings")
    clear_m: float = setting(
        2,
        "Keeps clear",
        "m",
        lo=0,
        hi=20000,
        slider=(0, 50),
        help="Beyond the line or the area's edge.",
    )
    clear_soft_m: float = setting(2, "Thins over", "m", lo=0, hi=20000, slider=(0, 50))
    clear_except: list[str] = Field(
        default_factory=list,
        max_length=64,
        title="Except",
        json_schema_extra={"sow": {"entries": "planting"}},
    )

    @field_validator("points")
    @classmethod
    def _apart(cls, points):
        out = [p for i, p in enumerate(points) if i == 0 or p[:2] != points[i - 1][:2]]
        if len(points) and len(out) < 2:
            raise ValueError("a line needs two points apart; draw at least one more")
        return out


class Line(Drawn):
    kind: Literal["line"] = "line"


class Area(Drawn):
    kind: Literal["area"] = "area"


def way(mark: Drawn, path: str = "") -> np.ndarray:
    """The points of a line or of an area's closed edge, smoothed if they are to be, float64 (n, 2).

    Smooth lines run through their points (centripetal Catmull-Rom, Barry & Goldman 1988), so that
    no loop arises between uneven ones.
    """
    closed = mark.kind == "area"
    p = np.array([q[:2] for q in mark.points], np.float64).reshape(-1, 2)
    if len(p) < (3 if closed else 2):
        raise SceneError(
            f"“{mark.name}” has too few points: "
            f"{'an area needs three' if closed else 'a line needs two'}.",
            path,
            "Draw it on the map.",
        )
    if not mark.smooth or len(p) < 3:
        return np.vstack([p, p[:1]]) if closed else p
    corners = [i for i, q in enumerate(mark.points) if len(q) > 2 and q[2]]
    if not corners:
        return _curve(p, closed)
    # between two corners a line of its own
    ends = corners if closed else sorted({0, *corners, len(p) - 1})
    pieces = []
    for a, b in zip(ends, [*ends[1:], ends[0] + len(p)] if closed else ends[1:]):
        piece = p[np.arange(a, b + 1) % len(p)]
        pieces.append(_curve(piece, False) if len(piece) > 2 else piece)
    return np.vstack([pieces[0], *(q[1:] for q in pieces[1:])])


def _curve(p: np.ndarray, closed: bool) -> np.ndarray:
    q = (
        np.vstack([p[-1:], p, p[:2]])
        if closed
        else np.vstack([2 * p[0] - p[1], p, 2 * p[-1] - p[-2]])
    )
    out = []
    for i in range(1, len(q) - 2):
        a, b, c, d = q[i - 1 : i + 3]
        t = np.cumsum(
            [0.0] + [max(np.hypot(*(v - u)), 1e-9) ** 0.5 for u, v in ((a, b), (b, c), (c, d))]
        )
        s = np.linspace(t[1], t[2], 13)[:-1, None]
        mix = lambda u, v, x, y: ((y - s) * u + (s - x) * v) / (y - x)
        a1 = mix(a, b, t[0], t[1])
        a2 = mix(b, c, t[1], t[2])
        a3 = mix(c, d, t[2], t[3])
        out.append(mix(mix(a1, a2, t[0], t[2]), mix(a2, a3, t[1], t[3]), t[1], t[2]))
    last = out[0][:1] if closed else p[-1:]
    return np.vstack([*out, last])


@njit(cache=True, nogil=True)
def _near(xs, ys, px, py, starts, reach, away, along, side):
    """Segment by segment, over the posts that it can reach: distance (m), length along the line,
    and its side (right above 0).
    """
    step = xs[1] - xs[0] if len(xs) > 1 else 1.0
    for k in range(len(px) - 1):
        ax = px[k]
        ay = py[k]
        bx = px[k + 1]
        by = py[k + 1]
        dx, dy = bx - ax, by - ay
        length = dx * dx + dy * dy
        if length == 0:
            continue
        c0 = int(np.floor((min(ax, bx) - reach - xs[0]) / step))
        c1 = int(np.ceil((max(ax, bx) + reach - xs[0]) / step)) + 1
        r0 = int(np.floor((ys[0] - max(ay, by) - reach) / step))
        r1 = int(np.ceil((ys[0] - min(ay, by) + reach) / step)) + 1
        for r in range(max(r0, 0), min(r1, len(ys))):
            for c in range(max(c0, 0), min(c1, len(xs))):
                ex, ey = xs[c] - ax, ys[r] - ay
                t = min(1.0, max(0.0, (ex * dx + ey * dy) / length))
                ox, oy = ex - t * dx, ey - t * dy
                d = np.sqrt(ox * ox + oy * oy)
                if d <= reach and d < away[r, c]:
                    away[r, c] = d
                    along[r, c] = starts[k] + t * np.sqrt(length)
                    side[r, c] = 1.0 if ex * dy - ey * dx > 0 else -1.0


def near(
    points: np.ndarray, grid: Grid, reach_m: float
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """For each post within `reach_m` of the way: distance, length along it (m), side (1 right, -1
    left); float32, distance 1e9 beyond.
    """
    away = np.full(grid.shape, FAR, np.float32)
    along = np.zeros(grid.shape, np.float32)
    side = np.zeros(grid.shape, np.float32)
    starts = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    _near(
        grid.xs(),
        grid.ys(),
        np.ascontiguousarray(points[:, 0]),
        np.ascontiguousarray(points[:, 1]),
        starts,
        float(reach_m),
        away,
        along,
        side,
    )
    return away, along, side


@njit(cache=True, nogil=True, parallel=True)
def _inside(xs, ys, px, py, out):
    for r in prange(len(ys)):
        y = ys[r]
        for k in range(len(px) - 1):
            if (py[k] > y) != (py[k + 1] > y):
                x = px[k] + (y - py[k]) / (py[k + 1] - py[k]) * (px[k + 1] - px[k])
                for c in range(len(xs)):
                    if xs[c] < x:
                        out[r, c] ^= True


def inside(points: np.ndarray, grid: Grid) -> np.ndarray:
    """Whether each post lies in the closed way (even-odd, so that one crossing itself has holes),
    bool (ny, nx).
    """
    out = np.zeros(grid.shape, np.bool_)
    _inside(
        grid.xs(),
        grid.ys(),
        np.ascontiguousarray(points[:, 0]),
        np.ascontiguousarray(points[:, 1]),
        out,
    )
    return out


def depth(mark: Drawn, grid: Grid, reach_m: float, path: str = "") -> np.ndarray:
    """Metres inside an area (below 0 outside, as far as `reach_m`; beyond it -1e9 or 1e9), or minus
    the distance to a line; float32.
    """
    points = way(mark, path)
    away = near(points, grid, reach_m)[0]
    return -away if mark.kind == "line" else np.where(inside(points, grid), away, -away)


def clear_of(marks: list, sowing_id: str, grid: Grid) -> np.ndarray | None:
    """1 where a sowing may grow, falling to 0 towards the clearings that it obeys; None when there
    are none.
    """
    held = None
    for mark in marks:
        if (
            not mark.on
            or mark.kind == "mask"
            or not mark.clearing
            or sowing_id in mark.clear_except
            or not mark.points
        ):
            continue
        d = -depth(mark, grid, mark.clear_m + mark.clear_soft_m + grid.spacing)
        t = np.clip((d - np.float32(mark.clear_m)) / np.float32(max(mark.clear_soft_m, 1e-3)), 0, 1)
        free = t * t * (3 - 2 * t)
        held = free if held is None else held * free
    return held
