"""Routes: masks, zones, lines and contours."""

import numpy as np
from flask import request

from ...core.errors import SceneError
from ...sandbox import read
from ...store import rasters
from .. import strokes
from ..api import route, told_name
from ..shapes.builds import BuildOrder
from ..shapes.files import RasterInfo
from ..shapes.marks import ContourLine, MaskOrder, MaskPicture, ZoneLine
from ..surveys import mask_answer
from ..working import document_of


@route("POST", "/api/scenes/<int:scene>/masks", body=MaskOrder, answer=RasterInfo)
def fill_mask(scene, body):
    """A mask filled by a where-rule or joined with another, kept as a raster for the document to
    name.
    """
    row = strokes.filled_mask(document_of(scene, body), body)
    return RasterInfo(
        raster=row.hash,
        name=row.name,
        rows=row.rows,
        columns=row.columns,
        dtype="uint8",
        lowest=0,
        highest=255,
    )


@route("POST", "/api/scenes/<int:scene>/mask-pictures/<mark>", body=BuildOrder, answer=MaskPicture)
def mask_picture(scene, mark, body):
    """A mask as conditions see it, on the view grid."""
    return mask_answer(document_of(scene, body), mark)


@route("POST", "/api/zones", answer=list[ZoneLine], query=("tolerance",))
def read_zones():
    """The colours of a zone map with their masks; the body is the picture, ?tolerance= how far
    colours of one zone may differ.
    """
    try:
        tolerance = float(request.args.get("tolerance", 12))
    except ValueError:
        raise SceneError("The tolerance is a number.", "tolerance", "Give 1 to 60.") from None
    if not np.isfinite(tolerance):
        raise SceneError("The tolerance is a number.", "tolerance", "Give 1 to 60.")
    found = read(
        "zone_map",
        {"zones": request.get_data(cache=False)},
        tolerance=float(np.clip(tolerance, 1, 60)),
    )
    return [
        ZoneLine(
            colour="#{:02x}{:02x}{:02x}".format(*z["colour"]),
            share=round(z["share"], 5),
            raster=rasters.keep(z["mask"], "zone").hash,
        )
        for z in found
    ]


@route("POST", "/api/scenes/<int:scene>/contours", answer=list[ContourLine])
def read_contour_file(scene):
    """Contours of a GeoJSON or SVG, in metres on this scene's plot; the body is the file."""
    return _lines(scene, "contours", heights=True)


@route("POST", "/api/scenes/<int:scene>/lines", answer=list[ContourLine])
def read_line_file(scene):
    """Lines of a GeoJSON or SVG, in metres on this scene's plot, with or without heights; the body
    is the file.
    """
    return _lines(scene, "lines", heights=False)


def _lines(scene: int, plain: str, heights: bool) -> list[dict]:
    plot = document_of(scene).plot.model_dump(mode="json")
    data = request.get_data(cache=False)
    return read("lines", {told_name(plain): data}, plot=plot, heights=heights)
