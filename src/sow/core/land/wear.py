"""Process: wear by water, from coarse to fine."""
from typing import Literal

import numpy as np
from numba import njit

from .. import noise
from ..fields import setting
from ..sample import resample
from ..survey.drainage import flood, spread
from .base import Below, Process, processes

COARSEST = 129
STEPS = (48, 14, 7, 4, 3, 3)  # from the coarsest level to finer ones


class Wear(Process):
    kind: Literal["wear"] = "wear"
    strength: float = setting(0.6, "Strength", "", lo=0, hi=5, slider=(0, 2), step=0.01,
                              help="How far back valleys have been cut.")
    creep_m: float = setting(6, "Creep", "m", lo=0, hi=200, slider=(0, 60), help="Soil creep rounds shapes smaller than this.")
    rest_angle: float = setting(40, "Steepest slope", "°", lo=10, hi=80, help="Steeper ground slides.")
    fill: float = setting(70, "Fill of hollows", "%", lo=0, hi=100, help="How much of each hollow the washed soil fills.")
    hardness: float = setting(50, "Uneven rock", "%", lo=0, hi=100, help="How much rock hardness varies.")
    hardness_m: float = setting(250, "Rock pattern", "m", lo=1, hi=20000, slider=(20, 3000), scale="log")
    seed: int = setting(1, "Seed", "", lo=0, hi=2**31 - 1, slider=(0, 999), step=1)


@njit(cache=True, nogil=True)
def _cut(h, filled, order, area, ease, push, spacing, fill):
    """One implicit step of h_t = -K sqrt(A) S, downstream first; every lower neighbour receives a share."""
    ny, nx = h.shape
    for k in range(len(order)):
        i = order[k]
        r, c = i // nx, i % nx
        if r == 0 or c == 0 or r == ny - 1 or c == nx - 1:
            continue
        here = filled[r, c]
        if here - h[r, c] > 0.02:
            h[r, c] += fill * (here - h[r, c])
            continue
        total = 0.0
        for dr in range(-1, 2):
            for dc in range(-1, 2):
                drop = here - filled[r + dr, c + dc]
                if drop > 0:
                    total += drop / (dr * dr + dc * dc)
        if total <= 0:
            continue
        power = push * ease[r, c] * np.sqrt(area[r, c])
        top, low = np.float64(h[r, c]), 1.0
        for dr in range(-1, 2):
            for dc in range(-1, 2):
                drop = here - filled[r + dr, c + dc]
                if drop > 0 and h[r + dr, c + dc] < h[r, c]:
                    squared = dr * dr + dc * dc
                    f = power * (drop / squared / total) / (spacing * np.sqrt(squared))
                    top += f * h[r + dr, c + dc]
                    low += f
        h[r, c] = top / low


@njit(cache=True, nogil=True)
def _slide(h, spacing, tangent, rounds):
    """Move what is steeper than the angle of rest to the lower neighbour, a share at a time."""
    ny, nx = h.shape
    for _ in range(rounds):
        for r in range(1, ny - 1):
            for c in range(1, nx - 1):
                for k in range(8):
                    dr = (-1, -1, -1, 0, 0, 1, 1, 1)[k]
                    dc = (-1, 0, 1, -1, 1, -1, 0, 1)[k]
                    reach = spacing * np.sqrt(float(dr * dr + dc * dc))
                    over = h[r, c] - h[r + dr, c + dc] - tangent * reach
                    if over > 0:
                        h[r, c] -= 0.22 * over
                        h[r + dr, c + dc] += 0.22 * over


@njit(cache=True, nogil=True)
def _creep(h, amount, rounds):
    """Linear diffusion, explicit, with amount <= 0.2 a round; edges are held."""
    ny, nx = h.shape
    for _ in range(rounds):
        old = h.copy()
        for r in range(1, ny - 1):
            for c in range(1, nx - 1):
                h[r, c] += amount * (old[r - 1, c] + old[r + 1, c] + old[r, c - 1] + old[r, c + 1] - 4 * old[r, c])


def _wear(p: Wear, h: np.ndarray, ease: np.ndarray, spacing: float, steps: int, push: float, below: Below) -> np.ndarray:
    h = h.astype(np.float32, copy=True)
    share = (p.creep_m / spacing) ** 2 / 2 / steps
    rounds = int(np.ceil(share / 0.2)) if share > 1e-3 else 0
    for _ in range(steps):
        below.check()
        filled, order = flood(h)
        area = spread(filled, order, spacing)
        _cut(h, filled, order, area, ease, push / steps, spacing, p.fill / 100 * 0.5)
        if rounds:
            _creep(h, np.float32(share / rounds), min(rounds, 12))
        _slide(h, spacing, np.tan(np.deg2rad(p.rest_angle)), 1)
    return h


@processes.add(Wear)
def rework(p: Wear, below: Below) -> np.ndarray:
    """Implicit stream power with hillslope creep (after Braun & Willett, 2013), m = 0.5, n = 1.

    Water is shared among all lower neighbours (multiple flow, Freeman 1991), so that valleys do not
    keep to the grid's eight directions. The coarse level cuts the valleys; finer ones only add to them,
    so a valley keeps its course when the grid is refined. Heights in m; the edges stay.
    """
    ny, nx = below.heights.shape
    sizes = [(ny, nx)]
    while max(sizes[-1]) > 1.6 * COARSEST:
        sizes.append(tuple(max(3, (n - 1) // 2 + 1) for n in sizes[-1]))
    sizes.reverse()
    rock = noise.fbm(below.grid, p.hardness_m, 5, 0.55, seed=p.seed + 31 * below.plot.seed)
    ease = np.exp(rock * np.float32(p.hardness / 100 * 1.1))
    worn, before = None, None
    for level, size in enumerate(sizes):
        spacing = below.grid.spacing * (nx - 1) / (size[1] - 1)
        start = resample(below.heights, size)
        push = p.strength * (1.0 if level == 0 else 0.12)
        h = start if worn is None else start + resample(worn - before, size)
        worn = _wear(p, h, resample(ease, size), spacing, STEPS[min(level, len(STEPS) - 1)], push, below)
        before = start
    return worn
