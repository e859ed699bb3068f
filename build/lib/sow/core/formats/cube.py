"""A shot's film and grade as a look-up table for other programs."""

import numpy as np
import PyOpenColorIO as ocio  # noqa: N813  (its own name is longer than its use)

from ..picture.film import CONFIG, SCENE, graded
from ..picture.grade.base import Graded
from ..picture.grade.tables import applied, axes_of

SIDE = 65


def cube_text(response: str, grade: list[Graded], exposure: float, title: str) -> str:
    """A .cube (65 x 65 x 65, red fastest) from ACEScct to what an sRGB screen shows: the steps that
    act pixel by pixel, with the film and an exposure in stops.
    """
    config = ocio.Config.CreateFromFile(CONFIG)
    to_light = config.getProcessor("ACEScct", SCENE).getDefaultCPUProcessor()
    light = np.maximum(applied(to_light, axes_of(SIDE)), 0).reshape(SIDE, SIDE * SIDE, 3)
    light = light * np.float32(2.0**exposure)
    shown = graded(light, response, grade).reshape(-1, 3)
    plain = "".join(c for c in title if c.isprintable() and c != '"')
    lines = [
        f'TITLE "{plain}"',
        "# from ACEScct to sRGB",
        f"LUT_3D_SIZE {SIDE}",
        "DOMAIN_MIN 0 0 0",
        "DOMAIN_MAX 1 1 1",
        *(f"{r:.6f} {g:.6f} {b:.6f}" for r, g, b in shown.tolist()),
    ]
    return "\n".join(lines) + "\n"
