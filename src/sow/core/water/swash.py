"""The film of water that each wave leaves on the shore that it ran up, and that drains after it."""

import numpy as np

from ..shared import SWASH_DRAINS_S, SWASH_RISES
from .spectrum import Sea
from .surf import in_loop, run_up, sets, uneven

ROWS = 3  # of waves that are looked back on


def film_at(
    x: np.ndarray,
    y: np.ndarray,
    over_m: np.ndarray,
    sea: Sea,
    seconds: float,
    amount: float = 1.0,
) -> np.ndarray:
    """How wet places (m) over the still level of a sea shine, 0..1, at a time.

    The view does the same (web/src/view/swashShader.ts).
    """
    turn = 2 * np.pi / sea.period_s * seconds + uneven(x, y, sea.long_m) - 2 * np.pi * SWASH_RISES
    number = np.floor(turn / (2 * np.pi))
    since = (turn - 2 * np.pi * number) * sea.period_s / (2 * np.pi)
    aside = uneven(x, y, 3.7 * sea.long_m)
    film = np.zeros(np.shape(x))
    for k in range(ROWS):
        reach = run_up(sea, amount) * sets(in_loop(number - k, sea) + aside)
        film = np.maximum(
            film, (over_m < reach) * np.exp(-(since + k * sea.period_s) / SWASH_DRAINS_S)
        )
    return film
