"""Small pictures by the same renderer: a stage that stays set up, lit and graded anew."""

from collections import OrderedDict

import numpy as np

from ..air.light_of import DRAFT_ROWS
from ..build import Build
from ..cache import key_of
from ..hashing import name_seed
from ..shots.shot import Shot
from .airlight import Air
from .clean import cleaned
from .film import graded
from .grade.base import GradedFrame, steps_of
from .order import PROOF_PASSES
from .prepared import view_of
from .stages import Stages, stage_key
from .under import under_of
from .views import View

MOST_LIGHTS = 24  # whose pictures are kept without their grade


class Proofs:
    """Draws small pictures of scenes one after another; what they share is set up once."""

    def __init__(self) -> None:
        self.stages = Stages()
        self.lights: OrderedDict[str, np.ndarray] = OrderedDict()
        self.seen: tuple[str, View] | None = None  # the last view, by the key of its stage

    def light(self, build: Build, shot: Shot, size: tuple[int, int], passes: int) -> tuple:
        """The light of a small picture of (rows, columns) from a shot, without noise, and the
        daylight that it was drawn in.
        """
        view = view_of(build, shot, size[1], size[0])
        lit = build.daylight(DRAFT_ROWS)
        key = stage_key(build, view)
        told = build.scene.light.model_dump(exclude={"exposure", "white_k"})
        lit_key = key_of(key, told, passes)
        if lit_key not in self.lights:
            if self.seen is None or self.seen[0] != key:
                self.seen = key, view
            view = self.seen[1]
            stage = self.stages.of(build, view, lit)
            under = under_of(build, view.eye, lit, 0.0)
            air = Air(lit, build.in_air().mists, view.eye, under=under)
            rays = view.rays()
            total = np.zeros((*size, 3), np.float32)
            for k in range(passes):
                light, depth = stage.passed(view, k)
                total += air.over(light, depth, rays)
            self.lights[lit_key] = cleaned(total / passes)
            while len(self.lights) > MOST_LIGHTS:
                self.lights.popitem(last=False)
        return self.lights[lit_key], lit

    def picture(
        self, build: Build, shot: Shot, size: tuple[int, int], passes: int = PROOF_PASSES
    ) -> np.ndarray:
        """A small picture of (rows, columns) from a shot, graded as it is, uint8."""
        light, lit = self.light(build, shot, size, passes)
        exposed = light * lit.exposure * 2.0**shot.exposure
        frame = GradedFrame(size[1], size[0], seed=name_seed(shot.id))
        grade = steps_of(build.scene.grade, shot.id, build.grade_raster)
        shown = graded(exposed, shot.film, grade, frame)
        return np.rint(shown * 255).astype(np.uint8)
