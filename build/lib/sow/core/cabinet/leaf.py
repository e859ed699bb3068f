"""Leaf pictures: sprigs and blades drawn into the left half of a kind's sheet."""

import cv2
import numpy as np

from .draw import bleed
from .kind import srgb_bytes

LEAF_BOX = (0.0, 0.0, 0.375, 0.75)  # u0, v0, u1, v1 of the sprig (384 px square)
BARK_BOX = (0.376, 0.0, 0.4995, 0.75)  # bark, 64 px wide, beside it


def _leaf(canvas, base, angle, length, breadth, colour, lobes=0):
    """One leaf, pointed, widest below its middle, its two halves folded along the vein: one in a
    little more light than the other.
    """
    x = np.linspace(0, 1, 14 if not lobes else 30)
    half = breadth / 2 * 1.75 * x**0.62 * (1 - x) ** 0.82
    if lobes:
        half *= 0.76 + 0.3 * np.cos(2 * np.pi * (lobes * x - 0.15))
    c, s = np.cos(angle), np.sin(angle)
    spine = np.c_[base[0] + x * length * c, base[1] + x * length * s]
    for side, light in ((1, 1.12), (-1, 0.88)):
        rim = np.c_[spine[:, 0] - side * half * s, spine[:, 1] + side * half * c]
        cv2.fillPoly(
            canvas,
            [np.round(np.r_[spine, rim[::-1]] * 8).astype(np.int32)],
            tuple(float(v) * light for v in colour) + (1.0,),
            cv2.LINE_8,
            3,
        )
    cv2.line(
        canvas,
        tuple(np.int32(spine[0] * 8)),
        tuple(np.int32(spine[-2] * 8)),
        tuple(float(v) * 1.3 for v in colour) + (1.0,),
        1,
        cv2.LINE_8,
        3,
    )


def sprig(
    colour,
    seed,
    leaves=16,
    length=30,
    breadth=22,
    pairs=False,
    lobes=0,
    twigs=9,
    berries=None,
    kept=1.0,
    stem=(0.07, 0.05, 0.03),
) -> np.ndarray:
    """A leafy branch end, uint8 sRGB (384, 384, 4): a stem with side twigs, each with its `leaves`.
    `colour` is linear; `pairs` sets leaflets in opposite pairs, as of a rowan, whose twigs are then
    whole leaves; `lobes` notches each; where a leaf is not `kept`, its twig is drawn, so that a
    bare crown stays a crown. Sizes in px.
    """
    rng = np.random.default_rng(seed)
    over = 2
    n = 384 * over
    canvas = np.zeros((n, n, 4), np.float32)
    stem = tuple(stem) + (1.0,)
    spine = np.array(
        [
            [n / 2 + n * 0.05 * np.sin(2.2 * t + 0.4), n * (0.985 - 0.74 * t)]
            for t in np.linspace(0, 1, 24)
        ]
    )
    cv2.polylines(canvas, [spine.astype(np.int32)], False, stem, 6)
    shoots = [(spine[-1], -np.pi / 2 + 0.1, 0.16 * n)]
    for k in range(twigs):
        t = 0.08 + 0.86 * (k + rng.uniform(0, 0.5)) / twigs
        at = spine[int(t * 23)]
        side = 1 if k % 2 else -1
        shoots.append(
            (
                at,
                -np.pi / 2 + side * rng.uniform(0.62, 1.05) * (1.15 - 0.45 * t),
                n * (0.46 - 0.2 * t) * rng.uniform(0.85, 1.1),
            )
        )
    drawn = []
    for k, (at, a, reach) in enumerate(shoots):
        sag = rng.normal(0, 0.12)
        path = [np.array(at, float)]
        for j in range(8):
            path.append(
                path[-1] + reach / 8 * np.array([np.cos(a + sag * j / 8), np.sin(a + sag * j / 8)])
            )
        bough = np.array(path)
        cv2.polylines(canvas, [bough.astype(np.int32)], False, stem, 3)
        for j in range(leaves):
            f = (0.14 + 0.84 * (j // 2 * 2 + 1 if pairs else j + 0.5) / leaves) * 8
            i = min(int(f), 7)
            p = path[i] + (path[i + 1] - path[i]) * (f - i)
            bend = (
                a + (1 if j % 2 else -1) * (rng.uniform(0.5, 1.15) if not pairs else 1.02)
                if j < leaves - 1
                else a
            )
            size = (
                over
                * rng.uniform(0.78, 1.12)
                * (1.0 if not pairs else 1.06 - 0.3 * abs(f / 8 - 0.45))
            )
            tone = (
                np.array(colour)
                * rng.uniform(0.66, 1.28)
                * np.array([rng.uniform(0.86, 1.18), 1, rng.uniform(0.8, 1.1)])
            )
            if hash01(k, j, seed) < kept:
                drawn.append((rng.random(), p, bend, length * size, breadth * size, tone))
            elif kept < 0.5:
                end = p + 1.5 * length * size * np.array([np.cos(bend), np.sin(bend)])
                cv2.line(canvas, tuple(p.astype(int)), tuple(end.astype(int)), stem, 2)
    for _, p, bend, long_, wide, tone in sorted(drawn, key=lambda d: d[0]):
        _leaf(canvas, p, bend, long_, wide, tone, lobes)
    if berries is not None:
        for at, a, reach in shoots[:6:2]:
            tip = np.array(at) + reach * 0.72 * np.array([np.cos(a), np.sin(a)])
            for _ in range(26):
                p = tip + rng.normal(0, 13 * over, 2) * (1.1, 0.8)
                cv2.circle(
                    canvas,
                    tuple(p.astype(int)),
                    4 * over,
                    tuple(v * rng.uniform(0.7, 1.15) for v in berries) + (1.0,),
                    -1,
                )
    return finish(canvas, over)


def hash01(*numbers: int) -> float:
    """A number 0..1 for a leaf, the same in every look."""
    value = 0
    for n in numbers:
        value = (value * 1000003 + n * 7919 + 12345) % 2147483647
    return (value * 48271 % 2147483647) / 2147483647


def finish(canvas: np.ndarray, over: int) -> np.ndarray:
    """Shrinks a linear float picture and gives it bytes, colour spread under the clear parts."""
    n = canvas.shape[0] // over, canvas.shape[1] // over
    small = canvas.reshape(n[0], over, n[1], over, 4).mean((1, 3))
    colour = small[..., :3] / np.maximum(small[..., 3:], 1e-6)
    return np.dstack(
        [srgb_bytes(bleed(colour, small[..., 3])), np.uint8(np.clip(small[..., 3], 0, 1) * 255)]
    )


def bark(base, dark, seed, rings=False) -> np.ndarray:
    """Bark, uint8 (384, 62, 4): upright fissures, or the level marks of a birch."""
    rng = np.random.default_rng(seed)
    h, w = 384, 62
    grain = cv2.GaussianBlur(
        rng.normal(size=(h, w)), (0, 0), 1.2 if rings else 0.8, sigmaY=0.8 if rings else 9
    )
    grain = (grain - grain.mean()) / grain.std()
    mix = np.clip(0.3 + 0.28 * grain, 0, 1)
    if rings:
        mix *= 0.45
        for _ in range(46):
            y = rng.integers(0, h)
            x = rng.integers(0, w)
            half = rng.integers(4, 22)
            cv2.ellipse(
                mix,
                (int(x), int(y)),
                (int(half), int(rng.integers(1, 4))),
                0,
                0,
                360,
                rng.uniform(0.6, 1.0),
                -1,
            )
        mix[int(h * 0.86) :] = np.maximum(
            mix[int(h * 0.86) :], np.clip(0.5 + 0.3 * grain[int(h * 0.86) :], 0, 1)
        )
    colour = np.array(base) * (1 - mix[..., None]) + np.array(dark) * mix[..., None]
    return np.dstack([srgb_bytes(colour), np.full((h, w), 255, np.uint8)])


def lay(sheet: np.ndarray, sprig_picture=None, bark_picture=None) -> np.ndarray:
    """Lays a cut-out of the sheet as cards: corners from centres, sides and normals."""
    if sprig_picture is not None:
        sheet[:384, :384] = sprig_picture
    if bark_picture is not None:
        sheet[:384, 386 : 386 + bark_picture.shape[1]] = bark_picture
    return sheet


def needles(seed, needle, number):
    """Upright shoots thick with short leaves, in white to be tinted: uint8 (384, 384, 4)."""
    rng = np.random.default_rng(seed)
    n = 768
    canvas = np.zeros((n, n, 4), np.float32)
    for _k in range(9):
        x0 = n * rng.uniform(0.35, 0.65)
        x1 = n * rng.uniform(0.06, 0.94)
        y1 = n * rng.uniform(0.02, 0.3)
        cv2.line(canvas, (int(x0), n - 2), (int(x1), int(y1)), (0.35, 0.28, 0.22, 1), 6)
        for _j in range(number):
            t = rng.uniform(0.12, 1) ** 0.8
            x, y = x0 + (x1 - x0) * t, n - (n - y1) * t
            a, l = rng.uniform(0, 2 * np.pi), needle * rng.uniform(0.5, 1.1)
            tone = rng.uniform(0.45, 1.15) * (0.55 + 0.45 * t)
            cv2.line(
                canvas,
                (int(x), int(y)),
                (int(x + l * np.cos(a)), int(y + l * np.sin(a))),
                (tone, tone, tone, 1),
                6,
            )
    return finish(canvas, 2)
