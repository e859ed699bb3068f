"""What stands in a scene: a point instancer for each sowing, a prim for each piece."""

from pathlib import Path

import numpy as np
from pxr import Gf, Usd, UsdGeom, Vt

from ...build import Build
from ...cabinet import worn
from ...planting.formed import sizes_of
from ...planting.plants import Plants
from ...planting.sowing import name_of
from ..exporter import Grown
from ..gltf import stance_quaternions
from .kinds import KindFiles
from .layer import as_group, below, called, layer, vec3

QUATERNION = np.dtype(np.float16)


def stances(turn: np.ndarray, lean: np.ndarray, bearing: np.ndarray) -> np.ndarray:
    """Rotations (x, y, z, w), float32 (n, 4), in east, north, up, of things that stand so, all in
    degrees.
    """
    x, y, z, w = stance_quaternions(turn, lean, bearing).T
    return np.stack([x, -z, y, w], 1)


def write_planting(path: Path, grown: Grown, kinds: KindFiles) -> int:
    """Sowings and pieces as one layer; gives the number of instances."""
    stage, root = layer(path, "Planting")
    season = grown.build.scene.season
    count = 0
    for sowing, plants in grown.sown:
        if len(plants):
            names = [name_of(k, season) for k in sowing.mix]
            _add_sowing(stage, root, sowing.name, names, plants, kinds)
            count += len(plants)
    count += _add_pieces(stage, root, grown.build, kinds)
    as_group(root)
    stage.GetRootLayer().Save()
    return count


def _add_sowing(
    stage: Usd.Stage,
    root: Usd.Prim,
    name: str,
    names: list[str],
    plants: Plants,
    kinds: KindFiles,
) -> None:
    made = UsdGeom.PointInstancer.Define(stage, below(root, name))
    prim = called(made.GetPrim(), name)
    as_group(prim)
    keys = plants.kind.astype(np.int64) * 256 + plants.variant
    used, which = np.unique(keys, return_inverse=True)
    prototypes = UsdGeom.Scope.Define(stage, f"{prim.GetPath()}/Prototypes").GetPrim()
    for key in used:
        kind, variant = divmod(int(key), 256)
        standing = UsdGeom.Xform.Define(stage, below(prototypes, f"{names[kind]}_{variant}"))
        kinds.refer(standing.GetPrim(), names[kind], variant)
        standing.GetPrim().SetCustomDataByKey("sow:kind", names[kind])
        standing.GetPrim().SetCustomDataByKey("sow:variant", variant)
        made.CreatePrototypesRel().AddTarget(standing.GetPath())
    places = np.stack([plants.east, plants.north, plants.up], 1)
    made.CreatePositionsAttr(vec3(places))
    turned = stances(plants.turn, plants.lean, plants.bearing).astype(QUATERNION)
    made.CreateOrientationsAttr(Vt.QuathArray.FromNumpy(np.ascontiguousarray(turned)))
    made.CreateScalesAttr(vec3(np.repeat(np.asarray(plants.size)[:, None], 3, 1)))
    indices = np.ascontiguousarray(which.ravel(), np.int32)
    made.CreateProtoIndicesAttr(Vt.IntArray.FromNumpy(indices))
    made.CreateIdsAttr(Vt.Int64Array.FromNumpy(np.arange(len(plants), dtype=np.int64)))
    most = float(np.max(plants.size))
    kinds_of = [worn(n)[0] for n in names]
    reach = most * max(max(k.reach_m, k.height_m) for k in kinds_of)
    made.CreateExtentAttr(vec3(np.stack([places.min(0) - reach, places.max(0) + reach])))


def _add_pieces(stage: Usd.Stage, root: Usd.Prim, build: Build, kinds: KindFiles) -> int:
    pieces = build.pieces()
    if not pieces:
        return 0
    group = UsdGeom.Xform.Define(stage, below(root, "Pieces")).GetPrim()
    as_group(group)
    for piece in pieces:
        at = UsdGeom.Xform.Define(stage, below(group, piece["name"]))
        called(at.GetPrim(), piece["name"])
        x, y, z, w = (
            float(v)
            for v in stances(*(np.array([piece[k]]) for k in ("turn", "lean", "bearing")))[0]
        )
        place = Gf.Vec3d(piece["east_m"], piece["north_m"], piece["up_m"])
        at.AddTranslateOp().Set(place)
        at.AddOrientOp(UsdGeom.XformOp.PrecisionFloat).Set(Gf.Quatf(w, x, y, z))
        wide, deep, tall = (float(v) for v in sizes_of(piece))
        at.AddScaleOp().Set(Gf.Vec3f(-wide if piece["mirrored"] else wide, deep, tall))
        kinds.refer(at.GetPrim(), piece["dressed"], piece["variant"])
        at.GetPrim().SetCustomDataByKey("sow:piece", piece["id"])
        at.GetPrim().SetCustomDataByKey("sow:kind", piece["dressed"])
        at.GetPrim().SetCustomDataByKey("sow:variant", piece["variant"])
    return len(pieces)
