"""Grow a scene into files. The command line and the page's download both use this."""

import json
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np

from .build import Build, Rasters
from .cache import Cache
from .errors import SceneError
from .formats import (  # noqa: F401  (exporters)
    gltf,
    groundfiles,
    heights,
    lightfiles,
    plan,
    plantfiles,
    shotfiles,
    tilefiles,
    usd,
    waterfiles,
)
from .formats.exporter import Grown, exporters, options_of
from .formats.raster import file_name
from .scene import Scene

OURS = (
    "planting",
    "scene",
    "plants",
    "ground",
    "light",
    "heights",
)  # the longest first; extras follow

WRITERS = 2


def grow(
    scene: Scene,
    rasters: Rasters,
    out: Path,
    posts: int | None = None,
    ground_px: int = 2048,
    tell: Callable[[str, float], None] = lambda step, share: None,
    check: Callable[[], None] = lambda: None,
    cache: Cache | None = None,
    files: dict[str, Any] | None = None,
    only: list[str] | None = None,
) -> dict[str, Any]:
    """Writes what every exporter writes, or `only` those named, and report.json, into `out`; gives
    the report.

    `posts` are those along the longer side (default: the plot's grid). `files` holds options by
    exporter. Row 0 of every picture is the north edge. Two runs write the same bytes, report.json
    apart. Raises SceneError before anything is written when the scene can't be built.
    """
    if posts is not None and not 33 <= posts <= 4097:
        raise SceneError(f"A grid of {posts} posts is not possible.", "size", "Give 33 to 4097.")
    if not 64 <= ground_px <= 8192:
        raise SceneError(
            f"A ground picture of {ground_px} px is not possible.", "ground-px", "Give 64 to 8192."
        )
    asked = {"scene": {"ground_px": ground_px}, **(files or {})}
    for name in only or ():  # what is named is wanted, though it is not at first
        if name in exporters and "wanted" in exporters[name].options.model_fields:
            asked[name] = {"wanted": True, **asked.get(name, {})}
        elif name not in exporters:
            asked[name] = {}  # told below
    options = options_of(asked)
    chosen = set(only or exporters)
    start = time.perf_counter()
    build = Build(scene, scene.plot.grid(posts), cache or Cache(8 << 30), rasters, tell, check)
    grown = _made(scene, build, out)
    seconds = dict(build.seconds)
    out.mkdir(parents=True, exist_ok=True)

    def write(name: str) -> None:
        check()
        tell(f"write {exporters[name].title.lower()}", 0.5)
        began = time.perf_counter()
        exporters[name].write(grown, options[name])
        seconds[f"write {name}"] = time.perf_counter() - began

    with ThreadPoolExecutor(WRITERS) as pool:  # each writes files of its own
        for done in [pool.submit(write, name) for name in OURS if name in chosen]:
            done.result()
    for name in sorted(chosen - set(OURS)):
        write(name)
    report = _report(grown, seconds, time.perf_counter() - start)
    (out / "report.json").write_text(json.dumps(report, indent=1) + "\n")
    return report


def _made(scene: Scene, build: Build, out: Path) -> Grown:
    """Everything that exporters ask for, made before the first of them writes."""
    build.forecasts()
    build.ground()
    sown = [(s, build.plants(i)) for i, s in enumerate(scene.planting) if s.on]
    taken: set[str] = set()
    names = {m.id: file_name(m.name, taken) for m in scene.ground if m.on}
    return Grown(out, build, sown, names, build.tell, build.check)


def _report(grown: Grown, seconds: dict[str, float], total_s: float) -> dict[str, Any]:
    build, scene = grown.build, grown.build.scene
    shares = {
        m.name: round(float(w.mean(dtype=np.float64)), 6)
        for m, w in zip(scene.ground, build.ground())
        if m.on
    }
    return {
        "scene": scene.name,
        "content_key": build.content_key(),
        "grid": [build.grid.nx, build.grid.ny],
        "spacing_m": build.grid.spacing,
        "plants": {s.name: len(p) for s, p in grown.sown},
        "plants_total": sum(len(p) for _, p in grown.sown),
        "pieces": len(build.pieces()),
        "materials": shares,
        **grown.report,
        "seconds": {k: round(v, 4) for k, v in seconds.items()},
        "seconds_total": round(total_s, 3),
    }
