"""Ground of rock and stones."""

import numpy as np
from scipy.ndimage import gaussian_filter

from .ground import ground
from .strew import N, cloud, heap, pack, pebbles, stones


@ground("granite", "Granite", lies="steep")
def granite(v):
    """Bare granite with joints and lichen."""
    _, _, _, pick = stones(61 + v, 16000)
    crystal = np.where(pick < 0.2, 0.07, np.where(pick < 0.62, 0.22, 0.31))[..., None] * np.array(
        (1.0, 0.965, 0.92)
    )
    crystal = np.where(
        ((pick > 0.5) & (pick < 0.62))[..., None], np.array((0.28, 0.21, 0.17)), crystal
    )
    low = cloud(62 + v, 10, 1.7)
    crack = np.clip(1 - np.abs(cloud(63 + v, 16, 1.9, 1)) * 16, 0, 1) ** 2
    lichen = np.clip(cloud(64 + v, 5, 1.3, 3) - 1.05, 0, 1)[..., None]
    colour = crystal * np.clip(1 + 0.14 * low, 0.5, 1.5)[..., None] * (1 - 0.55 * crack[..., None])
    colour = colour * (1 - lichen) + np.array((0.25, 0.27, 0.16)) * lichen
    return pack(
        gaussian_filter(colour, (0.6, 0.6, 0), mode="wrap"),
        0.5 * low - 1.6 * crack + 0.06 * cloud(65 + v, 2, 0.6),
        0.06,
        0.78,
    )


@ground("scree", "Scree", lies="steep")
def scree(v):
    """Angular fallen stones."""
    return heap(71 + v, (150, 700, 3000), (0.21, 0.202, 0.188), 0.4, 1.0, 0.1, 0.85)


@ground("gravel", "Gravel")
def gravel(v):
    """Rounded small stones."""
    return heap(81 + v, (700, 2600, 9000), (0.3, 0.27, 0.225), 0.45, 0.0, 0.04, 0.75)


@ground(
    "cobbles",
    "River cobbles",
    tones=((1, 1, 1), (1.1, 0.97, 0.85), (0.75, 0.8, 0.86)),
    lies="shore",
)
def cobbles(v):
    """Large rounded stones."""
    sand, low = cloud(151 + v, 1.5, 0.3), cloud(152 + v, 20, 1.8)
    colour = (
        np.array((0.25, 0.21, 0.155)) * np.clip(1 + 0.14 * sand + 0.12 * low, 0.4, 1.6)[..., None]
    )
    height = 0.08 + 0.03 * low + 0.01 * sand
    rough = np.full((N, N), 0.9)
    palette = np.array(
        [
            (0.3, 0.29, 0.275),
            (0.2, 0.2, 0.205),
            (0.36, 0.31, 0.25),
            (0.26, 0.215, 0.18),
            (0.42, 0.4, 0.37),
            (0.16, 0.165, 0.175),
        ]
    )
    for k, (count, part) in enumerate(((2600, 0.6), (620, 0.62), (170, 0.66))):
        body, pick = pebbles(153 + 10 * k + v, count, 1.12)
        size = np.sqrt(170 / count)
        here = np.where((pick * 31 % 1 < part) & (body > 0), body * 0.9 * size + 0.1, 0)
        vein = np.clip(1 - np.abs(cloud(157 + k + v, 9, 1.6, 3) + 3 * (pick - 0.5)) * 9, 0, 1) * (
            pick * 17 % 1 < 0.35
        )
        tone = (
            palette[(pick * 691 % len(palette)).astype(int)]
            * (0.82 + 0.36 * (pick * 7 % 1))[..., None]
        )
        tone = (
            tone
            * np.clip(
                1 + 0.09 * cloud(161 + k + v, 2, 0.7) + 0.1 * cloud(164 + k + v, 6, 1.5, 4),
                0.5,
                1.5,
            )[..., None]
            * (0.4 + 0.6 * body**0.7)[..., None]
        )
        tone = (
            tone * (1 - 0.5 * vein[..., None])
            + 0.5
            * vein[..., None]
            * np.array((0.5, 0.48, 0.44))
            * (0.4 + 0.6 * body**0.7)[..., None]
        )
        over = here > height
        height = np.where(over, here, height)
        colour = np.where(over[..., None], tone, colour)
        rough = np.where(over, 0.5 + 0.25 * (pick * 13 % 1), rough)
    return pack(colour, height, 0.09, rough, 0.95)


@ground(
    "sandstone",
    "Layered sandstone",
    directed=True,
    tones=((1, 1, 1), (0.85, 0.95, 1.0), (1.02, 0.86, 0.74)),
    lies="steep",
)
def sandstone(v):
    """Layered sandstone."""
    rng = np.random.default_rng(171 + v)
    warp = cloud(172 + v, 30, 2.0)
    grain = cloud(173 + v, 1.5, 0.4)
    low = cloud(174 + v, 8, 1.6, 2)
    y = (np.arange(N)[:, None] + 7 * warp + 1.2 * low) % N
    beds = np.sort(rng.uniform(0, N, 26))
    at = np.searchsorted(beds, y) % 26
    hard, tone = rng.uniform(0, 1, 26), rng.uniform(-1, 1, 26)
    gap = (
        np.minimum(np.abs(y[..., None] - beds[None, None, :]).min(-1), 5) / 5
    )  # the parting between two beds
    lamina = np.sin(y * 2 * np.pi * 64 / N + 2 * warp) * 0.5 + 0.5
    joint = np.clip(1 - np.abs(cloud(175 + v, 26, 1.9, 1)) * 22, 0, 1) ** 2
    height = (
        0.55 * hard[at]
        + 0.35 * np.sqrt(gap)
        + 0.05 * lamina
        + 0.12 * low
        + 0.03 * grain
        - 0.5 * joint
    )
    colour = (
        np.array((0.36, 0.235, 0.145))
        * (1 + 0.2 * tone[at][..., None] * np.array((1, 0.9, 0.7)))
        * (0.84 + 0.16 * lamina)[..., None]
    )
    colour = (
        colour
        * np.clip(1 + 0.07 * grain + 0.1 * low, 0.5, 1.5)[..., None]
        * (0.45 + 0.55 * gap)[..., None]
        * (1 - 0.6 * joint)[..., None]
    )
    return pack(colour, height, 0.05, 0.86)
