"""Products of a build as raw bytes for the page."""

import numpy as np

from ..core.build import Build
from ..core.cache import key_of
from ..core.formats.raster import png_bytes
from ..core.planting.plants import Plants
from ..core.planting.sowing import seen_colour
from ..core.shared import VARIANTS
from ..core.surface.relief import contribution, washed
from .working import product_key, raw_bytes


def weight_bytes(build: Build) -> bytes:
    """RGBA bytes, four materials a layer: (layers, ny, nx, 4)."""
    shares = build.ground()
    layers = max(1, -(-len(shares) // 4))
    out = np.zeros((layers * 4,) + build.grid.shape, np.uint8)
    out[: len(shares)] = np.rint(shares * 255)
    return raw_bytes(out.reshape(layers, 4, *build.grid.shape).transpose(0, 2, 3, 1))


def tone_bytes(build: Build) -> bytes:
    """RGBA bytes: square root of the ground's mean linear colour; alpha 0 where nothing lies."""
    shares = build.ground()
    out = np.zeros(build.grid.shape + (4,), np.uint8)
    if len(shares):
        laid = shares.sum(0)
        colour = np.einsum("nyx,nc->yxc", shares, np.array(build.means()))
        mean = colour / np.maximum(laid, 1e-6)[..., None]
        out[..., :3] = np.rint(np.sqrt(np.clip(mean, 0, 1)) * 255)
        out[..., 3] = np.where(laid > 0, 255, 0)
    return raw_bytes(out)


def cover_bytes(build: Build) -> bytes:
    """RGBA bytes: square root of linear colour, share hidden."""
    cover = build.plant_cover()
    return raw_bytes(
        np.dstack(
            [np.rint(np.sqrt(np.clip(cover[..., :3], 0, 1)) * 255), np.rint(cover[..., 3:] * 255)]
        ).astype(np.uint8)
    )


TILES = 65536  # along a side, at most


def tile_size(density_per_m2: float) -> float:
    """Tiles of some hundred plants, 8 to 128 m."""
    return float(
        np.clip(2.0 ** np.round(np.log2(np.sqrt(300 / max(density_per_m2, 1e-6)))), 8, 128)
    )


def instances_of(plants: Plants, tile_m: float) -> tuple[bytes, list[list[int]]]:
    """PLANT_FLOATS a plant (east, north, up, turn, lean, bearing, size, tint, and kind * VARIANTS +
    variant), by tile and then by rank; tiles beyond the plot to the west or south count below
    nought.
    """
    col = (plants.east // tile_m).astype(np.int64) + TILES // 2
    row = (plants.north // tile_m).astype(np.int64) + TILES // 2
    tile = row * TILES + col
    order = np.lexsort((plants.rank, tile))
    table = np.stack(
        [
            plants.east,
            plants.north,
            plants.up,
            plants.turn,
            plants.lean,
            plants.bearing,
            plants.size,
            plants.tint,
            plants.kind * float(VARIANTS) + plants.variant,
        ],
        1,
    ).astype("<f4")[order]
    sorted_tiles = tile[order]
    edges = np.flatnonzero(np.diff(sorted_tiles, prepend=-1, append=-1))
    return table.tobytes(), [
        [
            int(sorted_tiles[a] % TILES) - TILES // 2,
            int(sorted_tiles[a] // TILES) - TILES // 2,
            int(a),
            int(b),
        ]
        for a, b in zip(edges[:-1], edges[1:])
    ]


def entry_pictures(build: Build) -> dict[str, str]:
    """A small picture of what each entry alone contributes, by entry id."""
    out = {}
    scene = build.scene
    size = (52, 72)
    keys = build.land_keys()
    for i, entry in enumerate(scene.land):
        if entry.on:
            out[entry.id] = product_key(
                key_of("relief", keys[i + 1]),
                lambda: png_bytes(
                    contribution(
                        build.land_step(i).heights,
                        build.land_step(i + 1).heights,
                        build.grid.spacing,
                        size,
                    )
                ),
            )
    shares = build.ground()
    for i, m in enumerate(scene.ground):
        out[m.id] = product_key(
            key_of("wash", build.ground_key, i, build.means()[i].tolist()),
            lambda: png_bytes(washed(shares[i], build.means()[i], size)),
        )
    for i, s in enumerate(scene.planting):
        held = build.sowing_mask(i)
        held = np.ones(build.grid.shape, np.float32) if held is None else held
        colour = seen_colour(build.names(i)[max(range(len(s.mix)), key=lambda k: s.mix[k].share)])
        out[s.id] = product_key(
            key_of("sown", build.sowing_key(i), colour),
            lambda: png_bytes(washed(held, np.array(colour), size)),
        )
    return out
