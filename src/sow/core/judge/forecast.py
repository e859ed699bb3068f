"""What a hand-over will make, before it is made: megabytes of its files and seconds of its work."""

from dataclasses import dataclass
from typing import Any

from ..cabinet import worn
from ..cabinet.family import families
from ..errors import SceneError
from ..formats.ground_mesh import MOST_POSTS
from ..formats.plan import MOST as MOST_SYMBOLS

WALK_M_S = 1.3
POST_BYTES = 7  # of the land's files, a post of the full grid
BASE_MEGABYTES = 20
POST_SECONDS = 6e-6  # of a land of a few entries on 2 cores, a post of the full grid


@dataclass(frozen=True)
class PlotForecast:
    """What a plot costs in full before anything stands on it; a walk across takes
    `walk_minutes`.
    """

    spacing_m: float
    triangles: int
    megabytes: float
    seconds: float
    walk_minutes: float


def plot_cost(width_m: float, depth_m: float, posts: int) -> PlotForecast:
    """The cost of a plot: `posts` are those along its longer side.

    Raises SceneError when the sizes are no plot.
    """
    reach = max(width_m, depth_m)
    if min(width_m, depth_m) <= 0 or posts < 2:
        raise SceneError("A plot needs a width, a depth and posts.", "plot", "Give all three.")
    spacing = reach / (posts - 1)
    full = (width_m / spacing + 1) * (depth_m / spacing + 1)
    return PlotForecast(
        spacing,
        round(2 * full),
        full * POST_BYTES / 1e6 + BASE_MEGABYTES,
        full * POST_SECONDS,
        reach / WALK_M_S / 60,
    )


def kind_megabytes(name: str) -> float:
    """What a kind takes, its meshes and its sheet, in the view, measured over the cabinet."""
    return families[worn(name)[0].family].megabytes


def file_megabytes(name: str) -> float:
    """What a kind's file takes, its sheet as PNG; in the scene, with one level, it takes 0.38 of
    that.
    """
    return families[worn(name)[0].family].file_megabytes


def files_megabytes(
    counts: list[list[int]],
    names: set[str],
    materials: int,
    posts: int,
    options: dict[str, Any],
) -> float:
    """Megabytes of all files.

    `counts` are the plants of each kind of each sowing; `posts` those of the whole grid; `options`
    those of each exporter (`exporter.options_of`). Bytes a post, a plant and a texel are means over
    the sample scenes.
    """
    ground_px = options["scene"].ground_px
    ground, plants = options["ground"], options["plants"]
    stand = sum(map(sum, counts))
    symbols = sum(min(n, MOST_SYMBOLS) for c in counts for n in c)
    land = posts * (2.67 + 1.43)
    weights = posts * materials * 0.27 * (1.9 if ground.bits == 16 else 1)
    picture = ground.picture_px**2 * 4.6
    textures = materials * 1.1e6 if ground.textures else 0
    scene = (
        min(posts, MOST_POSTS**2) * 72
        + ground_px**2 * 2.83
        + stand * 40
        + sum(map(file_megabytes, names)) * 0.38e6
    )
    listed = stand * (73 + (70 if plants.json_ else 0) + (178 if plants.geojson else 0)) + (
        sum(map(file_megabytes, names)) * 1e6 if plants.kinds else 0
    )
    plan = symbols * 330 + 6e5 + posts * len(counts) * 0.16
    usd, tiles = options["usd"], options["tiles"]
    forms = (usd.folder + usd.package) * usd.wanted
    kinds = sum(map(file_megabytes, names)) * 0.75e6
    layers = forms * (stand * 45 + posts * 28 + usd.ground_px**2 * 1.4 + kinds + 0.6e6)
    post = 1.5 * tiles.png + 2 * tiles.raw + 2.6 * tiles.tif + 5 * tiles.whole + 10 * tiles.survey
    post += 0.34 * materials * tiles.weights
    squares = posts * post * tiles.wanted
    return (land + weights + picture + textures + scene + listed + plan + layers + squares) / 1e6


def files_seconds(
    land_s: float,
    counts: list[list[int]],
    posts: int,
    materials: int,
    options: dict[str, Any],
    names: int,
) -> float:
    """Seconds of work on a machine of the pace at which the constants were measured (2 cores);
    `land_s` is what the land itself takes on the grid.
    """
    ground_px = options["scene"].ground_px
    ground, plants = options["ground"], options["plants"]
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
        + options["usd"].wanted * (stand * 8e-6 + posts * 4e-6 + names * 0.1 + 1)
        + options["tiles"].wanted * posts * 4e-6
        + 0.6
    )
