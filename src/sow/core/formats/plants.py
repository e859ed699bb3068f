"""Plant positions as CSV."""

from collections.abc import Iterable, Iterator
from pathlib import Path

from ..cabinet import kind_of
from ..planting.plants import Plants
from ..planting.sowing import Sowing
from .raster import file_name

HEAD = "sowing,kind,variant,east,north,up,turn_deg,lean_deg,lean_bearing_deg,size\n"


def called(kind: str) -> str:
    """How files call a kind: its name, or for one that was brought in its label and the beginning
    of its hash.
    """
    return (
        f"{file_name(kind_of(kind).label, set())}-{kind[4:10]}" if kind.startswith("own-") else kind
    )


def rows(sowing: str, kinds: list[str], plants: Plants) -> Iterator[str]:
    """One line a plant: metres to the millimetre, angles to a hundredth, size as a multiple of the
    kind's own.
    """
    quoted = '"' + sowing.replace('"', '""') + '"'
    columns = (
        plants.kind,
        plants.variant,
        plants.east,
        plants.north,
        plants.up,
        plants.turn,
        plants.lean,
        plants.bearing,
        plants.size,
    )
    for start in range(0, len(plants), 65536):
        part = [c[start : start + 65536].tolist() for c in columns]
        yield "".join(
            f"{quoted},{kinds[k]},{v},{e:.3f},{n:.3f},{u:.3f},{t:.2f},{l:.2f},{b:.2f},{s:.4f}\n"
            for k, v, e, n, u, t, l, b, s in zip(*part)
        )


def write_csv(path: Path, sown: Iterable[tuple[Sowing, Plants]], pieces: list[dict]) -> None:
    """Writes every plant and piece, one a line, metres and degrees."""
    with open(path, "w", encoding="utf-8", newline="") as file:
        file.write(HEAD)
        for sowing, plants in sown:
            file.writelines(rows(sowing.name, [called(p.kind) for p in sowing.mix], plants))
        for p in pieces:
            file.write(
                f'"by hand",{called(p["kind"])},{p["variant"]},'
                f"{p['east_m']:.3f},{p['north_m']:.3f},{p['up_m']:.3f},"
                f"{p['turn']:.2f},{p['lean']:.2f},{p['bearing']:.2f},{p['size'] / 100:.4f}\n"
            )
