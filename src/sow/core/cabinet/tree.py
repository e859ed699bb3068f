"""Broad-leaved trees: a branching skeleton with tapered limbs and leafy twigs."""

import numpy as np

from .draw import add_cards, empty_sheet
from .kind import Kind, Shape, kinds
from .leaf import BARK_BOX, LEAF_BOX, bark, lay, sprig
from .looks import LOOKS, held, leaf_colour, snowed
from .mesh import Mesh, cards, far_card, frame, tube


def _limb(rng, start, direction, length, radius, segments, wander, rise):
    """A path that wanders and bends upwards (or down, with a negative rise), with its tapering
    radii.
    """
    path = [np.asarray(start, float)]
    d = np.asarray(direction, float)
    for _ in range(segments):
        d = d + rng.normal(0, wander, 3) + (0, 0, rise / segments)
        d /= np.linalg.norm(d)
        path.append(path[-1] + d * length / segments)
    return np.array(path), radius * np.linspace(1, 0.25, segments + 1) ** 0.8


def _along(path, t):
    f = t * (len(path) - 1)
    i = min(int(f), len(path) - 2)
    d = path[i + 1] - path[i]
    return path[i] + d * (f - i), d / np.linalg.norm(d)


def grow(
    seed,
    height,
    crown_from,
    spread,
    branches,
    twigs,
    wander,
    droop,
    leaf_m,
    sides,
    keep=1.0,
    stems=1,
    light=1.0,
):
    """A tree mesh.

    Lengths in m; `keep` is the share of leafy twigs kept, the rest made up by larger ones.
    """
    rng = np.random.default_rng(seed)
    parts, leaves = [], []
    grow_leaf = leaf_m / np.sqrt(keep)
    for s in range(stems):
        lean = rng.normal(0, 0.05 + 0.12 * (stems > 1), 2)
        tall = height * rng.uniform(0.85, 1) if s else height
        base = np.array([rng.normal(0, 0.15), rng.normal(0, 0.15), -0.3]) * (stems > 1) + (
            0,
            0,
            -0.15,
        )
        trunk, radii = _limb(
            rng,
            base,
            (lean[0], lean[1], 1),
            tall * 0.93,
            0.022 * tall + 0.02,
            9,
            wander * 0.5,
            0.15,
        )
        radii[0] *= 1.5
        parts.append(tube(trunk, radii, sides, (1, 1, 1), BARK_BOX, 2.2))
        for b in range(branches):
            t = crown_from + (0.98 - crown_from) * (b + rng.uniform(0, 0.9)) / branches
            at, up = _along(trunk, t)
            turn = b * 2.39996 + rng.normal(0, 0.3)
            side = np.array([np.cos(turn), np.sin(turn), 0])
            full = (
                np.sin(np.pi * np.clip((t - crown_from) / (1 - crown_from) * 0.8 + 0.2, 0, 1))
                ** 0.7
            )
            length = spread * tall * full * rng.uniform(0.7, 1.1) + 0.25
            d = side + up * rng.uniform(0.35, 1.0)
            limb, lr = _limb(
                rng,
                at,
                d / np.linalg.norm(d),
                length,
                0.3 * np.interp(t, np.linspace(0, 1, 10), radii) + 0.004,
                5,
                wander,
                droop,
            )
            if length > 0.4:
                parts.append(tube(limb, lr, max(3, sides - 3), (0.8, 0.78, 0.75), BARK_BOX, 2.2))
            for k in range(twigs):
                p, along = _along(limb, 0.3 + 0.7 * (k + rng.uniform(0, 1)) / twigs)
                draw = rng.uniform()
                d = along * 0.6 + rng.normal(0, 0.75, 3) + (0, 0, 0.25 * np.sign(droop + 0.01))
                d /= np.linalg.norm(d)
                twist = rng.uniform(0, np.pi)
                size = grow_leaf * rng.uniform(0.75, 1.25)
                tone = rng.uniform(0.75, 1.2)
                if draw > keep:
                    continue
                a, c = frame(d)
                leaves.append((p, d, a * np.cos(twist) + c * np.sin(twist), size, tone))
    points = np.array([l[0] for l in leaves])
    centre = points.mean(0) - (0, 0, 0.1 * height)
    reach = np.linalg.norm(points - centre, axis=1).max()
    p, d, side = (np.array([l[i] for l in leaves]) for i in range(3))
    size, tone = (np.array([l[i] for l in leaves])[:, None] for i in (3, 4))
    out = (p + d * size * 0.5 - centre) / reach
    inner = 0.52 + 0.48 * np.clip(
        np.linalg.norm(out, axis=1, keepdims=True), 0, 1
    )  # leaves within the crown stand in shade
    normal = out + (0, 0, 0.35)
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-6)
    parts.append(
        cards(
            p + d * size * 0.45,
            side * size * 0.5,
            d * size * 0.5,
            LEAF_BOX,
            np.repeat(tone * inner * light, 3, 1),
            normal,
        )
    )
    return Mesh.joined(parts)


def tree(
    name,
    label,
    height,
    colour,
    bark_colours,
    rings=False,
    leaf=None,
    variants=3,
    autumn=None,
    bare=False,
    tags="",
    **form,
):
    """Registers a kind of tree.

    `form` goes to `grow`; `autumn` is its colour then; a `bare` one is dead in every season.
    """

    def make(look):
        kept = 0.0 if bare else held(look)
        hue, dark = leaf_colour(colour, look, autumn), look == "burnt"
        skin = [np.array(c) * (0.12 if dark else 1) for c in bark_colours]
        berries = leaf.get("berries") if look in ("summer", "autumn") else None
        sheet = lay(
            empty_sheet(),
            sprig(
                hue,
                7,
                **{**leaf, "berries": berries},
                kept=kept,
                stem=(0.012,) * 3 if dark else (0.16, 0.145, 0.12) if bare else (0.07, 0.05, 0.03),
            ),
            bark(*skin, 5, rings),
        )
        dress = lambda m: snowed(m, 0.6, 0.16) if look == "snow" else m
        sizes = (1, 0.86, 1.1, 0.95)
        near = [
            dress(grow(100 * v + 1, height * sizes[v], sides=7, **form)) for v in range(variants)
        ]
        mid = [
            dress(grow(100 * v + 1, height * sizes[v], sides=4, keep=0.3, **form))
            for v in range(variants)
        ]
        width = 2 * max(np.abs(m.positions[:, :2]).max() for m in near) * 1.02
        top = max(m.positions[:, 2].max() for m in near) * 1.02
        add_cards(sheet, near, width, top)
        return Shape(
            [[near[v], mid[v], far_card(v, width, top)] for v in range(variants)],
            sheet,
            (5 * height, 13 * height),
        )

    def means(look):
        part = 0.0 if bare else held(look)
        return tuple(
            0.62 * (part * a + (1 - part) * b)
            for a, b in zip(
                leaf_colour(colour, look, autumn),
                (0.012,) * 3 if look == "burnt" else (0.11, 0.1, 0.085),
            )
        )

    reach = form["spread"] * height
    kinds[name] = Kind(
        name,
        label,
        "tree",
        height,
        reach,
        2.2 * reach * reach,
        means("summer"),
        range(variants),
        make,
        LOOKS if not bare else ("summer", "snow", "burnt"),
        means,
        tags,
    )


tree(
    "birch",
    "Downy birch",
    8.5,
    (0.056, 0.08, 0.02),
    ((0.62, 0.58, 0.52), (0.07, 0.06, 0.055)),
    rings=True,
    leaf={"leaves": 16, "length": 33, "breadth": 28, "twigs": 11},
    crown_from=0.2,
    spread=0.3,
    branches=30,
    twigs=36,
    wander=0.13,
    droop=-0.3,
    leaf_m=0.69,
    autumn=(0.34, 0.2, 0.02),
    tags="broadleaf wood light",
)
tree(
    "rowan",
    "Rowan",
    6.0,
    (0.042, 0.062, 0.02),
    ((0.2, 0.18, 0.155), (0.05, 0.045, 0.04)),
    stems=2,
    leaf={
        "leaves": 17,
        "length": 42,
        "breadth": 19,
        "pairs": True,
        "twigs": 13,
        "berries": (0.45, 0.04, 0.01),
    },
    crown_from=0.22,
    spread=0.36,
    branches=20,
    twigs=36,
    wander=0.16,
    droop=0.45,
    leaf_m=0.54,
    autumn=(0.3, 0.075, 0.012),
    tags="broadleaf berries upland",
)
tree(
    "thorn",
    "Hawthorn",
    4.0,
    (0.036, 0.05, 0.017),
    ((0.16, 0.14, 0.12), (0.04, 0.035, 0.03)),
    stems=2,
    leaf={"leaves": 17, "length": 28, "breadth": 26, "twigs": 12, "lobes": 2},
    crown_from=0.18,
    spread=0.46,
    branches=18,
    twigs=39,
    wander=0.26,
    droop=0.2,
    leaf_m=0.44,
    autumn=(0.2, 0.1, 0.02),
    tags="broadleaf hedge thorn",
)
tree(
    "oak",
    "Sessile oak",
    13.0,
    (0.036, 0.056, 0.014),
    ((0.17, 0.15, 0.125), (0.045, 0.04, 0.035)),
    leaf={"leaves": 12, "length": 56, "breadth": 42, "twigs": 11, "lobes": 4},
    crown_from=0.16,
    spread=0.42,
    branches=26,
    twigs=45,
    wander=0.24,
    droop=0.35,
    leaf_m=1.04,
    autumn=(0.24, 0.125, 0.03),
    tags="broadleaf wood large",
)
tree(
    "alder",
    "Alder",
    10.0,
    (0.03, 0.05, 0.017),
    ((0.13, 0.115, 0.1), (0.04, 0.035, 0.032)),
    stems=2,
    leaf={"leaves": 13, "length": 34, "breadth": 33, "twigs": 10},
    crown_from=0.14,
    spread=0.24,
    branches=30,
    twigs=30,
    wander=0.12,
    droop=0.3,
    leaf_m=0.64,
    autumn=(0.08, 0.07, 0.02),
    tags="broadleaf wet wood stream",
)
tree(
    "willow",
    "Grey willow",
    3.2,
    (0.062, 0.082, 0.038),
    ((0.19, 0.175, 0.14), (0.06, 0.055, 0.045)),
    stems=5,
    leaf={"leaves": 16, "length": 36, "breadth": 17, "twigs": 11},
    crown_from=0.1,
    spread=0.42,
    branches=12,
    twigs=24,
    wander=0.2,
    droop=0.5,
    leaf_m=0.4,
    autumn=(0.28, 0.21, 0.04),
    tags="shrub wet stream",
)
tree(
    "snag",
    "Dead tree",
    7.0,
    (0.1, 0.09, 0.07),
    ((0.36, 0.345, 0.315), (0.12, 0.11, 0.1)),
    leaf={"leaves": 8, "length": 30, "breadth": 22, "twigs": 6},
    crown_from=0.3,
    spread=0.26,
    branches=13,
    twigs=7,
    wander=0.3,
    droop=0.1,
    leaf_m=0.8,
    bare=True,
    tags="dead bare standing",
)
