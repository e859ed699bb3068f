"""Ground textures by recipe: tileable colour, height, normal, roughness and hollow shade."""
import cv2
import numpy as np
from scipy.ndimage import gaussian_filter
from scipy.spatial import cKDTree

from .kind import Ground, grounds, srgb_bytes

N = 512


def cloud(seed, size, power=1.8, octave_low=1):
    """Tileable noise with a falling spectrum, standard deviation 1."""
    rng = np.random.default_rng(seed)
    f = np.hypot(*np.meshgrid(np.fft.fftfreq(N) * N, np.fft.fftfreq(N) * N))
    with np.errstate(divide="ignore"):
        amp = np.where((f >= octave_low) & (f <= N / size * 2), f ** -power, 0)
    field = np.fft.ifft2(np.fft.fft2(rng.normal(size=(N, N))) * amp).real
    return (field - field.mean()) / field.std()


def stones(seed, count, flat=0.0):
    """Cells about hashed points: (height 0..1 of each rounded stone, its number, the distance to its rim)."""
    rng = np.random.default_rng(seed)
    points = rng.uniform(0, N, (count, 2))
    for _ in range(2):
        points = (points + 0.35 * _push(points)) % N
    tree = cKDTree(points, boxsize=N)
    wob = np.stack([cloud(seed + 5, 8, 1.4), cloud(seed + 6, 8, 1.4)], -1) * N / np.sqrt(count) * 0.07
    grid = np.stack(np.meshgrid(np.arange(N), np.arange(N), indexing="ij"), -1) + wob
    d, k = tree.query((grid % N).reshape(-1, 2), k=2)
    rim = ((d[:, 1] - d[:, 0]) / np.sqrt(N * N / count)).reshape(N, N)
    tilt = rng.normal(0, 1, (count, 2))
    owner = k[:, 0]
    off = ((grid.reshape(-1, 2) - points[owner] + N / 2) % N - N / 2) / np.sqrt(N * N / count)
    lean = (off * tilt[owner]).sum(1).reshape(N, N)
    dome = np.sqrt(np.clip(rim * (2.2 if flat < 0.5 else 5), 0, 1))
    return dome, owner.reshape(N, N), lean, rng.uniform(size=count)[owner].reshape(N, N)


def _push(points):
    tree = cKDTree(points, boxsize=N)
    d, k = tree.query(points, k=2)
    away = (points - points[k[:, 1]] + N / 2) % N - N / 2
    return away * np.clip(0.6 * N / np.sqrt(len(points)) / np.maximum(d[:, 1:], 1e-3) - 1, 0, 1)


def pack(colour, height, relief, rough, shade=0.8):
    """Linear colour (N, N, 3) and height in any unit to the two pictures. `relief` is height over width of a repeat."""
    height = (height - height.min()) / (height.max() - height.min())
    gx = (np.roll(height, -1, 1) - np.roll(height, 1, 1)) * N / 2 * relief
    gy = (np.roll(height, 1, 0) - np.roll(height, -1, 0)) * N / 2 * relief
    length = np.sqrt(1 + gx * gx + gy * gy)
    hollow = np.clip(0.5 + (height - gaussian_filter(height, 7, mode="wrap")) * 2.4, 0, 1)
    occlusion = 1 - shade * (1 - np.clip(hollow * 1.6, 0, 1))
    to_byte = lambda v: np.uint8(np.clip(v, 0, 1) * 255 + 0.5)
    detail = np.dstack([to_byte(0.5 - 0.5 * gx / length), to_byte(0.5 - 0.5 * gy / length),
                        to_byte(np.broadcast_to(rough, height.shape)), to_byte(occlusion)])
    return np.dstack([srgb_bytes(np.clip(colour, 0, 1)), to_byte(height)]), detail


def blades(seed, count, length, palette, under, width=1):
    """Short strokes laid over one another from dark to light: grass, heath litter. Gives colour and height."""
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
                p, q = (int((x + sx) * 16), int((y + sy) * 16)), (int((x + dx + sx) * 16), int((y + dy + sy) * 16))
                cv2.line(colour, p, q, tuple(map(float, tone)), width, cv2.LINE_AA, 4)
                cv2.line(height, p, q, 0.3 + 0.7 * level, width, cv2.LINE_AA, 4)
    return colour, height


def ground(name, label):
    def keep(make):
        grounds[name] = Ground(name, label, make)
        return make
    return keep


def _mottle(colour, seed, depth=0.22, size=30):
    return colour * np.clip(1 + depth * cloud(seed, size, 1.5, 2), 0.3, 2)[..., None]


@ground("turf", "Turf")
def turf():
    colour, height = blades(11, 14000, 19, [(0.13, 0.165, 0.04), (0.17, 0.185, 0.055), (0.1, 0.14, 0.03), (0.25, 0.22, 0.09)], (0.03, 0.035, 0.012))
    return pack(_mottle(colour, 12), height, 0.035, 0.9)


@ground("mat-grass", "Mat grass")
def mat_grass():
    colour, height = blades(21, 12000, 34, [(0.33, 0.27, 0.12), (0.25, 0.215, 0.085), (0.18, 0.18, 0.06), (0.4, 0.33, 0.17)], (0.05, 0.045, 0.02))
    return pack(_mottle(colour, 22), height, 0.045, 0.92)


@ground("heath", "Heath")
def heath():
    colour, height = blades(31, 16000, 11, [(0.13, 0.095, 0.05), (0.17, 0.085, 0.1), (0.1, 0.1, 0.04), (0.22, 0.11, 0.15), (0.07, 0.05, 0.03)],
                            (0.02, 0.016, 0.012), 2)
    clumps = cloud(33, 40, 1.4, 4)
    return pack(_mottle(colour * np.clip(1 + 0.25 * clumps, 0.4, 1.6)[..., None], 32), height + 0.5 * clumps, 0.06, 0.95)


@ground("moss", "Bog moss")
def moss():
    colour, height = blades(41, 26000, 5, [(0.13, 0.15, 0.035), (0.17, 0.17, 0.05), (0.09, 0.12, 0.025), (0.2, 0.19, 0.08)], (0.03, 0.035, 0.01), 2)
    red = np.clip(cloud(42, 14, 1.5, 2) - 0.7, 0, 1)[..., None] * 0.8
    humps = cloud(44, 40, 1.6, 3)
    colour = colour * (1 - red) + colour * np.array((1.9, 0.62, 0.9)) * red
    return pack(_mottle(colour * np.clip(1 + 0.22 * humps, 0.5, 1.6)[..., None], 43), height * 0.5 + humps, 0.05, 0.95)


@ground("peat", "Peat")
def peat():
    low, fine = cloud(51, 24, 1.5), cloud(52, 2, 0.7)
    height = 0.7 * low + 0.35 * fine
    bare = np.array((0.042, 0.029, 0.02)) * np.clip(1 + 0.3 * fine + 0.3 * low, 0.3, 2.2)[..., None]
    straw, lay = blades(53, 700, 15, [(0.13, 0.1, 0.06), (0.09, 0.07, 0.045)], (0, 0, 0))
    on = np.clip(lay * 3, 0, 1)[..., None] * 0.75
    return pack(bare * (1 - on) + straw * on, height + lay * 0.4, 0.05, np.clip(0.55 + 0.2 * low, 0.3, 0.9))


@ground("granite", "Granite")
def granite():
    _, _, _, pick = stones(61, 16000)
    crystal = np.where(pick < 0.2, 0.07, np.where(pick < 0.62, 0.22, 0.31))[..., None] * np.array((1.0, 0.965, 0.92))
    crystal = np.where(((pick > 0.5) & (pick < 0.62))[..., None], np.array((0.28, 0.21, 0.17)), crystal)
    low = cloud(62, 10, 1.7)
    crack = np.clip(1 - np.abs(cloud(63, 16, 1.9, 1)) * 16, 0, 1) ** 2
    lichen = np.clip(cloud(64, 5, 1.3, 3) - 1.05, 0, 1)[..., None]
    colour = crystal * np.clip(1 + 0.14 * low, 0.5, 1.5)[..., None] * (1 - 0.55 * crack[..., None])
    colour = colour * (1 - lichen) + np.array((0.25, 0.27, 0.16)) * lichen
    return pack(gaussian_filter(colour, (0.6, 0.6, 0), mode="wrap"), 0.5 * low - 1.6 * crack + 0.06 * cloud(65, 2, 0.6), 0.06, 0.78)


def _heap(seed, counts, base, spread, flat, relief, rough):
    """Stones of several sizes: small ones fill between the large."""
    height, colour = np.zeros((N, N)), np.zeros((N, N, 3))
    for i, count in enumerate(counts):
        dome, owner, lean, pick = stones(seed + 10 * i, count, flat)
        size = np.sqrt(counts[0] / count)
        here = (dome * (0.8 + 0.4 * pick) + 0.35 * lean * flat - (1 - size) * 0.18) * size + (1 - size) * 0.35
        grain = cloud(seed + 7 + i, 2, 0.7)
        tone = np.asarray(base) * (1 + spread * (pick - 0.5) * 2)[..., None]
        tone = tone * (1 + (pick[..., None] * 7 % 1 - 0.5) * np.array((0.2, 0.04, -0.12))) * np.clip(1 + 0.1 * grain, 0.6, 1.4)[..., None]
        tone = tone * (0.35 + 0.65 * np.clip(dome * 1.3, 0, 1))[..., None]
        keep = (pick * 13 % 1 < 0.62) if i == 0 and len(counts) > 1 else np.ones_like(pick, bool)
        over = keep & (here > height)
        height, colour = np.where(over, here, height), np.where(over[..., None], tone, colour)
    return pack(colour, height, relief, rough)


@ground("scree", "Scree")
def scree():
    return _heap(71, (150, 700, 3000), (0.21, 0.202, 0.188), 0.4, 1.0, 0.1, 0.85)


@ground("gravel", "Gravel")
def gravel():
    return _heap(81, (700, 2600, 9000), (0.3, 0.27, 0.225), 0.45, 0.0, 0.04, 0.75)


@ground("sand", "Sand")
def sand():
    grain, low = cloud(91, 1.5, 0.3), cloud(92, 30, 1.8)
    y = np.arange(N)[:, None] * (2 * np.pi * 14 / N) + 1.1 * low
    ripple = np.sin(y) * np.clip(0.6 + 0.4 * cloud(93, 60), 0, 1)
    colour = np.array((0.42, 0.34, 0.225)) * np.clip(1 + 0.09 * grain + 0.07 * ripple + 0.06 * low, 0.5, 1.6)[..., None]
    return pack(colour, ripple + 0.12 * grain + 0.4 * low, 0.012, 0.88, 0.4)


@ground("snow", "Snow")
def snow():
    low, fine = cloud(95, 16, 1.9), cloud(96, 1.5, 0.4)
    colour = np.array((0.82, 0.85, 0.9)) * np.clip(1 + 0.03 * low + 0.02 * fine, 0.8, 1.1)[..., None]
    return pack(colour, low + 0.08 * fine, 0.02, 0.5, 0.25)
