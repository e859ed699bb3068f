"""Grow a scene into files. The command line and the page's download both use this."""

import json
import time
from pathlib import Path
from typing import Callable

import numpy as np

from .build import Build, Rasters
from .cache import Cache
from .errors import SceneError
from .formats.gltf import write_glb
from .formats.groundfiles import GroundFiles, write_ground
from .formats.plan import write_planting
from .formats.plantfiles import PlantFiles, write_plants
from .formats.raster import file_name, height_png, write_tiff
from .planting.sowing import name_of
from .scene import Scene


def grow(
    scene: Scene,
    rasters: Rasters,
    out: Path,
    posts: int | None = None,
    ground_px: int = 2048,
    tell: Callable[[str, float], None] = lambda step, share: None,
    check: Callable[[], None] = lambda: None,
    cache: Cache | None = None,
    ground: GroundFiles | None = None,
    plants: PlantFiles | None = None,
) -> dict:
    """Writes height.png, height.json, height.tif, materials/*.png with a legend, as `ground` asks
    pictures and textures of the ground, plants.csv, as `plants` asks plants.json, plants.geojson
    and kinds/*.glb with their levels, planting/ with plan, schedule and density maps, scene.glb and
    report.json into `out`.

    `posts` are those along the longer side (default: the plot's grid). Row 0 of every picture is
    the north edge. Two runs write the same bytes, report.json apart. Raises SceneError before
    anything is written when the scene can't be built.
    """
    if posts is not None and not 33 <= posts <= 4097:
        raise SceneError(f"A grid of {posts} posts is not possible.", "size", "Give 33 to 4097.")
    if not 64 <= ground_px <= 8192:
        raise SceneError(
            f"A ground picture of {ground_px} px is not possible.", "ground-px", "Give 64 to 8192."
        )
    start = time.perf_counter()
    grid = scene.plot.grid(posts)
    build = Build(scene, grid, cache or Cache(8 << 30), rasters, tell, check)
    build.forecasts()
    shares = build.ground()
    sown = [(s, build.plants(i)) for i, s in enumerate(scene.planting) if s.on]
    heights = build.heights
    seconds = dict(build.seconds)

    def step(name, work):
        check()
        tell(name, 0.5)
        began = time.perf_counter()
        result = work()
        seconds[name] = time.perf_counter() - began
        return result

    out.mkdir(parents=True, exist_ok=True)
    png, low, high = height_png(heights)

    def write_heights():
        (out / "height.png").write_bytes(png)
        (out / "height.json").write_text(
            json.dumps(
                {
                    "lowest_m": low,
                    "highest_m": high,
                    "spacing_m": grid.spacing,
                    "width_m": grid.width_m,
                    "depth_m": grid.depth_m,
                    "columns": grid.nx,
                    "rows": grid.ny,
                    "row_0": "north",
                },
                indent=1,
            )
            + "\n"
        )
        write_tiff(out / "height.tif", heights, grid.spacing)

    taken: set[str] = set()
    names = {m.id: file_name(m.name, taken) for m in scene.ground if m.on}
    step("write heights", write_heights)
    step(
        "write materials",
        lambda: write_ground(out, build, names, ground or GroundFiles(), tell, check),
    )
    plants = plants or PlantFiles()
    step("write plants", lambda: write_plants(out, build, sown, plants))
    step("write planting", lambda: write_planting(out / "planting", build))
    glb = step(
        "write glTF",
        lambda: write_glb(
            out / "scene.glb",
            build,
            [(s.name, [name_of(k, scene.season) for k in s.mix], p) for s, p in sown],
            ground_px,
            plants.tile_m,
        ),
    )
    report = {
        "scene": scene.name,
        "content_key": build.content_key(),
        "grid": [grid.nx, grid.ny],
        "spacing_m": grid.spacing,
        "lowest_m": low,
        "highest_m": high,
        "plants": {s.name: len(p) for s, p in sown},
        "plants_total": sum(len(p) for _, p in sown),
        "pieces": len(build.pieces()),
        "materials": {
            m.name: round(float(w.mean(dtype=np.float64)), 6)
            for m, w in zip(scene.ground, shares)
            if m.on
        },
        "gltf": glb,
        "seconds": {k: round(v, 4) for k, v in seconds.items()},
        "seconds_total": round(time.perf_counter() - start, 3),
    }
    (out / "report.json").write_text(json.dumps(report, indent=1) + "\n")
    return report
