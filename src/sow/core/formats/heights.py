"""The heightmap's files: 16 bit PNG with its scale, and float TIFF."""

import json

from .exporter import Grown, NoOptions, exporter
from .preview import of_heights
from .raster import height_png, write_tiff


@exporter("heights", "Heightmap", preview=of_heights)
def height_files(grown: Grown, options: NoOptions) -> None:
    """height.png with height.json, and height.tif in metres."""
    grid = grown.build.grid
    heights = grown.build.heights
    png, low, high = height_png(heights)
    (grown.out / "height.png").write_bytes(png)
    facts = {
        "lowest_m": low,
        "highest_m": high,
        "spacing_m": grid.spacing,
        "width_m": grid.width_m,
        "depth_m": grid.depth_m,
        "columns": grid.nx,
        "rows": grid.ny,
        "row_0": "north",
    }
    (grown.out / "height.json").write_text(json.dumps(facts, indent=1) + "\n")
    write_tiff(grown.out / "height.tif", heights, grid.spacing)
    grown.report |= {"lowest_m": low, "highest_m": high}
