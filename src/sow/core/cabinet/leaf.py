"""Leaf pictures: sprigs and blades drawn into the left half of a kind's sheet."""
import cv2
import numpy as np

from .draw import bleed
from .kind import srgb_bytes

LEAF_BOX = (0.0, 0.0, 0.375, 0.75)  # u0, v0, u1, v1 of the sprig (384 px square)
BARK_BOX = (0.376, 0.0, 0.4995, 0.75)  # bark, 64 px wide, beside it


def _leaf(canvas, base, angle, length, breadth, colour, rng, vein=True):
    """One leaf as a filled outline with a lighter vein."""
    t = np.linspace(0, np.pi, 12)
    along = (1 - np.cos(t)) / 2 * length
    side = np.sin(t) ** 0.8 * breadth / 2
    c, s = np.cos(angle), np.sin(angle)
    left = np.c_[base[0] + along * c - side * s, base[1] + along * s + side * c]
    right = np.c_[base[0] + along * c + side * s, base[1] + along * s - side * c]
    cv2.fillPoly(canvas, [np.round(np.r_[left, right[::-1]] * 8).astype(np.int32)], tuple(map(float, colour)) + (1.0,),
                 cv2.LINE_8, 3)
    if vein:
        tip = (base[0] + length * c, base[1] + length * s)
        cv2.line(canvas, tuple(np.int32(np.array(base) * 8)), tuple(np.int32(np.array(tip) * 8)),
                 tuple(float(v) * 1.35 for v in colour) + (1.0,), 1, cv2.LINE_8, 3)


def sprig(colour, seed, leaves=26, length=64, breadth=44, pairs=False, berries=None, kept=1.0, stem=(0.07, 0.05, 0.03)) -> np.ndarray:
    """A leafy twig, uint8 sRGB (384, 384, 4). `colour` is linear; `pairs` sets leaflets in opposite pairs; where a leaf is not `kept`, its
    twig is drawn, so that a bare crown stays a crown."""
    rng = np.random.default_rng(seed)
    over = 2
    canvas = np.zeros((384 * over, 384 * over, 4), np.float32)
    stem = tuple(stem) + (1.0,)
    n = 384 * over
    for k in range(3 if not pairs else 5):
        a = -np.pi / 2 + (k - (1 if not pairs else 2)) * (0.55 if not pairs else 0.5) + rng.normal(0, 0.08)
        reach = n * (0.86 if k % 2 else 0.78) * rng.uniform(0.85, 1.05)
        base = np.array([n / 2, n * 0.98])
        tip = base + reach * np.array([np.cos(a), np.sin(a)])
        cv2.line(canvas, tuple(np.int32(base)), tuple(np.int32(tip)), stem, 5)
        for j in range(leaves):
            t = 0.16 + 0.84 * (j // 2 * 2 if pairs else j) / leaves
            p = base + (tip - base) * t
            side = 1 if j % 2 else -1
            bend = a + side * (rng.uniform(0.6, 1.2) if not pairs else 1.05)
            size = over * rng.uniform(0.75, 1.15)
            tone = np.array(colour) * rng.uniform(0.6, 1.3) * np.array([rng.uniform(0.85, 1.2), 1, rng.uniform(0.8, 1.1)])
            if hash01(k, j, seed) < kept:
                _leaf(canvas, p, bend, length * size, breadth * size, tone, rng)
            elif kept < 0.5:
                reach_ = (0.9 if pairs else 1.6) * length * size
                cv2.line(canvas, tuple(np.int32(p)), tuple(np.int32(p + reach_ * np.array([np.cos(bend), np.sin(bend)]))), stem, 4)
        if berries is not None and k % 2 == 0:
            for _ in range(22):
                p = tip + rng.normal(0, 16 * over, 2) * (1, 0.7)
                cv2.circle(canvas, tuple(np.int32(p)), 5 * over, tuple(berries) + (1.0,), -1)
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
    return np.dstack([srgb_bytes(bleed(colour, small[..., 3])), np.uint8(np.clip(small[..., 3], 0, 1) * 255)])


def bark(base, dark, seed, rings=False) -> np.ndarray:
    """Bark, uint8 (384, 62, 4): upright fissures, or the level marks of a birch."""
    rng = np.random.default_rng(seed)
    h, w = 384, 62
    grain = cv2.GaussianBlur(rng.normal(size=(h, w)), (0, 0), 1.2 if rings else 0.8,
                             sigmaY=0.8 if rings else 9)
    grain = (grain - grain.mean()) / grain.std()
    mix = np.clip(0.3 + 0.28 * grain, 0, 1)
    if rings:
        mix *= 0.45
        for _ in range(46):
            y, x, half = rng.integers(0, h), rng.integers(0, w), rng.integers(4, 22)
            cv2.ellipse(mix, (int(x), int(y)), (int(half), int(rng.integers(1, 4))), 0, 0, 360, rng.uniform(0.6, 1.0), -1)
        mix[int(h * 0.86):] = np.maximum(mix[int(h * 0.86):], np.clip(0.5 + 0.3 * grain[int(h * 0.86):], 0, 1))
    colour = np.array(base) * (1 - mix[..., None]) + np.array(dark) * mix[..., None]
    return np.dstack([srgb_bytes(colour), np.full((h, w), 255, np.uint8)])


def lay(sheet: np.ndarray, sprig_picture=None, bark_picture=None) -> np.ndarray:
    if sprig_picture is not None:
        sheet[:384, :384] = sprig_picture
    if bark_picture is not None:
        sheet[:384, 386:386 + bark_picture.shape[1]] = bark_picture
    return sheet

