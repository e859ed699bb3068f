"""Hands from near by: palm, four fingers and a thumb, half closed as hands at rest are."""

import numpy as np

from .figure import SKIN, grid_about, skin_at, skinned

STEP_M = 0.003
FLOWS_M = 0.002  # within which fingers flow into the palm
WRIST_M = 0.04  # radius of a wrist for which a hand's measures are told
PALM_M = 0.085  # from wrist to knuckles
ACROSS = (0.03, 0.01, -0.01, -0.029)  # of the fingers from the forefinger on, m
LONG = (0.95, 1.06, 1.0, 0.8)  # of their joints, beside those told below
JOINTS = (0.044, 22.0, 0.0086, 0.0078), (0.036, 52.0, 0.0078, 0.0064)  # m, degrees bent, radii
SPREAD = 2.2  # how far fingers part on their way, beside how far they stand from the middle
THUMB = ((0.6, 0.75, 0.25), 0.046, 0.0125, 0.0105), ((0.88, 0.38, 0.3), 0.032, 0.0105, 0.0085)


def is_hand(limb: tuple) -> bool:
    """Whether a limb of a person is a hand: bare skin aside from the middle."""
    return limb[4] == SKIN and max(abs(limb[0][0]), abs(limb[1][0])) > 0.03


def _axes(limb: tuple) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Unit ways from the wrist on, towards the thumb, and to where the fingers bend."""
    start, end = np.array(limb[0]), np.array(limb[1])
    on = (end - start) / np.linalg.norm(end - start)
    aside = max(((0, 1.0, 0), (0, 0, 1.0)), key=lambda v: np.linalg.norm(np.cross(on, v)))
    thumb = np.array(aside) - on * (on @ aside)
    thumb /= np.linalg.norm(thumb)
    bends = np.cross(on, thumb)
    inward = np.array((-np.sign(start[0]), 0, -0.3))
    return on, thumb, bends * np.sign(bends @ inward)


def hand_limbs(limb: tuple) -> list[tuple]:
    """The palm and fingers of a hand that a figure has as one limb."""
    on, thumb, bends = _axes(limb)
    size = limb[2] / WRIST_M
    wrist = np.array(limb[0])
    out = []
    for across, long in zip(ACROSS, LONG):
        knuckle = wrist + size * (PALM_M * on + across * thumb)
        foot = wrist + size * 0.55 * across * thumb
        out.append((foot, knuckle, size * 0.0155, size * 0.0125, SKIN))
        at = knuckle
        apart = SPREAD * across * thumb
        for reach, bent, first, last in JOINTS:
            a = np.deg2rad(bent)
            tip = at + size * long * reach * (np.cos(a) * on + np.sin(a) * bends + apart)
            out.append((at, tip, size * first, size * last, SKIN))
            at = tip
    at = wrist + size * (0.02 * on + 0.02 * thumb)
    for way, reach, first, last in THUMB:
        tip = at + size * reach * (way[0] * on + way[1] * thumb + way[2] * bends)
        out.append((at, tip, size * first, size * last, SKIN))
        at = tip
    return out


def hand_near(limb: tuple, share: float) -> tuple[np.ndarray, np.ndarray]:
    """Vertices and faces of a hand; coarser for a smaller share."""
    limbs = hand_limbs(limb)
    ends = np.array([[l[0], l[1]] for l in limbs])
    lo, hi = ends.min((0, 1)) - 0.03, ends.max((0, 1)) + 0.03
    step = STEP_M / np.sqrt(share)
    return skinned(skin_at(limbs, grid_about(lo, hi, step), FLOWS_M), lo, step)
