"""Routes: rasters kept in the store."""

import re

from flask import request

from ...core.errors import SceneError
from ...sandbox import read
from ...store import rasters
from ..api import route, told_name
from ..shapes.files import RasterInfo, RawGuess
from ..working import Stored

WHOLE = re.compile(r"[0-9]{1,6}")


@route("POST", "/api/rasters", answer=RasterInfo, query=("columns", "rows", "type", "order"))
def new_raster():
    """Keeps a heightmap or mask; the body is the file, the header X-Name its name. Raw posts need
    ?columns=&rows=&type=&order=.
    """
    name = told_name("heightmap")
    raw = (
        {k: request.args.get(k) for k in ("columns", "rows", "type", "order")}
        if "columns" in request.args
        else None
    )
    if raw and not (WHOLE.fullmatch(raw["columns"]) and WHOLE.fullmatch(str(raw["rows"]))):
        raise SceneError("Columns and rows are whole numbers.", "columns", "Give both.")
    found = read("elevation", {name: request.get_data(cache=False)}, raw=raw)
    values = found["values"]
    row = rasters.keep(values, name)
    return RasterInfo(
        raster=row.hash,
        name=row.name,
        rows=row.rows,
        columns=row.columns,
        dtype=str(values.dtype),
        spacing_m=found["spacing_m"],
        filled=found["filled"],
        lowest=float(values.min()),
        highest=float(values.max()),
    )


@route("GET", "/api/rasters/<name>", answer=RasterInfo)
def raster_facts(name):
    """What is known of a kept raster."""
    values = Stored().load(name)
    return RasterInfo(
        raster=name,
        name="",
        rows=values.shape[0],
        columns=values.shape[1],
        dtype=str(values.dtype),
        lowest=float(values.min()),
        highest=float(values.max()),
    )


@route("POST", "/api/raw-guesses", answer=RawGuess)
def guess_raw_layout():
    """A likely layout of a file of raw posts; columns and rows are 0 when its size fits no
    square.
    """
    return RawGuess(**read("raw_layout", {"posts": request.get_data(cache=False)}))
