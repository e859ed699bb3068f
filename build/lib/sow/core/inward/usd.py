"""A scene from USD: ground, point instancers, pieces, lights and cameras; other units and another
axis upward are converted.
"""

import io
import json
import re
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
from pxr import Gf, Tf, Usd, UsdGeom, UsdLux
from scipy.spatial.transform import Rotation

from ..formats.scratch import scratch_folder
from .found import (
    Found,
    Standing,
    lamp_of,
    lay_ground,
    piece_of,
    refuse,
    shot_of,
    stance_of,
    sun_of,
)

Y_UP = np.array([[1, 0, 0], [0, 0, -1], [0, 1, 0]], float)
TENTHS = 0.01  # lenses are told in tenths of the scene's unit
FRAME_MM = 36.0
MOST_PRIMS = 200_000
OWN = re.compile(r"/(Water|Far)/")  # what comes back with the scene's own document
ENDINGS = (".usda", ".usdc", ".usd", ".usdz")


def read_usd(files: dict[str, bytes]) -> Found:
    """A scene from a USD file, or from a zip of a folder of layers. Raises SceneError."""
    with scratch_folder() as folder:
        entry = _laid_out(folder, files)
        try:
            stage = Usd.Stage.Open(str(entry))
        except Tf.ErrorException:
            stage = None
        if stage is None:
            raise refuse(f"“{entry.name}” is no USD that can be read.", "Write it again.")
        for layer in stage.GetUsedLayers():
            if layer.realPath and not layer.realPath.startswith(str(folder.resolve())):
                raise refuse(
                    f"The USD refers to a file outside itself: “{layer.identifier[-80:]}”.",
                    "Write it as one package, or as a zip of its folder.",
                )
        return _Reader(stage, entry.stem).found


def _laid_out(folder: Path, files: dict[str, bytes]) -> Path:
    """The files in a folder; gives the one that is entered."""
    for name, data in files.items():
        if name.lower().endswith(".zip"):
            _unpacked(folder, data)
        else:
            (folder / Path(name).name).write_bytes(data)
    found = sorted(p for p in folder.rglob("*") if p.suffix.lower() in ENDINGS)
    if not found:
        raise refuse("There is no USD among these files.", "Give a .usdz, or a zip of its folder.")
    entered = [p for p in found if p.stem == "scene"] or found
    return min(entered, key=lambda p: (len(p.parts), p.name))


def _unpacked(folder: Path, data: bytes) -> None:
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        for item in archive.infolist():
            target = (folder / item.filename).resolve()
            if not str(target).startswith(str(folder.resolve())):
                raise refuse("The zip holds a path outside itself.", "Nothing was unpacked.")
        archive.extractall(folder)


class _Reader:
    """Walks over a stage."""

    def __init__(self, stage: Usd.Stage, name: str):
        self.stage = stage
        root = stage.GetDefaultPrim()
        self.found = Found((root.GetDisplayName() or root.GetName()) if root else name)
        sow = stage.GetRootLayer().customLayerData.get("sow", {})
        if "scene" in sow:
            self.found.document = json.loads(sow["scene"])
        self.unit = float(UsdGeom.GetStageMetersPerUnit(stage))
        y_up = UsdGeom.GetStageUpAxis(stage) == UsdGeom.Tokens.y
        self.axes = Y_UP if y_up else np.eye(3)
        if y_up:
            self.found.taken.append("The scene's y axis pointed up; it was turned.")
        if abs(self.unit - 1) > 1e-9:
            self.found.taken.append(f"Its unit of {self.unit:g} m was converted to metres.")
        self.cache = UsdGeom.XformCache()
        self.corner = np.zeros(3)
        prims = self._prims()
        ground = self._ground(prims)
        if ground is not None:
            points = self._points(ground)
            label = ground.GetParent().GetDisplayName() or ground.GetName()
            self.corner = lay_ground(self.found, points, label)
        for prim in prims:
            self._take(prim, ground)

    def _prims(self) -> list[Usd.Prim]:
        """All that counts: what stands below a prototype, a piece or an instancer does not."""
        out: list[Usd.Prim] = []
        walk = iter(Usd.PrimRange(self.stage.GetPseudoRoot()))
        for prim in walk:
            out.append(prim)
            if len(out) > MOST_PRIMS:
                raise refuse(
                    f"The USD holds more than {MOST_PRIMS:,} prims.",
                    "Write its plants as point instancers.",
                )
            if prim.IsA(UsdGeom.PointInstancer) or prim.GetCustomDataByKey("sow:piece"):
                walk.PruneChildren()
        return out

    def _world(self, prim: Usd.Prim) -> np.ndarray:
        """The matrix (4, 4) that carries columns of the prim into metres east, north, up."""
        world = np.array(self.cache.GetLocalToWorldTransform(prim)).T
        out = np.eye(4)
        out[:3, :3] = self.axes @ world[:3, :3] * self.unit
        out[:3, 3] = self.axes @ world[:3, 3] * self.unit
        return out

    def _points(self, prim: Usd.Prim) -> np.ndarray:
        points = np.array(UsdGeom.Mesh(prim).GetPointsAttr().Get(), float).reshape(-1, 3)
        world = self._world(prim)
        return points @ world[:3, :3].T + world[:3, 3]

    def _ground(self, prims: list[Usd.Prim]) -> Usd.Prim | None:
        best, most = None, 0.0
        for prim in prims:
            if not prim.IsA(UsdGeom.Mesh):
                continue
            points = self._points(prim)
            if len(points) < 4:
                continue
            width, depth, height = np.ptp(points, axis=0)
            area = float(width * depth)
            words = f"{prim.GetPath()}".lower()
            if "ground" in words or "terrain" in words:
                area *= 10
            elif OWN.search(f"{prim.GetPath()}") or height > 0.7 * min(width, depth):
                continue
            if area > most:
                best, most = prim, area
        return best

    def _take(self, prim: Usd.Prim, ground: Usd.Prim | None) -> None:
        if prim.IsA(UsdGeom.PointInstancer):
            self._take_instances(UsdGeom.PointInstancer(prim))
        elif prim.GetCustomDataByKey("sow:piece"):
            self._take_piece(prim)
        elif prim.IsA(UsdGeom.Camera):
            self._take_camera(UsdGeom.Camera(prim))
        elif prim.IsA(UsdLux.DistantLight):
            away = self._away(prim)
            if self.found.sun is None:
                self.found.sun = sun_of(away)
            else:
                self.found.left.append(f"The light “{prim.GetName()}”: there is one sun.")
        elif prim.IsA(UsdLux.SphereLight):
            self._take_lamp(UsdLux.SphereLight(prim))
        elif prim.IsA(UsdGeom.Mesh) and prim != ground and not OWN.search(str(prim.GetPath())):
            self.found.left.append(f"The mesh “{prim.GetName()}”: bring it in as a kind.")

    def _away(self, prim: Usd.Prim) -> np.ndarray:
        away = self._world(prim)[:3, :3] @ np.array([0.0, 0.0, -1.0])
        return away / max(float(np.linalg.norm(away)), 1e-12)

    def _take_instances(self, made: UsdGeom.PointInstancer) -> None:
        prim = made.GetPrim()
        places = np.array(made.GetPositionsAttr().Get() or [], float).reshape(-1, 3)
        which = np.array(made.GetProtoIndicesAttr().Get() or [], int)
        count = len(places)
        sizes = np.array(made.GetScalesAttr().Get() or np.ones((count, 3)), float)
        axes = np.broadcast_to(np.eye(3), (count, 3, 3))
        turns = made.GetOrientationsAttr().Get()
        if turns is not None and len(turns):
            quats = np.array([[*q.GetImaginary(), q.GetReal()] for q in turns], float)
            axes = Rotation.from_quat(quats).as_matrix()
        world = self._world(prim)
        turned = world[:3, :3] @ (axes * sizes[:, None, :]) @ np.linalg.inv(self.axes) / self.unit
        turn, _, _, size = stance_of(turned)
        at = places @ world[:3, :3].T + world[:3, 3] - self.corner
        name = prim.GetDisplayName() or prim.GetName()
        for k, path in enumerate(made.GetPrototypesRel().GetTargets()):
            here = which == k
            if not here.any():
                continue
            standing = self.stage.GetPrimAtPath(path)
            kind = standing.GetCustomDataByKey("sow:kind") or standing.GetName()
            variant = float(standing.GetCustomDataByKey("sow:variant") or 0)
            columns = [at[here], turn[here], size[here], np.full(int(here.sum()), variant)]
            self.found.standing.append(Standing(name, str(kind), np.column_stack(columns)))

    def _take_piece(self, prim: Usd.Prim) -> None:
        world = self._world(prim)
        axes = world[:3, :3] @ np.linalg.inv(self.axes) / self.unit
        told = {key: prim.GetCustomDataByKey(f"sow:{key}") for key in ("piece", "kind", "variant")}
        name = prim.GetDisplayName() or prim.GetName()
        at = world[:3, 3] - self.corner
        variant = int(told["variant"] or 0)
        piece = piece_of(told["piece"], name, told["kind"], at, axes, variant)
        self.found.pieces.append(piece)

    def _take_camera(self, camera: UsdGeom.Camera) -> None:
        prim = camera.GetPrim()
        world = self._world(prim)
        wide = float(camera.GetHorizontalApertureAttr().Get())
        high = float(camera.GetVerticalApertureAttr().Get())
        focal = float(camera.GetFocalLengthAttr().Get()) / wide * FRAME_MM
        name = prim.GetDisplayName() or prim.GetName()
        at = world[:3, 3] - self.corner
        shot: dict[str, Any] = shot_of(name, at, self._away(prim), focal, wide / high)
        shot["aperture"] = float(camera.GetFStopAttr().Get() or 0)
        focus = float(camera.GetFocusDistanceAttr().Get() or 0) * self.unit
        if focus > 0:
            shot["focus_m"] = float(np.clip(focus, 0.1, 1e6))
        aside = float(camera.GetHorizontalApertureOffsetAttr().Get() or 0)
        shot["shift_aside"] = float(np.clip(100 * aside / wide, -60, 60))
        up = float(camera.GetVerticalApertureOffsetAttr().Get() or 0)
        shot["shift_up"] = float(np.clip(100 * up / wide, -60, 60))
        shot["exposure"] = float(np.clip(camera.GetExposureAttr().Get() or 0, -12, 12))
        self.found.shots.append(shot)

    def _take_lamp(self, light: UsdLux.SphereLight) -> None:
        prim = light.GetPrim()
        colour = np.array(light.GetColorAttr().Get() or Gf.Vec3f(1), float)
        bright = float(light.GetIntensityAttr().Get() or 1) / 4
        cone = UsdLux.ShapingAPI(prim).GetShapingConeAngleAttr().Get()
        outer = None if cone is None or cone >= 180 else float(np.deg2rad(cone))
        at = self._world(prim)[:3, 3] - self.corner
        told = lamp_of(prim.GetName(), at, self._away(prim), bright * colour * 1000, outer)
        self.found.lamps.append(told)
