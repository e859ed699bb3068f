"""What ground textures are drawn with: clouds, stones, blades, leaves and bits, all tileable."""

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter
from scipy.spatial import cKDTree

from .kind import srgb_bytes

N = 512


def cloud(seed, size, power=1.8, octave_low=1):
    """Tileable noise with a falling spectrum, standard deviation 1."""
    rng = np.random.default_rng(seed)
    f = np.hypot(*np.meshgrid(np.fft.fftfreq(N) * N, np.fft.fftfreq(N) * N))
    with np.errstate(divide="ignore"):
        amp = np.where((f >= octave_low) & (f <= N / size * 2), f**-power, 0)
    field = np.fft.ifft2(np.fft.fft2(rng.normal(size=(N, N))) * amp).real
    return (field - field.mean()) / field.std()


def stones(seed, count, flat=0.0):
    """Cells about hashed points: (height 0..1 of each rounded stone, its number, the distance to
    its rim).
    """
    rng = np.random.default_rng(seed)
    points = rng.uniform(0, N, (count, 2))
    for _ in range(2):
        points = (points + 0.35 * _push(points)) % N
    tree = cKDTree(points, boxsize=N)
    wob = (
        np.stack([cloud(seed + 5, 8, 1.4), cloud(seed + 6, 8, 1.4)], -1) * N / np.sqrt(count) * 0.07
    )
    grid = np.stack(np.meshgrid(np.arange(N), np.arange(N), indexing="ij"), -1) + wob
    d, k = tree.query((grid % N).reshape(-1, 2), k=2, workers=-1)
    rim = ((d[:, 1] - d[:, 0]) / np.sqrt(N * N / count)).reshape(N, N)
    tilt = rng.normal(0, 1, (count, 2))
    owner = k[:, 0]
    off = ((grid.reshape(-1, 2) - points[owner] + N / 2) % N - N / 2) / np.sqrt(N * N / count)
    lean = (off * tilt[owner]).sum(1).reshape(N, N)
    dome = np.sqrt(np.clip(rim * (2.2 if flat < 0.5 else 5), 0, 1))
    return dome, owner.reshape(N, N), lean, rng.uniform(size=count)[owner].reshape(N, N)


def pebbles(seed, count, fill=1.0):
    """Rounded stones about pushed-apart points: (height 0..1 of each ellipsoid, 0 between them; a
    number 0..1 of its own).
    """
    rng = np.random.default_rng(seed)
    points = rng.uniform(0, N, (count, 2))
    for _ in range(4):
        points = (points + 0.35 * _push(points)) % N
    tree = cKDTree(points, boxsize=N)
    near = tree.query(points, k=2)[0][:, 1]
    radius = fill * 0.62 * near * rng.uniform(0.85, 1.15, count)
    turn = rng.uniform(0, np.pi, count)
    flat = rng.uniform(0.62, 0.98, count)
    wob = (
        np.stack([cloud(seed + 5, 10, 1.7, 2), cloud(seed + 6, 10, 1.7, 2)], -1)
        * N
        / np.sqrt(count)
        * 0.05
    )
    grid = (
        (np.stack(np.meshgrid(np.arange(N), np.arange(N), indexing="ij"), -1) + wob) % N
    ).reshape(-1, 2)
    _, owners = tree.query(grid, k=4, workers=-1)
    best, owner = np.zeros(N * N), owners[:, 0].copy()
    for k in range(4):
        o = owners[:, k]
        off = (grid - points[o] + N / 2) % N - N / 2
        a = (off[:, 0] * np.cos(turn[o]) + off[:, 1] * np.sin(turn[o])) / (radius[o] * 1.15)
        b = (off[:, 1] * np.cos(turn[o]) - off[:, 0] * np.sin(turn[o])) / (radius[o] * flat[o])
        dome = np.sqrt(np.clip(1 - (np.abs(a) ** 2.3 + np.abs(b) ** 2.3), 0, 1))
        better = dome > best
        best = np.where(better, dome, best)
        owner = np.where(better, o, owner)
    return best.reshape(N, N), rng.uniform(size=count)[owner].reshape(N, N)


def _push(points):
    tree = cKDTree(points, boxsize=N)
    d, k = tree.query(points, k=2)
    away = (points - points[k[:, 1]] + N / 2) % N - N / 2
    return away * np.clip(0.6 * N / np.sqrt(len(points)) / np.maximum(d[:, 1:], 1e-3) - 1, 0, 1)


def pack(colour, height, relief, rough, shade=0.8):
    """Linear colour (N, N, 3) and height in any unit to the two pictures.

    `relief` is height over width of a repeat.
    """
    height = (height - height.min()) / (height.max() - height.min())
    gx = (np.roll(height, -1, 1) - np.roll(height, 1, 1)) * N / 2 * relief
    gy = (np.roll(height, 1, 0) - np.roll(height, -1, 0)) * N / 2 * relief
    length = np.sqrt(1 + gx * gx + gy * gy)
    hollow = np.clip(0.5 + (height - gaussian_filter(height, 7, mode="wrap")) * 2.4, 0, 1)
    occlusion = 1 - shade * (1 - np.clip(hollow * 1.6, 0, 1))
    to_byte = lambda v: np.uint8(np.clip(v, 0, 1) * 255 + 0.5)
    detail = np.dstack(
        [
            to_byte(0.5 - 0.5 * gx / length),
            to_byte(0.5 - 0.5 * gy / length),
            to_byte(np.broadcast_to(rough, height.shape)),
            to_byte(occlusion),
        ]
    )
    return np.dstack([srgb_bytes(np.clip(colour, 0, 1)), to_byte(height)]), detail


def blades(seed, count, length, palette, under, width=1):
    """Short strokes laid over one another from dark to light: grass, heath litter. Gives colour and
    height.
    """
    rng = np.random.default_rng(seed)
    colour = np.empty((N, N, 3), np.float32)
    colour[:] = under
    height = np.zeros((N, N), np.float32)
    flow = cloud(seed + 3, 40) * 1.5
    palette = np.asarray(palette, np.float32)
    for i in range(count):
        level = i / count
        x, y = rng.uniform(0, N, 2)
        a = flow[int(y), int(x)] + rng.normal(0, 0.9)
        l = length * rng.uniform(0.5, 1.2)
        dx, dy = l * np.cos(a), l * np.sin(a)
        tone = palette[rng.integers(len(palette))] * rng.uniform(0.55, 1.1) * (0.32 + 0.68 * level)
        for sx in {0, N * (x + dx < 0) - N * (x + dx >= N)}:
            for sy in {0, N * (y + dy < 0) - N * (y + dy >= N)}:
                p = (int((x + sx) * 16), int((y + sy) * 16))
                q = (int((x + dx + sx) * 16), int((y + dy + sy) * 16))
                cv2.line(colour, p, q, tuple(map(float, tone)), width, cv2.LINE_AA, 4)
                cv2.line(height, p, q, 0.3 + 0.7 * level, width, cv2.LINE_AA, 4)
    return colour, height


def mottle(colour, seed, depth=0.22, size=30):
    return colour * np.clip(1 + depth * cloud(seed, size, 1.5, 2), 0.3, 2)[..., None]


def heap(seed, counts, base, spread, flat, relief, rough):
    """Stones of several sizes: small ones fill between the large."""
    height, colour = np.zeros((N, N)), np.zeros((N, N, 3))
    for i, count in enumerate(counts):
        dome, owner, lean, pick = stones(seed + 10 * i, count, flat)
        size = np.sqrt(counts[0] / count)
        here = (dome * (0.8 + 0.4 * pick) + 0.35 * lean * flat - (1 - size) * 0.18) * size + (
            1 - size
        ) * 0.35
        grain = cloud(seed + 7 + i, 2, 0.7)
        tone = np.asarray(base) * (1 + spread * (pick - 0.5) * 2)[..., None]
        tone = (
            tone
            * (1 + (pick[..., None] * 7 % 1 - 0.5) * np.array((0.2, 0.04, -0.12)))
            * np.clip(1 + 0.1 * grain, 0.6, 1.4)[..., None]
        )
        tone = tone * (0.35 + 0.65 * np.clip(dome * 1.3, 0, 1))[..., None]
        keep = (pick * 13 % 1 < 0.62) if i == 0 and len(counts) > 1 else np.ones_like(pick, bool)
        over = keep & (here > height)
        height = np.where(over, here, height)
        colour = np.where(over[..., None], tone, colour)
    return pack(colour, height, relief, rough)


def leaves(seed, count, length, palette, under):
    """Leaves laid over one another: each a blade with a midrib, one half catching more light,
    curled at its rim. Gives colour and height.
    """
    rng = np.random.default_rng(seed)
    colour = np.empty((N, N, 3), np.float32)
    colour[:] = under
    height = np.zeros((N, N), np.float32)
    palette = np.asarray(palette, np.float32)
    t = np.linspace(0, 1, 9)
    for i in range(count):
        level = i / count
        x, y = rng.uniform(0, N, 2)
        a = rng.uniform(0, 2 * np.pi)
        l = length * rng.uniform(0.55, 1.15)
        wide = l * rng.uniform(0.2, 0.34)
        bend = rng.normal(0, 0.12) * l
        rib = np.stack([t * l, bend * np.sin(np.pi * t)], 1)
        half = (
            np.sin(np.pi * t**0.85)[:, None]
            * np.array([[0, wide]])
            * (1 + 0.12 * rng.normal(size=(9, 1)))
        )
        turn = np.array([[np.cos(a), np.sin(a)], [-np.sin(a), np.cos(a)]])
        tone = palette[rng.integers(len(palette))] * rng.uniform(0.6, 1.15) * (0.4 + 0.6 * level)
        sides = [
            ((rib + half) @ turn, 1.0 + 0.22 * np.cos(a)),
            ((rib - half) @ turn, 1.0 - 0.22 * np.cos(a)),
        ]
        middle = rib @ turn
        for sx in (-N, 0, N):
            for sy in (-N, 0, N):
                o = np.array((x + sx, y + sy))
                if (o < -length * 1.3).any() or (o > N + length * 1.3).any():
                    continue
                for outline, lit in sides:
                    poly = np.int32(np.concatenate([middle, outline[::-1]]) * 16 + o * 16)
                    cv2.fillPoly(colour, [poly], tuple(map(float, tone * lit)), cv2.LINE_AA, 4)
                    cv2.fillPoly(height, [poly], 0.25 + 0.75 * level + 0.03 * lit, cv2.LINE_AA, 4)
                cv2.polylines(
                    colour,
                    [np.int32(middle * 16 + o * 16)],
                    False,
                    tuple(map(float, tone * 0.62)),
                    1,
                    cv2.LINE_AA,
                    4,
                )
    return colour, height


def bits(colour, height, seed, count, palette, lift):
    """Small pebbles and shells on smooth ground."""
    dome, pick = pebbles(seed, count, 0.7)
    here = dome * (pick * 37 % 1 < 0.14)
    tone = (
        np.asarray(palette)[(pick * 977 % len(palette)).astype(int)]
        * (0.55 + 0.45 * dome)[..., None]
    )
    on = np.clip(here * 3, 0, 1)[..., None]
    return colour * (1 - on) + tone * on, height + lift * here
