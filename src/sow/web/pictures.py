"""Small pictures that the core draws: of history and of proofs."""

import numpy as np

from ..core.air.light import sun_direction
from ..core.build import COMPUTING, Build
from ..core.cache import key_of
from ..core.errors import SceneError
from ..core.formats.raster import png_bytes
from ..core.sample import heights_at
from ..core.scene import Scene
from ..core.shots.sketch import from_above, from_shot
from ..core.shots.standing import sown_from_above, stand_before
from ..core.surface.relief import PAPER
from .shapes.surveys import ProofOrder
from .working import BYTES, WORK, Stored, draw_up


def history_picture(document: Scene) -> bytes:
    """A small picture (PNG) of a document from above, clothed, on the draft grid."""
    build = Build(document, document.plot.draft_grid(), WORK, Stored())

    def draw():
        try:
            with COMPUTING:
                tone, cover = ground_tone(build), build.plant_cover()
                tone = tone + cover[..., 3:] * (
                    np.clip(cover[..., :3], 0, 1) ** (1 / 2.2) * 255 - tone
                )
                return png_bytes(
                    from_above(build.heights, build.grid.spacing, build.water()[0], tone, 96)
                )
        except SceneError:  # a state that can't be built has an empty picture, not none
            return png_bytes(np.full((72, 96, 3), PAPER, np.uint8))

    return BYTES.once(key_of("history picture", build.content_key(), build.land_key), draw)


def ground_tone(build: Build) -> np.ndarray:
    """Colour of the clothed ground, 0..255 float (ny, nx, 3); paper where there are no
    materials.
    """
    shares = build.ground()
    if not len(shares):
        return np.broadcast_to(PAPER.astype(np.float32) * 0.85, build.grid.shape + (3,))
    means = np.array(build.means())
    colour = np.einsum("nyx,nc->yxc", shares, means)
    return np.clip(colour, 0, 1) ** (1 / 2.2) * 255


def proof_picture(document: Scene, order: ProofOrder) -> bytes:
    """A small picture (PNG) of the land, from above or from a viewpoint, on the draft grid or a
    finer one.
    """
    index = next(
        (i for i, s in enumerate(document.planting) if s.id == order.sowing and s.on), None
    )
    build = (
        Build(
            document,
            document.plot.grid(min(document.plot.posts, 257 if order.fine else 129)),
            WORK,
            Stored(),
        )
        if index is None
        else draw_up(document)
    )
    heights = build.heights
    with COMPUTING:
        if order.pose is None and index is not None:
            return png_bytes(
                sown_from_above(
                    build,
                    index,
                    ground_tone(build),
                    order.width_px,
                    None
                    if order.east is None or order.north is None
                    else (order.east, order.north),
                )
            )
        if order.pose is None:
            return png_bytes(
                from_above(
                    heights,
                    build.grid.spacing,
                    build.water()[0],
                    ground_tone(build) if order.clothed else None,
                    order.width_px,
                )
            )
        p = order.pose
        up = (
            p.up
            if p.up is not None
            else float(heights_at(heights, build.grid, p.east, p.north)[0]) + (p.eye or 1.7)
        )
        tone = ground_tone(build).copy()
        wet = np.isfinite(build.water()[0])
        tone[wet] = (112, 142, 160)
        drawn = np.where(wet, build.water()[0], heights)
        face = from_shot(
            drawn,
            build.grid,
            tone,
            {**p.model_dump(), "up": up},
            sun_direction(document.light),
            (order.height_px, order.width_px),
            document.light.haze_m,
        )
        return png_bytes(
            face
            if index is None
            else stand_before(
                face, build, index, {**p.model_dump(), "up": up}, document.light.haze_m
            )
        )
