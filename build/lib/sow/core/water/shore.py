"""The wet shore: how high the water near by stands, for the band that it keeps wet."""

import numpy as np
from scipy.ndimage import distance_transform_edt

REACH_M = 40.0  # from the water's edge
FALL = 0.02  # m that the wetness falls with each m of distance
NONE_M = -1e4


def shore_level(level: np.ndarray, spacing_m: float) -> np.ndarray:
    """Level in m of the nearest water within 40 m of each post, 2 cm lower for each metre away;
    -10,000 where no water is near. `level` is that of the water, NaN where dry; float32 (ny, nx).

    All waters count alike: seas, pools and streams, however many there are.
    """
    wet = np.isfinite(level)
    if not wet.any():
        return np.full(level.shape, NONE_M, np.float32)
    away, (rows, columns) = distance_transform_edt(~wet, sampling=spacing_m, return_indices=True)
    near = level[rows, columns] - FALL * away
    return np.where(away <= REACH_M, near, NONE_M).astype(np.float32)
