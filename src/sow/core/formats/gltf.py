"""A scene as glTF 2.0 binary: the ground as a mesh, plants as instances
(EXT_mesh_gpu_instancing).
"""

from pathlib import Path

import numpy as np
from pydantic import Field

from ..build import Build
from ..cabinet import worn
from ..document.entry import Strict
from ..document.fields import shown
from ..planting.plants import Plants
from ..planting.sowing import name_of
from ..sample import resample
from ..surface.bake import baked
from ..survey.slope import normals
from ..water.standing import surface_of
from .exporter import Grown, exporter
from .glb import Glb, unit_normals, y_up
from .plants import called
from .raster import png_bytes

MOST_GROUND_POSTS = 513


class SceneFiles(Strict):
    """How the scene is written as glTF."""

    ground_px: int = Field(
        2048, ge=64, le=8192, title="Baked ground", description="Pixels along the longer side."
    )
    tile_m: float = Field(
        256,
        ge=8,
        le=100_000,
        title="Tiles of instances",
        description="So that what is far or hidden can be left out.",
        json_schema_extra=shown(
            choices={64: "64 m", 128: "128 m", 256: "256 m", 512: "512 m", 100_000: "whole plot"}
        ),
    )


def stance_quaternions(turn: np.ndarray, lean: np.ndarray, bearing: np.ndarray) -> np.ndarray:
    """glTF rotations (x, y, z, w), float32 (n, 4), from degrees: first the turn about the upright,
    then the lean.

    A turn clockwise from north is a negative rotation about y; the lean is about the level axis to
    the right of its bearing.
    """
    t, l, b = (np.deg2rad(np.asarray(a, np.float64)) for a in (turn, lean, bearing))
    zero = np.zeros_like(t)
    q1 = np.stack([zero, -np.sin(t / 2), zero, np.cos(t / 2)], 1)
    # leaning towards d = (sin b, 0, -cos b): the axis is up x d
    q2 = np.stack([-np.cos(b) * np.sin(l / 2), zero, -np.sin(b) * np.sin(l / 2), np.cos(l / 2)], 1)
    x2, y2, z2, w2 = q2.T
    x1, y1, z1, w1 = q1.T
    return np.stack(
        [
            w2 * x1 + x2 * w1 + y2 * z1 - z2 * y1,
            w2 * y1 - x2 * z1 + y2 * w1 + z2 * x1,
            w2 * z1 + x2 * y1 - y2 * x1 + z2 * w1,
            w2 * w1 - x2 * x1 - y2 * y1 - z2 * z1,
        ],
        1,
    ).astype(np.float32)


def grid_faces(ny: int, nx: int) -> np.ndarray:
    """Triangles of a grid, each square cut from north-west to south-east, seen from above
    anticlockwise.
    """
    i = (np.arange(ny - 1)[:, None] * nx + np.arange(nx - 1)).ravel()
    return np.concatenate(
        [np.stack([i, i + nx, i + nx + 1], 1), np.stack([i, i + nx + 1, i + 1], 1)]
    ).astype(np.uint32)


def tangents(normal: np.ndarray) -> np.ndarray:
    """Tangents of ground whose texture runs east and south, in the file's axes (x, y up, z south),
    float32 (n, 4): east, laid into the surface; the bitangent points north.
    """
    n = y_up(unit_normals(normal)).astype(np.float64)
    east = np.array([1.0, 0.0, 0.0])
    along = east - n * n[:, :1]
    along /= np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-9)
    return np.hstack([along, np.ones((len(n), 1))]).astype(np.float32)


def write_glb(
    path: Path,
    build: Build,
    sown: list[tuple[str, list[str], Plants]],
    ground_px: int,
    tile_m: float = 256,
) -> dict:
    """The whole scene, instances by tiles of `tile_m`. Gives counts of triangles and instances."""
    out, scene = Glb(), build.scene
    out.doc["scenes"][0]["name"] = scene.name
    out.uses("EXT_mesh_gpu_instancing")
    grid, heights = build.grid, build.heights
    step = max(1, (max(grid.shape) - 1 + MOST_GROUND_POSTS - 2) // (MOST_GROUND_POSTS - 1))
    shape = tuple(max(2, (n - 1) // step + 1) for n in heights.shape)
    if step > 1:
        heights = resample(heights, shape)
    ny, nx = heights.shape
    east = np.linspace(0, grid.width_m, nx)
    north = np.linspace(grid.depth_m, 0, ny)
    e, n = np.meshgrid(east, north)
    colour, normal = baked(build, ground_px, heights)
    material = out.material(
        name="ground",
        pbrMetallicRoughness={
            "baseColorTexture": {"index": out.texture(png_bytes(colour), "ground colour")},
            "metallicFactor": 0,
            "roughnessFactor": 0.95,
        },
        normalTexture={"index": out.texture(png_bytes(normal), "ground normals")},
    )
    uv = np.stack([e.ravel() / grid.width_m, 1 - n.ravel() / grid.depth_m], 1)
    normal_of = normals(heights, grid.width_m / (nx - 1)).reshape(-1, 3)
    ground = out.mesh(
        "ground",
        np.stack([e.ravel(), n.ravel(), heights.ravel()], 1),
        normal_of,
        uv,
        None,
        grid_faces(ny, nx),
        material,
        tangents(normal_of),
    )
    out.node(name="ground", mesh=ground)
    level_of_water(out, build)
    shapes: dict[tuple[str, int], int] = {}
    sheets: dict[str, tuple[int, int | None]] = {}

    def mesh_of(kind: str, variant: int) -> int:
        if (kind, variant) not in shapes:
            base, wears, tint = worn(kind)
            mesh = base.shape(wears).levels[variant][0]
            if kind not in sheets:
                look = {"metallicFactor": 0, "roughnessFactor": 0.9}
                if tint is not None:
                    look["baseColorFactor"] = [*(min(float(v), 1.0) for v in tint), 1.0]
                pictured = (
                    {
                        **look,
                        "baseColorTexture": {
                            "index": out.texture(png_bytes(base.shape(wears).sheet), kind)
                        },
                    }
                    if (mesh.uv >= 0).any()
                    else None
                )
                sheets[kind] = (
                    out.material(name=kind, pbrMetallicRoughness=look, doubleSided=True),
                    pictured
                    and out.material(
                        name=f"{kind} sheet",
                        pbrMetallicRoughness=pictured,
                        doubleSided=True,
                        alphaMode="MASK",
                        alphaCutoff=0.4,
                    ),
                )
            shapes[kind, variant] = out.meshes(
                f"{called(kind.split('~')[0])} {variant}", out.dress(mesh, *sheets[kind])
            )
        return shapes[kind, variant]

    instances = 0
    for name, kinds, p in sown:
        for k, kind in enumerate(kinds):
            for variant in worn(kind)[0].variants:
                all_here = np.flatnonzero((p.kind == k) & (p.variant == variant))
                tile = (p.north[all_here] // tile_m).astype(np.int64) * 1_000_000 + (
                    p.east[all_here] // tile_m
                ).astype(np.int64)
                order = np.argsort(tile, kind="stable")
                for here in (
                    np.split(all_here[order], np.flatnonzero(np.diff(tile[order])) + 1)
                    if len(all_here)
                    else ()
                ):
                    spots = np.stack([p.east[here], p.north[here], p.up[here]], 1)
                    scale = np.repeat(p.size[here][:, None], 3, 1).astype(np.float32)
                    attributes = {
                        "TRANSLATION": out.array(y_up(spots)),
                        "SCALE": out.array(scale),
                        "ROTATION": out.array(
                            stance_quaternions(p.turn[here], p.lean[here], p.bearing[here])
                        ),
                    }
                    e = int(p.east[here[0]] // tile_m)
                    n = int(p.north[here[0]] // tile_m)
                    out.node(
                        name=f"{name}: {called(kind.split('~')[0])} {variant}, tile {e} {n}",
                        mesh=mesh_of(kind, variant),
                        extensions={"EXT_mesh_gpu_instancing": {"attributes": attributes}},
                    )
                    instances += len(here)
    for piece in build.pieces():
        turn = stance_quaternions(*(np.array([piece[k]]) for k in ("turn", "lean", "bearing")))[0]
        out.node(
            name=piece["name"],
            mesh=mesh_of(
                f"{piece['kind']}~{piece['look']}" if piece["look"] != "summer" else piece["kind"],
                piece["variant"],
            ),
            translation=[piece["east_m"], piece["up_m"], -piece["north_m"]],
            rotation=[float(v) for v in turn],
            scale=[piece["size"] / 100 * s for s in (-1 if piece["mirrored"] else 1, 1, 1)],
        )
        instances += 1
    out.write(path)
    return {
        "ground_triangles": 2 * (ny - 1) * (nx - 1),
        "instances": instances,
        "bytes": path.stat().st_size,
    }


def level_of_water(out: Glb, build: Build) -> None:
    """Each water as a level sheet: the squares that it wets, or the whole plot for a water that
    lies everywhere; a stream as a ribbon.
    """
    _, masks = build.water()
    grid = build.grid
    for water, wet in zip(build.scene.water, masks):
        if not water.on or not wet.any():
            continue
        rows, cols = np.nonzero(wet)
        if water.reach == "everywhere":
            west = 0.0
            east = grid.width_m
            south = 0.0
            north = grid.depth_m
        else:
            xs, ys = grid.xs(), grid.ys()
            west = float(xs[max(cols.min() - 1, 0)])
            east = float(xs[min(cols.max() + 1, grid.nx - 1)])
            south = float(ys[min(rows.max() + 1, grid.ny - 1)])
            north = float(ys[max(rows.min() - 1, 0)])
        code = water.tint.lstrip("#")
        rgba = [(int(code[i : i + 2], 16) / 255) ** 2.2 for i in (0, 2, 4)] + [0.75]
        material = out.material(
            name=water.name,
            pbrMetallicRoughness={
                "baseColorFactor": rgba,
                "metallicFactor": 0,
                "roughnessFactor": 0.08,
            },
            alphaMode="BLEND",
        )
        if water.reach == "stream":
            spine = surface_of(water, build.marks.line(water.mark), build.heights, grid)
            along = np.gradient(spine[:, :2], axis=0)
            aside = (
                np.stack([along[:, 1], -along[:, 0]], 1)
                / np.maximum(np.hypot(*along.T), 1e-9)[:, None]
                * water.width_m
                / 2
            )
            edges = np.concatenate([spine, spine])
            edges[: len(spine), :2] += aside
            edges[len(spine) :, :2] -= aside
            i, n = np.arange(len(spine) - 1), len(spine)
            faces = np.concatenate(
                [np.stack([i, i + 1, i + n], 1), np.stack([i + n, i + 1, i + 1 + n], 1)]
            )
            out.node(
                name=water.name,
                mesh=out.mesh(
                    water.name,
                    edges,
                    np.tile((0.0, 0, 1), (len(edges), 1)),
                    None,
                    None,
                    faces,
                    material,
                ),
            )
            continue
        corners = np.array(
            [
                (west, south, water.level_m),
                (east, south, water.level_m),
                (east, north, water.level_m),
                (west, north, water.level_m),
            ]
        )
        mesh = out.mesh(
            water.name,
            corners,
            np.tile((0.0, 0, 1), (4, 1)),
            None,
            None,
            np.array([(0, 1, 2), (0, 2, 3)]),
            material,
        )
        out.node(name=water.name, mesh=mesh)


@exporter("scene", "Scene as glTF", SceneFiles)
def scene_files(grown: Grown, options: SceneFiles) -> None:
    """Ground, water and plants, as instances by tiles."""
    season = grown.build.scene.season
    sown = [(s.name, [name_of(k, season) for k in s.mix], p) for s, p in grown.sown]
    path = grown.out / "scene.glb"
    grown.report["gltf"] = write_glb(path, grown.build, sown, options.ground_px, options.tile_m)
