"""Broad-leaved trees: their measures, crowns, bark and leaves; each kind is a table of data."""

import functools
from dataclasses import dataclass, field, replace

import numpy as np

from ..document.data import Table
from .draw import add_cards, empty_sheet
from .growth.damage import with_dead_limbs, with_stubs
from .growth.foliage import Leaf, Shoots, leaves_on, plain, twigs
from .growth.ivy import LEAF as IVY_LEAF
from .growth.ivy import ivy_on
from .growth.litter import leaves_shed
from .growth.outlines import Profile
from .growth.side_twigs import with_side_twigs
from .growth.skeleton import Crown, Skeleton, colonised, stem, thickened, thin_joints
from .growth.skin import Bark, limbs_of
from .growth.snow import on_limbs
from .kind import CAST_POWER, CAST_SHARE, Kind, KindShape, kinds, srgb_bytes
from .leaf import BARK_BOX, LEAF_BOX, lay, sprig
from .looks import LOOKS, held, leaf_colour, snowed
from .mesh import Mesh, Part, cards, far_card, frames
from .recipes import made, recipe

SIZES = (1, 0.86, 1.1, 0.95)  # of the variants
NEAREST_M = 26.0  # farther off a leaf is less than a pixel of a picture 550 px wide
BARE_THINS = 0.5  # power of the share by which a bare tree thins: its twigs are all that is seen
LIMB_PX_M = 0.002  # thinnest limbs of a build with fewer leaves, at full share
LEAF_LIGHT = 2.0  # a leaf's own reflected and transmitted light beside that of a crown
SNOW_FROM_M = 0.004  # radius of the thinnest limbs that snow lies on in lumps
IVY_IN_VIEW = 0.05  # of its leaves
TWIG_M = 0.0016  # radius of the wood of this year
SHEET_BARK = (384, 62)
SIDE_SHOOTS = 2.6  # length of a side twig in those of its shoots
MOST_SIDE = 0.16  # of a crown's radius
SHADED = 0.12  # of a crown's height, its lowest: too dark for side twigs
ON_SIDE = 8  # shoots for which there is one
STEP_PART = 0.018  # of a tree's height, from joint to joint of its skeleton
VIEW_LIMB_PART = 0.0019  # of a tree's height: thinner limbs are left out in the view


@dataclass(frozen=True)
class TreeForm:
    """How a tree grows. Lengths in m at full height.

    Args:
        crown_from: where the crown begins, as a part of the height.
        spread: radius of the crown, as a part of the height.
        girth_m: diameter of the stem at breast height.
        leader: how far up the stem goes on before it parts, as a part of the height.
        profile: radius of the crown 0..1 over its height 0..1.
        marks: places that limbs grow towards.
        rise: how strongly limbs turn up, or hang when negative.
        wander: how unsteady they are.
        stems: of one stool.
        shoots: leafy twigs.
        shoot_m: length of one.
        on_shoot: leaves on one.
        hang: by how much of their length twigs hang.
        opposite: leaves stand in pairs.
        card_m: size of what stands for a twig's end in the view.
        cards: of them.
        dead: share of its thin limbs that are bare, low down the most.
        broken: stout boughs that broke off.
    """

    crown_from: float
    spread: float
    girth_m: float
    profile: Profile
    leader: float = 0.9
    marks: int = 1500
    rise: float = 0.1
    wander: float = 0.1
    stems: int = 1
    shoots: int = 2600
    shoot_m: float = 0.26
    on_shoot: int = 9
    hang: float = 0.2
    opposite: bool = False
    card_m: float = 0.7
    cards: int = 1000
    dead: float = 0.0
    broken: int = 0


@functools.lru_cache(16)
def skeleton_of(seed: int, height: float, form: TreeForm) -> Skeleton:
    """The limbs of a tree of a height in m."""
    rng = np.random.default_rng(seed)
    step = STEP_PART * height + 0.02
    base = form.crown_from * height
    radius = form.spread * height
    side = min(SIDE_SHOOTS * form.shoot_m, MOST_SIDE * radius)
    room = Crown(base, height, radius - 0.5 * side, form.profile, form.marks)
    stems = []
    for s in range(form.stems):
        apart = 0.05 * height * np.sqrt(s) * (form.stems > 1)
        turn = 2.4 * s + rng.uniform(0, 1)
        foot = np.array((apart * np.cos(turn), apart * np.sin(turn), -0.15))
        out = radius * (0.5 if form.stems > 1 else 0.08) * rng.uniform(0.6, 1.2)
        top = (out * np.cos(turn), out * np.sin(turn), form.leader * height * (1 - 0.08 * s))
        stems.append(stem(rng, foot, top, step, 0.02 + 0.12 * form.wander))
    grown = colonised(
        rng, room.points(rng), stems, step, 9 * step, 2.1 * step, form.rise, form.wander
    )
    each = form.girth_m / 2 / np.sqrt(form.stems)
    tip = 0.0028 + 0.0003 * height
    limbs = thickened(grown, each, tip)
    lit = base + SHADED * (height - base)
    full = with_side_twigs(rng, limbs, form.shoots // ON_SIDE, side, lit, form.hang)
    whole = thickened(full, each, tip)
    return with_stubs(rng, with_dead_limbs(rng, whole, form.dead), form.broken)


def shoots_of(seed: int, skeleton: Skeleton, form: TreeForm) -> Shoots:
    """Leafy twigs on all thin wood, the most of them at the rim."""
    rng = np.random.default_rng(seed + 77)
    thin = thin_joints(skeleton)
    weight = 1 / skeleton.radius[thin] ** 1.3
    which = rng.choice(thin, form.shoots, p=weight / weight.sum())
    tips = np.setdiff1d(skeleton.tips, skeleton.bare)
    which[: min(len(tips), form.shoots)] = tips[: form.shoots]
    back = skeleton.places[skeleton.parent[which]] - skeleton.places[which]
    foot = skeleton.places[which] + rng.uniform(0, 1, (form.shoots, 1)) * back
    way = skeleton.ways()[which] * 0.7 + rng.normal(0, 0.5, (form.shoots, 3))
    axis = foot * (1, 1, 0)
    out = axis / np.maximum(np.linalg.norm(axis, axis=1, keepdims=True), 0.3)
    way = way + 0.4 * out + np.array((0, 0, 0.15))
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    return Shoots(foot, way, form.shoot_m * rng.uniform(0.5, 1.3, form.shoots))


def _cards(
    seed: int, shoots: Shoots, height: float, form: TreeForm, share: float, power: float
) -> Mesh:
    """What stands for the twigs in the view: pictures of them, fewer and larger by `share`."""
    rng = np.random.default_rng(seed + 5)
    count = min(max(8, int(form.cards * share)), len(shoots.foot))
    some = rng.choice(len(shoots.foot), count, replace=False)
    size = (form.card_m / share**power * rng.uniform(0.75, 1.25, count))[:, None]
    p, d = shoots.foot[some], shoots.way[some]
    d = d + np.array((0, 0, -1.3)) * form.hang
    d /= np.linalg.norm(d, axis=1, keepdims=True)
    p = p - 0.3 * size * d
    twist = rng.uniform(0, np.pi, (count, 1))
    tone = rng.uniform(0.75, 1.2, (count, 1))
    aside, across = frames(d)
    side = aside * np.cos(twist) + across * np.sin(twist)
    centre = p.mean(0) - (0, 0, 0.1 * height)
    reach = np.linalg.norm(p - centre, axis=1).max()
    out = (p + d * size * 0.5 - centre) / reach
    # leaves within the crown stand in shade
    inner = 0.52 + 0.48 * np.clip(np.linalg.norm(out, axis=1, keepdims=True), 0, 1)
    normal = out + (0, 0, 0.35)
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-6)
    tones = np.repeat(tone * inner, 3, 1)
    return cards(p + d * size * 0.45, side * size * 0.5, d * size * 0.5, LEAF_BOX, tones, normal)


def _on_sheet(mesh: Mesh) -> Mesh:
    """Limbs whose uv is told in tiles, laid into the bark's place on the sheet, mirrored where a
    tile ends, as the sheet does not repeat.
    """
    u0, v0, u1, v1 = (edge + inset / 1024 for edge, inset in zip(BARK_BOX, (3, 2, -3, -2)))
    mirrored = np.abs((mesh.uv + 1) % 2 - 1)
    mesh.uv = (np.array((u0, v0)) + mirrored * np.array((u1 - u0, v1 - v0))).astype(np.float32)
    return mesh


def _sheet_bark(bark: Bark, tone: float) -> np.ndarray:
    rows, columns = SHEET_BARK
    k = bark.colour.shape[0] // rows or 1
    tile = bark.colour[: rows * k : k]
    wide = np.linspace(0, tile.shape[1] - 1, columns).astype(int)
    shade = 0.75 + 0.35 * bark.height[: rows * k : k][:, wide, None]
    colour = np.zeros((rows, columns, 3))
    colour[: len(tile)] = tile[:, wide] * shade * tone
    return np.dstack([srgb_bytes(colour), np.full((rows, columns), 255, np.uint8)])


@dataclass(frozen=True)
class Tree:
    """A kind of tree: `colour` is that of its crown, linear; `autumn` is its colour then; a `bare`
    one is dead in every season; `picture` goes to the drawing of its twig's end (`leaf.sprig`);
    ivy grows on its stem up to `ivy_m`.
    """

    height: float
    colour: tuple[float, float, float]
    bark: Bark
    leaf: Leaf
    form: TreeForm
    picture: dict = field(default_factory=dict)
    autumn: tuple[float, float, float] | None = None
    bare: bool = False
    variants: int = 3
    ivy_m: float = 0.0

    def held(self, look: str) -> float:
        """The part of its leaves that it has in a look."""
        return 0.0 if self.bare else held(look)

    def skeleton(self, variant: int) -> Skeleton:
        """The limbs of a variant."""
        return skeleton_of(100 * variant + 1, self.height * SIZES[variant], self.form)

    def mesh(
        self, variant: int, share: float, sides_m: float, power: float = 0.5, ivied: bool = True
    ) -> Mesh:
        """A variant as the view draws it, with a share of its cards, larger by that share's power:
        0.5 keeps their area.
        """
        seed, height = 100 * variant + 1, self.height * SIZES[variant]
        skeleton = self.skeleton(variant)
        least = VIEW_LIMB_PART * height / np.sqrt(share)
        limbs = limbs_of(skeleton, least, None, 0.09 * height / np.sqrt(share), sides_m)
        shoots = shoots_of(seed, skeleton, self.form)
        leaves = _cards(seed, shoots, height, self.form, share, power)
        ivy = self.ivy(seed, skeleton, IVY_IN_VIEW * share) if ivied else []
        return Mesh.joined([*map(_on_sheet, limbs), *ivy, leaves])

    def ivy(self, seed: int, skeleton: Skeleton, share: float = 1.0) -> list[Mesh]:
        """What grows on its stem, if anything does."""
        if not self.ivy_m:
            return []
        grown = ivy_on(np.random.default_rng(seed + 31), skeleton, self.ivy_m, share)
        return [grown] if grown else []

    def shape(self, look: str) -> KindShape:
        """Its levels in the view."""
        burnt = look == "burnt"
        berries = self.picture.get("berries") if look in ("summer", "autumn") else None
        wood = (0.012,) * 3 if burnt else (0.16, 0.145, 0.12) if self.bare else (0.07, 0.05, 0.03)
        hue = leaf_colour(self.colour, look, self.autumn)
        twig = {**self.picture, "berries": berries, "kept": self.held(look), "stem": wood}
        bark = _sheet_bark(self.bark, 0.12 if burnt else 1.0)
        sheet = lay(empty_sheet(), sprig(hue, 7, **twig), bark)
        dress = lambda m: snowed(m, 0.6, 0.16) if look == "snow" else m
        each = lambda share, sides_m, power=0.5: [
            dress(self.mesh(v, share, sides_m, power, not burnt)) for v in range(self.variants)
        ]
        near, mid = each(1.0, 0.06), each(0.3, 0.3)
        casts = tuple(each(CAST_SHARE, 0.6, CAST_POWER))
        width = 2 * max(np.abs(m.positions[:, :2]).max() for m in near) * 1.02
        top = max(m.positions[:, 2].max() for m in near) * 1.02
        add_cards(sheet, near, width, top)
        levels = [[near[v], mid[v], far_card(v, width, top)] for v in range(self.variants)]
        return KindShape(levels, sheet, (5 * self.height, 13 * self.height), casts)

    def parts(self, look: str, variant: int, share: float = 1.0) -> list[Part]:
        """A variant leaf by leaf: its limbs with bark that stands out, twigs, leaves. Limbs are
        coarser, thin ones left out and leaves plain where fewer leaves are wanted.
        """
        seed = 100 * variant + 1
        rng = np.random.default_rng(seed + 13)
        skeleton = self.skeleton(variant)
        power = 1.0 if self.held(look) > 0 else BARE_THINS
        coarse = share ** (-power / 2)
        least = 0.0 if share == 1 else LIMB_PX_M * coarse
        bark = self.bark if share == 1 else replace(self.bark, deep_m=0.0)
        limbs = Mesh.joined(limbs_of(skeleton, least, bark, 0.028 * coarse, 0.014 * coarse))
        burnt = look == "burnt"
        tone = 0.1 if burnt else 1.0
        shoots = shoots_of(seed, skeleton, self.form)
        wood = self.bark.colour.mean((0, 1)) * 0.3 + np.array((0.05, 0.032, 0.022))
        form = self.form
        out = [Part(limbs, (self.bark.colour * tone).astype(np.float32))]
        if not burnt:
            climbs = self.ivy(seed, skeleton, share)
            out += [Part(m, None, 0.35, 0.4, True, len(IVY_LEAF.places)) for m in climbs]
        if not self.bare:
            wood_of = twigs(shoots, form.hang, TWIG_M, wood * tone)
            out.append(Part(wood_of, unit=9, ring=3, power=power))
        if self.held(look) > 0:
            hue = np.array(leaf_colour(self.colour, look, self.autumn)) * LEAF_LIGHT
            leaf = self.leaf if share == 1 else plain(self.leaf)
            leaves = leaves_on(
                rng,
                shoots,
                leaf,
                form.on_shoot,
                form.hang,
                form.opposite,
                hue,
                self.held(look),
                0.45 + form.hang,
            )
            out.append(Part(leaves, None, 0.5, 0.45, True, len(leaf.places)))
        if look == "snow":
            out = [replace(part, mesh=snowed(part.mesh, 0.6)) for part in out]
            out.append(on_limbs(rng, skeleton, max(least, SNOW_FROM_M)))
        return out

    def means(self, look: str) -> tuple[float, float, float]:
        """Mean linear colour in a look, seen from afar."""
        part = self.held(look)
        wood = (0.012,) * 3 if look == "burnt" else (0.11, 0.1, 0.085)
        leaves = leaf_colour(self.colour, look, self.autumn)
        red, green, blue = (0.62 * (part * a + (1 - part) * b) for a, b in zip(leaves, wood))
        return red, green, blue


def tree(name: str, label: str, own: Tree, tags: str) -> None:
    """Registers a kind of tree."""
    reach = own.form.spread * own.height
    kinds[name] = Kind(
        name,
        label,
        "tree",
        own.height,
        reach,
        2.2 * reach * reach,
        own.means("summer"),
        range(own.variants),
        own.shape,
        LOOKS if not own.bare else ("summer", "snow", "burnt"),
        own.means,
        tags,
        nearest=own.parts,
        nearest_m=NEAREST_M,
        thins=True,
        sheds=None if own.bare else leaves_shed(own.leaf, own.autumn),
    )


@recipe("tree")
def _of_table(name: str, label: str, tags: str, values: Table) -> None:
    tree(name, label, made(Tree, values), tags)
