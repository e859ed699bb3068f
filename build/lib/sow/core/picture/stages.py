"""A stage that stays set up from one picture to the next, lit anew."""

import numpy as np

from ..air.light_of import Daylight
from ..build import Build
from ..cache import key_of
from ..motion.base import Moment
from .bodies import Body
from .prepared import land_of, setting_of
from .stage import Made, Stage
from .views import View


def stage_key(build: Build, view: View, moment: Moment | None = None) -> str:
    """Key of all that a stage for a view holds, but for its light."""
    scene = build.scene
    looks = [view.eye.tolist(), view.focal_px]
    if not view.around:
        looks += [view.ahead.tolist(), view.focal_mm, view.width, view.height, view.shift]
    lit_alone = {"light", "shots", "grade", "moves", "name", "budget"}
    made_of: list[object] = [
        build.keys.of_files(build.grid, lit_alone),
        [build.sowing_key(i) for i in range(len(scene.planting))],  # the sun turns some of them
        build.keys.eyes(),
        looks,
    ]
    if moment:
        pieces = {k: vars(v) for k, v in moment.pieces.items()}
        blown = [moment.blown_s, moment.wind, moment.light.wind_from] if moment.wind else []
        made_of.append([pieces, moment.waves_s if scene.water else 0.0, blown])
    return key_of("stage", made_of)


class Stages:
    """Holds the last stage."""

    def __init__(self) -> None:
        self.free()

    def free(self) -> None:
        """Lets go of the stage and all that was made for it."""
        self.key = ""
        self.stage: Stage | None = None
        self.made: Made | None = None
        self.land_key = ""
        self.land: list[Body] = []

    def of(self, build: Build, view: View, lit: Daylight, moment: Moment | None = None) -> Stage:
        """The stage for a view in a light, set up anew only where more than the light differs."""
        key = f"{stage_key(build, view, moment)} {lit.sky.shape[0]}"
        if self.stage is None or key != self.key:
            self.stage = None  # its memory is free before the next is made
            land_key = stage_key(build, view)
            if land_key != self.land_key:
                self.land = land_of(build, view)
                self.land_key = land_key
            origin = np.array([*np.round(view.eye[:2]), 0.0])
            setting = setting_of(build, view, moment, self.land)
            self.stage = Stage(setting, lit, origin, self.made)
            self.made = self.stage.made
            self.key = key
        elif self.stage.lit is not lit:
            self.stage.relit(lit)
        return self.stage
