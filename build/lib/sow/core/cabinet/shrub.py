"""Low shrubs: mounds of upright sprays, in flower at their tips."""

import numpy as np

from .draw import empty_sheet
from .growth.bush import Bush, bush, floret, sliver
from .growth.foliage import pinnate, pointed
from .leaf import LEAF_BOX, lay, needles
from .looks import snowed
from .low import low_kind
from .mesh import Mesh, Part, cards, frame


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


def shrub(
    name,
    label,
    height,
    reach,
    sprays,
    leaf_m,
    body,
    tip,
    tip_share,
    needle=26,
    number=60,
    far=(10, 32),
    cover=None,
    tags="",
    form: Bush | None = None,
    leaf_light=1.35,
):
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


shrub(
    "heather",
    "Heather",
    height=0.42,
    reach=0.42,
    sprays=78,
    leaf_m=0.3,
    body=(0.1, 0.085, 0.04),
    tip=(0.3, 0.125, 0.215),
    tip_share=0.58,
    far=(12, 34),
    tags="heath evergreen purple",
    form=Bush(
        stems=130,
        on_stem=8,
        shoot_m=0.11,
        leaf=sliver(0.0035, 0.0018),
        on_shoot=40,
        wood=(0.1, 0.07, 0.05),
        flower=floret(0.0048),
        in_flower=20,
        spread=0.25,
    ),
)


shrub(
    "gorse",
    "Gorse",
    height=1.2,
    reach=0.85,
    sprays=130,
    leaf_m=0.5,
    body=(0.055, 0.075, 0.026),
    tip=(0.55, 0.36, 0.03),
    tip_share=0.2,
    needle=34,
    far=(22, 60),
    tags="heath thorn yellow",
    form=Bush(
        stems=60,
        on_stem=16,
        shoot_m=0.2,
        leaf=sliver(0.02, 0.0022),
        on_shoot=40,
        wood=(0.1, 0.085, 0.05),
        stem_m=0.006,
        flower=floret(0.017),
        in_flower=9,
        spread=0.45,
    ),
)


shrub(
    "bilberry",
    "Bilberry",
    height=0.28,
    reach=0.36,
    sprays=60,
    leaf_m=0.24,
    body=(0.075, 0.115, 0.035),
    tip=(0.24, 0.085, 0.045),
    tip_share=0.14,
    needle=30,
    far=(9, 26),
    tags="heath wood berries",
    form=Bush(
        stems=64,
        on_stem=7,
        shoot_m=0.1,
        leaf=pointed(0.019, 0.012, 0.45, 0.1),
        on_shoot=11,
        wood=(0.09, 0.12, 0.04),
        stem_m=0.0016,
        flower=floret(0.006),
        in_flower=2,
        spread=0.4,
        drops=0.1,
    ),
)


shrub(
    "bramble",
    "Bramble",
    height=0.8,
    reach=0.9,
    sprays=110,
    leaf_m=0.4,
    body=(0.04, 0.062, 0.02),
    tip=(0.11, 0.05, 0.025),
    tip_share=0.12,
    needle=44,
    number=44,
    far=(16, 44),
    tags="wood edge thorn thicket",
    form=Bush(
        stems=26,
        on_stem=12,
        shoot_m=0.24,
        leaf=pinnate(0.12, 0.07, 0.045, 1),
        on_shoot=5,
        wood=(0.13, 0.08, 0.06),
        stem_m=0.004,
        flower=floret(0.014),
        in_flower=3,
        spread=0.7,
        drops=0.3,
    ),
)


shrub(
    "box",
    "Box, clipped",
    height=0.75,
    reach=0.45,
    sprays=300,
    leaf_m=0.13,
    body=(0.032, 0.058, 0.016),
    tip=(0.06, 0.1, 0.028),
    tip_share=0.35,
    needle=34,
    far=(14, 40),
    tags="garden evergreen hedge clipped",
    form=Bush(
        stems=150,
        on_stem=12,
        shoot_m=0.15,
        leaf=pointed(0.02, 0.011, 0.5, 0.1),
        on_shoot=18,
        wood=(0.11, 0.1, 0.06),
        stem_m=0.003,
        spread=0.5,
    ),
)


shrub(
    "rose",
    "Rose bush",
    height=1.05,
    reach=0.6,
    sprays=95,
    leaf_m=0.32,
    body=(0.045, 0.075, 0.024),
    tip=(0.52, 0.06, 0.1),
    tip_share=0.14,
    needle=40,
    number=40,
    far=(16, 44),
    tags="garden border flower thorn",
    form=Bush(
        stems=24,
        on_stem=11,
        shoot_m=0.2,
        leaf=pinnate(0.1, 0.06, 0.032, 2),
        on_shoot=5,
        wood=(0.1, 0.1, 0.045),
        stem_m=0.005,
        flower=floret(0.055),
        in_flower=1,
        spread=0.6,
        drops=0.15,
    ),
)
