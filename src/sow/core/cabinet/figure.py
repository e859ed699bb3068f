"""A standing person, for scale: 1.75 m, modelled as smoothly joined round limbs."""
import numpy as np
from scipy.ndimage import gaussian_filter
from skimage.measure import marching_cubes

from .draw import add_cards, empty_sheet
from .kind import Kind, Shape, kinds
from .mesh import Mesh, far_card

SKIN, HAIR, JACKET, TROUSERS, BOOTS, PACK = (0.42, 0.25, 0.18), (0.06, 0.035, 0.02), (0.32, 0.075, 0.03), (0.07, 0.075, 0.07), \
    (0.045, 0.03, 0.02), (0.05, 0.085, 0.06)
# from, to, radius at each end, colour; facing north (+y)
LIMBS = [
    ((-0.095, 0.0, 0.08), (-0.105, 0.0, 0.48), 0.052, 0.066, TROUSERS), ((-0.105, 0.0, 0.48), (-0.085, 0.0, 0.9), 0.07, 0.093, TROUSERS),
    ((0.1, 0.05, 0.08), (0.105, 0.06, 0.48), 0.052, 0.066, TROUSERS), ((0.105, 0.06, 0.48), (0.085, 0.0, 0.9), 0.07, 0.093, TROUSERS),
    ((-0.1, -0.03, 0.05), (-0.12, 0.15, 0.04), 0.055, 0.042, BOOTS), ((0.105, 0.02, 0.05), (0.13, 0.2, 0.04), 0.055, 0.042, BOOTS),
    ((-0.07, 0.0, 0.9), (0.07, 0.0, 0.9), 0.125, 0.125, JACKET), ((0, 0.0, 0.95), (0, -0.01, 1.3), 0.145, 0.16, JACKET),
    ((-0.13, -0.01, 1.36), (0.13, -0.01, 1.36), 0.085, 0.085, JACKET),
    ((-0.19, -0.01, 1.36), (-0.26, 0.0, 1.1), 0.06, 0.052, JACKET), ((-0.26, 0.0, 1.1), (-0.23, 0.12, 0.89), 0.05, 0.04, JACKET),
    ((0.19, -0.01, 1.36), (0.27, -0.02, 1.1), 0.06, 0.052, JACKET), ((0.27, -0.02, 1.1), (0.25, 0.09, 0.88), 0.05, 0.04, JACKET),
    ((-0.225, 0.14, 0.86), (-0.22, 0.17, 0.8), 0.04, 0.034, SKIN), ((0.25, 0.1, 0.85), (0.245, 0.13, 0.79), 0.04, 0.034, SKIN),
    ((0, 0.0, 1.4), (0, 0.01, 1.5), 0.055, 0.05, SKIN), ((0, 0.02, 1.58), (0, 0.025, 1.64), 0.083, 0.09, SKIN),
    ((0, 0.0, 1.62), (0, -0.005, 1.67), 0.095, 0.088, HAIR), ((-0.06, -0.2, 1.0), (-0.06, -0.2, 1.32), 0.09, 0.08, PACK),
    ((0.06, -0.2, 1.0), (0.06, -0.2, 1.32), 0.09, 0.08, PACK)]


def _person(step):
    lo, hi = np.array((-0.42, -0.42, -0.06)), np.array((0.42, 0.36, 1.86))
    axes = [np.arange(a, b, step) for a, b in zip(lo, hi)]
    p = np.stack(np.meshgrid(*axes, indexing="ij"), -1)

    def distances(points):
        out = []
        for a, b, ra, rb, _ in LIMBS:
            a, b = np.array(a), np.array(b)
            t = np.clip(((points - a) @ (b - a)) / ((b - a) @ (b - a)), 0, 1)
            out.append(np.linalg.norm(points - a - t[..., None] * (b - a), axis=-1) - (ra + (rb - ra) * t))
        return np.stack(out, -1)

    k = 0.022
    field = -k * np.log(np.exp(-distances(p) / k).sum(-1))
    vertices, faces, normals, _ = marching_cubes(gaussian_filter(field, 0.6), 0.0, spacing=(step,) * 3)
    vertices = vertices + lo
    vertices[:, 2] *= 1.75 / vertices[:, 2].max()
    colours = np.array([l[4] for l in LIMBS])
    colour = colours[distances(vertices).argmin(-1)]
    return Mesh.of(vertices, faces[:, ::-1], colour * (0.8 + 0.2 * np.clip(vertices[:, 2:3] / 0.5, 0, 1)))


def _make():
    near, mid = _person(0.026), _person(0.06)
    if (near.normals * (near.positions - near.positions.mean(0)))[:, :2].sum() < 0:
        for m in (near, mid):
            m.faces, m.normals = m.faces[:, ::-1].copy(), -m.normals
    sheet = empty_sheet()
    add_cards(sheet, [near], 1.0, 1.78)
    return Shape([[near, mid, far_card(0, 1.0, 1.78)]], sheet, (20, 90))


kinds["person"] = Kind("person", "Person, 1.75 m", "figure", 1.75, 0.3, 0.2, (0.2, 0.08, 0.05), range(1), _make)
