"""Waters as meshes at a moment: their surface with its waves, and foam at each vertex."""

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import binary_dilation

from ..build import Build
from ..build.waters import foam_in, moving_in, running_in, sea_in
from ..cabinet.kind import linear
from ..plot import grid_faces, whole_squares
from ..shared import WATER_INDEX
from ..water.around import collars
from ..water.entry import Water
from ..water.moving import level_around
from .glb import Glb

BESIDE = 1  # posts that a sheet reaches under the land, so that no gap shows


@dataclass(frozen=True)
class WaterMesh:
    """A water as triangles in m: positions and normals float64 (n, 3), faces (m, 3), foam 0..1 of
    each vertex, float32 (n,).
    """

    positions: np.ndarray
    normals: np.ndarray
    faces: np.ndarray
    foam: np.ndarray


def water_mesh(build: Build, index: int, seconds: float = 0.0) -> WaterMesh:
    """A water of a build at a time: one that stands over the posts of the grid, a stream as a strip
    along its line. Foam is told as how much lies there, before it breaks into lace.
    """
    water = build.scene.water[index]
    if water.reach == "stream":
        return _strip(build, index, seconds)
    grid = build.grid
    level, masks = build.water()
    near = binary_dilation(masks[index], np.ones((3, 3)), iterations=BESIDE)
    faces = grid_faces(*grid.shape, whole_squares(near))
    used, faces = np.unique(faces, return_inverse=True)
    x, y = np.meshgrid(grid.xs(), grid.ys())
    x, y = x.ravel()[used].astype(np.float64), y.ravel()[used].astype(np.float64)
    z = level_around(np.where(masks[index], level, np.nan), masks[index]).ravel()[used]
    skin = moving_in(build, index, seconds).at(x, y, np.full(len(x), grid.spacing))
    around = collars(x, y, foam_in(build, index), sea_in(build, index), seconds)
    positions = np.column_stack([x + skin.aside, y + skin.ahead, z + skin.high])
    normals = np.column_stack([-skin.east, -skin.north, np.ones(len(x))])
    foam = np.maximum(skin.foam, around).astype(np.float32)
    return WaterMesh(positions, normals, faces.reshape(-1, 3), foam)


def _strip(build: Build, index: int, seconds: float) -> WaterMesh:
    runs = running_in(build, index, seconds)
    spine, n = runs.spine, len(runs.spine)
    along = np.gradient(spine[:, :2], axis=0)
    long = np.maximum(np.hypot(*along.T), 1e-9)[:, None]
    aside = np.stack([along[:, 1], -along[:, 0]], 1) / long * build.scene.water[index].width_m / 2
    edges = np.concatenate([spine, spine])
    edges[:n, :2] += aside
    edges[n:, :2] -= aside
    i = np.arange(n - 1)
    faces = [np.stack([i, i + 1, i + n], 1), np.stack([i + n, i + 1, i + 1 + n], 1)]
    upright = np.tile((0.0, 0.0, 1.0), (2 * n, 1))
    white = np.tile(runs.white, 2).astype(np.float32)
    return WaterMesh(edges, upright, np.concatenate(faces), white)


def colour_of(code: str) -> list[float]:
    """Linear red, green and blue of a colour told as #rrggbb."""
    byte = np.array([int(code[i : i + 2], 16) for i in (1, 3, 5)], np.uint8)
    return [float(v) for v in linear(byte)]


def water_material(out: Glb, water: Water) -> int:
    """A material of clear water by what light it lets through (KHR_materials_transmission, _ior and
    _volume); a program that knows none of them shows its own colour, half clear.
    """
    for name in ("transmission", "ior", "volume"):
        out.uses(f"KHR_materials_{name}")
    return out.material(
        name=water.name,
        pbrMetallicRoughness={
            "baseColorFactor": [*colour_of(water.tint), 0.75],
            "metallicFactor": 0,
            "roughnessFactor": 0.08,
        },
        alphaMode="BLEND",
        extensions={
            "KHR_materials_transmission": {"transmissionFactor": 0.9},
            "KHR_materials_ior": {"ior": WATER_INDEX},
            "KHR_materials_volume": {
                "thicknessFactor": 1.0,
                "attenuationDistance": water.clear_m,
                "attenuationColor": colour_of(water.through),
            },
        },
    )


def add_waters(out: Glb, build: Build, seconds: float = 0.0) -> None:
    """Each water with its waves, its foam as _FOAM of each vertex."""
    _, masks = build.water()
    for i, (water, wet) in enumerate(zip(build.scene.water, masks)):
        if not water.on or not wet.any():
            continue
        m = water_mesh(build, i, seconds)
        material = water_material(out, water)
        primitive = out.primitive(
            m.positions, m.normals, None, None, m.faces, material, _FOAM=m.foam
        )
        mesh = out.meshes(water.name, [primitive])
        out.node(name=water.name, mesh=mesh, extras={"sow": {"water": water.id}})
