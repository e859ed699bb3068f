"""Plants as files: CSV, JSON, GeoJSON points, and the kinds as GLB with their levels."""

import json
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
from pydantic import Field

from ..build import Build
from ..cabinet import kind_of
from ..cabinet.dressed import Dressed
from ..document.entry import Strict
from ..planting.plants import Plants
from ..planting.sowing import Sowing
from .exporter import Grown, exporter
from .kind_glb import kind_glb
from .plants import called, table, write_csv
from .preview import of_kinds, of_places
from .raster import file_name
from .rows import Column, Name, Number, text_rows


class PlantFiles(Strict):
    """What of the planting is written beside plants.csv and the scene."""

    json_: bool = Field(False, alias="json", title="Positions as JSON")
    geojson: bool = Field(
        False,
        title="Positions as GeoJSON points",
        description="In the plot's own metres, east and north.",
    )
    kinds: bool = Field(True, title="Kinds as GLB with their levels")
    model_config = {**Strict.model_config, "populate_by_name": True}


def _pieces_as_plants(pieces: list[dict]) -> tuple[list[str], Plants]:
    """Pieces placed by hand as the plants of one sowing, with the names of their kinds."""
    names = sorted({called(q["kind"]) for q in pieces})
    column = lambda key, scale=1.0: np.array([q[key] for q in pieces], np.float64) * scale
    none = np.zeros(len(pieces), np.float32)
    return names, Plants(
        kind=np.array([names.index(called(q["kind"])) for q in pieces], np.uint8),
        variant=np.array([q["variant"] for q in pieces], np.uint8),
        east=column("east_m"),
        north=column("north_m"),
        up=column("up_m"),
        turn=column("turn"),
        lean=column("lean"),
        bearing=column("bearing"),
        size=column("size", 0.01),
        tint=none,
        rank=none,
    )


def _written(
    path: Path,
    head: str,
    sown: list[tuple[Sowing, Plants]],
    pieces: list[dict],
    rows: Callable[[str, list[str], Plants], Iterator[bytes]],
    tail: str,
) -> None:
    """Rows that each begin with a comma and a new line, but for the first."""
    parts = [(s.name, [called(k.kind) for k in s.mix], p) for s, p in sown]
    parts.append(("by hand", *_pieces_as_plants(pieces)))
    with open(path, "wb") as file:
        file.write(head.encode())
        first = True
        for sowing, kinds, plants in parts:
            for text in rows(sowing, kinds, plants) if len(plants) else ():
                file.write(text[2:] if first else text)
                first = False
        file.write(tail.encode())


def _json_rows(sowing: str, kinds: list[str], plants: Plants) -> Iterator[bytes]:
    names = [json.dumps(k) for k in kinds]
    columns: list[Column] = [Name(plants.kind, names), Number(plants.variant, 0), *table(plants)]
    return text_rows([f",\n[{json.dumps(sowing)},", *[","] * (len(columns) - 1), "]"], columns)


def write_json(path: Path, sown: list[tuple[Sowing, Plants]], pieces: list[dict]) -> None:
    """An object with `columns` and one row a plant: metres to the millimetre, degrees to a
    hundredth, size as a multiple of the kind's own.
    """
    columns = [
        "sowing",
        "kind",
        "variant",
        "east",
        "north",
        "up",
        "turn_deg",
        "lean_deg",
        "lean_bearing_deg",
        "size",
    ]
    head = json.dumps({"columns": columns}, separators=(",", ":"))[:-1] + ',"plants":[\n'
    _written(path, head, sown, pieces, _json_rows, "\n]}\n")


def _point_rows(sowing: str, kinds: list[str], plants: Plants) -> Iterator[bytes]:
    names = [json.dumps(k) for k in kinds]
    east, north, up, turn, lean, _, size = table(plants)
    columns: list[Column] = [
        east,
        north,
        up,
        Name(plants.kind, names),
        Number(plants.variant, 0),
        turn,
        lean,
        size,
    ]
    texts = [
        ',\n{"type":"Feature","geometry":{"type":"Point","coordinates":[',
        ",",
        ",",
        f']}},"properties":{{"sowing":{json.dumps(sowing)},"kind":',
        ',"variant":',
        ',"turn":',
        ',"lean":',
        ',"size":',
        "}}",
    ]
    return text_rows(texts, columns)


def write_geojson(path: Path, sown: list[tuple[Sowing, Plants]], pieces: list[dict]) -> None:
    """A point for each plant (RFC 7946, but in the plot's metres: east, north, up), with sowing,
    kind, turn, lean and size.
    """
    head = '{"type":"FeatureCollection","features":[\n'
    _written(path, head, sown, pieces, _point_rows, "\n]}\n")


def write_plants(
    out: Path, build: Build, sown: list[tuple[Sowing, Plants]], options: PlantFiles
) -> None:
    """plants.csv, and as asked plants.json, plants.geojson and kinds/NAME.glb for every kind and
    look that stands in the scene.
    """
    pieces = build.pieces()
    write_csv(out / "plants.csv", sown, pieces)
    if options.json_:
        write_json(out / "plants.json", sown, pieces)
    if options.geojson:
        write_geojson(out / "plants.geojson", sown, pieces)
    if options.kinds:
        sown_kinds = {
            (dressed.kind, dressed.look)
            for i, s in enumerate(build.scene.planting)
            if s.on
            for dressed in map(Dressed.read, build.names(i))
        }
        taken: set[str] = set()
        for kind, wears in sorted(sown_kinds | {(p["kind"], p["look"]) for p in pieces}):
            (out / "kinds").mkdir(exist_ok=True)
            found = kind_of(kind)
            worn_name = called(kind) + ("" if wears == "summer" else f" {wears}")
            path = out / "kinds" / f"{file_name(worn_name, taken)}.glb"
            path.write_bytes(kind_glb(found, wears))


@exporter(
    "plants",
    "Plants",
    PlantFiles,
    of_places,
    {"json_": of_places, "geojson": of_places, "kinds": of_kinds},
)
def plant_files(grown: Grown, options: PlantFiles) -> None:
    """Positions as CSV, and in the forms that are ticked."""
    write_plants(grown.out, grown.build, grown.sown, options)
