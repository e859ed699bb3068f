"""How dense plants can stand at a distance, and how many candidates a wanted density needs."""

from functools import lru_cache

import numpy as np

from .candidates import settled

JAM = 0.547  # part of the plane covered by discs when no more fit

FULLEST = 0.86 * JAM  # the part aimed at, at most: beyond it candidates grow without bound

RARE = 0.0015  # density times the least distance squared under which neighbours hardly ever compete


LEVELS = np.array(
    (0.0, 0.03, 0.06, 0.125, 0.25, 0.5, 0.75, 1.0)
)  # shares of the density at which a trial is made

LONE = np.array((0.1, 0.3, 0.6, 1.0))  # and for one kind alone

STEPS = 256


@lru_cache(1)
def _kinetics():
    """Coverage against time of random sequential adsorption of discs; time is candidates per disc
    area.
    """
    x = np.linspace(0, FULLEST / JAM, 4000)
    free = (1 + 0.812 * x + 0.4258 * x**2 + 0.0716 * x**3) * (1 - x) ** 3
    dt = JAM * np.diff(x) * 0.5 * (1 / free[1:] + 1 / free[:-1])
    return x * JAM, np.concatenate([[0], np.cumsum(dt)])


def densest(apart_m, shares=(1.0,)) -> float:
    """The greatest density (1/m²) that the least distances leave room for; distances and shares per
    kind, or one for all.
    """
    apart, shares = np.broadcast_arrays(np.asarray(apart_m, float), np.asarray(shares, float))
    disc = float((np.pi * apart**2 / 4 * shares).sum() / max(shares.sum(), 1e-12))
    return np.inf if disc <= 0 else FULLEST / disc


def candidates(density, apart_m: float) -> np.ndarray:
    """Density of candidates that gives the wanted density after competition (both 1/m²), for one
    least distance.
    """
    if apart_m <= 0 or np.max(density) * apart_m**2 < RARE:
        return np.asarray(density, np.float64)
    disc = np.pi * apart_m**2 / 4
    covered, time = _kinetics()
    return np.interp(np.asarray(density) * disc, covered, time) / disc


def _ceiling(candidates_m2: float, octave: int) -> float:
    """Candidates come in doublings (`octave` 1) or in steps of four (2), so that a density that is
    lowered thins and does not sow anew.
    """
    return float(2.0 ** (octave * np.ceil(np.log2(candidates_m2) / octave)))


@lru_cache(128)
def candidate_rates(
    density: float, apart: tuple, shares: tuple, octave: int
) -> tuple[np.ndarray, float]:
    """Candidates of each kind (1/m²) at STEPS + 1 even shares of the density, float64 (STEPS + 1,
    kinds), and of all before any is thinned.

    Where neighbours hardly ever compete they are as many as the plants; else they are found on a
    small plot, by trial and correction, from the kinetics of one kind as a first guess.
    """
    even = np.linspace(0, 1, STEPS + 1)
    part = np.array(shares) / sum(shares)
    if density * max(apart) ** 2 < RARE:
        return density * even[:, None] * part, _ceiling(density * 1.03, octave)
    if len(set(apart)) == 1:
        lone = candidates(density * even, apart[0])
        full = _ceiling(float(lone[-1]) * 1.06, octave)
        return (lone * np.interp(even, LONE, _lone(next_step(density), apart[0], full)))[
            :, None
        ] * part, full
    want, wide = part * density, 2 * max(apart)
    guess = lambda share: np.multiply.outer(
        candidates(density * share, float(np.sqrt((part * np.array(apart) ** 2).sum()))), part
    )
    first = guess(1.0)
    full = _ceiling(first.sum() * 1.05, octave)
    found = []
    now = first.copy()
    for level in LEVELS[:0:-1]:
        side = np.sqrt(16000 / density / max(level, 0.1))  # as many to count where it is sparse
        for turn in range(5):
            x, y, _, kind = settled(
                now[None, :].repeat(STEPS + 1, 0), full, np.array(apart), 977, (side, side)
            )
            inner = (x > wide) & (y > wide) & (x < side - wide) & (y < side - wide)
            got = np.bincount(kind[inner], minlength=len(part)) / max((side - 2 * wide) ** 2, 1e-9)
            now = np.minimum(
                now
                * np.clip(np.where(want > 0, want * level / np.maximum(got, 1e-9), 1), 0.5, 2)
                ** (1.0 if turn < 2 else 0.7),
                40 * first,
            )
            if level == 1 and now.sum() * 1.03 > full:
                full = _ceiling(now.sum() * 1.05, octave)
        found.append(
            now / guess(level)
        )  # the correction changes little from level to level, as the guess does not
        now = found[-1] * guess(max(LEVELS[np.searchsorted(LEVELS, level) - 1], 0.01))
    mend = np.array([found[-1], *found[::-1]])
    return guess(even) * np.stack(
        [np.interp(even, LEVELS, mend[:, k]) for k in range(len(part))], 1
    ), full


@lru_cache(256)
def _lone(density: float, apart_m: float, full: float) -> np.ndarray:
    """What the kinetics must be multiplied by at each level of LONE, for one least distance: they
    assume candidates that come at random.
    """
    mend, side = np.ones(len(LONE)), float(np.sqrt(24000 / density))
    inner, factor = (side - 4 * apart_m) ** 2, 1.0
    for i in range(len(LONE) - 1, -1, -1):
        want = density * LONE[i]
        first, tried = float(candidates(want, apart_m)), []
        for _turn in range(3):  # by secants, on a log scale
            x, y, *_ = settled(
                np.full((STEPS + 1, 1), min(first * factor, full)),
                full,
                np.array([apart_m]),
                977,
                (side, side),
            )
            got = (
                (x > 2 * apart_m)
                & (y > 2 * apart_m)
                & (x < side - 2 * apart_m)
                & (y < side - 2 * apart_m)
            ).sum() / inner
            tried.append((np.log(factor), np.log(max(got, 1e-12) / want)))
            if abs(tried[-1][1]) < 0.001:
                break
            (f0, g0), (f1, g1) = (
                tried[0] if len(tried) > 1 else (tried[0][0] - 1.0, tried[0][1] - 0.7),
                tried[-1],
            )
            rise = float(np.clip((g1 - g0) / (f1 - f0), 0.15, 1.0)) if abs(f1 - f0) > 1e-6 else 0.7
            factor = float(np.exp(np.clip(f1 - g1 / rise, -1.0, 1.0)))
        mend[i] = factor = min(factor, full / first)
    return mend


def next_step(density: float) -> float:
    """The nearest of 16 steps an octave, at which trials are made and kept: a dragged density needs
    none of its own.
    """
    return float(2.0 ** (np.round(16 * np.log2(density)) / 16))
