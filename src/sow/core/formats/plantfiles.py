"""Plants as files: CSV, JSON, GeoJSON points, and the kinds as GLB with their levels."""

import json
from collections.abc import Callable, Iterable
from pathlib import Path

from pydantic import Field

from ..build import Build
from ..cabinet import worn
from ..document.entry import Strict
from ..planting.plants import Plants
from ..planting.sowing import Sowing
from .exporter import Grown, exporter
from .glb import kind_glb
from .plants import called, write_csv
from .raster import file_name

CHUNK = 65536


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


def _lines(sowing: str, kinds: list[str], p: Plants, line: Callable[..., str]) -> Iterable[str]:
    columns = (p.kind, p.variant, p.east, p.north, p.up, p.turn, p.lean, p.bearing, p.size)
    for start in range(0, len(p), CHUNK):
        yield from (
            line(sowing, kinds[k], v, *rest)
            for k, v, *rest in zip(*(c[start : start + CHUNK].tolist() for c in columns))
        )


def _all(
    sown: list[tuple[Sowing, Plants]], pieces: list[dict], line: Callable[..., str]
) -> Iterable[str]:
    for s, p in sown:
        yield from _lines(s.name, [called(k.kind) for k in s.mix], p, line)
    for q in pieces:
        yield line(
            "by hand",
            called(q["kind"]),
            q["variant"],
            q["east_m"],
            q["north_m"],
            q["up_m"],
            q["turn"],
            q["lean"],
            q["bearing"],
            q["size"] / 100,
        )


def _written(path: Path, head: str, lines: Iterable[str], tail: str) -> None:
    with open(path, "w", encoding="utf-8") as file:
        file.write(head)
        first = True
        for text in lines:
            file.write(text if first else ",\n" + text)
            first = False
        file.write(tail)


def write_json(path: Path, sown: list[tuple[Sowing, Plants]], pieces: list[dict]) -> None:
    """An object with `columns` and one row a plant: metres to the millimetre, degrees to a
    hundredth, size as a multiple of the kind's own.
    """
    line = lambda s, k, v, e, n, u, t, l, b, z: (
        f"[{json.dumps(s)},{json.dumps(k)},{v},{e:.3f},{n:.3f},{u:.3f},{t:.2f},{l:.2f},{b:.2f},{z:.4f}]"
    )
    _written(
        path,
        '{"columns":["sowing","kind","variant","east","north","up","turn_deg","lean_deg","lean_bearing_deg","size"],"plants":[\n',
        _all(sown, pieces, line),
        "\n]}\n",
    )


def write_geojson(path: Path, sown: list[tuple[Sowing, Plants]], pieces: list[dict]) -> None:
    """A point for each plant (RFC 7946, but in the plot's metres: east, north, up), with sowing,
    kind, turn, lean and size.
    """
    line = lambda s, k, v, e, n, u, t, l, b, z: (
        f'{{"type":"Feature","geometry":{{"type":"Point","coordinates":[{e:.3f},{n:.3f},{u:.3f}]}},'
        f'"properties":{{"sowing":{json.dumps(s)},"kind":{json.dumps(k)},"variant":{v},"turn":{t:.2f},"lean":{l:.2f},"size":{z:.4f}}}}}'
    )
    _written(path, '{"type":"FeatureCollection","features":[\n', _all(sown, pieces, line), "\n]}\n")


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
        looks = {
            tuple(n.split("~")[:2])
            for i, s in enumerate(build.scene.planting)
            if s.on
            for n in build.names(i)
        } | {(p["kind"], p["look"]) for p in pieces}
        taken: set[str] = set()
        for kind, *look in sorted({(k[0], k[1] if len(k) > 1 else "summer") for k in looks}):
            (out / "kinds").mkdir(exist_ok=True)
            found, wears = worn(f"{kind}~{look[0]}")[:2]
            worn_name = called(kind) + ("" if wears == "summer" else f" {wears}")
            path = out / "kinds" / f"{file_name(worn_name, taken)}.glb"
            path.write_bytes(kind_glb(found, wears))


@exporter("plants", "Plants", PlantFiles)
def plant_files(grown: Grown, options: PlantFiles) -> None:
    """Positions as CSV, and in the forms that are ticked."""
    write_plants(grown.out, grown.build, grown.sown, options)
