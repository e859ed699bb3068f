"""Landform: a smooth surface through contour lines."""

from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field
from scipy.interpolate import RBFInterpolator
from shapely import LineString, STRtree

from ..document.entry import Strict, at_place
from ..document.fields import setting
from ..document.offers import Offer
from ..errors import SceneError
from ..plot import Grid
from ..sample import bicubic
from .base import Below, Landform, Shape, landforms

MOST_SAMPLES, SURFACE_POSTS = 1400, 193


class Contour(Strict):
    """One contour: its height and its points east and north, in m. A closed one ends where it
    begins.
    """

    height_m: float = Field(ge=-12000, le=12000)
    points: list[Annotated[list[float], Field(min_length=2, max_length=2)]] = Field(
        min_length=2, max_length=5000
    )


class Contours(Landform):
    kind: Literal["contours"] = "contours"
    lines: list[Contour] = Field(
        default_factory=list,
        max_length=2000,
        title="Lines",
        json_schema_extra={"sow": {"contours": True}},
    )
    step_m: float = setting(
        10,
        "Next line higher by",
        "m",
        lo=-5000,
        hi=5000,
        slider=(-50, 50),
        step=0.5,
        help="Height of the next line drawn, above the last.",
    )
    times: float = setting(1, "Heights", "×", lo=-20, hi=20, slider=(0, 3), step=0.01)
    lift_m: float = setting(0, "Lift", "m", lo=-12000, hi=12000, slider=(-500, 500))


def crossing(lines: list[Contour]) -> tuple[int, int] | None:
    """The first two lines of different heights that cross, by index."""
    shapes = [LineString(line.points) for line in lines]
    tree = STRtree(shapes)
    for i, shape in enumerate(shapes):
        for j in sorted(tree.query(shape, predicate="intersects")):
            if j > i and lines[i].height_m != lines[j].height_m:
                return i, int(j)
    return None


def surface(lines: list[Contour], grid: Grid) -> np.ndarray:
    """The thin plate through all lines (Duchon 1977), float32 on `grid`: it bends least, so that
    between lines there are no terraces and above the last one the land goes on rising. The lines
    are sampled evenly.
    """
    shapes = [LineString(line.points) for line in lines]
    every = max(sum(s.length for s in shapes) / MOST_SAMPLES, grid.spacing * 0.7)
    spots: list[tuple[float, float]] = []
    metres: list[float] = []
    for shape, line in zip(shapes, lines):
        n = max(2, int(shape.length / every) + 1)
        for share in np.linspace(0, 1, n, endpoint=not shape.is_ring):
            at = shape.interpolate(share, normalized=True)
            spots.append((at.x, at.y))
            metres.append(line.height_m)
    places, first = np.unique(np.round(spots, 3), axis=0, return_index=True)
    values = np.array(metres)[first]
    scale = max(grid.width_m, grid.depth_m)
    if len(places) < 3 or np.linalg.matrix_rank(places - places[0]) < 2:
        return np.full(grid.shape, values.mean(), np.float32)
    plate = RBFInterpolator(
        places / scale, values, kernel="thin_plate_spline", degree=1, smoothing=1e-9
    )
    x, y = np.meshgrid(grid.xs() / scale, grid.ys() / scale)
    return plate(np.stack([x.ravel(), y.ravel()], 1)).reshape(grid.shape).astype(np.float32)


@landforms.add(
    Contours,
    reach=at_place,
    offers=[
        Offer(
            "contours",
            "Contours",
            "drawn, GeoJSON, SVG",
            first=lambda c: {"step_m": max(0.5, round(c.reach * 0.012 * 2) / 2)},
            group="From elsewhere",
            lists=("land",),
        )
    ],
    subtitle="lines: {lines}",
)
def heights(p: Contours, below: Below) -> Shape:
    """Heights in m of the surface through the lines, solved on a grid of its own, whatever the
    build's. Beyond the plot it is held.
    """
    path = f"{below.path}.lines"
    if not p.lines:
        raise SceneError(
            "There are no contours yet.",
            path,
            "Draw lines on the map, or bring in a GeoJSON or SVG.",
        )
    plot = below.plot
    inside = [
        any(
            -0.5 * plot.width_m <= e <= 1.5 * plot.width_m
            and -0.5 * plot.depth_m <= n <= 1.5 * plot.depth_m
            for e, n in line.points
        )
        for line in p.lines
    ]
    if not any(inside):
        raise SceneError(
            "The contours touch nothing of the plot: all lie far outside it.",
            path,
            "Move them, or bring the file in fitted to the plot.",
        )

    def make() -> Any:
        crossed = crossing(p.lines)
        if crossed:
            a, b = crossed
            raise SceneError(
                f"Contour {a + 1} ({p.lines[a].height_m:g} m) and contour {b + 1} "
                f"({p.lines[b].height_m:g} m) cross; one place can't have two heights.",
                f"{path}.{b}",
                "Move one of them, or give both the same height.",
            )
        below.check()
        return surface(p.lines, plot.grid(SURFACE_POSTS))

    field = below.once(
        ("contours", p.model_dump(include={"lines"}), plot.width_m, plot.depth_m), make
    )
    own = plot.grid(SURFACE_POSTS)
    h = bicubic(field, own.rows_of(below.grid.ys()), own.cols_of(below.grid.xs()))
    return Shape(h * np.float32(p.times) + np.float32(p.lift_m))
