"""What a hand-over will make, before it is made: megabytes of its files and seconds of its work."""

from .cabinet import kind_of
from .formats.gltf import MOST_GROUND_POSTS
from .formats.groundfiles import GroundFiles
from .formats.plan import MOST as MOST_SYMBOLS
from .formats.plantfiles import PlantFiles


def kind_megabytes(name: str) -> float:
    """What a kind takes, its meshes and its sheet, in the view, measured over the cabinet."""
    return 4.2 if kind_of(name.split("~")[0]).family == "tree" else 3.05


def file_megabytes(name: str) -> float:
    """What a kind's file takes, its sheet as PNG; in the scene, with one level, it takes 0.38 of
    that.
    """
    return 1.15 if kind_of(name.split("~")[0]).family == "tree" else 0.45


def files_megabytes(
    counts: list[list[int]],
    names: set[str],
    materials: int,
    posts: int,
    ground_px: int,
    ground: GroundFiles,
    plants: PlantFiles,
) -> float:
    """Megabytes of all files.

    `counts` are the plants of each kind of each sowing; `posts` those of the whole grid. Bytes a
    post, a plant and a texel are means over the sample scenes.
    """
    stand = sum(map(sum, counts))
    symbols = sum(min(n, MOST_SYMBOLS) for c in counts for n in c)
    land = posts * (2.67 + 1.43)
    weights = posts * materials * 0.27 * (1.9 if ground.bits == 16 else 1)
    picture = ground.picture_px**2 * 4.6
    textures = materials * 1.1e6 if ground.textures else 0
    scene = (
        min(posts, MOST_GROUND_POSTS**2) * 56
        + ground_px**2 * 2.83
        + stand * 40
        + sum(map(file_megabytes, names)) * 0.38e6
    )
    listed = stand * (73 + (70 if plants.json_ else 0) + (178 if plants.geojson else 0)) + (
        sum(map(file_megabytes, names)) * 1e6 if plants.kinds else 0
    )
    plan = symbols * 330 + 6e5 + posts * len(counts) * 0.16
    return (land + weights + picture + textures + scene + listed + plan) / 1e6


def files_seconds(
    land_s: float,
    counts: list[list[int]],
    posts: int,
    materials: int,
    ground_px: int,
    ground: GroundFiles,
    plants: PlantFiles,
    names: int,
) -> float:
    """Seconds of work on a machine of the pace at which the constants were measured (2 cores);
    `land_s` is what the land itself takes on the grid.
    """
    stand = sum(map(sum, counts))
    symbols = sum(min(n, MOST_SYMBOLS) for c in counts for n in c)
    return (
        land_s
        + posts * materials * 0.9e-7
        + posts * len(counts) * 2.4e-7
        + ground_px**2 * 1.6e-6
        + ground.picture_px**2 * 2.2e-6
        + stand * (6.5e-6 + (3.5e-6 if plants.json_ else 0) + (5e-6 if plants.geojson else 0))
        + symbols * 3.2e-4
        + names * (0.12 if plants.kinds else 0.05)
        + 0.6
    )
