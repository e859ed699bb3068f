"""Survey sheet: how far east each place lies."""

import numpy as np

from sow.core.survey.sheets import sheet


@sheet("toy-east", "Toy: east", "m", "Metres east of the plot's edge.")
def east(site) -> np.ndarray:
    return np.broadcast_to(site.grid.xs().astype(np.float32), site.heights.shape)
