"""The supplier's textures: each a picture of colour, of height 0..1 and of roughness 0..1."""

import io
from collections.abc import Callable

import numpy as np
from PIL import Image
from scipy.ndimage import gaussian_filter

Maps = tuple[np.ndarray, np.ndarray, np.ndarray]


def _noise(px: int, seed: int, *sizes: float) -> np.ndarray:
    """A tileable noise 0..1 with grain of these sizes, as parts of the picture."""
    rng = np.random.default_rng(seed)
    out = sum(
        gaussian_filter(rng.normal(size=(px, px)), s * px, mode="wrap")
        / max(gaussian_filter(rng.normal(size=(px, px)), s * px, mode="wrap").std(), 1e-9)
        for s in sizes
    )
    return (out - out.min()) / np.ptp(out)


def brick_setts(px: int) -> Maps:
    """Bricks laid in a bond."""
    y, x = np.mgrid[0:px, 0:px] / px
    fine = _noise(px, 3, 0.002, 0.006)
    rows = 16
    row = np.floor(y * rows)
    u, v = (x * 8 + 0.5 * (row % 2)) % 1, (y * rows) % 1
    edge = np.minimum(np.minimum(u, 1 - u) * 2.0, np.minimum(v, 1 - v))
    cell = (np.floor(x * 8 + 0.5 * (row % 2)) % 8) * 31 + row * 7
    tone = np.random.default_rng(8).uniform(0.75, 1.15, 600)[cell.astype(int) % 600]
    height = np.clip(edge * 9, 0, 1) ** 0.6 * (0.8 + 0.2 * tone) * (0.9 + 0.1 * fine)
    colour = np.where(
        (edge > 0.055)[..., None],
        np.array((128, 74, 56)) * (tone * (0.8 + 0.3 * fine))[..., None],
        np.array((96, 88, 76)) * (0.7 + 0.5 * fine)[..., None],
    )
    rough = 0.75 + 0.2 * fine
    return colour, height, rough


def stubble(px: int) -> Maps:
    """Cut rows of straw on earth."""
    y, x = np.mgrid[0:px, 0:px] / px
    fine = _noise(px, 3, 0.002, 0.006)
    broad = _noise(px, 4, 0.03, 0.09)
    phase = (y * 20 + 0.08 * np.sin(2 * np.pi * x * 3)) % 1
    rng = np.random.default_rng(5)
    stalk = gaussian_filter(rng.random((px, px)), px / 700, mode="wrap")
    stalk = np.clip(
        (stalk - np.quantile(stalk, 0.72)) / (stalk.max() - np.quantile(stalk, 0.72)), 0, 1
    ) * np.clip(1.4 - 5 * np.abs(phase - 0.5), 0, 1)
    straw = gaussian_filter(rng.normal(size=(px, px)), (0.7, px / 60), mode="wrap")
    straw = np.clip(straw / straw.std() - 0.6, 0, 1)
    height = np.clip(0.25 * broad + 0.5 * stalk + 0.3 * straw, 0, 1)
    mix = np.clip(stalk * 1.6 + straw, 0, 1)[..., None]
    colour = (1 - mix) * np.array((104, 82, 58)) * (0.7 + 0.5 * fine)[..., None] + mix * np.array(
        (190, 164, 104)
    )
    rough = 0.9 - 0.1 * mix[..., 0]
    return colour, height, rough


def boardwalk(px: int) -> Maps:
    """Weathered planks side by side."""
    y, _ = np.mgrid[0:px, 0:px] / px
    fine = _noise(px, 3, 0.002, 0.006)
    planks = 9
    v = (y * planks) % 1
    plank = np.floor(y * planks).astype(int)
    edge = np.minimum(v, 1 - v)
    grain = gaussian_filter(
        np.random.default_rng(6).normal(size=(px, px)), (px / 500, px / 24), mode="wrap"
    )
    grain = grain / grain.std()
    tone = np.random.default_rng(9).uniform(0.8, 1.1, planks)[plank % planks]
    height = np.clip(edge * 14, 0, 1) * (0.85 + 0.05 * grain).clip(0, 1)
    colour = (
        np.array((138, 128, 114))
        * (tone * (0.85 + 0.12 * grain) * np.clip(0.25 + edge * 14, 0, 1))[..., None]
    )
    rough = 0.7 + 0.2 * fine
    return colour, height, rough


TEXTURES: dict[str, Callable[[int], Maps]] = {
    "brick-setts": brick_setts,
    "stubble": stubble,
    "boardwalk": boardwalk,
}


def pictures(name: str, px: int) -> dict[str, bytes]:
    """The pictures of a texture set by file name: PNGs of `px` by `px`."""
    colour, height, rough = TEXTURES[name](px)
    return {
        f"{name}_colour.png": _png(colour),
        f"{name}_height.png": _png(height * 255),
        f"{name}_roughness.png": _png(np.broadcast_to(rough, height.shape) * 255),
    }


def _png(values: np.ndarray) -> bytes:
    file = io.BytesIO()
    Image.fromarray(np.clip(values, 0, 255).astype(np.uint8)).save(file, "PNG")
    return file.getvalue()
