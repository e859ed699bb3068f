"""Figures, for scale and for life: smoothly joined round limbs (a skeleton's soft union, after
Bloomenthal & Wyvill 1990).
"""

import numpy as np
from scipy.ndimage import gaussian_filter
from skimage.measure import marching_cubes

from .draw import add_cards, empty_sheet
from .kind import Kind, KindShape, kinds
from .looks import snowed
from .mesh import Mesh, far_card

NEAREST_M = 12.0  # from here on a face is a few pixels
SKIN = (0.42, 0.25, 0.18)
HAIR = (0.06, 0.035, 0.02)
JACKET = (0.32, 0.075, 0.03)
TROUSERS = (0.07, 0.075, 0.07)
BOOTS = (0.045, 0.03, 0.02)
PACK = (0.05, 0.085, 0.06)
COAT = (0.15, 0.085, 0.045)
MANE = (0.05, 0.03, 0.02)
WOOL = (0.5, 0.46, 0.38)
FACE = (0.07, 0.06, 0.055)
NAVY = (0.05, 0.07, 0.12)
# from, to, radius at each end, colour; facing north (+y)
STANDING = [
    ((-0.095, 0.0, 0.08), (-0.105, 0.0, 0.48), 0.052, 0.066, TROUSERS),
    ((-0.105, 0.0, 0.48), (-0.085, 0.0, 0.9), 0.07, 0.093, TROUSERS),
    ((0.1, 0.05, 0.08), (0.105, 0.06, 0.48), 0.052, 0.066, TROUSERS),
    ((0.105, 0.06, 0.48), (0.085, 0.0, 0.9), 0.07, 0.093, TROUSERS),
    ((-0.1, -0.03, 0.05), (-0.12, 0.15, 0.04), 0.055, 0.042, BOOTS),
    ((0.105, 0.02, 0.05), (0.13, 0.2, 0.04), 0.055, 0.042, BOOTS),
    ((-0.07, 0.0, 0.9), (0.07, 0.0, 0.9), 0.125, 0.125, JACKET),
    ((0, 0.0, 0.95), (0, -0.01, 1.3), 0.145, 0.16, JACKET),
    ((-0.13, -0.01, 1.36), (0.13, -0.01, 1.36), 0.085, 0.085, JACKET),
    ((-0.19, -0.01, 1.36), (-0.26, 0.0, 1.1), 0.06, 0.052, JACKET),
    ((-0.26, 0.0, 1.1), (-0.23, 0.12, 0.89), 0.05, 0.04, JACKET),
    ((0.19, -0.01, 1.36), (0.27, -0.02, 1.1), 0.06, 0.052, JACKET),
    ((0.27, -0.02, 1.1), (0.25, 0.09, 0.88), 0.05, 0.04, JACKET),
    ((-0.225, 0.14, 0.86), (-0.22, 0.17, 0.8), 0.04, 0.034, SKIN),
    ((0.25, 0.1, 0.85), (0.245, 0.13, 0.79), 0.04, 0.034, SKIN),
    ((0, 0.0, 1.4), (0, 0.01, 1.5), 0.055, 0.05, SKIN),
    ((0, 0.02, 1.58), (0, 0.025, 1.64), 0.083, 0.09, SKIN),
    ((0, 0.0, 1.62), (0, -0.005, 1.67), 0.095, 0.088, HAIR),
    ((-0.06, -0.2, 1.0), (-0.06, -0.2, 1.32), 0.09, 0.08, PACK),
    ((0.06, -0.2, 1.0), (0.06, -0.2, 1.32), 0.09, 0.08, PACK),
]
SEATED = [
    ((-0.1, 0.0, 0.46), (-0.13, 0.42, 0.47), 0.095, 0.07, TROUSERS),
    ((-0.13, 0.42, 0.47), (-0.12, 0.4, 0.08), 0.066, 0.05, TROUSERS),
    ((0.1, 0.0, 0.46), (0.13, 0.44, 0.48), 0.095, 0.07, TROUSERS),
    ((0.13, 0.44, 0.48), (0.13, 0.5, 0.08), 0.066, 0.05, TROUSERS),
    ((-0.12, 0.38, 0.05), (-0.13, 0.55, 0.04), 0.055, 0.042, BOOTS),
    ((0.13, 0.48, 0.05), (0.14, 0.65, 0.04), 0.055, 0.042, BOOTS),
    ((-0.06, -0.02, 0.5), (0.06, -0.02, 0.5), 0.13, 0.13, NAVY),
    ((0, -0.03, 0.55), (0, 0.04, 0.9), 0.145, 0.155, NAVY),
    ((-0.13, 0.05, 0.94), (0.13, 0.05, 0.94), 0.085, 0.085, NAVY),
    ((-0.19, 0.05, 0.94), (-0.25, 0.12, 0.7), 0.06, 0.05, NAVY),
    ((-0.25, 0.12, 0.7), (-0.13, 0.34, 0.58), 0.05, 0.04, NAVY),
    ((0.19, 0.05, 0.94), (0.25, 0.12, 0.7), 0.06, 0.05, NAVY),
    ((0.25, 0.12, 0.7), (0.13, 0.36, 0.59), 0.05, 0.04, NAVY),
    ((-0.11, 0.37, 0.57), (-0.04, 0.41, 0.56), 0.04, 0.034, SKIN),
    ((0.11, 0.39, 0.58), (0.04, 0.42, 0.57), 0.04, 0.034, SKIN),
    ((0, 0.06, 0.98), (0, 0.08, 1.08), 0.055, 0.05, SKIN),
    ((0, 0.1, 1.16), (0, 0.105, 1.22), 0.083, 0.09, SKIN),
    ((0, 0.07, 1.2), (0, 0.07, 1.25), 0.096, 0.09, HAIR),
]


def _legs(coat, x, front, back, belly, thick, hoof=BOOTS):
    out = []
    for y, step in ((front, 0.04), (back, -0.05)):
        for side in (-1, 1):
            foot = y + step * side
            out += [
                (
                    (side * x, y, belly),
                    (side * x, foot * 0.5 + y * 0.5, belly * 0.5),
                    thick * 1.5,
                    thick,
                    coat,
                ),
                (
                    (side * x, foot * 0.5 + y * 0.5, belly * 0.5),
                    (side * x, foot, 0.07),
                    thick,
                    thick * 0.72,
                    coat,
                ),
                ((side * x, foot, 0.06), (side * x, foot + 0.03, 0.02), thick * 0.95, thick, hoof),
            ]
    return out


PONY = [
    *_legs(COAT, 0.15, 0.42, -0.45, 0.72, 0.062),
    ((0, -0.45, 0.88), (0, 0.4, 0.86), 0.25, 0.24, COAT),
    ((0, -0.1, 0.8), (0, 0.1, 0.79), 0.26, 0.26, COAT),
    ((0, 0.42, 0.92), (0, 0.78, 0.86), 0.19, 0.13, COAT),
    ((0, 0.78, 0.86), (0, 1.02, 0.5), 0.12, 0.1, COAT),
    ((0, 0.98, 0.52), (0, 1.1, 0.24), 0.1, 0.062, COAT),
    ((0, 1.09, 0.24), (0, 1.12, 0.19), 0.062, 0.05, FACE),
    ((-0.06, 0.96, 0.62), (-0.075, 0.98, 0.7), 0.028, 0.012, COAT),
    ((0.06, 0.96, 0.62), (0.075, 0.98, 0.7), 0.028, 0.012, COAT),
    ((0, 0.45, 1.06), (0, 0.84, 0.9), 0.065, 0.055, MANE),
    ((0.05, 0.5, 0.98), (0.08, 0.8, 0.78), 0.05, 0.04, MANE),
    ((0, -0.62, 0.92), (0, -0.76, 0.68), 0.05, 0.07, MANE),
    ((0, -0.76, 0.68), (0, -0.74, 0.34), 0.075, 0.035, MANE),
]
SHEEP = [
    *_legs(FACE, 0.1, 0.24, -0.24, 0.36, 0.028),
    ((0, -0.26, 0.52), (0, 0.24, 0.53), 0.2, 0.19, WOOL),
    ((0, -0.05, 0.48), (0, 0.08, 0.48), 0.21, 0.21, WOOL),
    ((0, 0.26, 0.6), (0, 0.4, 0.7), 0.13, 0.09, WOOL),
    ((0, 0.4, 0.72), (0, 0.55, 0.63), 0.075, 0.05, FACE),
    ((-0.07, 0.39, 0.75), (-0.14, 0.38, 0.73), 0.024, 0.014, FACE),
    ((0.07, 0.39, 0.75), (0.14, 0.38, 0.73), 0.024, 0.014, FACE),
    ((0, -0.44, 0.52), (0, -0.47, 0.4), 0.04, 0.028, WOOL),
]


def distances(limbs, points: np.ndarray) -> np.ndarray:
    """From places (..., 3) to the skin of each limb, m, (..., limbs); below 0 within."""
    out = []
    for a, b, ra, rb, _ in limbs:
        a, b = np.array(a), np.array(b)
        t = np.clip(((points - a) @ (b - a)) / ((b - a) @ (b - a)), 0, 1)
        away = np.linalg.norm(points - a - t[..., None] * (b - a), axis=-1)
        out.append(away - (ra + (rb - ra) * t))
    return np.stack(out, -1)


def skin_at(limbs, points: np.ndarray, soft: float) -> np.ndarray:
    """How far places (..., 3) lie outside of the skin over all limbs, m; what meets within `soft` m
    flows together.
    """
    away = distances(limbs, points)
    return -soft * np.log(np.maximum(np.exp(-away / soft).sum(-1), 1e-300))


def grid_about(lo: np.ndarray, hi: np.ndarray, step: float) -> np.ndarray:
    """Places (x, y, z, 3) that fill a box."""
    axes = [np.arange(a, b, step) for a, b in zip(lo, hi)]
    return np.stack(np.meshgrid(*axes, indexing="ij"), -1)


def skinned(field: np.ndarray, lo: np.ndarray, step: float) -> tuple[np.ndarray, np.ndarray]:
    """Vertices and faces where a field over a box that begins at `lo` is nought, facing out."""
    vertices, faces, _, _ = marching_cubes(gaussian_filter(field, 0.6), 0.0, spacing=(step,) * 3)
    return vertices + lo, faces[:, ::-1]


def _outward(mesh: Mesh) -> Mesh:
    if (mesh.normals * (mesh.positions - mesh.positions.mean(0)))[:, :2].sum() < 0:
        mesh.faces = mesh.faces[:, ::-1].copy()
        mesh.normals = -mesh.normals
    return mesh


def shaded(vertices: np.ndarray, height: float) -> np.ndarray:
    """How bright a figure is at its vertices: less near the ground, (n, 1)."""
    return 0.8 + 0.2 * np.clip(vertices[:, 2:3] / (0.3 * height), 0, 1)


def _modelled(limbs, step, height, shag, soft):
    """The limbs as one skin, `height` m tall; `shag` roughens it as a fleece does; `soft`
    (m) is how far what meets flows together.
    """
    ends = np.array([[l[0], l[1]] for l in limbs])
    reach = max(max(l[2], l[3]) for l in limbs) + 0.06
    lo, hi = ends.min((0, 1)) - reach, ends.max((0, 1)) + reach
    field = skin_at(limbs, grid_about(lo, hi, step), soft)
    if shag:
        bumps = gaussian_filter(np.random.default_rng(3).normal(size=field.shape), 0.03 / step)
        field = field + shag * bumps / bumps.std()
    vertices, faces = skinned(field, lo, step)
    vertices[:, 2] *= height / vertices[:, 2].max()
    colour = np.array([l[4] for l in limbs])[distances(limbs, vertices).argmin(-1)]
    if shag:
        colour = colour * (1 + 0.1 * np.random.default_rng(4).normal(size=(len(colour), 1)))
    return _outward(Mesh.of(vertices, faces, colour * shaded(vertices, height)))


def figure(
    name, label, limbs, height, reach, colour, step=0.026, shag=0.0, tags="", soft=0.022, near=None
):
    """Registers a figure of a height and reach in m; `near` builds it for pictures from near by."""

    def make(look):
        near = _modelled(limbs, step, height, shag, soft)
        mid = _modelled(limbs, step * 2.3, height, 0, soft)
        sheet = empty_sheet()
        width = 2 * np.abs(near.positions[:, :2]).max() * 1.04
        if look == "snow" and shag:
            near, mid = snowed(near, 0.35), snowed(mid, 0.35)
        add_cards(sheet, [near], width, height * 1.02)
        return KindShape([[near, mid, far_card(0, width, height * 1.02)]], sheet, (20, 90))

    more = {"nearest": near, "nearest_m": NEAREST_M} if near else {}
    kinds[name] = Kind(
        name, label, "figure", height, reach, 0.2, colour, range(1), make, tags=tags, **more
    )


figure("pony", "Moor pony", PONY, 1.2, 0.8, (0.15, 0.09, 0.05), 0.034, tags="animal grazing")
figure("sheep", "Sheep", SHEEP, 0.8, 0.4, (0.45, 0.42, 0.35), 0.022, 0.008, tags="animal grazing")
