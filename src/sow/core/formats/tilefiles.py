"""For real-time engines: heights and weights in tiles of a power of two plus one, the survey's
sheets, and one file that tells it all.
"""

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Literal

import numpy as np
import rasterio
from pydantic import Field
from rasterio.transform import from_origin

from ..air.light import sun_angles
from ..air.light_of import DRAFT_ROWS
from ..build import Build
from ..document.entry import Strict
from ..document.fields import setting, shown
from ..sample import bicubic
from ..shots.shot import eye_over, field_of_view
from ..survey.sheets import sheets
from .exporter import Grown, exporter
from .groundfiles import whole
from .package import travelling
from .preview import of_heights, of_packed, of_slope, of_tiles, of_water
from .raster import png_bytes, write_tiff
from .waterfiles import FASTEST, flow_map

PLANE = 'LOCAL_CS["Plot",UNIT["metre",1],AXIS["East",EAST],AXIS["North",NORTH]]'
STEPS = 65535
SHEETS = ("slope", "curvature", "contributing-area", "wetness", "openness")


class TileFiles(Strict):
    """How tiles are written."""

    wanted: bool = Field(
        False,
        title="Tiles for real-time engines",
        description="Heights and weights in squares of a power of two plus one, and tiles.json.",
    )
    posts: Literal[129, 257, 513, 1025, 2049] = Field(
        513,
        title="Posts of a tile",
        description="Along each side; neighbours share those of the edge between them.",
        json_schema_extra=shown(choices={n: f"{n}" for n in (129, 257, 513, 1025, 2049)}),
    )
    png: bool = Field(True, title="Heights as PNG, 16 bit")
    raw: bool = Field(False, title="Heights as raw numbers, 16 bit")
    tif: bool = Field(False, title="Heights as TIFF, in metres")
    whole: bool = Field(
        False,
        title="Whole plot as cloud-optimised GeoTIFF",
        description="With its overviews, at the origin told below.",
    )
    origin_east_m: float = setting(0, "Origin east", "m", lo=-1e7, hi=1e7, given="whole")
    origin_north_m: float = setting(0, "Origin north", "m", lo=-1e7, hi=1e7, given="whole")
    weights: bool = Field(True, title="Weights of materials, packed by four")
    survey: bool = Field(False, title="Sheets of the survey")
    water: bool = Field(
        True,
        title="Depth and flow of water",
        description="Depth in m; the flow of streams as red east, green north, blue white water.",
    )


class LayerCut:
    """How a plot is cut: `across` by `down` tiles from the north-west corner, every post `spacing`
    m apart. What lies beyond the plot in the last ones holds its edge.
    """

    def __init__(self, build: Build, posts: int):
        grid = build.grid
        self.grid = grid
        self.posts = posts
        longer = max(grid.width_m, grid.depth_m)
        along = max(1, round((max(grid.nx, grid.ny) - 1) / (posts - 1)))
        self.spacing = longer / (along * (posts - 1))
        side = self.spacing * (posts - 1)
        self.across = max(1, int(np.ceil(grid.width_m / side - 1e-9)))
        self.down = max(1, int(np.ceil(grid.depth_m / side - 1e-9)))

    def tiles(self) -> Iterator[tuple[int, int, np.ndarray, np.ndarray]]:
        """Row and column of each tile, and the rows and columns of the grid that its posts read."""
        step = self.spacing / self.grid.spacing
        inner = np.arange(self.posts)
        for row in range(self.down):
            for column in range(self.across):
                start = row * (self.posts - 1), column * (self.posts - 1)
                yield row, column, (start[0] + inner) * step, (start[1] + inner) * step


@exporter(
    "tiles",
    "Tiles",
    TileFiles,
    of_tiles,
    {
        **dict.fromkeys(("wanted", "png", "raw", "tif"), of_tiles),
        "whole": of_heights,
        "weights": of_packed,
        "survey": of_slope,
        "water": of_water,
    },
)
def tile_files(grown: Grown, options: TileFiles) -> None:
    """Heights, weights, survey and water as tiles for real-time engines, and tiles.json."""
    if not options.wanted:
        return
    build = grown.build
    folder = grown.out / "tiles"
    folder.mkdir(exist_ok=True)
    cut = LayerCut(build, options.posts)
    high = build.heights
    low_m, high_m = float(high.min()), float(high.max())
    materials = [m.name for m in build.scene.ground if m.on]
    layers = _layers(build, options)
    lines = []
    for row, column, rows, columns in cut.tiles():
        grown.check()
        name = f"{row:02d}-{column:02d}"
        heights = bicubic(high, rows, columns)
        line: dict[str, Any] = {
            "row": row,
            "column": column,
            "west_m": column * cut.spacing * (cut.posts - 1),
            "north_m": cut.grid.depth_m - row * cut.spacing * (cut.posts - 1),
        }
        line["heights"] = write_heights(folder, name, heights, low_m, high_m, options)
        line |= _write_layers(folder, name, layers, rows, columns)
        lines.append(line)
    facts = {
        "axes": "east, north, up; m; row 0 of every tile is its north edge",
        "posts": cut.posts,
        "spacing_m": cut.spacing,
        "tiles": {"across": cut.across, "down": cut.down},
        "plot_m": [cut.grid.width_m, cut.grid.depth_m],
        "heights": {"lowest_m": low_m, "highest_m": high_m, "of": STEPS},
        "raw": "unsigned 16 bit, little-endian, rows from the north" if options.raw else None,
        "materials": materials if options.weights else [],
        "flow": f"128 is at rest, 255 is {FASTEST:g} m/s" if "flow" in layers else None,
        "list": lines,
        **_around(build),
        "sow": {"scene": travelling(build.scene)},
    }
    if options.whole:
        place = options.origin_east_m, options.origin_north_m
        write_cog(folder / "height.tif", high, cut.grid.spacing, *place)
        facts["whole"] = {"file": "height.tif", "origin_m": list(place)}
    (folder / "tiles.json").write_text(json.dumps(facts, indent=1) + "\n")
    grown.report["tiles"] = {"tiles": len(lines), "spacing_m": cut.spacing}


def _layers(build: Build, options: TileFiles) -> dict[str, np.ndarray]:
    """What is cut beside heights, by its name in a tile's line: weights (k, ny, nx), the flow of
    water (3, ny, nx), or a sheet (ny, nx).
    """
    out = {}
    on = [i for i, m in enumerate(build.scene.ground) if m.on]
    if options.weights and on:
        out["weights"] = build.ground()[on]
    if options.survey:
        site = build.site("planting")
        for kind in SHEETS:
            out[kind] = np.asarray(sheets[kind].make(site), np.float32)
    level = build.water()[0]
    if options.water and np.isfinite(level).any():
        out["depth"] = np.where(np.isfinite(level), np.maximum(level - build.heights, 0), 0)
        flow = flow_map(build)
        if flow is not None:
            out["flow"] = flow.transpose(2, 0, 1).astype(np.float32)
    return out


def write_heights(
    folder: Path, name: str, heights: np.ndarray, low: float, high: float, options: TileFiles
) -> dict[str, str]:
    """The heights of a tile in the forms that are asked for; whole numbers run from `low` to `high`
    (m). Gives the names of the files by form.
    """
    out = {}
    span = max(high - low, 1e-9)
    steps = np.rint(np.clip((heights.astype(np.float64) - low) / span, 0, 1) * STEPS)
    if options.png:
        out["png"] = f"height-{name}.png"
        (folder / out["png"]).write_bytes(png_bytes(steps.astype(np.uint16)))
    if options.raw:
        out["raw"] = f"height-{name}.r16"
        (folder / out["raw"]).write_bytes(steps.astype("<u2").tobytes())
    if options.tif:
        out["tif"] = f"height-{name}.tif"
        write_tiff(folder / out["tif"], heights, 1.0)
    return out


def _write_layers(
    folder: Path,
    name: str,
    layers: dict[str, np.ndarray],
    rows: np.ndarray,
    columns: np.ndarray,
) -> dict[str, Any]:
    out: dict[str, Any] = {}
    for key, values in layers.items():
        if values.ndim == 2:
            out[key] = f"{key}-{name}.tif"
            write_tiff(folder / out[key], bicubic(values, rows, columns), 1.0)
            continue
        here = np.stack([bicubic(v, rows, columns) for v in values])
        if key == "flow":
            out[key] = f"flow-{name}.png"
            whole_numbers = np.clip(np.rint(here), 0, 255).astype(np.uint8)
            (folder / out[key]).write_bytes(png_bytes(whole_numbers.transpose(1, 2, 0)))
        else:
            out[key] = write_weights(folder, name, here)
    return out


def write_weights(folder: Path, name: str, shares: np.ndarray) -> list[str]:
    """The shares of a tile's materials (count, ny, nx), four to a picture; gives their names."""
    parts = np.clip(shares, 0, 1)
    parts = whole(parts / np.maximum(parts.sum(0), 1e-9), 255)
    files = []
    for a in range(0, len(parts), 4):
        packed = np.zeros((*parts.shape[1:], 4), np.uint8)
        packed[..., : len(parts[a : a + 4])] = parts[a : a + 4].transpose(1, 2, 0)
        files.append(f"weights-{name}-{a // 4 + 1}.png")
        (folder / files[-1]).write_bytes(png_bytes(packed))
    return files


def _around(build: Build) -> dict[str, Any]:
    """Water, sun and shots in open words."""
    lit = build.daylight(DRAFT_ROWS)
    bearing, height = sun_angles(lit.light)
    shots = []
    for shot in build.shots():
        across, up = field_of_view(shot)
        shots.append(
            {
                "name": shot.name,
                "eye_m": [float(v) for v in eye_over(shot, build.ground_at)],
                "bearing_deg": shot.bearing,
                "tilt_deg": shot.tilt,
                "angles_deg": [across, up],
            }
        )
    waters = [
        {"name": w.name, "reach": w.reach, "level_m": w.level_m} for w in build.scene.water if w.on
    ]
    sun = {"bearing_deg": bearing, "height_deg": height}
    return {"waters": waters, "sun": sun, "shots": shots}


def write_cog(path: Path, heights: np.ndarray, spacing: float, east: float, north: float) -> None:
    """A cloud-optimised GeoTIFF of heights in m, the plot's south-west post at `east`, `north`."""
    ny, nx = heights.shape
    # posts stand in the middle of pixels
    corner = from_origin(east - spacing / 2, north + (ny - 0.5) * spacing, spacing, spacing)
    with rasterio.open(
        path,
        "w",
        driver="COG",
        height=ny,
        width=nx,
        count=1,
        dtype="float32",
        crs=PLANE,
        transform=corner,
        compress="DEFLATE",
        predictor="YES",
        overview_resampling="average",
    ) as out:
        out.write(np.ascontiguousarray(heights, np.float32), 1)
