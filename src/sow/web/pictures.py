"""Small pictures that the core draws: of history and of proofs."""

import numpy as np

from ..core.air.light_of import DRAFT_ROWS
from ..core.build import COMPUTING, Build
from ..core.cache import key_of
from ..core.errors import SceneError
from ..core.formats.raster import png_bytes
from ..core.judge.glance import glance
from ..core.picture.film import graded
from ..core.picture.grade.base import GradedFrame, steps_of
from ..core.picture.order import PROOF_PASSES
from ..core.sample import heights_at
from ..core.scene import Scene
from ..core.shots.shot import Shot
from ..core.shots.sketch import from_above
from ..core.shots.standing import mix_eye, sown_from_above
from ..core.surface.relief import PAPER
from ..core.works.take_mix import with_mix
from .shapes.surveys import MixPictureOrder, ProofOrder
from .stills import proofs, renderer_there
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
    finer one; with a sowing drawn on it where one is named.
    """
    if order.followed and order.pose is not None and renderer_there():
        return followed_picture(document, order)
    index = next(
        (i for i, s in enumerate(document.planting) if s.id == order.sowing and s.on), None
    )
    if index is None:
        posts = min(document.plot.posts, 257 if order.fine else 129)
        build = Build(document, document.plot.grid(posts), WORK, Stored())
    else:
        build = draw_up(document)
    heights = build.heights
    with COMPUTING:
        if order.pose is not None:
            pose = order.pose.model_dump()
            if pose["up"] is None:
                foot = float(heights_at(heights, build.grid, pose["east"], pose["north"])[0])
                pose["up"] = foot + (order.pose.eye or 1.7)
            size = order.height_px, order.width_px
            standing = [] if index is None else [index]
            return png_bytes(_from_eye(build, pose, size, standing, shot=order.shot))
        if index is not None:
            told = order.east is not None and order.north is not None
            place = (order.east, order.north) if told else None
            ground = ground_tone(build)
            return png_bytes(sown_from_above(build, index, ground, order.width_px, place))
        tone = ground_tone(build) if order.clothed else None
        water = build.water()[0]
        return png_bytes(from_above(heights, build.grid.spacing, water, tone, order.width_px))


def followed_picture(document: Scene, order: ProofOrder) -> bytes:
    """A small picture (PNG) from a viewpoint, drawn by following the light. Raises SceneError."""
    pose = order.pose
    assert pose is not None
    known = next((s for s in document.shots if s.id == order.shot), None)
    own = Shot(id="view", name="View", focal_mm=pose.focal)
    shot = (known or own).model_copy(
        update={
            "east_m": pose.east,
            "north_m": pose.north,
            "bearing": pose.bearing % 360,
            "tilt": pose.tilt,
        }
    )
    if pose.up is not None and known is None:
        build = draw_up(document, draft=True)
        here = np.array([pose.east]), np.array([pose.north])
        foot = float(heights_at(build.heights, build.grid, *here)[0])
        shot = shot.model_copy(update={"eye_m": max(0.05, pose.up - foot)})
    elif pose.eye is not None:
        shot = shot.model_copy(update={"eye_m": pose.eye})
    return _proof(document, shot, (order.height_px, order.width_px))


def _proof(document: Scene, shot: Shot, size: tuple[int, int]) -> bytes:
    load = Stored().load
    told = document.model_dump(mode="json"), shot.model_dump()
    return png_bytes(proofs().draw(*told, size, PROOF_PASSES, load))


def mix_picture(document: Scene, order: MixPictureOrder) -> bytes:
    """A small picture (PNG) of a mix as it stands on this land, seen by a person."""
    trial = with_mix(document, order.sowings, order.marks)
    build = draw_up(trial)
    with COMPUTING:
        indices = [i for i, s in enumerate(trial.planting) if s.on]
        pose = mix_eye(build, indices)
        size = order.height_px, order.width_px
        if not (order.followed and renderer_there()):
            return png_bytes(_from_eye(build, pose, size, indices, clear=1.6))
        here = np.array([pose["east"]]), np.array([pose["north"]])
        foot = float(heights_at(build.heights, build.grid, *here)[0])
    shot = Shot(
        id="view",
        name="View",
        east_m=pose["east"],
        north_m=pose["north"],
        eye_m=max(0.05, pose["up"] - foot),
        bearing=pose["bearing"] % 360,
        tilt=pose["tilt"],
        focal_mm=pose["focal"],
    )
    return _proof(trial, shot, size)


def _from_eye(
    build: Build,
    pose: dict,
    size: tuple[int, int],
    sowings: list[int],
    clear: float = 0.0,
    shot: str = "",
) -> np.ndarray:
    """The land from an eye in the scene's light, with what is sown standing on it, through the film
    and the grade of a shot.
    """
    face = glance(build, pose, size, sowings, clear) * build.daylight(DRAFT_ROWS).exposure
    through = next((s for s in build.shots() if s.id == shot), None)
    grade = steps_of(build.scene.grade, shot, build.grade_raster)
    film, stops = (through.film, through.exposure) if through else ("aces", 0.0)
    frame = GradedFrame(size[1], size[0])
    shown = graded(face * 2.0**stops, film, grade, frame)
    return np.rint(shown * 255).astype(np.uint8)
