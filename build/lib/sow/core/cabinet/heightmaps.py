"""Ready heightmaps, made by recipe: 513 x 513 posts as float32, 0 lowest to 1 highest."""

import functools

import numpy as np
from scipy.ndimage import gaussian_filter

from .. import noise
from ..errors import SceneError
from ..plot import Plot

POSTS = 513
LABELS: dict[str, str] = {}
_made: dict = {}


def recipe(label: str):
    """Registers a ready heightmap under a name and label."""

    def keep(make):
        name = make.__name__.replace("_", "-")
        LABELS[name], _made[name] = label, make
        return make

    return keep


def _grid():
    return Plot(width_m=1000, depth_m=1000, posts=POSTS).grid()


def _middle(power: float = 2.0) -> np.ndarray:
    """1 in the middle, 0 at the edges."""
    t = np.linspace(-1, 1, POSTS)
    return np.clip(1 - np.hypot(t[:, None], t[None, :]) ** power, 0, 1).astype(np.float32)


@recipe("Twin peaks")
def twin_peaks():
    """Two peaks with a saddle."""
    g = _grid()
    x, y = g.xs()[None, :], g.ys()[:, None]
    peak = lambda e, n, r: np.exp(-np.hypot(x - e, y - n) / r)
    body = np.maximum(peak(390, 560, 190), 0.86 * peak(650, 420, 170))
    return (
        body * (0.6 + 0.6 * noise.damped(g, 260, 8, 0.5, seed=5, warp_m=40))
        + 0.1 * noise.fbm(g, 300, 7, seed=3) * body
    )


@recipe("Braided plain")
def braided_plain():
    """A plain of braided channels."""
    g = _grid()
    weave = noise.ridged(
        g, 170, 3, 0.45, seed=8, warp_m=90, lay=noise.Lay(0, 0, 62, 3.2), sharp=1.8
    )
    return (
        0.55
        - 0.45 * np.clip(weave * 2.2 - 0.5, 0, 1)
        + 0.05 * noise.fbm(g, 60, 5, seed=2)
        + np.linspace(0.35, 0, POSTS)[:, None]
    )


@recipe("Broken crater")
def broken_crater():
    """A crater with a breached rim."""
    g = _grid()
    r = np.hypot(g.xs()[None, :] - 500, g.ys()[:, None] - 500) + 26 * noise.fbm(g, 190, 6, seed=4)
    rim = np.exp(-(((r - 270) / 80) ** 2)) * (0.75 + 0.35 * noise.fbm(g, 420, 3, seed=9))
    return (
        rim
        + 0.5 * np.exp(-((r / 420) ** 2))
        + 0.12 * noise.damped(g, 150, 7, seed=6) * np.clip(r / 300, 0, 1)
    )


@recipe("Long escarpment")
def long_escarpment():
    """A long escarpment."""
    g = _grid()
    line = (
        (g.ys()[:, None] - 520)
        + 90 * noise.fbm(g, 380, 6, 0.5, seed=12)
        + 0.18 * (g.xs()[None, :] - 500)
    )
    step = np.clip(line / 46 + 0.5, 0, 1)
    return (
        step * step * (3 - 2 * step) * (0.75 + line / 2600)
        + 0.1 * noise.billow(g, 170, 6, seed=7)
        + np.clip(-line / 3000, 0, 0.2)
    )


@recipe("Island chain")
def island_chain():
    """A chain of islands."""
    g = _grid()
    x, y = g.xs()[None, :], g.ys()[:, None]
    chain = sum(
        h * np.exp(-(((x - e) / w) ** 2 + ((y - n) / w) ** 2))
        for e, n, w, h in (
            (240, 700, 130, 0.8),
            (480, 540, 170, 1.0),
            (720, 360, 110, 0.7),
            (850, 230, 60, 0.4),
        )
    )
    return np.maximum(chain + 0.22 * noise.fbm(g, 260, 8, 0.52, seed=31), 0.06)


@recipe("Worn badlands")
def worn_badlands():
    """Badlands, worn."""
    g = _grid()
    return gaussian_filter(noise.damped(g, 210, 9, 0.55, seed=17, warp_m=60, sharp=0.6), 0.8) * (
        0.7 + 0.2 * noise.fbm(g, 500, 2, seed=3)
    )


@recipe("Soft downs")
def soft_downs():
    """Soft downs."""
    g = _grid()
    return noise.billow(g, 420, 4, 0.32, seed=21, warp_m=120, sharp=0.7) + 0.25 * noise.fbm(
        g, 700, 2, seed=5
    )


@recipe("Glen with a spur")
def glen_with_a_spur():
    """A glen with a spur."""
    g = _grid()
    across = (
        (g.xs()[None, :] - 500)
        + 150 * np.sin((g.ys()[:, None] - 120) / 210)
        + 30 * noise.fbm(g, 300, 4, seed=6)
    )
    u = np.clip(np.abs(across) / 400, 0, 1)
    return (
        u**1.7 * (0.8 + 0.3 * noise.damped(g, 240, 8, 0.5, seed=14))
        + np.linspace(0.2, 0, POSTS)[:, None]
    )


@functools.lru_cache(4)
def _field(name: str) -> np.ndarray:
    h = np.asarray(_made[name](), np.float32)
    h = (h - h.min()) / np.ptp(h)
    h.flags.writeable = False
    return h


def ready(name: str, path: str = "") -> np.ndarray:
    """A ready heightmap by name. Raises SceneError when there is none."""
    if name not in LABELS:
        raise SceneError(
            f"There is no ready heightmap '{name}'.", path, f"There are: {', '.join(LABELS)}."
        )
    return _field(name)
