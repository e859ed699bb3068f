"""Needle-leaved trees and shrubs: whorls of limbs on a straight stem, hung with needle sprays
(monopodial branching; after Halle & Oldeman 1970).
"""

import functools
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from ..document.data import Table
from .draw import add_cards, empty_sheet
from .growth.conifers import Needled, laterals, needled
from .growth.litter import needles_shed
from .growth.snow import on_sprays
from .kind import CAST_POWER, CAST_SHARE, Kind, KindShape, kinds
from .leaf import BARK_BOX, LEAF_BOX, bark, lay, needles
from .looks import LOOKS, held, leaf_colour, snowed
from .mesh import Mesh, Part, cards, far_card, frames, tube
from .recipes import made, recipe

SIZES = (1, 0.84, 1.12)  # of the variants
NEEDLE_LIGHT = 2.0  # a needle's own light beside that of a crown
PAD_PART = 0.55  # half the breadth of snow on a side branch, as a part of a shoot
CONE_PART = 0.005  # length of a cone as a part of the tree's height
APART = 0.3  # of the way between two whorls, by which limbs of one stand above each other


@dataclass(frozen=True)
class Bough:
    """A limb of a whorl: its path (5, 3), length in m, level way, and place in the crown 0..1."""

    line: np.ndarray
    length: float
    way: np.ndarray
    part: float


@dataclass(frozen=True)
class Whorls:
    """How a conifer stands: whorls of limbs from `clear` (part of the height) up, which leave the
    stem at `rise` radians above level and hang by `droop`. `profile(t)` is the crown's radius 0..1
    over its height 0..1. In the view each limb bears about `sprays` pictures of `spray_m`.
    """

    clear: float
    spread: float
    whorls: int
    limbs: int
    rise: float
    droop: float
    profile: Callable[[float], float]
    sprays: int
    spray_m: float
    bark_tone: tuple = ((1, 1, 1), (1, 1, 1))

    def stem(self, rng: np.random.Generator, height: float) -> tuple[np.ndarray, np.ndarray]:
        """Path (7, 3) and radii of the stem of a tree of a height in m."""
        bend = rng.normal(0, 0.012 * height, (6, 2)).cumsum(0) * 0.6
        path = np.c_[np.r_[[[0, 0]], bend], np.linspace(-0.15, height, 7)]
        wide = [0.014 * height + 0.02, 0.0105 * height + 0.012, 0.01]
        return path, np.interp(np.linspace(0, 1, 7), [0, 0.05, 1], wide)

    def boughs(self, rng: np.random.Generator, height: float, stem: np.ndarray) -> list[Bough]:
        """The limbs of all whorls, the lowest first."""
        out = []
        for w in range(self.whorls):
            year = (w + rng.uniform(0.1, 0.9)) / self.whorls
            for k in range(self.limbs):
                apart = rng.normal(0, APART) / self.whorls
                f = float(np.clip(year + apart, 0, 1))
                z = height * (self.clear + (0.985 - self.clear) * f)
                foot = np.array([*(np.interp(z, stem[:, 2], stem[:, k]) for k in (0, 1)), z])
                a = 2 * np.pi * k / self.limbs + w * 1.7 + rng.normal(0, 0.25)
                reach = self.spread * height * self.profile(f) * rng.uniform(0.72, 1.12)
                length = max(0.12, float(reach))
                way = np.array([np.cos(a), np.sin(a), 0])
                up = self.rise + rng.normal(0, 0.12)
                u = np.linspace(0, 1, 5)[:, None]
                line = foot + u * length * (np.cos(up) * way + np.sin(up) * np.array((0, 0, 1.0)))
                line = line - np.array((0, 0, 1.0)) * (self.droop * length * u**2)
                out.append(Bough(line, length, way, f))
        return out


def grow(
    seed: int,
    height: float,
    form: Whorls,
    colour,
    sides: int = 6,
    share: float = 1.0,
    kept: float = 1.0,
    wood_m: float = 0.35,
    power: float = 0.5,
) -> Mesh:
    """A conifer as the view draws it; `share` of the sprays is kept and made larger by its `power`:
    0.5 keeps their area. Boughs shorter than `wood_m` show no wood.
    """
    rng = np.random.default_rng(seed)
    stem, radii = form.stem(rng, height)
    trunk = tube(stem, radii, sides, (1, 1, 1), BARK_BOX, 2.0)
    t = np.clip(trunk.positions[:, 2:3] / height, 0, 1)
    low, high = map(np.array, form.bark_tone)
    trunk.colour = (low * (1 - t**1.4) + high * t**1.4).astype(np.float32)
    parts = [trunk]
    for bough in form.boughs(rng, height, stem):
        if bough.length > wood_m:
            thick = 0.16 * np.interp(bough.line[0, 2] / height, [0, 1], [radii[0], radii[-1]])
            wide = np.linspace(thick + 0.006, 0.005, 5)
            parts.append(tube(bough.line, wide, 3, (0.75, 0.72, 0.7), BARK_BOX, 2.0))
        sprays = _sprays(rng, bough, form, np.asarray(colour), (share, power), kept)
        if sprays is not None:
            parts.append(sprays)
    return Mesh.joined(parts)


def _sprays(
    rng: np.random.Generator,
    bough: Bough,
    form: Whorls,
    colour: np.ndarray,
    thinned: tuple[float, float],
    kept: float,
) -> Mesh | None:
    """The needle sprays of a bough, as cards."""
    number = max(2, int(form.sprays * (0.4 + 0.6 * form.profile(bough.part))))
    share, power = thinned
    size = form.spray_m / share**power
    reach = max(bough.length, 0.2)
    place = np.minimum(0.25 + 0.8 * rng.uniform(0, 1, number) ** 0.8, 0.999) * 4
    twist = rng.uniform(0, np.pi, (number, 1))
    tone = rng.uniform(0.7, 1.2, (number, 1))
    d = bough.way * 0.8 + rng.normal(0, 0.45, (number, 3))
    d[:, 2] += 0.2 - 0.4 * form.droop
    d /= np.linalg.norm(d, axis=1, keepdims=True)
    off = rng.normal(0, 0.09 * bough.length + 0.05, (number, 3)) * (1, 1, 0.6)
    here = (rng.uniform(0, 1, number) <= share) & (rng.uniform(0, 1, number) <= kept)
    if not here.any():
        return None
    i = place.astype(int)
    line = bough.line
    p = line[i] + (line[np.minimum(i + 1, 4)] - line[i]) * (place - i)[:, None] + off
    aside, across = frames(d)
    side = aside * np.cos(twist) + across * np.sin(twist)
    from_foot = p - line[0]
    normal = from_foot / reach + np.array((0, 0, 0.75))
    normal /= np.linalg.norm(normal, axis=1, keepdims=True)
    out = np.linalg.norm(from_foot[:, :2], axis=1, keepdims=True) / reach
    tint = colour * tone * (0.4 + 0.6 * np.clip(out, 0, 1))
    centre, right, up = p + d * size * 0.25, side * size * 0.5, d * size * 0.5
    return cards(centre[here], right[here], up[here], LEAF_BOX, tint[here], normal[here])


@recipe("conifer")
def _of_table(name: str, label: str, tags: str, values: Table) -> None:
    made(functools.partial(conifer, name, label, tags=tags), values)


def conifer(
    name: str,
    label: str,
    height: float,
    colour,
    bark_colours,
    picture: tuple[int, int],
    form: Whorls,
    near: Needled,
    tags: str,
    family: str = "tree",
    far: tuple[float, float] | None = None,
) -> None:
    """Registers a conifer of a height in m. `picture` are the length in px and the number of the
    needles that are drawn on a spray; `near` is how it is built where it is seen near.
    """
    far = far or (5 * height, 13 * height)

    def make(look: str) -> KindShape:
        kept = held(look, True)
        hue = leaf_colour(colour, look, evergreen=True)
        skin = [np.array(c) * (0.12 if look == "burnt" else 1) for c in bark_colours]
        sheet = lay(empty_sheet(), needles(11, *picture), bark(skin[0], skin[1], 6))
        dress = lambda m: snowed(m, 0.5, 0.8) if look == "snow" else m
        level = lambda v, **how: dress(
            grow(70 * v + 5, height * SIZES[v], form, hue, kept=kept, **how)
        )
        variants = range(len(SIZES))
        full = [level(v) for v in variants]
        mid = [level(v, sides=4, share=0.33) for v in variants]
        casts = tuple(
            level(v, sides=3, share=CAST_SHARE, wood_m=np.inf, power=CAST_POWER) for v in variants
        )
        width = 2 * max(np.abs(m.positions[:, :2]).max() for m in full) * 1.02
        top = max(m.positions[:, 2].max() for m in full) * 1.02
        add_cards(sheet, full, width, top)
        levels = [[full[v], mid[v], far_card(v, width, top)] for v in variants]
        return KindShape(levels, sheet, far, casts)

    def parts(look: str, variant: int, share: float = 1.0) -> list[Part]:
        rng = np.random.default_rng(70 * variant + 5)
        stem, radii = form.stem(rng, height * SIZES[variant])
        boughs = form.boughs(rng, height * SIZES[variant], stem)
        hue = np.array(leaf_colour(colour, look, evergreen=True)) * NEEDLE_LIGHT
        lines = [b.line for b in boughs]
        coarse = 1 / np.sqrt(share)
        sides = laterals(rng, lines, near)
        trunk, limbs, shoots, green = needled(
            rng, stem, radii, lines, sides, near, hue, held(look, True), coarse
        )
        tone = np.float32(0.1 if look == "burnt" else 1.0)
        out = [Part(trunk, near.bark.colour * tone), Part(limbs), Part(shoots, unit=9, ring=3)]
        for part in out[1:]:
            part.mesh.colour = part.mesh.colour * tone
        if green is not None:
            out.append(Part(green, None, 0.3, 0.5, True, len(near.needle.places)))
        if look == "snow":
            out = [replace(part, mesh=snowed(part.mesh, 0.6)) for part in out]
            out.append(on_sprays(rng, sides, near.hang, PAD_PART * near.shoot_m))
        return out

    means = lambda look: tuple(0.5 * c for c in leaf_colour(colour, look, evergreen=True))
    reach = form.spread * height
    kinds[name] = Kind(
        name,
        label,
        family,
        height,
        reach,
        2.4 * reach * reach,
        means("summer"),
        range(len(SIZES)),
        make,
        tuple(l for l in LOOKS if l != "autumn"),
        means,
        tags,
        nearest=parts,
        nearest_m=16.0,
        thins=True,
        sheds=needles_shed(near.needle, CONE_PART * height) if family == "tree" else None,
    )
