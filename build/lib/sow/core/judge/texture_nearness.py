"""Texture size by nearness: what the shots come near to, and what that asks of each material."""

from dataclasses import dataclass

import numpy as np

from ..build import Build
from ..shots.shot import aside
from ..survey.sight import hidden_by

TEXELS = 512


@dataclass
class Near:
    """One material: the nearest that a shot comes to it (m) and which; the finest picture element
    there (mm); the texel that it has (mm); the texels a side that it would need, what those cost
    (MB, five channels of a set with its smaller copies), and the verdict.
    """

    id: str
    nearest_m: float | None
    shot: str
    element_mm: float
    texel_mm: float
    needs: int
    megabytes: float
    verdict: str


def nearness(build: Build, wide_px: int = 1920) -> list[Near]:
    """For each material.

    A shot sees what lies in its frame and in sight; the element is the width of a pixel of a still
    `wide_px` wide.
    """
    grid = build.grid
    out = []
    seen = []
    x, y = np.meshgrid(grid.xs(), grid.ys())
    for s in (s for s in build.shots() if s.on):
        dx, dy = x - s.east_m, y - s.north_m
        away = np.maximum(np.hypot(dx, dy), 0.0)
        turn, half = aside(s, dx, dy)
        frame = (turn < half + 3) | (away < grid.spacing)
        far = np.hypot(away, s.eye_m)
        seen.append(
            (
                s,
                np.where(
                    frame & (hidden_by(build.heights, grid, s.east_m, s.north_m, s.eye_m) < 0.3),
                    far,
                    np.inf,
                ),
            )
        )
    shares = build.ground()
    for m, share in zip(build.scene.ground, shares):
        best = min(
            ((float(np.where(share > 0.25, far, np.inf).min()), s) for s, far in seen),
            key=lambda t: t[0],
            default=None,
        )
        texel = m.size_m / TEXELS * 1000
        if best is None or not np.isfinite(best[0]) or not m.on:
            out.append(Near(m.id, None, "", 0, texel, 0, 0, "no shot sees it"))
            continue
        element = best[0] * 36 / best[1].focal_mm / wide_px * 1000
        needs = int(2 ** np.clip(np.ceil(np.log2(m.size_m * 1000 / max(element, 1e-3))), 4, 15))
        verdict = (
            "blurs"
            if texel > 2 * element
            else "more than it needs"
            if texel < element / 4
            else "fits"
        )
        out.append(
            Near(
                m.id,
                best[0],
                best[1].name,
                element,
                texel,
                needs,
                needs * needs * 8 * 4 / 3 / 1e6,
                verdict,
            )
        )
    return out
