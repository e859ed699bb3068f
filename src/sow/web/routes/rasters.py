"""Routes: rasters kept in the store."""

from urllib.parse import unquote

from flask import request

from ...core.errors import SceneError
from ...core.formats.elevation import guess_raw, read_elevation
from ...store import rasters
from ..api import route
from ..shapes.files import RasterInfo, RawGuess
from ..working import Stored


@route("POST", "/api/rasters", answer=RasterInfo)
def new_raster():
    """Keeps a heightmap or mask; the body is the file, the header X-Name its name. Raw posts need
    ?columns=&rows=&type=&order=.
    """
    name = unquote(request.headers.get("X-Name", "heightmap"))[:200]
    raw = (
        {k: request.args.get(k) for k in ("columns", "rows", "type", "order")}
        if "columns" in request.args
        else None
    )
    if raw and not (raw["columns"].isdigit() and str(raw["rows"]).isdigit()):
        raise SceneError("Columns and rows are whole numbers.", "columns", "Give both.")
    found = read_elevation(request.get_data(cache=False), name, raw)
    row = rasters.keep(found.values, name)
    return RasterInfo(
        raster=row.hash,
        name=row.name,
        rows=row.rows,
        columns=row.columns,
        dtype=str(found.values.dtype),
        spacing_m=found.spacing_m,
        filled=found.filled,
        lowest=float(found.values.min()),
        highest=float(found.values.max()),
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
    return RawGuess(**guess_raw(request.get_data(cache=False)))
