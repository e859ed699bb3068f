"""Ground textures by recipe: tileable colour, height, normal, roughness and hollow shade.

Each recipe takes the number of its variant, which shifts its seeds and, as its own tones say, its
colours. Colour, height and roughness of one recipe come from the same fields, so that they agree.
"""

import cv2
import numpy as np
from scipy.ndimage import gaussian_filter
from scipy.spatial import cKDTree

from .kind import Ground, grounds, linear, srgb_bytes

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


def ground(
    name,
    label,
    tones=((1, 1, 1), (1.12, 1.02, 0.86), (0.8, 0.88, 0.92)),
    directed=False,
    grown=False,
    lies="",
):
    """Registers a recipe with a variant for each tone (linear multipliers of its colour)."""

    def keep(make):
        for v, tone in enumerate(tones):
            own = name if v == 0 else f"{name}-{v + 1}"
            grounds[own] = Ground(
                own,
                label if v == 0 else f"{label} {v + 1}",
                lambda v=v, tone=tone: _toned(make(1000 * v), tone),
                directed,
                name,
                grown,
                lies,
            )
        return make

    return keep


def _toned(maps, tone):
    colour, detail = maps
    if tuple(tone) == (1, 1, 1):
        return colour, detail
    return np.dstack(
        [
            srgb_bytes(np.clip(linear(colour[..., :3]) * np.asarray(tone, np.float32), 0, 1)),
            colour[..., 3],
        ]
    ), detail


def _mottle(colour, seed, depth=0.22, size=30):
    return colour * np.clip(1 + depth * cloud(seed, size, 1.5, 2), 0.3, 2)[..., None]


@ground("turf", "Turf", grown=True)
def turf(v):
    """Short grass, seen from above."""
    colour, height = blades(
        11 + v,
        14000,
        19,
        [(0.13, 0.165, 0.04), (0.17, 0.185, 0.055), (0.1, 0.14, 0.03), (0.25, 0.22, 0.09)],
        (0.03, 0.035, 0.012),
    )
    return pack(_mottle(colour, 12 + v), height, 0.035, 0.9)


@ground("mat-grass", "Mat grass", grown=True)
def mat_grass(v):
    """Coarse grass in mats."""
    colour, height = blades(
        21 + v,
        12000,
        34,
        [(0.33, 0.27, 0.12), (0.25, 0.215, 0.085), (0.18, 0.18, 0.06), (0.4, 0.33, 0.17)],
        (0.05, 0.045, 0.02),
    )
    return pack(_mottle(colour, 22 + v), height, 0.045, 0.92)


@ground("heath", "Heath", grown=True)
def heath(v):
    """Low heath."""
    colour, height = blades(
        31 + v,
        16000,
        11,
        [
            (0.13, 0.095, 0.05),
            (0.17, 0.085, 0.1),
            (0.1, 0.1, 0.04),
            (0.22, 0.11, 0.15),
            (0.07, 0.05, 0.03),
        ],
        (0.02, 0.016, 0.012),
        2,
    )
    clumps = cloud(33 + v, 40, 1.4, 4)
    return pack(
        _mottle(colour * np.clip(1 + 0.25 * clumps, 0.4, 1.6)[..., None], 32 + v),
        height + 0.5 * clumps,
        0.06,
        0.95,
    )


@ground("moss", "Bog moss", grown=True)
def moss(v):
    """Cushions of moss."""
    colour, height = blades(
        41 + v,
        26000,
        5,
        [(0.13, 0.15, 0.035), (0.17, 0.17, 0.05), (0.09, 0.12, 0.025), (0.2, 0.19, 0.08)],
        (0.03, 0.035, 0.01),
        2,
    )
    red = np.clip(cloud(42 + v, 14, 1.5, 2) - 0.7, 0, 1)[..., None] * 0.8
    humps = cloud(44 + v, 40, 1.6, 3)
    colour = colour * (1 - red) + colour * np.array((1.9, 0.62, 0.9)) * red
    return pack(
        _mottle(colour * np.clip(1 + 0.22 * humps, 0.5, 1.6)[..., None], 43 + v),
        height * 0.5 + humps,
        0.05,
        0.95,
    )


@ground("peat", "Peat")
def peat(v):
    """Wet peat with cracks."""
    low, fine = cloud(51 + v, 24, 1.5), cloud(52 + v, 2, 0.7)
    height = 0.7 * low + 0.35 * fine
    bare = np.array((0.042, 0.029, 0.02)) * np.clip(1 + 0.3 * fine + 0.3 * low, 0.3, 2.2)[..., None]
    straw, lay = blades(53 + v, 700, 15, [(0.13, 0.1, 0.06), (0.09, 0.07, 0.045)], (0, 0, 0))
    on = np.clip(lay * 3, 0, 1)[..., None] * 0.75
    return pack(
        bare * (1 - on) + straw * on, height + lay * 0.4, 0.05, np.clip(0.55 + 0.2 * low, 0.3, 0.9)
    )


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


def _heap(seed, counts, base, spread, flat, relief, rough):
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


@ground("scree", "Scree", lies="steep")
def scree(v):
    """Angular fallen stones."""
    return _heap(71 + v, (150, 700, 3000), (0.21, 0.202, 0.188), 0.4, 1.0, 0.1, 0.85)


@ground("gravel", "Gravel")
def gravel(v):
    """Rounded small stones."""
    return _heap(81 + v, (700, 2600, 9000), (0.3, 0.27, 0.225), 0.45, 0.0, 0.04, 0.75)


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


@ground("dry-grass", "Dry grass", grown=True)
def dry_grass(v):
    """Bleached grass."""
    colour, height = blades(
        101 + v,
        9000,
        46,
        [(0.5, 0.4, 0.2), (0.4, 0.32, 0.15), (0.58, 0.48, 0.27), (0.3, 0.25, 0.12)],
        (0.09, 0.07, 0.04),
    )
    fresh, lay = blades(103 + v, 1400, 18, [(0.2, 0.22, 0.07), (0.16, 0.2, 0.06)], (0, 0, 0))
    on = (lay > 0)[..., None] * np.clip(0.5 + 0.5 * cloud(104 + v, 30, 1.5, 2), 0, 1)[..., None]
    return pack(_mottle(colour * (1 - on) + fresh * on, 102 + v), height, 0.04, 0.9)


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


@ground(
    "leaf-litter", "Leaf litter", grown=True, tones=((1, 1, 1), (1.35, 0.85, 0.6), (0.7, 0.72, 0.7))
)
def leaf_litter(v):
    """Fallen leaves."""
    colour, height = leaves(
        111 + v,
        1500,
        34,
        [
            (0.24, 0.14, 0.07),
            (0.32, 0.2, 0.09),
            (0.18, 0.11, 0.065),
            (0.28, 0.19, 0.12),
            (0.4, 0.27, 0.11),
        ],
        (0.03, 0.022, 0.016),
    )
    twig, lay = blades(113 + v, 160, 40, [(0.14, 0.11, 0.085), (0.1, 0.08, 0.06)], (0, 0, 0), 2)
    on = np.clip(lay * 3, 0, 1)[..., None] * 0.9
    return pack(
        _mottle(colour * (1 - on) + twig * on, 112 + v, 0.18),
        height + 0.15 * lay,
        0.05,
        np.clip(0.8 - 0.25 * height, 0.45, 0.95),
    )


@ground("heather-litter", "Heather litter", grown=True)
def heather_litter(v):
    """Litter under heather."""
    twigs, height = blades(
        121 + v,
        5200,
        26,
        [(0.15, 0.115, 0.095), (0.2, 0.16, 0.13), (0.11, 0.08, 0.065), (0.26, 0.215, 0.18)],
        (0.035, 0.026, 0.022),
    )
    bits, lay = blades(
        122 + v,
        9000,
        5,
        [(0.17, 0.12, 0.085), (0.22, 0.13, 0.13), (0.12, 0.11, 0.055), (0.09, 0.062, 0.045)],
        (0, 0, 0),
        2,
    )
    low = cloud(123 + v, 26, 1.5, 2)
    on = np.clip(lay * 2, 0, 1)[..., None] * np.clip(0.5 - 0.5 * low, 0, 1)[..., None]
    return pack(_mottle(twigs * (1 - on) + bits * on, 124 + v, 0.2), height + 0.3 * low, 0.05, 0.93)


@ground("mud", "Mud", lies="wet")
def mud(v):
    """Drying mud."""
    low = cloud(131 + v, 14, 1.9)
    mid = cloud(132 + v, 5, 1.5, 4)
    fine = cloud(133 + v, 1.5, 0.6)
    dome, owner, lean, pick = stones(134 + v, 90)
    print_ = np.where(
        pick < 0.35, np.clip(dome * 1.4 - 0.25, 0, 1), 0
    )  # trodden places, pressed in with a raised rim
    height = (
        0.6 * low
        + 0.22 * mid
        - 0.9 * print_
        + 0.35 * np.where(pick < 0.35, np.exp(-(((dome - 0.22) / 0.1) ** 2)), 0)
        + 0.05 * fine
    )
    damp = np.clip(0.45 - 0.4 * (height - height.mean()) / height.std(), 0, 1)
    colour = (
        np.array((0.125, 0.092, 0.062))
        * np.clip(1.15 - 0.6 * damp + 0.1 * fine + 0.08 * mid, 0.25, 1.6)[..., None]
    )
    return pack(colour, height, 0.045, np.clip(0.85 - 0.65 * damp, 0.14, 0.9))


def _bits(colour, height, seed, count, palette, lift):
    """Small pebbles and shells on smooth ground."""
    dome, pick = pebbles(seed, count, 0.7)
    here = dome * (pick * 37 % 1 < 0.14)
    tone = (
        np.asarray(palette)[(pick * 977 % len(palette)).astype(int)]
        * (0.55 + 0.45 * dome)[..., None]
    )
    on = np.clip(here * 3, 0, 1)[..., None]
    return colour * (1 - on) + tone * on, height + lift * here


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
    colour, height = _bits(
        colour,
        0.6 * ripple + 0.3 * low + 0.06 * grain,
        145 + v,
        5200,
        [(0.4, 0.37, 0.32), (0.16, 0.15, 0.14), (0.5, 0.44, 0.36)],
        0.5,
    )
    return pack(colour, height, 0.01, np.clip(0.62 - 0.45 * damp, 0.12, 0.8), 0.4)


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
