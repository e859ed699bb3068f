"""Needle-leaved trees and shrubs: whorls of limbs on a straight stem, hung with needle sprays
(monopodial branching; after Halle & Oldeman 1970).
"""

import numpy as np

from .draw import add_cards, empty_sheet
from .kind import Kind, Shape, kinds
from .leaf import BARK_BOX, LEAF_BOX, bark, lay, needles
from .looks import LOOKS, held, leaf_colour, snowed
from .mesh import Mesh, cards, far_card, frame, tube


def grow(
    seed,
    height,
    clear,
    spread,
    whorls,
    limbs,
    rise,
    droop,
    profile,
    sprays,
    spray_m,
    colour,
    sides=6,
    share=1.0,
    kept=1.0,
    bark_tone=((1, 1, 1), (1, 1, 1)),
):
    """A stem with whorls from `clear` (part of the height) up; limbs leave it at `rise` radians
    above level and hang by `droop`. `profile(t)` is the crown's radius 0..1 over its height 0..1;
    `share` of the sprays is kept and made larger for it.
    """
    rng = np.random.default_rng(seed)
    bend = rng.normal(0, 0.012 * height, (6, 2)).cumsum(0) * 0.6
    at = np.linspace(-0.15, height, 7)
    stem = np.c_[np.r_[[[0, 0]], bend], at]
    radii = np.interp(
        np.linspace(0, 1, 7), [0, 0.05, 1], [0.026 * height + 0.03, 0.019 * height + 0.02, 0.012]
    )
    trunk = tube(stem, radii, sides, (1, 1, 1), BARK_BOX, 2.0)
    t = np.clip(trunk.positions[:, 2:3] / height, 0, 1)
    trunk.colour = np.float32(
        np.array(bark_tone[0]) * (1 - t**1.4) + np.array(bark_tone[1]) * t**1.4
    )
    parts = [trunk]
    leaves = []
    size = spray_m / np.sqrt(share)
    centre_of = lambda z: np.array([np.interp(z, stem[:, 2], stem[:, k]) for k in (0, 1)] + [z])
    for w in range(whorls):
        f = (w + rng.uniform(0.1, 0.9)) / whorls
        z = height * (clear + (0.985 - clear) * f)
        foot = centre_of(z)
        for k in range(limbs):
            a = 2 * np.pi * k / limbs + w * 1.7 + rng.normal(0, 0.25)
            length = max(0.12, spread * height * profile(f) * rng.uniform(0.72, 1.12))
            out = np.array([np.cos(a), np.sin(a), 0])
            up = rise + rng.normal(0, 0.12)
            u = np.linspace(0, 1, 5)[:, None]
            limb = (
                foot
                + u * length * (np.cos(up) * out + np.sin(up) * np.array((0, 0, 1.0)))
                - (0, 0, 1) * (droop * length * u**2)
            )
            if length > 0.35:
                parts.append(
                    tube(
                        limb,
                        np.linspace(
                            0.16 * np.interp(z / height, [0, 1], [radii[0], radii[-1]]) + 0.006,
                            0.005,
                            5,
                        ),
                        3,
                        (0.75, 0.72, 0.7),
                        BARK_BOX,
                        2.0,
                    )
                )
            for _j in range(max(2, int(sprays * (0.4 + 0.6 * profile(f))))):
                draw = rng.uniform()
                place = 0.25 + 0.8 * rng.uniform() ** 0.8
                twist = rng.uniform(0, np.pi)
                tone = rng.uniform(0.7, 1.2)
                d = out * 0.8 + rng.normal(0, 0.45, 3) + (0, 0, 0.2 - 0.4 * droop)
                off = rng.normal(0, 0.09 * length + 0.05, 3) * (1, 1, 0.6)
                dies = rng.uniform()
                if draw > share or dies > kept:
                    continue
                d /= np.linalg.norm(d)
                i = min(place, 0.999) * 4
                p = limb[int(i)] + (limb[min(int(i) + 1, 4)] - limb[int(i)]) * (i - int(i)) + off
                side, other = frame(d)
                normal = (p - foot) / max(length, 0.2) + (0, 0, 0.75)
                inner = 0.4 + 0.6 * np.clip(np.linalg.norm((p - foot)[:2]) / max(length, 0.2), 0, 1)
                leaves.append(
                    (
                        p + d * size * 0.25,
                        (side * np.cos(twist) + other * np.sin(twist)) * size * 0.5,
                        d * size * 0.5,
                        np.asarray(colour) * tone * inner,
                        normal / np.linalg.norm(normal),
                    )
                )
    if leaves:
        centre, right, up, tint, normal = (np.array([l[i] for l in leaves]) for i in range(5))
        parts.append(cards(centre, right, up, LEAF_BOX, tint, normal))
    return Mesh.joined(parts)


def conifer(
    name,
    label,
    height,
    colour,
    bark_colours,
    needle,
    number,
    family="tree",
    far=None,
    tags="",
    variants=3,
    **form,
):
    """Registers a conifer of a height in m; `form` goes to its growth."""

    def make(look):
        kept = held(look, True)
        hue = leaf_colour(colour, look, evergreen=True)
        skin = [np.array(c) * (0.12 if look == "burnt" else 1) for c in bark_colours]
        sheet = lay(empty_sheet(), needles(11, needle, number), bark(*skin, 6))
        dress = lambda m: snowed(m, 0.5, 0.8) if look == "snow" else m
        sizes = (1, 0.84, 1.12)
        near = [
            dress(grow(70 * v + 5, height * sizes[v], colour=hue, kept=kept, **form))
            for v in range(variants)
        ]
        mid = [
            dress(
                grow(
                    70 * v + 5,
                    height * sizes[v],
                    colour=hue,
                    kept=kept,
                    sides=4,
                    share=0.33,
                    **form,
                )
            )
            for v in range(variants)
        ]
        width = 2 * max(np.abs(m.positions[:, :2]).max() for m in near) * 1.02
        top = max(m.positions[:, 2].max() for m in near) * 1.02
        add_cards(sheet, near, width, top)
        return Shape(
            [[near[v], mid[v], far_card(v, width, top)] for v in range(variants)],
            sheet,
            far or (5 * height, 13 * height),
        )

    means = lambda look: tuple(0.5 * c for c in leaf_colour(colour, look, evergreen=True))
    reach = form["spread"] * height
    kinds[name] = Kind(
        name,
        label,
        family,
        height,
        reach,
        2.4 * reach * reach,
        means("summer"),
        range(variants),
        make,
        tuple(l for l in LOOKS if l != "autumn"),
        means,
        tags,
    )


conifer(
    "pine",
    "Scots pine",
    15.0,
    (0.06, 0.085, 0.038),
    ((0.3, 0.2, 0.14), (0.09, 0.065, 0.05)),
    46,
    70,
    clear=0.42,
    spread=0.23,
    whorls=9,
    limbs=4,
    rise=0.5,
    droop=0.05,
    profile=lambda f: np.sin(np.pi * np.clip(0.22 + 0.68 * f, 0, 1)) ** 0.6,
    sprays=26,
    spray_m=1.0,
    bark_tone=((0.62, 0.6, 0.62), (1.7, 1.15, 0.8)),
    tags="conifer evergreen wood",
)
conifer(
    "spruce",
    "Spruce",
    17.0,
    (0.032, 0.052, 0.028),
    ((0.2, 0.155, 0.12), (0.07, 0.055, 0.045)),
    30,
    90,
    clear=0.06,
    spread=0.19,
    whorls=24,
    limbs=6,
    rise=0.12,
    droop=0.42,
    profile=lambda f: (1 - f) ** 0.85 + 0.03,
    sprays=11,
    spray_m=1.05,
    tags="conifer evergreen dark",
)
conifer(
    "juniper",
    "Juniper",
    2.4,
    (0.055, 0.078, 0.048),
    ((0.24, 0.18, 0.14), (0.08, 0.06, 0.05)),
    24,
    80,
    family="shrub",
    far=(26, 70),
    clear=0.04,
    spread=0.3,
    whorls=11,
    limbs=6,
    rise=1.05,
    droop=-0.05,
    profile=lambda f: np.sin(np.pi * (0.3 + 0.68 * f)) ** 0.8,
    sprays=9,
    spray_m=0.42,
    tags="conifer evergreen upland slope",
)
