"""A scene as glTF 2.0 binary: the ground as a mesh, plants as instances
(EXT_mesh_gpu_instancing).
"""

from pathlib import Path

import numpy as np
from pydantic import Field
from scipy.spatial.transform import Rotation

from ..air.light_of import DRAFT_ROWS
from ..build import Build
from ..build.far_rings import far_rings
from ..cabinet import worn
from ..cabinet.kind import Finish, srgb_bytes
from ..document.fields import shown
from ..planting.formed import sizes_of
from ..planting.plants import Plants
from ..planting.sowing import name_of
from ..shots.shot import axes, eye_over, field_of_view, focus_of
from ..surface.bake import baked
from .card_mesh import add_cards
from .exporter import Grown, exporter
from .finish import Dress, dressing
from .glb import Glb, unit_normals, y_up
from .ground_mesh import GroundForm, GroundMesh, ground_mesh
from .lightfiles import add_lights
from .package import travelling
from .plants import called
from .preview import of_far, of_scene
from .raster import png_bytes
from .water_mesh import add_waters

NEAR_M = 0.05  # nearer than this a camera in a file sees nothing


class SceneFiles(GroundForm):
    """How the scene is written as glTF."""

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
    about, upright = -np.sin(t / 2), np.cos(t / 2)
    # leaning towards d = (sin b, 0, -cos b): the axis is up x d
    leans, level = np.sin(l / 2), np.cos(l / 2)
    x, z = -np.cos(b) * leans, -np.sin(b) * leans
    out = np.empty((len(t), 4), np.float32)
    out[:, 0] = x * upright - z * about
    out[:, 1] = level * about
    out[:, 2] = x * about + z * upright
    out[:, 3] = level * upright
    return out


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
    options: SceneFiles,
) -> dict:
    """The whole scene. Gives counts of triangles and instances, and the error of the ground."""
    out = Glb()
    out.doc["scenes"][0]["name"] = build.scene.name
    out.doc["scenes"][0]["extras"] = {"sow": {"scene": travelling(build.scene)}}
    out.uses("EXT_mesh_gpu_instancing")
    ground = _add_ground(out, build, options)
    if options.far and build.scene.beyond.edge != "end":
        _add_far(out, build)
    add_waters(out, build)
    shapes = _Shapes(out)
    instances = sum(_add_sown(out, shapes, *columns, options.tile_m) for columns in sown)
    pieces = build.pieces()
    for piece in pieces:
        _add_piece(out, shapes, piece)
    add_cards(out, build)
    add_lights(out, build.daylight(DRAFT_ROWS), build.in_air().lamps)
    _add_cameras(out, build)
    out.write(path)
    return {
        "ground_triangles": len(ground.faces),
        "ground_error_m": round(ground.error_m, 4),
        "instances": instances + len(pieces),
        "bytes": path.stat().st_size,
    }


def _add_ground(out: Glb, build: Build, form: GroundForm) -> GroundMesh:
    """The ground with its baked colour and normals."""
    made = ground_mesh(build, form)
    colour, normal = baked(build, form.ground_px, made.heights)
    material = out.material(
        name="ground",
        pbrMetallicRoughness={
            "baseColorTexture": {"index": out.texture(png_bytes(colour), "ground colour")},
            "metallicFactor": 0,
            "roughnessFactor": 0.95,
        },
        normalTexture={"index": out.texture(png_bytes(normal), "ground normals")},
    )
    mesh = out.mesh(
        "ground",
        made.positions,
        made.normals,
        made.uv,
        None,
        made.faces,
        material,
        tangents(made.normals),
    )
    out.node(name="ground", mesh=mesh, extras={"sow": {"ground": True}})
    return made


def _add_far(out: Glb, build: Build) -> None:
    """The rings of far land, each under what is finer, with the colour of what clothes them."""
    for name, ring in zip(("far land", "farthest land"), far_rings(build)):
        colour = out.texture(png_bytes(srgb_bytes(ring.colour)), f"{name} colour")
        look = {"baseColorTexture": {"index": colour}, "metallicFactor": 0, "roughnessFactor": 0.95}
        material = out.material(name=name, pbrMetallicRoughness=look)
        mesh = out.mesh(name, ring.places, ring.normals, ring.uv, None, ring.faces, material)
        out.node(name=name, mesh=mesh, extras={"sow": {"far": True}})


class _Shapes:
    """The meshes and materials of kinds, each written once, when the first plant wears it."""

    def __init__(self, out: Glb):
        self.out = out
        self.meshes: dict[tuple[str, int], int] = {}
        self.dresses: dict[str, Dress] = {}

    def mesh(self, kind: str, variant: int) -> int:
        """The index of a kind's mesh, by the name that a mix gives it."""
        if (kind, variant) not in self.meshes:
            base, wears, _ = worn(kind)
            mesh = base.shape(wears).levels[variant][0]
            if kind not in self.dresses:
                self.dresses[kind] = self._dress(kind, bool((mesh.uv >= 0).any()))
            self.meshes[kind, variant] = self.out.meshes(
                f"{called(kind.split('~')[0])} {variant}", self.dresses[kind](mesh)
            )
        return self.meshes[kind, variant]

    def _dress(self, kind: str, has_sheet: bool) -> Dress:
        base, wears, tint = worn(kind)
        factor = None if tint is None else [*(min(float(v), 1.0) for v in tint), 1.0]
        sheet = None
        if has_sheet:
            sheet = self.out.texture(png_bytes(base.shape(wears).sheet), kind)
        return dressing(self.out, base, kind, sheet, Finish(), factor)


def _add_sown(
    out: Glb, shapes: _Shapes, name: str, kinds: list[str], plants: Plants, tile_m: float
) -> int:
    """The plants of one sowing, one node for each kind, variant and tile; gives their number."""
    spots = y_up(np.stack([plants.east, plants.north, plants.up], 1))
    turns = stance_quaternions(plants.turn, plants.lean, plants.bearing)
    sizes = np.repeat(plants.size[:, None], 3, 1).astype(np.float32)
    for k, kind in enumerate(kinds):
        for variant in worn(kind)[0].variants:
            for here in _by_tile(
                plants, np.flatnonzero((plants.kind == k) & (plants.variant == variant)), tile_m
            ):
                attributes = {
                    "TRANSLATION": out.array(spots[here]),
                    "SCALE": out.array(sizes[here]),
                    "ROTATION": out.array(turns[here]),
                }
                e = int(plants.east[here[0]] // tile_m)
                n = int(plants.north[here[0]] // tile_m)
                out.node(
                    name=f"{name}: {called(kind.split('~')[0])} {variant}, tile {e} {n}",
                    mesh=shapes.mesh(kind, variant),
                    extras={"sow": {"sowing": name, "kind": kind, "variant": variant}},
                    extensions={"EXT_mesh_gpu_instancing": {"attributes": attributes}},
                )
    return len(plants)


def _by_tile(plants: Plants, which: np.ndarray, tile_m: float) -> list[np.ndarray]:
    """Indices of plants in groups, one for each tile that holds any."""
    if not len(which):
        return []
    rows = (plants.north[which] // tile_m).astype(np.int64)
    tile = rows * 1_000_000 + (plants.east[which] // tile_m).astype(np.int64)
    order = np.argsort(tile, kind="stable")
    return np.split(which[order], np.flatnonzero(np.diff(tile[order])) + 1)


def _add_piece(out: Glb, shapes: _Shapes, piece: dict) -> None:
    """One piece placed by hand."""
    turn = stance_quaternions(*(np.array([piece[k]]) for k in ("turn", "lean", "bearing")))[0]
    kind = piece["dressed"]
    wide, deep, tall = (float(v) for v in sizes_of(piece))
    out.node(
        name=piece["name"],
        mesh=shapes.mesh(kind, piece["variant"]),
        extras={"sow": {"piece": piece["id"], "kind": kind, "variant": piece["variant"]}},
        translation=[piece["east_m"], piece["up_m"], -piece["north_m"]],
        rotation=[float(v) for v in turn],
        scale=[-wide if piece["mirrored"] else wide, tall, deep],
    )


def _add_cameras(out: Glb, build: Build) -> None:
    """A camera for each shot: what glTF tells of one, the rest of its lens in extras."""
    for shot in build.shots():
        right, up, ahead = axes(shot.bearing, shot.tilt)
        turn = np.stack([y_up(v[None])[0] for v in (right, up, -ahead)], 1).astype(np.float64)
        out.doc.setdefault("cameras", []).append(
            {
                "name": shot.name,
                "type": "perspective",
                "perspective": {
                    "aspectRatio": shot.width_px / shot.height_px,
                    "yfov": float(np.deg2rad(field_of_view(shot)[1])),
                    "znear": NEAR_M,
                },
                "extras": {
                    "focal_mm": shot.focal_mm,
                    "frame_mm": 36,
                    "shift_up_percent": shot.shift_up,
                    "shift_aside_percent": shot.shift_aside,
                    "aperture": shot.aperture,
                    "focus_m": focus_of(shot, eye_over(shot, build.ground_at), build.ground_at),
                },
            }
        )
        east, north, over = eye_over(shot, build.ground_at)
        out.node(
            name=shot.name,
            camera=len(out.doc["cameras"]) - 1,
            translation=[float(east), float(over), float(-north)],
            rotation=Rotation.from_matrix(turn).as_quat().tolist(),
        )


@exporter("scene", "Scene as glTF", SceneFiles, of_scene, {"far": of_far})
def scene_files(grown: Grown, options: SceneFiles) -> None:
    """Ground, water and plants, as instances by tiles."""
    season = grown.build.scene.season
    sown = [(s.name, [name_of(k, season) for k in s.mix], p) for s, p in grown.sown]
    path = grown.out / "scene.glb"
    grown.report["gltf"] = write_glb(path, grown.build, sown, options)
