"""Stones: balls cut by planes and roughened, alone or stacked into a tor."""

import numpy as np

from .draw import add_cards, empty_sheet
from .kind import Kind, KindShape, kinds
from .looks import snowed
from .mesh import Mesh, Part, far_card, icosphere, smooth_normals
from .rock import GRANITE, Rock, ripple, rocky

GRAINED_FACES = 30_000
NEAREST_DETAIL = 6  # how often the ball of a stone is parted where it is seen near


def boulder(seed, detail, stretch, cuts, sharp, rough=0.05, centre=(0, 0, 0), turn=None) -> Mesh:
    """A stone within half-extents `stretch` (m).

    `cuts` planes shape it; a greater `sharp` gives harder edges.
    """
    rng = np.random.default_rng(seed)
    d, faces = icosphere(detail)
    planes = rng.normal(size=(cuts, 3))
    planes /= np.linalg.norm(planes, axis=1, keepdims=True)
    far = rng.uniform(0.66, 1.0, cuts)
    lean = np.maximum(d @ planes.T, 0.05) / far
    radius = (lean**sharp).sum(1) ** (-1 / sharp)
    radius *= 1 + rough * (
        ripple(d, rng, 12, 3.2)
        + 0.5 * ripple(d, rng, 16, 8)
        + 0.25 * ripple(d, rng, 20, 17)
        + (0.2 * ripple(d, rng, 24, 38) if detail > 3 else 0)
    )
    pos = d * radius[:, None]
    pos = pos / np.abs(pos).max(0) * np.asarray(stretch)
    if turn is not None:
        pos = pos @ np.asarray(turn).T
    normals = smooth_normals(pos.astype(np.float32), faces)
    pale = 0.9 + 0.12 * ripple(d, rng, 10, 4)
    shade = pale * (0.72 + 0.28 * np.clip((normals[:, 2] + 0.6) / 1.2, 0, 1))
    lichen = np.clip(ripple(d, rng, 14, 9) * 1.3 + normals[:, 2] * 0.5 - 0.75, 0, 1)[:, None] * 0.55
    rock = np.array((0.2, 0.19, 0.175))
    colour = shade[:, None] * (rock * (1 - lichen) + np.array((0.22, 0.24, 0.14)) * lichen)
    return Mesh.of(pos + np.asarray(centre), faces, colour, normals)


def weathered(mesh: Mesh, seed: int = 5) -> Mesh:
    """A stone as the view draws it: mottled, grained, with pale crusts of lichen on what faces up;
    its faces are parted until the grain shows.
    """
    reach = float(np.abs(mesh.positions).max())
    fine = mesh
    while len(fine.faces) < GRAINED_FACES:
        fine = fine.parted()
    rng = np.random.default_rng(seed)
    places = fine.positions / reach
    up = fine.normals[:, 2]
    mottle = ripple(places, rng, 14, 6)
    grain = rng.uniform(-0.5, 0.5, len(places))
    pits = np.where(rng.uniform(size=len(places)) < 0.14, 0.5, 1.0)
    tone = np.clip(1.25 + 0.35 * mottle + 0.8 * grain, 0.2, 3) * pits
    iron = np.clip(ripple(places, rng, 12, 4) * 2 - 0.6, 0, 1)[:, None] * 0.5
    rock = fine.colour * tone[:, None] * (1 - iron + iron * np.array((1.25, 0.95, 0.68)))
    crust = ripple(places, rng, 18, 11) + 0.7 * grain
    lichen = (np.clip((crust - 0.42) * 6, 0, 1) * np.clip((up + 0.2) / 0.6, 0, 1))[:, None] * 0.8
    pale = np.array((0.5, 0.51, 0.41)) * (1 + 0.7 * grain[:, None])
    colour = rock * (1 - lichen) + pale * lichen
    return Mesh.of(fine.positions, fine.faces, colour, fine.normals, fine.uv)


def _darkened_foot(mesh: Mesh, height: float) -> Mesh:
    foot = np.clip(mesh.positions[:, 2:3] / (0.3 * height), 0, 1)
    mesh.colour *= (0.62 + 0.38 * foot) * (1 - (1 - foot) * np.array([[0.0, 0.0, 0.12]]))
    return mesh


def _block(seed, detail, half, centre, turn, breaks=3) -> Mesh:
    """A block with rounded edges, dented, with `breaks` corners broken off along planes: what sets
    of joints leave of granite.
    """
    rng = np.random.default_rng(seed)
    d, faces = icosphere(detail)
    pos = d / ((np.abs(d) ** 5.5).sum(1) ** (1 / 5.5))[:, None]
    pos = (
        pos
        * (
            1
            + 0.055 * ripple(pos, rng, 12, 2.0)
            + 0.028 * ripple(pos, rng, 16, 6)
            + 0.012 * ripple(pos, rng, 20, 15)
        )[:, None]
    )
    own = np.random.default_rng(seed + 9001)
    for n in own.normal(size=(breaks, 3)):
        n /= np.linalg.norm(n)
        over = pos @ n - float((pos @ n).max()) * own.uniform(0.72, 0.93)
        pos = pos - 0.94 * np.maximum(over, 0)[:, None] * n
    if detail > 3:
        pos = pos * (1 + 0.008 * ripple(d, own, 24, 22) + 0.005 * ripple(d, own, 28, 44))[:, None]
    pos = pos * np.asarray(half) @ np.asarray(turn).T
    normals = smooth_normals(pos.astype(np.float32), faces)
    pale = 0.86 + 0.1 * ripple(d, rng, 10, 4)
    shade = pale * (0.5 + 0.5 * np.clip((normals[:, 2] + 0.75) / 1.2, 0, 1))
    lichen = np.clip(ripple(d, rng, 14, 9) + normals[:, 2] * 0.6 - 0.6, 0, 1)[:, None] * 0.5
    colour = shade[:, None] * (
        np.array((0.21, 0.2, 0.185)) * (1 - lichen) + np.array((0.2, 0.225, 0.135)) * lichen
    )
    return Mesh.of(pos + np.asarray(centre), faces, colour, normals)


def _tor(seed, detail):
    """Rounded blocks in courses, split by upright joints: how granite weathers on a hilltop."""
    rng = np.random.default_rng(seed)
    parts = []
    z = -0.7
    wide = 3.0
    deep = 2.3
    for course in range(7):
        tall = rng.uniform(0.7, 1.45)
        split = int(rng.choice((1, 2, 3), p=(0.3, 0.45, 0.25))) if course < 5 else 1
        edges = np.linspace(-wide, wide, split + 1) + np.r_[0, rng.normal(0, 0.25, split - 1), 0]
        for s in range(split):
            half = (edges[s + 1] - edges[s]) / 2
            a = rng.normal(0, 0.07)
            turn = np.array(
                [
                    [np.cos(a), -np.sin(a), 0],
                    [np.sin(a), np.cos(a), 0],
                    [rng.normal(0, 0.035), rng.normal(0, 0.03), 1],
                ]
            )
            parts.append(
                _block(
                    seed * 50 + course * 3 + s,
                    detail,
                    (half * 1.03, deep * rng.uniform(0.8, 1.1), tall * 0.56),
                    (
                        (edges[s] + edges[s + 1]) / 2 + 0.2 * rng.normal(),
                        0.25 * rng.normal(),
                        z + tall * 0.5,
                    ),
                    turn,
                )
            )
        z += tall * 0.97
        wide *= rng.uniform(0.74, 0.97)
        deep *= rng.uniform(0.8, 0.97)
    return Mesh.joined(parts)


def stone(
    name,
    label,
    height,
    reach,
    levels,
    far,
    colour=(0.2, 0.19, 0.17),
    variants=4,
    tags="",
    details=(3, 2, 1),
    family="stone",
    rock: Rock = GRANITE,
    nearest_detail: int = NEAREST_DETAIL,
):
    """`levels(seed, detail)` gives one mesh; detail falls with distance, and at `nearest_detail`
    its `rock` is seen.
    """
    foot = _darkened_foot if family == "stone" else lambda mesh, height: mesh

    def make(look):
        meshes = [[foot(levels(17 * v + 2, d), height) for d in details] for v in range(variants)]
        if look == "snow":
            meshes = [[snowed(m, 0.9) for m in row] for row in meshes]
        sheet = empty_sheet()
        width = 2 * max(np.abs(m[0].positions[:, :2]).max() for m in meshes) * 1.02
        top = max(m[0].positions[:, 2].max() for m in meshes) * 1.02
        add_cards(sheet, [m[0] for m in meshes], width, top)
        return KindShape([m + [far_card(v, width, top)] for v, m in enumerate(meshes)], sheet, far)

    def nearest(look, variant, share=1.0):
        seed = 17 * variant + 2
        mesh = rocky(levels(seed, nearest_detail), rock, seed)
        return [Part(snowed(mesh, 0.9) if look == "snow" else mesh)]

    kinds[name] = Kind(
        name,
        label,
        family,
        height,
        reach,
        3.1 * reach * reach,
        colour,
        range(variants),
        make,
        tags=tags,
        nearest=nearest if family == "stone" else None,
        nearest_m=min(6 + 12 * height, 45) if family == "stone" else 0.0,
    )


def _loose(stretch, cuts, sharp, lift):
    def levels(seed, detail):
        rng = np.random.default_rng(seed + 1)
        half = np.asarray(stretch) * rng.uniform(0.85, 1.15, 3)
        return boulder(seed, detail, half, cuts, sharp, centre=(0, 0, half[2] * lift))

    return levels


stone(
    "boulder",
    "Boulder",
    1.0,
    0.7,
    _loose((0.78, 0.64, 0.56), 24, 30, 0.72),
    (10, 35, 90),
    details=(4, 3, 1),
)
stone(
    "rock-slab",
    "Slab of rock",
    0.5,
    0.9,
    _loose((1.05, 0.7, 0.3), 14, 34, 0.6),
    (10, 35, 90),
    details=(4, 3, 1),
)
stone(
    "cobble",
    "Cobble",
    0.2,
    0.16,
    _loose((0.17, 0.14, 0.11), 20, 14, 0.6),
    (3, 7, 18),
    nearest_detail=5,
)
stone(
    "standing-stone",
    "Standing stone",
    2.3,
    0.45,
    _loose((0.5, 0.3, 1.35), 18, 26, 0.62),
    (20, 60, 140),
    details=(4, 3, 1),
)
stone("tor", "Tor", 6.5, 3.2, _tor, (45, 110, 260), variants=3, nearest_detail=5)
stone(
    "pebble",
    "Pebble",
    0.06,
    0.06,
    _loose((0.06, 0.05, 0.035), 14, 5, 0.55),
    (1.5, 3.5, 8),
    nearest_detail=4,
    tags="shore stream small",
)
stone(
    "fallen-block",
    "Fallen block",
    1.9,
    1.5,
    lambda seed, detail: _block(
        seed,
        detail,
        np.array((1.5, 1.15, 1.0)) * np.random.default_rng(seed).uniform(0.8, 1.15, 3),
        (0, 0, 0.7),
        np.linalg.qr(np.random.default_rng(seed + 3).normal(0, 0.25, (3, 3)) + np.eye(3))[0],
        7,
    ),
    (18, 60, 150),
    tags="scree cliff large",
    details=(4, 3, 1),
)
