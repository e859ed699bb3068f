"""The waters as files: meshes at a moment, depth and foam, the flow of streams, the shore line."""

import json
from typing import Any

import cv2
import numpy as np
import tifffile
from pydantic import Field
from skimage.measure import find_contours

from ..build import Build
from ..build.waters import foam_in, moving_in, running_in, sea_in
from ..document.entry import Strict
from ..water.around import collars
from .exporter import Grown, exporter
from .glb import Glb
from .preview import of_water
from .raster import png_bytes
from .water_mesh import add_waters

FASTEST = 4.0  # m/s at which a flow map's colours end


class WaterFiles(Strict):
    """At which moment the waters are written."""

    at_s: float = Field(
        0, ge=0, le=3600, title="Moment", description="Seconds for which waves have run."
    )


@exporter("water", "Waters", WaterFiles, of_water)
def water_files(grown: Grown, options: WaterFiles) -> None:
    """Surfaces with their waves at a moment as glTF; depth in m (TIFF) and foam (PNG) over the
    grid; the flow of streams (PNG: red east, green north, 4 m/s at full, blue white water); the
    shore line (GeoJSON).
    """
    build = grown.build
    if not any(w.on and wet.any() for w, wet in zip(build.scene.water, build.water()[1])):
        grown.report["water"] = {"waters": 0}
        return
    folder = grown.out / "water"
    folder.mkdir(exist_ok=True)
    out = Glb()
    add_waters(out, build, options.at_s)
    out.write(folder / "water.glb")
    level = build.water()[0]
    deep = np.where(np.isfinite(level), level - build.heights, 0).astype(np.float32)
    tifffile.imwrite(folder / "depth.tif", np.maximum(deep, 0), compression="zlib")
    foam = np.rint(foam_over(build, options.at_s) * 255).astype(np.uint8)
    (folder / "foam.png").write_bytes(png_bytes(foam))
    flow = flow_map(build, options.at_s)
    if flow is not None:
        (folder / "flow.png").write_bytes(png_bytes(flow))
    (folder / "shore.geojson").write_text(json.dumps(shore_lines(build)))
    grown.report["water"] = {
        "waters": int(sum(w.on for w in build.scene.water)),
        "wet_m2": float(np.isfinite(level).sum()) * build.grid.spacing**2,
        "wet_m3": float(np.maximum(deep, 0).sum(dtype=np.float64)) * build.grid.spacing**2,
    }


def foam_over(build: Build, seconds: float) -> np.ndarray:
    """Foam of all waters at each post at a time, 0..1, float32 (ny, nx)."""
    x, y = np.meshgrid(build.grid.xs(), build.grid.ys())
    out = np.zeros(build.grid.shape, np.float32)
    for i, (water, wet) in enumerate(zip(build.scene.water, build.water()[1])):
        if not water.on or not wet.any():
            continue
        px, py = x[wet], y[wet]
        fine = np.full(len(px), build.grid.spacing)
        of = running_in if water.reach == "stream" else moving_in
        skin = of(build, i, seconds).at(px, py, fine)
        around = collars(px, py, foam_in(build, i), sea_in(build, i), seconds)
        out[wet] = np.maximum(out[wet], np.maximum(skin.foam, around))
    return out


def flow_map(build: Build, seconds: float = 0.0) -> np.ndarray | None:
    """How streams run at each post, uint8 (ny, nx, 3): 128 is at rest; None without a stream."""
    out = np.full((*build.grid.shape, 3), (128, 128, 0), np.uint8)
    x, y = np.meshgrid(build.grid.xs(), build.grid.ys())
    found = False
    for i, (water, wet) in enumerate(zip(build.scene.water, build.water()[1])):
        if not water.on or water.reach != "stream" or not wet.any():
            continue
        found = True
        way, fast, white = running_in(build, i, seconds).flow(x[wet], y[wet])
        told = np.clip(0.5 + 0.5 * way * (fast / FASTEST)[:, None], 0, 1)
        out[wet] = np.rint(np.column_stack([told, white]) * 255)
    return out if found else None


def shore_lines(build: Build) -> dict[str, Any]:
    """Where each standing water meets the land, as GeoJSON in m east and north of the plot's corner
    with its level.
    """
    features = []
    grid = build.grid
    for water, wet in zip(build.scene.water, build.water()[1]):
        if not water.on or water.reach == "stream" or not wet.any():
            continue
        deep = (water.level_m - build.heights).astype(np.float64)
        near = cv2.dilate(wet.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
        for line in find_contours(np.where(near, deep, np.minimum(deep, -1e-3)), 0.0):
            east = grid.east_m + line[:, 1] * grid.spacing
            north = grid.north_m + (grid.ny - 1 - line[:, 0]) * grid.spacing
            points = np.round(np.column_stack([east, north]), 3).tolist()
            told = {"name": water.name, "level_m": water.level_m}
            shape = {"type": "LineString", "coordinates": points}
            features.append({"type": "Feature", "properties": told, "geometry": shape})
    return {"type": "FeatureCollection", "features": features}
