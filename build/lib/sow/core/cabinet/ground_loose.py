"""Ground that wind and water lay: sand, mud, snow, ice."""

import numpy as np

from .ground import ground
from .strew import N, bits, cloud, pack, stones


@ground("sand", "Dry sand", directed=True, lies="flat")
def sand(v):
    """Sand with wind ripples."""
    grain, low = cloud(91 + v, 1.5, 0.3), cloud(92 + v, 30, 1.8)
    y = np.arange(N)[:, None] * (2 * np.pi * 14 / N) + 1.1 * low
    ripple = np.sin(y) * np.clip(0.6 + 0.4 * cloud(93 + v, 60), 0, 1)
    colour = (
        np.array((0.42, 0.34, 0.225))
        * np.clip(1 + 0.09 * grain + 0.07 * ripple + 0.06 * low, 0.5, 1.6)[..., None]
    )
    return pack(colour, ripple + 0.12 * grain + 0.4 * low, 0.012, 0.88, 0.4)


@ground("snow", "Snow", tones=((1, 1, 1), (0.94, 0.97, 1.0), (0.9, 0.87, 0.82)), lies="flat")
def snow(v):
    """Wind-packed snow."""
    low, fine = cloud(95 + v, 16, 1.9), cloud(96 + v, 1.5, 0.4)
    colour = (
        np.array((0.82, 0.85, 0.9)) * np.clip(1 + 0.03 * low + 0.02 * fine, 0.8, 1.1)[..., None]
    )
    return pack(colour, low + 0.08 * fine, 0.02, 0.5, 0.25)


@ground("mud", "Mud", lies="wet")
def mud(v):
    """Drying mud: plates between shrinkage cracks on what rises, a wet film in what lies low."""
    low = cloud(131 + v, 14, 1.9)
    mid = cloud(132 + v, 5, 1.5, 4)
    fine = cloud(133 + v, 1.5, 0.6)
    plate, _, lean, pick = stones(134 + v, 60)
    shard = stones(136 + v, 380)[0]
    dry = np.clip(0.75 + 0.6 * low, 0, 1)
    crack = np.clip(1 - 4.5 * plate, 0, 1) ** 1.5 * dry
    hair = np.clip(1 - 5 * shard, 0, 1) ** 2 * dry * np.clip(1.6 - 2 * pick, 0, 1)
    curled = np.exp(-(((plate - 0.38) / 0.16) ** 2)) * dry
    height = (
        0.5 * low
        + 0.16 * mid
        + 0.3 * curled
        + 0.22 * lean * dry
        - 1.5 * crack
        - 0.45 * hair
        + 0.05 * fine
    )
    damp = np.clip(0.5 - 0.55 * low - 0.2 * mid, 0, 1)
    colour = (
        np.array((0.155, 0.116, 0.08))
        * np.clip(1.1 - 0.6 * damp + 0.1 * fine + 0.06 * mid + 0.12 * (pick - 0.5), 0.25, 1.6)[
            ..., None
        ]
        * (1 - 0.72 * crack - 0.3 * hair)[..., None]
    )
    return pack(colour, height, 0.035, np.clip(0.88 - 0.7 * damp, 0.14, 0.9))


@ground("wet-sand", "Wet sand", directed=True, lies="shore")
def wet_sand(v):
    """Sand at the waterline."""
    grain = cloud(141 + v, 1.5, 0.3)
    low = cloud(142 + v, 30, 1.9)
    mid = cloud(143 + v, 8, 1.6, 3)
    y = np.arange(N)[:, None] * (2 * np.pi * 9 / N) + 1.6 * low
    ripple = (np.abs(np.sin(y / 2)) ** 0.7 - 0.6) * np.clip(0.3 + 0.5 * cloud(144 + v, 60), 0, 1)
    damp = np.clip(0.55 - 0.5 * ripple - 0.2 * low, 0, 1)
    colour = (
        np.array((0.235, 0.185, 0.122))
        * np.clip(1.12 - 0.35 * damp + 0.07 * grain + 0.05 * mid, 0.4, 1.5)[..., None]
    )
    colour, height = bits(
        colour,
        0.6 * ripple + 0.3 * low + 0.06 * grain,
        145 + v,
        5200,
        [(0.4, 0.37, 0.32), (0.16, 0.15, 0.14), (0.5, 0.44, 0.36)],
        0.5,
    )
    return pack(colour, height, 0.01, np.clip(0.62 - 0.45 * damp, 0.12, 0.8), 0.4)


@ground("ice", "Ice", tones=((1, 1, 1), (0.85, 0.95, 1.05), (1.1, 1.06, 1.0)), lies="flat")
def ice(v):
    """Old ice with cracks."""
    low, mid = cloud(181 + v, 24, 1.9), cloud(182 + v, 6, 1.6, 3)
    crack = (
        np.maximum(
            np.clip(1 - np.abs(cloud(183 + v, 20, 2.0, 1)) * 26, 0, 1),
            0.7 * np.clip(1 - np.abs(cloud(184 + v, 12, 1.8, 2)) * 30, 0, 1),
        )
        ** 1.5
    )
    dome, owner, lean, pick = stones(185 + v, 5000)
    bubbles = np.clip(dome * 2 - 1, 0, 1) * (pick < 0.12) * np.clip(mid, 0, 1)
    dust = np.clip(0.5 * low + 0.35 * mid - 0.2, 0, 0.75)
    deep = np.array((0.2, 0.3, 0.335)) * np.clip(1 + 0.22 * low + 0.1 * mid, 0.4, 1.6)[..., None]
    colour = (
        deep
        + (np.array((0.72, 0.8, 0.84)) - deep)
        * np.clip(0.75 * crack + 0.6 * bubbles, 0, 1)[..., None]
    )
    colour = colour + (np.array((0.8, 0.84, 0.88)) - colour) * (dust * 0.85)[..., None]
    return pack(
        colour,
        0.25 * low + 0.12 * mid + 0.5 * dust - 0.2 * crack,
        0.012,
        np.clip(0.1 + 0.55 * dust + 0.3 * crack, 0.08, 0.8),
        0.25,
    )
