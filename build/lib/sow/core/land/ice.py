"""Process: scour by ice."""

from typing import Literal

import numpy as np
from numba import njit, prange
from scipy.ndimage import gaussian_filter

from ..document.fields import length_m, percent, setting
from ..document.offers import Offer
from ..plot import VIEW_POSTS
from ..sample import resample
from ..survey.drainage import flood, gather
from ..where import ramp
from .base import Below, Process, needs_land, processes

CLASSES = 8  # sizes of glacier, each with 2.2 times the supply of the one before


class Ice(Process):
    kind: Literal["ice"] = "ice"
    valley_m: float = length_m(
        "Valley width",
        500,
        lo=2,
        slider=(20, 4000),
        help="Of the main valleys; side valleys are narrower.",
    )
    depth_m: float = setting(
        120,
        "Deepened by",
        "m",
        lo=0,
        hi=3000,
        slider=(0, 600),
        help="The main valleys; side valleys less, so that they hang.",
    )
    ice_from: float = percent(
        "Ice above",
        35,
        help="Ice gathers on ground higher than this part of the relief, and flows down from "
        "there.",
    )
    polish: float = percent("Polish", 60, help="How far small shapes are ground off where ice lay.")


@njit(cache=True, nogil=True)
def _row(f: np.ndarray, a: float, out: np.ndarray, q: np.ndarray, z: np.ndarray) -> None:
    """Lower envelope of parabolas a (x - q)² + f(q) along a line."""
    n, k = len(f), -1
    for x in range(n):
        if f[x] > 1e8:
            continue
        while k >= 0:
            s = ((f[x] + a * x * x) - (f[q[k]] + a * q[k] * q[k])) / (2 * a * (x - q[k]))
            if s > z[k]:
                break
            k -= 1
        k += 1
        q[k] = x
        z[k] = (
            -1e30
            if k == 0
            else ((f[x] + a * x * x) - (f[q[k - 1]] + a * q[k - 1] * q[k - 1]))
            / (2 * a * (x - q[k - 1]))
        )
    if k < 0:
        out[:] = 1e9
        return
    j = 0
    for x in range(n):
        while j < k and z[j + 1] < x:
            j += 1
        out[x] = f[q[j]] + a * (x - q[j]) ** 2


@njit(cache=True, nogil=True, parallel=True)
def _rows(f: np.ndarray, a: float, out: np.ndarray) -> None:
    for r in prange(f.shape[0]):
        _row(f[r], a, out[r], np.empty(f.shape[1], np.int64), np.empty(f.shape[1] + 1))


def troughs(floor: np.ndarray, curve: float) -> np.ndarray:
    """Lowest of the parabolas of `curve` (1/m times spacing²) that stand on each post of `floor`
    (1e9: none), float64.

    The generalised distance transform of Felzenszwalb & Huttenlocher (2004): exact, so that no
    direction is preferred.
    """
    half = np.empty(floor.shape)
    _rows(np.ascontiguousarray(floor, np.float64), curve, half)
    turned = np.ascontiguousarray(half.T)
    out = np.empty(floor.shape[::-1])
    _rows(turned, curve, out)
    return out.T


@processes.add(
    Ice,
    offers=[
        Offer(
            "ice",
            "Scour by ice",
            "",
            first=lambda c: {
                "valley_m": c.nice(c.reach * 0.16),
                "depth_m": c.nice(max(1, c.span * 0.22)),
            },
            group="Wear and weather",
        )
    ],
    subtitle="valleys of {valley_m} m",
)
def rework(p: Ice, below: Below) -> np.ndarray:
    """U-shaped troughs along the ways that ice takes; crests between two troughs become sharp.

    A valley glacier's cross-section tends to a parabola (Svensson 1959; Harbor 1992). The ice's
    ways are the land's drainage with what gathers above the ice line as its supply; deepening and
    width grow with the supply, so side valleys hang above the main one. Worked out on at most 513
    posts, then carried to the grid. Leaves "lowered".
    """
    needs_land(below)
    full, grid = below.heights, below.grid
    step = max(1.0, (max(full.shape) - 1) / (VIEW_POSTS - 1))
    shape = tuple(max(3, round((n - 1) / step) + 1) for n in full.shape)
    h = resample(full, shape)
    spacing = grid.spacing * (full.shape[1] - 1) / (shape[1] - 1)
    calm = gaussian_filter(h, p.valley_m * 0.08 / spacing, mode="nearest", truncate=3)
    low, high = float(calm.min()), float(calm.max())
    line = low + (high - low) * p.ice_from / 100
    supply = ramp(
        (calm - np.float32(line)) / np.float32(max(0.06 * (high - low), 1e-3))
    ) + np.float32(1e-4)
    filled, order = flood(calm)
    below.check()
    supply = gather(filled, order, supply * np.float32(spacing * spacing))
    least = (p.valley_m * 0.24) ** 2
    grown = np.clip(np.log(np.maximum(supply, 1e-9) / least) / np.log(500.0), 0, 1)
    # ice wastes away below its line: the troughs run out
    wasted = ramp(
        (calm - np.float32(low + (line - low) * 0.25)) / np.float32(max(0.25 * (line - low), 1e-3))
    ).astype(np.float64)
    deepen = p.depth_m * (0.12 + 0.88 * grown) * wasted
    bottom = gaussian_filter(filled.astype(np.float64), max(p.valley_m * 0.05 / spacing, 0.6))
    carved = np.full(shape, 1e9)
    for k in range(CLASSES):
        below.check()
        # where the supply only just makes a glacier of this size its trough lies above the ground
        # and cuts nothing, so that none begins abruptly
        whole = np.clip(
            np.log(np.maximum(supply, 1e-9) / (least * 2.2**k)) / np.log(4.0), 0, 1
        ) * np.clip(wasted, 0, 1)
        if whole.any():
            on, calmed = (
                (whole > 0).astype(np.float64),
                max(p.valley_m * 0.06 / spacing, 1.0),
            )  # the bed is evened out along the way
            bed = np.where(on > 0, bottom - deepen * whole + 1.3 * p.depth_m * (1 - whole), 0)
            bed = np.where(
                on > 0,
                gaussian_filter(bed, calmed) / np.maximum(gaussian_filter(on, calmed), 1e-9),
                1e9,
            )
            width = p.valley_m * (0.5 + 0.8 * k / (CLASSES - 1))
            carved = np.minimum(
                carved,
                troughs(bed, 1.2 * max(p.depth_m, 1.0) / (width / 2) ** 2 * spacing * spacing),
            )
    soft = np.float32(max(0.1 * p.depth_m, 0.01))
    gap = carved.astype(np.float32) - h
    cut = np.where(
        gap > soft, 0, np.where(gap < -soft, gap, -((soft - gap) ** 2) / (4 * soft))
    ).astype(np.float32)
    cut = np.minimum(gaussian_filter(cut, max(p.valley_m * 0.015 / spacing, 0.5)), 0)
    where = np.clip(-cut / np.float32(max(0.25 * p.depth_m, 1e-3)), 0, 1)
    wide = resample(cut, full.shape)
    ground = resample(where, full.shape) * np.float32(p.polish / 100)
    detail = full - gaussian_filter(
        full, p.valley_m * 0.05 / grid.spacing, mode="nearest", truncate=2.5
    )
    below.leave("lowered", np.maximum(-wide, 0))
    return full + np.minimum(wide, 0) - detail * ground
