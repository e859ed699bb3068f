"""Layers of a still: what each pixel shows, beside its light.

Several rays of each pixel, spread over it, tell what they meet first: their means are the colour of
surfaces, the normals, and the share of a pixel that each sowing, kind, water and material takes.
The lens is taken as sharp.
"""

from collections.abc import Callable

import numpy as np

from ..build import Build
from ..document.text import file_stem
from ..sample import values_at
from .stage import GOLDEN, Stage
from .views import View

RAYS = {"look": 1, "good": 4, "fine": 8}
ROWS = 16  # that are asked for at a time
PARTS = ("sowing", "piece", "water", "card")


def layers_of(
    build: Build, stage: Stage, view: View, count: int, check: Callable[[], None] = lambda: None
) -> dict[str, np.ndarray]:
    """Layers float32 (height, width) by the names of their channels: albedo.R, .G, .B; N.X, .Y, .Z
    (unit, east, north, up); shares 0..1 of `sky`, `ground`, `far` and of each sowing.NAME,
    piece.NAME, water.NAME and card.NAME, which sum to one; of each kind.NAME, and of each
    material.NAME, which sum to the ground's own share.
    """
    shape = view.height, view.width
    shares: dict[str, np.ndarray] = {}
    albedo = np.zeros((*shape, 3), np.float32)
    normal = np.zeros((*shape, 3), np.float32)
    names = [_names(of, kind) for of, kind in stage.told]

    def add(name: str, rows: slice, part: np.ndarray) -> None:
        if name not in shares:
            shares[name] = np.zeros(shape, np.float32)
        shares[name][rows] += part

    for n in range(count):
        shift = [(0.5 + (n + 1) * g) % 1 - 0.5 for g in GOLDEN]
        rays = view.rays(*(shift if count > 1 else (0.0, 0.0))).astype(np.float64)
        for top in range(0, view.height, ROWS):
            check()
            rows = slice(top, min(top + ROWS, view.height))
            own = rays[rows]
            met = stage.met(view.eye, own.reshape(-1, 3))
            lying = lambda values: values.reshape(own.shape[:2] + values.shape[1:])
            albedo[rows] += lying(met.albedo)
            normal[rows] += lying(met.normal)
            which = lying(met.which)
            for number in np.unique(which):
                here = (which == number).astype(np.float32)
                for name in names[number] if number >= 0 else ("sky",):
                    add(name, rows, here)
            on_ground = np.isin(which, [i for i, x in enumerate(names) if "ground" in x])
            for name, part in _materials(build, lying(met.place), on_ground):
                add(name, rows, part)
    out = {f"albedo.{c}": albedo[..., k] / count for k, c in enumerate("RGB")}
    length = np.maximum(np.linalg.norm(normal, axis=2), 1e-6)
    out |= {f"N.{c}": normal[..., k] / length for k, c in enumerate("XYZ")}
    return out | {name: values / count for name, values in shares.items()}


def _names(of: str, kind: str) -> tuple[str, ...]:
    """The layers that a body counts for."""
    sort, _, name = of.partition(" ")
    if sort not in PARTS:
        return ("far" if of == "far land" else "ground",)
    own = f"{sort}.{file_stem(name, sort)}"
    return (own, f"kind.{file_stem(kind, 'kind')}") if kind else (own,)


def _materials(build: Build, place: np.ndarray, here: np.ndarray):
    """The share of each material at places (rows, columns, 3), where the ground is met."""
    if not here.any():
        return
    grid = build.grid
    east, north = place[here][:, 0], place[here][:, 1]
    inside = (east >= 0) & (east <= grid.width_m) & (north >= 0) & (north <= grid.depth_m)
    for material, shares in zip(build.scene.ground, build.ground()):
        part = np.zeros(here.shape, np.float32)
        own = np.where(inside, values_at(shares, grid, east, north), 0)
        part[here] = own
        if own.any():
            yield f"material.{file_stem(material.name, 'material')}", part
