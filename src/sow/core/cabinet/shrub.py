"""Low shrubs: mounds of upright sprays, in flower at their tips."""

import functools

import numpy as np

from ..document.data import Table
from .draw import empty_sheet
from .growth.bush import Bush, Colour, bush
from .leaf import LEAF_BOX, lay, needles
from .looks import snowed
from .low import low_kind
from .mesh import Mesh, Part, cards, frame
from .recipes import made, recipe


def _shrub(seed, share, height, reach, sprays, leaf_m, tip, tip_share, body):
    """A mound of upright sprays; `tip` colours the outermost, in flower."""
    rng = np.random.default_rng(seed)
    leaves = []
    count = max(10, int(sprays * share))
    size = leaf_m / share**0.45
    for _ in range(count):
        a, r = rng.uniform(0, 2 * np.pi), np.sqrt(rng.uniform())
        up = np.sqrt(max(0.0, 1 - r * r)) * rng.uniform(0.35, 1)
        p = np.array([r * np.cos(a) * reach, r * np.sin(a) * reach, up * height * 0.78])
        d = np.array([np.cos(a) * r * 0.8, np.sin(a) * r * 0.8, 0.9]) + rng.normal(0, 0.25, 3)
        d /= np.linalg.norm(d)
        side, other = frame(d)
        w = rng.uniform(0, np.pi)
        shade = 0.42 + 0.58 * np.clip(p[2] / (height * 0.78), 0, 1)
        tone = shade * rng.uniform(0.75, 1.2)
        colour = np.asarray(tip if rng.uniform() < tip_share * shade else body) * tone
        normal = np.array([np.cos(a) * r * 0.6, np.sin(a) * r * 0.6, 0.8])
        leaves.append(
            (
                p,
                (side * np.cos(w) + other * np.sin(w)) * size * 0.5,
                d * size * 0.5,
                colour,
                normal / np.linalg.norm(normal),
            )
        )
    centre, right, up, tint, normal = (np.array([l[i] for l in leaves]) for i in range(5))
    return cards(centre, right, up, LEAF_BOX, tint, normal)


def _dressed(mesh: Mesh, look: str) -> Mesh:
    """In flower in summer, browner out of it: part of each colour goes to a tint of its mean."""
    grey = mesh.colour.mean(1, keepdims=True)
    if look in ("winter", "snow"):
        mesh.colour = (
            mesh.colour * 0.35 + 0.65 * grey * np.array((1.35, 0.95, 0.65)) * 0.85
        ).astype(np.float32)
    elif look == "autumn":
        mesh.colour = (mesh.colour * 0.7 + 0.3 * grey * np.array((1.5, 0.9, 0.6))).astype(
            np.float32
        )
    elif look == "spring":
        mesh.colour = (mesh.colour * 0.3 + 0.7 * grey * np.array((0.95, 1.25, 0.6))).astype(
            np.float32
        )
    elif look == "dead":
        mesh.colour = (grey * (np.array((1.5, 0.95, 0.55)) * 0.8)).astype(np.float32)
    elif look == "burnt":
        mesh.colour = (grey * np.array((0.22, 0.22, 0.22))).astype(np.float32)
    return snowed(mesh, 0.5, 0.8) if look == "snow" else mesh


@recipe("shrub")
def _of_table(name: str, label: str, tags: str, values: Table) -> None:
    made(functools.partial(shrub, name, label, tags=tags), values)


def shrub(
    name: str,
    label: str,
    height: float,
    reach: float,
    sprays: int,
    leaf_m: float,
    body: Colour,
    tip: Colour,
    tip_share: float,
    needle: int = 26,
    number: int = 60,
    far: tuple[float, float] = (10, 32),
    cover: float | None = None,
    tags: str = "",
    form: Bush | None = None,
    leaf_light: float = 1.35,
) -> None:
    """Registers a shrub of a height and reach in m; `form` is how it is built where it is seen
    near, and `leaf_light` how much paler its leaves are than its body.
    """

    def nearest(seed):
        own = tuple(leaf_light * c for c in body)
        mesh = Mesh.joined(bush(seed, form, height, reach, own, tip, tip_share))
        return [Part(mesh, None, 0.45, 0.5, True)]

    mean = tuple(0.62 * (b + (t - b) * tip_share * 0.8) for b, t in zip(body, tip))

    low_kind(
        name,
        label,
        family="shrub",
        height=height,
        reach=reach,
        cover=cover or 2.6 * reach * reach,
        colour=mean,
        build=lambda seed, share: _shrub(
            seed, share, height, reach, sprays, leaf_m, tip, tip_share, body
        ),
        far=far,
        sheet=lambda look: lay(empty_sheet(), needles(5, needle, number)),
        dress=_dressed,
        tags=tags,
        nearest=nearest if form else None,
        nearest_m=8 + 16 * height,
    )
