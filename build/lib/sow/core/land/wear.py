"""Process: wear by water, from coarse to fine."""

from collections.abc import Callable
from typing import Any, Literal

import numpy as np
from numba import njit, prange
from scipy.ndimage import gaussian_filter1d

from .. import noise
from ..document.fields import length_m, percent, setting
from ..document.offers import Offer
from ..sample import levels, resample
from ..survey.drainage import around, breach, flood, rim, shares, spread
from .base import Below, Process, needs_land, processes
from .slump import slide

RIM: Any = (np.s_[0], np.s_[-1], np.s_[:, 0], np.s_[:, -1])
INNER: Any = (np.s_[1], np.s_[-2], np.s_[:, 1], np.s_[:, -2])
STEPS = (48, 16, 6, 3, 2, 2)  # from the coarsest level to finer ones
NEVER = np.float32(1e9)  # m, higher than any land
FINER = 0.2  # part of the wear that each finer level adds


class Wear(Process):
    kind: Literal["wear"] = "wear"
    strength: float = setting(
        0.6, "Strength", "", lo=0, hi=10, slider=(0, 2.5), step=0.01, help="How fast water cuts."
    )
    time: float = setting(
        1,
        "Time",
        "×",
        lo=0,
        hi=20,
        slider=(0, 5),
        step=0.05,
        help="How long all goes on: cutting, creep, rising.",
    )
    rise: float = percent(
        "Rising land",
        0,
        hi=400,
        slider=(0, 200),
        help="How much of its height the land gains while it is worn; valleys deepen and crests "
        "stay.",
    )
    fill: float = percent(
        "Soil laid", 60, help="How much washed soil comes to rest on valley floors and in hollows."
    )
    creep_m: float = setting(
        2.5,
        "Creep",
        "m",
        lo=0,
        hi=200,
        slider=(0, 60),
        help="Soil creep rounds shapes smaller than this.",
    )
    rest_angle: float = setting(
        40, "Steepest slope", "°", lo=10, hi=80, help="Steeper ground slides."
    )
    hardness: float = percent(
        "Uneven rock",
        50,
        help="How much rock hardness varies from place to place.",
        fold="Rock and rain",
    )
    hardness_m: float = length_m("Rock pattern", 250, lo=1, slider=(20, 3000), fold="Rock and rain")
    hard_up: float = percent(
        "Harder upward",
        0,
        lo=-100,
        help="Below 0 the heights are the softer rock.",
        fold="Rock and rain",
    )
    layers: float = percent(
        "Layered rock", 0, help="Hard beds among soft ones, by height.", fold="Rock and rain"
    )
    layers_m: float = length_m(
        "Layers",
        30,
        lo=0.1,
        hi=2000,
        slider=(1, 300),
        help="Thickness of a pair of beds.",
        fold="Rock and rain",
    )
    rain_up: float = percent(
        "Rain on the heights",
        0,
        lo=-100,
        help="More rain on high ground; below 0 on low ground.",
        fold="Rock and rain",
    )
    seed: int = setting(1, "Seed", "", lo=0, hi=2**31 - 1, slider=(0, 999), step=1)


@njit(cache=True, nogil=True)
def cut(
    h: np.ndarray,
    filled: np.ndarray,
    order: np.ndarray,
    area: np.ndarray,
    ease: np.ndarray,
    push: float,
    spacing: float,
    layers: float,
    layers_m: float,
) -> None:
    """One implicit step of h_t = -K sqrt(A) S, downstream first; every lower neighbour receives a
    share. Posts under a filled pit stay.
    """
    ny, nx = h.shape
    flat, full, ways, eased = h.ravel(), filled.ravel(), area.ravel(), ease.ravel()
    steps, share, outer = around(nx), np.empty(8), rim(ny, nx)
    far = spacing * np.sqrt(np.array([2.0, 1.0, 2.0, 1.0, 1.0, 2.0, 1.0, 2.0]))
    for n in range(len(order)):
        i = order[n]
        if outer[i]:
            continue
        here = flat[i]
        if full[i] - here > 0.02:
            continue
        total = shares(full, i, steps, share)
        if total <= 0:
            continue
        power = push * eased[i] * np.sqrt(ways[i])
        if layers > 0:
            bed = 0.5 + 0.5 * np.sin(6.2831853 * here / layers_m)
            power *= np.exp(-3.0 * layers * bed * bed * (3.0 - 2.0 * bed))
        for k in range(8):
            share[k] = power * (share[k] / total) / far[k]
        top, low = np.float64(here), 1.0
        for k in range(8):
            there = flat[i + steps[k]]
            f = share[k] if there < here else 0.0
            top += f * there
            low += f
        flat[i] = top / low


@njit(cache=True, nogil=True)
def settle(
    h: np.ndarray,
    before: np.ndarray,
    filled: np.ndarray,
    order: np.ndarray,
    laid: np.ndarray,
    rate: float,
    silt: float,
    spacing: float,
) -> None:
    """What was cut goes down with the water; on ground gentler than 7 degrees a part of the load
    comes to rest, and pits fill.

    `rate` is the part that rests a post on level ground, `silt` the part of a pit's depth that
    creep and still water fill in any case; `laid` gathers m.
    """
    ny, nx = h.shape
    flat, full, old, rests = h.ravel(), filled.ravel(), before.ravel(), laid.ravel()
    load = np.zeros(h.size, np.float32)
    steps, share, outer = around(nx), np.empty(8), rim(ny, nx)
    gentle = np.float32(0.12 * spacing)
    for n in range(len(order) - 1, -1, -1):
        i = order[n]
        if outer[i]:
            continue
        carried = load[i] + max(old[i] - flat[i], np.float32(0))
        here = full[i]
        if carried <= 0 and here - old[i] <= 0.02:
            continue
        total = shares(full, i, steps, share)
        if here - old[i] > 0.02:
            rest = min(max(carried, np.float32(silt) * (here - flat[i])), here - flat[i])
        else:  # not as high as the lowest neighbour upstream, so that no dam forms
            upper, lowest = NEVER, here
            for k in range(8):
                j = i + steps[k]
                lowest = min(lowest, full[j])
                upper = min(upper, flat[j] if full[j] > here else NEVER)
            level = max(np.float32(0), np.float32(1) - (here - lowest) / gentle)
            room = max(np.float32(0), (upper - flat[i]) * np.float32(0.3))
            most = room if upper < NEVER else np.float32(0)
            rest = min(np.float32(rate) * level * level * carried, most)
        flat[i] += rest
        rests[i] += rest
        carried -= rest
        if total > 0 and carried > 0:
            for k in range(8):
                share[k] = carried * (share[k] / total)
            for k in range(8):
                load[i + steps[k]] += np.float32(share[k])


@njit(cache=True, nogil=True, parallel=True)
def creep(h: np.ndarray, out: np.ndarray, amount: np.float32) -> None:
    """One round of linear diffusion (nine points, so that no direction is preferred), explicit,
    amount <= 0.2; edges are held.
    """
    ny, nx = h.shape
    for r in prange(ny):
        if r == 0 or r == ny - 1:
            out[r] = h[r]
            continue
        out[r, 0], out[r, nx - 1] = h[r, 0], h[r, nx - 1]
        for c in range(1, nx - 1):
            near = h[r - 1, c] + h[r + 1, c] + h[r, c - 1] + h[r, c + 1]
            far = h[r - 1, c - 1] + h[r - 1, c + 1] + h[r + 1, c - 1] + h[r + 1, c + 1]
            out[r, c] = h[r, c] + amount * (
                np.float32(0.66666667) * near
                + np.float32(0.16666667) * far
                - np.float32(3.3333333) * h[r, c]
            )


def run(
    h: np.ndarray,
    laid: np.ndarray,
    ease: np.ndarray,
    rain: np.ndarray | None,
    spacing: float,
    steps: int,
    push: float,
    p: Any,
    rising: np.ndarray | None,
    check: Callable[[], None] = lambda: None,
    base: float = -1e9,
) -> tuple[np.ndarray, np.ndarray]:
    """`steps` steps on one grid, heights and `laid` (float32 m) changed in place and given back.

    `rising` is m a step, or None; the edge is cut no lower than `base`.
    """
    share = (p.creep_m / spacing) ** 2 / 2 / steps * p.time
    rounds = min(int(np.ceil(share / 0.2)), 12) if share > 1e-3 else 0
    spare = np.empty_like(h)
    tangent = np.float32(np.tan(np.deg2rad(p.rest_angle)) * spacing)
    for _ in range(steps):
        check()
        rim = [h[a].copy() for a in RIM]
        inner = [h[b].copy() for b in INNER]
        if rising is not None:
            h += rising
        filled, order = flood(h)
        area = spread(filled, order, spacing, rain)
        before = h.copy()
        cut(h, filled, order, area, ease, push / steps, spacing, p.layers / 100, p.layers_m)
        if p.fill > 0:
            settle(h, before, filled, order, laid, p.fill / 100 * 0.35, p.fill / 100 * 0.4, spacing)
        for _ in range(rounds):
            creep(h, spare, np.float32(min(share / rounds, 0.2)))
            h, spare = spare, h
        for _ in range(4):
            slide(h, spare, tangent)
            h, spare = spare, h
        # the edge is cut down with the land next to it, as if valleys ran on beyond it at the slope
        # that they have there
        for a, b, outer, old in zip(RIM, INNER, rim, inner):
            up = 0 if rising is None else rising[b]
            h[a] = np.maximum(
                outer + up + np.minimum(h[b] - old - up, 0), np.minimum(outer, np.float32(base))
            )
    for a, b in zip(RIM, INNER):
        off = h[a] - h[b]
        even = gaussian_filter1d(off, 3, mode="nearest")
        h[a] = h[b] + np.where(off < 0, np.minimum(off, even), even)  # a way out stays one
    return h, laid


@processes.add(
    Wear,
    offers=[
        Offer(
            "wear",
            "Wear by water",
            "",
            first=lambda c: {
                "hardness_m": c.nice(c.reach * 0.15),
                "creep_m": c.nice(c.reach * 0.0025),
                "layers_m": c.nice(c.reach * 0.02),
            },
            group="Wear and weather",
        )
    ],
    subtitle="strength {strength}[, rising {rise} %]",
)
def rework(p: Wear, below: Below) -> np.ndarray:
    """Implicit stream power with hillslope creep (after Braun & Willett 2013), m = 0.5, n = 1, and
    settling of the load.

    Water is shared among all lower neighbours (multiple flow, Freeman 1991), so that valleys do not
    keep to the grid's eight directions. The coarse level cuts the valleys; finer ones only add to
    them, so a valley keeps its course when the grid is refined. Closed hollows are first filled in
    part and then breached. Heights in m. Leaves "lowered" and "laid".
    """
    needs_land(below)
    ny, nx = below.heights.shape
    rock = noise.fbm(below.grid, p.hardness_m, 5, 0.55, seed=below.seed(p.seed))
    low, high = below.band()
    up = (below.heights - np.float32(low)) / np.float32(max(high - low, 1e-6)) - np.float32(0.5)
    ease = np.exp(rock * np.float32(p.hardness / 100 * 1.1) - up * np.float32(p.hard_up / 100 * 4))
    rain = np.clip(1 + up * np.float32(p.rain_up / 100 * 1.9), 0.05, None) if p.rain_up else None
    before = worn = laid = below.heights
    for level, size in enumerate(levels((ny, nx))):
        spacing = below.grid.spacing * (nx - 1) / (size[1] - 1)
        start = resample(below.heights, size)
        steps = STEPS[min(level, len(STEPS) - 1)]
        part = 1.0 if level == 0 else FINER
        rising = (
            (start - np.float32(low)) * np.float32(p.rise / 100 * p.time * part / steps)
            if p.rise
            else None
        )
        h = start.copy() if level == 0 else start + resample(worn - before, size)
        if level == 0:  # closed hollows are filled by their part, then find a way out
            filled, order = flood(h)
            laid = np.maximum(filled - h, 0) * np.float32(0.8 * p.fill / 100)
            h += laid
            breach(h, filled, order)
        else:
            laid = np.maximum(resample(laid, size), 0)
        worn, laid = run(
            h,
            laid,
            resample(ease, size),
            None if rain is None else resample(rain, size),
            spacing,
            steps,
            p.strength * p.time * part,
            p,
            rising,
            below.check,
            low,
        )
        before = start
    laid = np.clip(laid, 0, np.maximum(worn - below.band()[0], 0))
    below.leave("laid", laid)
    below.leave("lowered", below.heights - worn + laid)
    return worn
