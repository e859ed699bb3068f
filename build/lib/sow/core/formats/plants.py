"""Plant positions as CSV."""

from collections.abc import Iterable, Iterator
from pathlib import Path

from ..cabinet import kind_of
from ..document.text import cell
from ..planting.plants import Plants
from ..planting.sowing import Sowing
from .raster import file_name
from .rows import Column, Name, Number, text_rows

HEAD = "sowing,kind,variant,east,north,up,turn_deg,lean_deg,lean_bearing_deg,size\n"


def called(kind: str) -> str:
    """How files call a kind: its name, or for one that was brought in its label and the beginning
    of its hash.
    """
    return (
        f"{file_name(kind_of(kind).label, set())}-{kind[4:10]}" if kind.startswith("own-") else kind
    )


def table(plants: Plants) -> list[Number]:
    """East, north, up (m, to the millimetre), turn, lean and its bearing (degrees, to a hundredth),
    size as a multiple of the kind's own.
    """
    return [
        Number(plants.east, 3),
        Number(plants.north, 3),
        Number(plants.up, 3),
        Number(plants.turn, 2),
        Number(plants.lean, 2),
        Number(plants.bearing, 2),
        Number(plants.size, 4),
    ]


def _csv_rows(sowing: str, kinds: list[str], plants: Plants) -> Iterator[bytes]:
    quoted = '"' + cell(sowing).replace('"', '""') + '"'
    columns: list[Column] = [Name(plants.kind, kinds), Number(plants.variant, 0), *table(plants)]
    return text_rows([f"{quoted},", *[","] * (len(columns) - 1), "\n"], columns)


def write_csv(path: Path, sown: Iterable[tuple[Sowing, Plants]], pieces: list[dict]) -> None:
    """Writes every plant and piece, one a line, metres and degrees."""
    with open(path, "wb") as file:
        file.write(HEAD.encode())
        for sowing, plants in sown:
            file.writelines(_csv_rows(sowing.name, [called(p.kind) for p in sowing.mix], plants))
        for p in pieces:
            file.write(
                (
                    f'"by hand",{called(p["kind"])},{p["variant"]},'
                    f"{p['east_m']:.3f},{p['north_m']:.3f},{p['up_m']:.3f},"
                    f"{p['turn']:.2f},{p['lean']:.2f},{p['bearing']:.2f},{p['size'] / 100:.4f}\n"
                ).encode()
            )
