"""Process: steep slopes collapse and lie as scree."""

from typing import Literal

import numpy as np
from numba import njit, prange

from ..document.fields import percent, setting
from ..document.offers import Offer
from ..sample import levels, resample
from .base import Below, Process, needs_land, processes

ROUNDS = (240, 90, 50, 36, 24, 16)  # from the coarsest level to finer ones


class Slump(Process):
    kind: Literal["slump"] = "slump"
    rest: float = setting(
        36, "Angle of rest", "°", lo=1, hi=80, slider=(15, 60), help="Steeper ground gives way."
    )
    stands: float = percent(
        "Rock that stands", 40, help="How much of the cliffs stays behind the scree."
    )
    strength: float = percent("Strength", 100)


@njit(cache=True, nogil=True, forceinline=True)
def _flow(across: np.float32, along2: np.float32, tangent: np.float32) -> np.float32:
    """Drop over a face that gives way: `across` it, with `along2` (twice the mean drop along it),
    where the two are steeper than `tangent`.
    """
    steep = np.sqrt(across * across + along2 * along2 * np.float32(0.0625))
    return across * (np.float32(1) - tangent / steep) if steep > tangent else np.float32(0)


@njit(cache=True, nogil=True, parallel=True)
def slide(h: np.ndarray, out: np.ndarray, tangent: np.float32) -> None:
    """One round: over each face between posts flows what is steeper than `tangent` (m a spacing),
    the slope taken from both directions, so that no direction is preferred; nothing is lost.
    """
    ny, nx = h.shape
    for r in prange(ny):
        rn, rs = max(r - 1, 0), min(r + 1, ny - 1)
        for c in range(nx):
            cw, ce = max(c - 1, 0), min(c + 1, nx - 1)
            here, change = h[r, c], np.float32(0)
            ns = h[rn, c] - h[rs, c]
            nse = h[rn, ce] - h[rs, ce]
            nsw = h[rn, cw] - h[rs, cw]
            we = h[r, ce] - h[r, cw]
            wen = h[rn, ce] - h[rn, cw]
            wes = h[rs, ce] - h[rs, cw]
            change += _flow(h[r, ce] - here, ns + nse, tangent)
            change += _flow(h[r, cw] - here, ns + nsw, tangent)
            change += _flow(h[rn, c] - here, we + wen, tangent)
            change += _flow(h[rs, c] - here, we + wes, tangent)
            out[r, c] = here + np.float32(0.2) * change


def collapse(h: np.ndarray, spacing: float, tangent: float, rounds: int) -> np.ndarray:
    """Slope collapse by `rounds` of flow of what is too steep (non-linear diffusion; compare
    Musgrave, Kolb & Mace 1989).
    """
    a = np.array(h, np.float32, order="C")
    b = np.empty(h.shape, np.float32)
    for _ in range(rounds):
        slide(a, b, np.float32(tangent * spacing))
        a, b = b, a
    return a


@processes.add(
    Slump,
    offers=[Offer("slump", "Slope collapse", "scree", group="Wear and weather")],
    subtitle="rests at {rest}°",
)
def rework(p: Slump, below: Below) -> np.ndarray:
    """From coarse to fine.

    What came down lies in the map "scree" (m); cliffs stay by the part that stands.
    """
    needs_land(below)
    h, grid = below.heights, below.grid
    tangent = np.tan(np.deg2rad(p.rest))
    done, before = None, None
    for level, size in enumerate(levels(h.shape)):
        below.check()
        spacing = grid.spacing * (h.shape[1] - 1) / (size[1] - 1)
        start = resample(h, size)
        now = start if done is None else start + resample(done - before, size)
        done = collapse(now, spacing, tangent, ROUNDS[min(level, len(ROUNDS) - 1)])
        before = start
    change = (done - h) * np.float32(p.strength / 100)
    scree = np.maximum(change, 0)
    below.leave("scree", scree)
    loss = np.minimum(change, 0) * np.float32(1 - p.stands / 100)
    below.leave("lowered", -loss)
    return h + scree + loss
