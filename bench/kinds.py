"""The kinds of the sample places: how long all their looks take to grow, and what each level of one
holds.
"""

import statistics
import time
from pathlib import Path

from bench.told import counted, wanted

SAMPLES = Path("samples")
LEVELS = "near", "middle", "far"


def kinds():
    """For each place the seconds in which all of its kinds' looks are grown from nothing, and the
    triangles and bytes of one plant by level: the median kind's, and the most.
    """
    from sow.core.cabinet import worn

    for file in sorted(SAMPLES.glob("*.json")):
        place = file.stem.replace("-", " ").capitalize()
        worn_here = sorted({worn(name)[:2] for name in _names(file)}, key=_told)
        looks = {kind.name: kind.looks for kind, _ in worn_here}
        began = time.perf_counter()
        made = {(kind.name, look): kind.make(look) for kind, _ in worn_here for look in kind.looks}
        count = sum(map(len, looks.values()))
        yield wanted(f"{place}: {len(looks)} kinds, {count} looks", time.perf_counter() - began, 60)
        shapes = [(kind, look, made[kind.name, kind.look(look)]) for kind, look in worn_here]
        meshes = {
            "still": [_nearest(kind, look) for kind, look, _ in shapes if kind.nearest],
            **{
                level: [
                    [row[i]] for *_, shape in shapes for row in shape.levels[:1] if i < len(row)
                ]
                for i, level in enumerate(LEVELS)
            },
        }
        for level, of in meshes.items():
            faces = [sum(len(m.faces) for m in parts) for parts in of]
            size = [sum(_bytes(m) for m in parts) for parts in of]
            yield counted(
                f"{place}, {level:6}: triangles {statistics.median(faces):,.0f} "
                f"(most {max(faces):,}), kB {statistics.median(size) / 1e3:,.0f} "
                f"(most {max(size) / 1e3:,.0f})"
            )


def _told(worn: tuple) -> tuple[str, str]:
    return worn[0].name, worn[1]


def _names(file: Path) -> set[str]:
    """What a sample's sowings and pieces are of, with their looks."""
    from sow.core.build import Build
    from sow.core.cache import Cache
    from sow.core.formats.folder import open_scene

    scene, rasters = open_scene(file)
    build = Build(scene, scene.plot.draft_grid(), Cache(), rasters)
    sown = {name for i in range(len(scene.planting)) for name in build.names(i)}
    return sown | {piece["dressed"] for piece in build.pieces()}


def _nearest(kind, look: str) -> list:
    return [part.mesh for part in kind.parts(0, look)]


def _bytes(mesh) -> int:
    arrays = (mesh.positions, mesh.normals, mesh.uv, mesh.colour, mesh.faces)
    return sum(a.nbytes for a in arrays)
