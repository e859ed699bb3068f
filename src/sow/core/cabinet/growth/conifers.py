"""Conifers as they are seen near: whorls of boughs with laterals, shoots and needles."""

from dataclasses import dataclass, replace

import numpy as np

from ..mesh import Mesh
from ..recipes import maker
from .foliage import Leaf, Shoots, leaves_on, twigs
from .skin import Bark, finer, flared, tube


@dataclass(frozen=True)
class Needled:
    """How the boughs of a conifer are set with needles.

    Args:
        needle: one of them.
        on_shoot: of them on a shoot.
        shoot_m: length of a shoot.
        apart_m: from one lateral of a bough to the next.
        lateral: longest lateral as a part of its bough.
        from_part: of a bough, from which on it bears laterals.
        rises: how far shoots turn up, 0..1.
        hang: by how much of their length laterals hang.
        bark: of the stem.
    """

    needle: Leaf
    on_shoot: int
    shoot_m: float
    apart_m: float
    lateral: float
    from_part: float
    rises: float
    hang: float
    bark: Bark


@maker
def needle(long_m: float, broad_m: float) -> Leaf:
    """A needle: one triangle, broad at its foot. A tree has millions of needles: each one here
    stands for two or three, and is as much broader.
    """
    half = broad_m / long_m / 2
    places = np.array([(-half, 0, 0), (half, 0, 0), (0, 1, -0.04)], float)
    return Leaf(places, np.array([(0, 1, 2)]), long_m, broad_m)


def _square_to(ways: np.ndarray) -> np.ndarray:
    """Level unit vectors square to ways (..., 3)."""
    side = np.cross(ways, (0.03, 0.02, 1.0))
    return side / np.maximum(np.linalg.norm(side, axis=-1, keepdims=True), 1e-9)


def laterals(rng: np.random.Generator, limbs: list[np.ndarray], form: Needled) -> Shoots:
    """Side branches of boughs (each (k, 3)), in a level herringbone, and each bough's own tip."""
    foot, way, long = [], [], []
    for limb in limbs:
        steps = np.linalg.norm(np.diff(limb, axis=0), axis=1)
        length = float(steps.sum())
        number = max(2, int(length * (1 - form.from_part) / form.apart_m))
        t = form.from_part + (1 - form.from_part) * (np.arange(number) + 0.5) / number
        at = np.concatenate([[0], np.cumsum(steps)]) / length
        p = np.stack([np.interp(t, at, limb[:, k]) for k in range(3)], 1)
        ahead = np.gradient(limb, axis=0)
        d = np.stack([np.interp(t, at, ahead[:, k]) for k in range(3)], 1)
        d /= np.linalg.norm(d, axis=1, keepdims=True)
        side = _square_to(d) * np.where(np.arange(number) % 2, 1, -1)[:, None]
        turned = 0.62 * d + side + rng.normal(0, 0.16, d.shape)
        turned[-1] = d[-1]
        foot.append(p)
        way.append(turned / np.linalg.norm(turned, axis=1, keepdims=True))
        taper = np.minimum(1.15 - t, 1.0) * np.clip(2.2 * (t - form.from_part) + 0.5, 0, 1)
        long.append(np.maximum(form.lateral * length * taper, 0.6 * form.shoot_m))
    feet, ways, lengths = (np.concatenate(v) for v in (foot, way, long))
    return Shoots(feet, ways, lengths * rng.uniform(0.75, 1.2, len(lengths)))


def shoots_on(rng: np.random.Generator, sides: Shoots, form: Needled) -> Shoots:
    """Shoots along laterals, on both sides of them and at their tips."""
    mean = float(np.mean(sides.long_m))
    number = int(np.clip(2 * mean / (0.42 * form.shoot_m), 3, 16))
    t = (np.arange(number) + 0.6) / number
    at, ways = sides.at(t, form.hang)
    side = _square_to(ways) * np.where(np.arange(number) % 2, 1, -1)[None, :, None]
    spread = np.where(np.arange(number) == number - 1, 0.0, 0.85)[None, :, None]
    way = ways + spread * side + form.rises * np.array((0, 0, 1.0))
    way = way + rng.normal(0, 0.15, way.shape)
    way /= np.linalg.norm(way, axis=2, keepdims=True)
    size = form.shoot_m * rng.uniform(0.65, 1.25, at.shape[:2])
    return Shoots(at.reshape(-1, 3), way.reshape(-1, 3), size.ravel())


def needled(
    rng: np.random.Generator,
    stem: np.ndarray,
    radii: np.ndarray,
    limbs: list[np.ndarray],
    sides: Shoots,
    form: Needled,
    colour: np.ndarray,
    kept: float,
    coarse: float = 1.0,
) -> tuple[Mesh, Mesh, Mesh, Mesh | None]:
    """A conifer's stem with its bark, its boughs, its laterals (`sides`) and shoots in the colour
    of wood, and its needles, a part of them `kept`; stem and boughs `coarse` times coarser.
    """
    path, wide = finer(stem, radii, 0.035 * coarse)
    sides_of = int(np.clip(2 * np.pi * float(wide[0]) / (0.016 * coarse), 5, 72))
    trunk = tube(
        path,
        flared(wide, path),
        sides_of,
        form.bark if coarse == 1 else replace(form.bark, deep_m=0.0),
    )
    wood = np.array((0.12, 0.085, 0.06))
    shoots = shoots_on(rng, sides, form)
    boughs = []
    for limb in limbs:
        length = float(np.linalg.norm(np.diff(limb, axis=0), axis=1).sum())
        thick = np.linspace(0.006 * length + 0.004, 0.002, len(limb))
        bough = tube(*finer(limb, thick, 0.12 * coarse), 5 if coarse == 1 else 3, None)
        bough.colour = (bough.colour * wood).astype(np.float32)
        bough.uv[:] = -1
        boughs.append(bough)
    thin = Mesh.joined([twigs(sides, form.hang, 0.0028, wood), twigs(shoots, 0.0, 0.0012, wood)])
    if kept <= 0:
        return trunk, Mesh.joined(boughs), thin, None
    green = leaves_on(rng, shoots, form.needle, form.on_shoot, 0.0, False, colour, kept, 0.0)
    return trunk, Mesh.joined(boughs), thin, green
