"""Detail by nearness: how near the shots come to each kind, which of its levels that calls for, and
what it costs.
"""

from dataclasses import dataclass

import numpy as np

from ..build import Build
from ..cabinet import kind_of
from ..sample import heights_at
from ..shots.shot import aside
from ..survey.sight import hidden_by


@dataclass
class KindNear:
    """One kind: how many stand; the nearest that a shot comes to one that it sees (m) and which;
    its height there in pixels of a still `wide_px` wide; the level that is drawn there, its
    triangles, the most that it has; and the triangles of all that a shot sees, each at its level
    (the most of any shot).
    """

    kind: str
    number: int
    nearest_m: float | None
    shot: str
    pixels: int
    level: int
    triangles: int
    most: int
    drawn: int
    verdict: str


def kind_nearness(build: Build, wide_px: int = 1920) -> list[KindNear]:
    """For each kind that is sown or placed.

    A shot sees what stands in its frame and is not hidden by the land.
    """
    grid, places = build.grid, {}
    for i, s in enumerate(build.scene.planting):
        if s.on:
            p = build.plants(i)
            for k, part in enumerate(s.mix):
                here = p.kind == k
                places.setdefault(part.kind, []).append(
                    np.column_stack([p.east[here], p.north[here], p.size[here]])
                )
    for p in build.pieces():
        places.setdefault(p["kind"], []).append(
            np.array([[p["east_m"], p["north_m"], p["size"] / 100]])
        )
    shots = [
        (s, hidden_by(build.heights, grid, s.east_m, s.north_m, s.eye_m))
        for s in build.scene.shots
        if s.on
    ]
    out = []
    for name, parts in sorted(places.items()):
        kind, at = kind_of(name), np.concatenate(parts)
        shape = kind.shape()
        triangles = np.array([len(m.faces) for m in shape.levels[0]])
        best, drawn = None, 0
        for s, hidden in shots:
            dx, dy = at[:, 0] - s.east_m, at[:, 1] - s.north_m
            up = heights_at(
                build.heights,
                grid,
                np.clip(at[:, 0], 0, grid.width_m),
                np.clip(at[:, 1], 0, grid.depth_m),
            )
            eye = (
                float(
                    heights_at(
                        build.heights,
                        grid,
                        np.array([np.clip(s.east_m, 0, grid.width_m)]),
                        np.array([np.clip(s.north_m, 0, grid.depth_m)]),
                    )[0]
                )
                + s.eye_m
            )
            away = np.sqrt(dx * dx + dy * dy + (up + kind.height_m * at[:, 2] / 2 - eye) ** 2)
            turn, half = aside(s, dx, dy)
            rows, cols = (
                np.clip(np.rint(v).astype(int), 0, n - 1)
                for v, n in ((grid.rows_of(at[:, 1]), grid.ny), (grid.cols_of(at[:, 0]), grid.nx))
            )
            seen = (turn < half + np.degrees(np.arctan(kind.reach_m / np.maximum(away, 0.5)))) & (
                hidden[rows, cols] < kind.height_m * at[:, 2]
            )
            if not seen.any():
                continue
            near = (
                wide_px / 36 * s.focal_mm / 900
            )  # the view's own measure of nearness, at this width
            level = (
                np.sum(
                    [away[seen] > far * at[seen, 2] * near for far in shape.far_m],
                    axis=0,
                    dtype=int,
                )
                if shape.far_m
                else np.zeros(seen.sum(), int)
            )
            drawn = max(drawn, int(triangles[np.minimum(level, len(triangles) - 1)].sum()))
            k = int(np.argmin(away[seen] / at[seen, 2]))
            if best is None or away[seen][k] < best[0]:
                best = (float(away[seen][k]), s, int(level[k]), float(at[seen, 2][k]))
        if best is None:
            out.append(
                KindNear(
                    name,
                    len(at),
                    None,
                    "",
                    0,
                    len(triangles) - 1,
                    int(triangles[-1]),
                    int(triangles[0]),
                    0,
                    "no shot sees it",
                )
            )
            continue
        pixels = kind.height_m * best[3] / best[0] * best[1].focal_mm / 36 * wide_px
        level = min(best[2], len(triangles) - 1)
        verdict = (
            "a finer one would show"
            if level == 0 and pixels > 4 * np.sqrt(triangles[0])
            else "its finest is never drawn"
            if level > 0
            else "fits"
        )
        out.append(
            KindNear(
                name,
                len(at),
                best[0],
                best[1].name,
                round(pixels),
                level,
                int(triangles[level]),
                int(triangles[0]),
                drawn,
                verdict,
            )
        )
    return out
