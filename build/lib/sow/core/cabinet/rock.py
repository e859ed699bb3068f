"""Rock as it is seen near: grain and cracks that stand out, crystals, crusts of lichen, moss."""

from dataclasses import dataclass

import numpy as np

from .mesh import Mesh, smooth_normals

Colour = tuple[float, float, float]


def ripple(points, rng, waves, frequency):
    """Smooth noise in space as a sum of plane waves, about -1..1."""
    k = (rng.normal(size=(waves, 3)) * frequency).astype(points.dtype)
    phase = rng.uniform(0, 2 * np.pi, waves).astype(points.dtype)
    return np.sin(points @ k.T + phase).sum(1) / np.sqrt(waves) * 0.7


@dataclass(frozen=True)
class Rock:
    """A rock: its mean colour and those of its grains, linear; how far apart its joints lie in m,
    how strongly it is bedded (0..1), and how coarse its grain is in m.
    """

    colour: Colour = (0.2, 0.19, 0.175)
    grains: tuple[Colour, ...] = ((0.34, 0.325, 0.3), (0.27, 0.21, 0.175), (0.05, 0.05, 0.053))
    joints_m: float = 0.7
    bedded: float = 0.0
    grain_m: float = 0.004
    lichen: float = 0.3
    moss: float = 0.25


GRANITE = Rock()
SANDSTONE = Rock((0.36, 0.25, 0.15), ((0.45, 0.33, 0.2), (0.3, 0.2, 0.12)), 0.9, 0.8, 0.002)
LIMESTONE = Rock((0.46, 0.45, 0.41), ((0.52, 0.5, 0.46), (0.36, 0.35, 0.32)), 0.6, 0.4, 0.002)
BASALT = Rock((0.085, 0.085, 0.09), ((0.12, 0.12, 0.12), (0.05, 0.05, 0.055)), 0.4, 0.0, 0.001)
SLATE = Rock((0.13, 0.14, 0.16), ((0.17, 0.18, 0.2), (0.1, 0.105, 0.12)), 0.3, 1.0, 0.001)


def _cracks(p: np.ndarray, rng: np.random.Generator, rock: Rock) -> np.ndarray:
    """How near each place is to a joint, 1 in the crack and 0 beside it."""
    deep = np.zeros(len(p))
    frame = np.linalg.qr(rng.normal(0, 0.35, (3, 3)) + np.eye(3))[0]
    for way, apart in zip(frame.T, (1.0, 1.35, 0.7 if rock.bedded else 1.6)):
        apart = apart * rock.joints_m
        bends = 0.09 * apart * ripple(p / apart, rng, 10, 2.2)
        off = (p @ way + bends) / apart + rng.uniform()
        away = np.abs(off - np.round(off)) * apart
        closed = np.clip(1.6 * ripple(p / apart, rng, 8, 2.6) - 0.1, 0, 1)
        deep = np.maximum(deep, np.exp(-((away / 0.007) ** 2)) * closed)
    return deep


def _blotches(p, rng, size_m: float, share: float, uneven: float = 0.5) -> np.ndarray:
    """Patches of a size over about a share of places, 0..1, with crisp rims."""
    field = ripple(p / size_m, rng, 22, 1.9) + uneven * ripple(p / size_m, rng, 22, 6.5)
    return np.clip((field - np.quantile(field, 1 - share)) * 7, 0, 1)


def rocky(mesh: Mesh, rock: Rock, seed: int) -> Mesh:
    """A fine closed mesh as rock: its grain and joints stand out, and it is coloured post by post
    as rock, lichen and moss are.
    """
    rng = np.random.default_rng(seed)
    p, n = mesh.positions, mesh.normals
    reach = float(np.abs(p).max())
    cracks = _cracks(p, rng, rock)
    relief = 0.016 * reach * ripple(p / reach, rng, 16, 9) + 0.006 * reach * ripple(
        p / reach, rng, 22, 24
    )
    relief += 0.0022 * ripple(p, rng, 26, 170) + 0.0014 * ripple(p, rng, 26, 420)
    if rock.bedded:
        flat = (p * (0.3, 0.3, 1.0)).astype(p.dtype)
        beds = ripple(flat, rng, 12, 34) + 0.4 * ripple(flat, rng, 12, 90)
        relief += rock.bedded * 0.008 * beds
    rough = rng.normal(0, 0.0011, len(p))
    positions = (p + n * (relief + rough - 0.012 * cracks)[:, None]).astype(np.float32)
    normals = smooth_normals(positions, mesh.faces)
    colour = _coloured(positions, normals, relief, cracks, rock, rng, reach)
    return Mesh.of(positions, mesh.faces, colour, normals)


def _coloured(p, up, relief, cracks, rock: Rock, rng: np.random.Generator, reach: float):
    count = len(p)
    grains = np.array((rock.colour, rock.colour, *rock.grains))
    own = grains[rng.integers(0, len(grains), count)]
    colour = 0.55 * np.asarray(rock.colour) + 0.45 * own
    mottle = 1 + 0.16 * ripple(p / reach, rng, 14, 5) + 0.1 * ripple(p, rng, 18, 40)
    iron = np.clip(ripple(p / reach, rng, 12, 4) * 1.6 - 0.5, 0, 1)[:, None] * 0.45
    hollow = np.clip(0.9 + relief / (0.02 * reach), 0.55, 1.15)
    colour = colour * np.clip(mottle * hollow, 0.35, 1.6)[:, None]
    colour = colour * (1 - iron + iron * np.array((1.3, 0.95, 0.66)))
    streaks = np.clip(ripple(p * (1, 1, 0.12), rng, 16, 14 / reach) - 0.35, 0, 1)
    colour = colour * (1 - 0.45 * (streaks * np.clip(0.7 - up[:, 2], 0, 1))[:, None])
    sky = np.clip(0.35 + 0.65 * up[:, 2], 0, 1)
    for tint, size, share in (
        ((0.34, 0.355, 0.29), 0.055, 0.6 * rock.lichen),
        ((0.2, 0.235, 0.14), 0.12, 0.6 * rock.lichen),
        ((0.06, 0.06, 0.058), 0.03, 0.35 * rock.lichen),
        ((0.42, 0.26, 0.06), 0.022, 0.07 * rock.lichen),
    ):
        crust = (_blotches(p, rng, size, share) * sky * 0.85)[:, None]
        grain = 1 + 0.22 * rng.uniform(-1, 1, (count, 1))
        colour = colour * (1 - crust) + np.array(tint) * grain * crust
    colour = colour * (1 - 0.72 * np.clip(cracks, 0, 1))[:, None]
    low = np.clip(1 - p[:, 2] / (0.55 * reach), 0, 1)
    damp = np.clip(0.25 + 0.55 * up[:, 1] + 0.3 * up[:, 2] + 0.5 * low, 0, 1) * (up[:, 2] > -0.2)
    grown = _blotches(p, rng, 0.16, rock.moss, 0.8) * damp
    moss = np.array((0.1, 0.115, 0.03)) * rng.uniform(0.5, 1.5, (count, 1))
    share = np.clip(grown * 1.5, 0, 0.95)[:, None]
    return np.clip(colour * (1 - share) + moss * share, 0.01, 0.8)
