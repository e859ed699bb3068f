"""Plant positions as CSV."""
from pathlib import Path
from typing import Iterable, Iterator

from ..planting.sowing import Plants, Sowing

HEAD = "sowing,kind,variant,east,north,up,turn_deg,lean_deg,lean_bearing_deg,size\n"


def rows(sowing: str, kinds: list[str], plants: Plants) -> Iterator[str]:
    """One line a plant: metres to the millimetre, angles to a hundredth, size as a multiple of the kind's own."""
    quoted = '"' + sowing.replace('"', '""') + '"'
    columns = (plants.kind, plants.variant, plants.east, plants.north, plants.up, plants.turn, plants.lean, plants.bearing, plants.size)
    for start in range(0, len(plants), 65536):
        part = [c[start:start + 65536].tolist() for c in columns]
        yield "".join(f"{quoted},{kinds[k]},{v},{e:.3f},{n:.3f},{u:.3f},{t:.2f},{l:.2f},{b:.2f},{s:.4f}\n"
                      for k, v, e, n, u, t, l, b, s in zip(*part))


def write_csv(path: Path, sown: Iterable[tuple[Sowing, Plants]], pieces: list[dict]) -> None:
    with open(path, "w", encoding="utf-8", newline="") as file:
        file.write(HEAD)
        for sowing, plants in sown:
            file.writelines(rows(sowing.name, [p.kind for p in sowing.mix], plants))
        for p in pieces:
            file.write(f'"by hand",{p["kind"]},{p["variant"]},{p["east_m"]:.3f},{p["north_m"]:.3f},{p["up_m"]:.3f},'
                       f'{p["turn"]:.2f},{p["lean"]:.2f},{p["bearing"]:.2f},{p["size"] / 100:.4f}\n')
