"""What may be asked of the sandbox: one function for each sort of file, from bytes to plain values.

A reader takes the files by name and the settings that it needs, and gives numbers, texts, arrays
and bytes. It raises SceneError for what it will not read.
"""

import io
import zipfile
from collections.abc import Callable
from dataclasses import asdict, dataclass
from typing import Any

from ..core.errors import SceneError
from ..core.formats.elevation import guess_raw, read_elevation
from ..core.formats.lines import read_contours
from ..core.formats.lut import read_lut
from ..core.formats.model import read_model
from ..core.formats.ownkind import OwnKind, facts_of, made, model_glb
from ..core.formats.panorama import read_card, read_panorama
from ..core.formats.partfile import read_part
from ..core.formats.positions import read_positions
from ..core.formats.texture import read_picture, read_texture, role_of
from ..core.inward.read import read_any
from ..core.marks.zones import zones
from ..core.plot import Plot

Files = dict[str, bytes]


@dataclass(frozen=True)
class Reader:
    """A reader and the seconds that it is given, beside those for the size of what it reads."""

    call: Callable[..., Any]
    seconds: float


READERS: dict[str, Reader] = {}


def reader(seconds: float):
    """Registers a reader under its function's name."""

    def keep(call):
        READERS[call.__name__] = Reader(call, seconds)
        return call

    return keep


def _only(files: Files) -> tuple[str, bytes]:
    return next(iter(files.items()))


@reader(60)
def part(files: Files) -> dict:
    """A part of a scene: what is told of it, its picture, its document and rasters by path."""
    found = read_part(_only(files)[1])
    return {
        "told": found.told.model_dump(),
        "picture": found.picture,
        "document": found.package.document,
        "rasters": found.package.rasters,
    }


@reader(20)
def elevation(files: Files, raw: dict | None = None) -> dict:
    """A heightmap: its values, spacing and how many posts were filled."""
    name, data = _only(files)
    found = read_elevation(data, name, raw)
    return {"values": found.values, "spacing_m": found.spacing_m, "filled": found.filled}


@reader(5)
def raw_layout(files: Files) -> dict:
    """A likely layout of raw posts."""
    return guess_raw(_only(files)[1])


@reader(20)
def zone_map(files: Files, tolerance: float) -> list:
    """The zones of a picture with their masks."""
    return [asdict(z) for z in zones(_only(files)[1], tolerance)]


@reader(20)
def lines(files: Files, plot: dict, heights: bool) -> list:
    """Lines of a GeoJSON or SVG in metres on a plot."""
    name, data = _only(files)
    return read_contours(data, name, Plot.model_validate(plot), heights)


@reader(20)
def positions(files: Files, plot: dict) -> dict:
    """Places of a CSV, GeoJSON or GLB on a plot."""
    name, data = _only(files)
    found = read_positions(data, name, Plot.model_validate(plot))
    return {"names": found.names, "table": found.table, "told": found.told}


@reader(40)
def panorama(files: Files) -> dict:
    """A panorama sky: its light, and what is told of it."""
    name, data = _only(files)
    light, told = read_panorama(data, name)
    return {"light": light, "told": told}


@reader(20)
def card(files: Files) -> dict:
    """A card's picture: sRGB with cover."""
    name, data = _only(files)
    return {"sheet": read_card(data, name)}


@reader(20)
def lut(files: Files) -> dict:
    """A look-up table of colours on a lattice."""
    name, data = _only(files)
    return {"table": read_lut(data, name)}


@reader(20)
def texture(files: Files, mend: bool) -> dict:
    """A texture set from pictures by their role."""
    sheet, told, seam = read_texture(files, mend)
    return {"sheet": sheet, "told": told, "seam": seam}


@reader(20)
def texture_zip(files: Files) -> dict:
    """A texture set from a zip of pictures whose names tell their roles."""
    with zipfile.ZipFile(io.BytesIO(_only(files)[1])) as archive:
        items = archive.infolist()
        if len(items) > 16 or sum(i.file_size for i in items) > 256 << 20:
            raise SceneError("The zip holds more than a texture set.", "file", "Give its pictures.")
        pictures = {role_of(i.filename): archive.read(i) for i in items}
    return texture(pictures, False)


@reader(30)
def ground_picture(files: Files) -> dict:
    """A picture of a whole ground, its colour and, if given, its relief."""
    return {"sheet": read_picture(files["colour"], files.get("height"))}


@reader(60)
def model(files: Files, name: str) -> dict:
    """A model as one GLB with everything in it, and what the page shows of it."""
    found = read_model(files[name], name, {n: d for n, d in files.items() if n != name})
    data = model_glb(found)
    # as it will be read from the store, with its surfaces in that order
    facts = facts_of(read_model(data, "model.glb"))
    facts["told"] = found.told + facts["told"]
    return {"glb": data, "facts": facts}


@reader(120)
def kind(files: Files, settings: dict) -> dict:
    """A kept model made a kind by its settings."""
    name, data = _only(files)
    glb, told = made(read_model(data, name), OwnKind.model_validate(settings))
    return {"glb": glb, "told": told}


@reader(90)
def scene_file(files: Files, measured: bool) -> dict:
    """A scene in any form that is read: its document, its rasters by their path, and in words what
    was taken and what was not.
    """
    name, data = _only(files)
    package, found = read_any(data, name, measured)
    return {**asdict(package), "taken": found.taken, "left": found.left}
