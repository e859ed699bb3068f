"""What a drawer of the cabinet holds."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numba import njit, prange

from ..errors import SceneError
from ..shared import VARIANTS
from .family import families
from .keep import from_folder, kept
from .mesh import Mesh, Part
from .thinned import thinned

CAST_SHARE = 0.08  # of a crown's leaves in what casts its shadow far from the eye
CAST_POWER = 0.38  # by which they are larger: few of them lie less over one another
MARK = "@"  # between a kind's name and how it is bent
LARGE = 100_000  # values of a picture from which on its bytes are found on all cores
SHEET = (512, 1024)  # a kind's picture: left half leaves and bark, right half its far cards


@dataclass(frozen=True)
class KindShape:
    """One kind made: `levels[variant]` lists meshes from near to far (the last is a card that faces
    the eye); `sheet` is its picture, uint8 (512, 1024, 4); `far_m` the distances at which each next
    level takes over. `casts[variant]` casts its shadow far from the eye, where that is a mesh of
    its own: a crown of few, larger leaves.
    """

    levels: list[list[Mesh]]
    sheet: np.ndarray
    far_m: tuple[float, ...]
    casts: tuple[Mesh, ...] = ()

    def plain(self) -> dict:
        """As plain values, to be kept."""
        levels = [[vars(mesh) for mesh in row] for row in self.levels]
        casts = [vars(mesh) for mesh in self.casts]
        return {"levels": levels, "sheet": self.sheet, "far_m": list(self.far_m), "casts": casts}

    @staticmethod
    def of(plain: dict) -> "KindShape":
        """A shape from its plain values."""
        levels = [[Mesh(**mesh) for mesh in row] for row in plain["levels"]]
        casts = tuple(Mesh(**mesh) for mesh in plain["casts"])
        return KindShape(levels, plain["sheet"], tuple(plain["far_m"]), casts)


@dataclass(frozen=True)
class Finish:
    """How a surface shines, each 0..1: how rough it is, how much it is a metal, how much light goes
    straight through as through a pane.
    """

    rough: float = 0.9
    metal: float = 0.0
    glass: float = 0.0


@dataclass(frozen=True)
class Kind:
    """A plant, stone or figure.

    `height_m` and `reach_m` (radius on the ground) are those of size 1; `colour` is its mean linear
    colour seen from afar; `cover_m2` the ground that one hides. `nearest(look, variant, share)`
    gives it leaf by leaf, for stills that see it nearer than `nearest_m`, its limbs as coarse as a
    `share` of its leaves asks. With `thins` it has further such builds for any distance. `sheds`
    makes a patch of what it lets fall, of a radius in m, as dense as is asked. `finish` is that of
    each of its surfaces, none where all are dull. Those from `outside` ship with no recipe here and
    are grown anew by each process.
    """

    name: str
    label: str
    family: str
    height_m: float
    reach_m: float
    cover_m2: float
    colour: tuple[float, float, float]
    variants: range
    make: Callable[[str], KindShape]
    looks: tuple[str, ...] = ("summer", "snow")
    means: Callable[[str], tuple] | None = None
    tags: str = ""
    feet: tuple[tuple[float, float, float], ...] = ()
    surfaces: tuple[str, ...] = ()
    nearest: Callable[[str, int, float], list[Part]] | None = None
    nearest_m: float = 0.0
    thins: bool = False
    sheds: Callable[[np.random.Generator, float, float], list[Part]] | None = None
    finish: tuple[Finish, ...] = ()
    outside: bool = False

    def __post_init__(self) -> None:
        """Raises SceneError when its measures contradict each other."""
        reaches = np.pi * self.reach_m**2
        wrong = ""
        if min(self.height_m, self.reach_m, self.cover_m2) <= 0:
            wrong = "its height, its reach and what it covers must be above 0"
        elif not len(self.variants) or not self.looks:
            wrong = "it has no variant, or no look"
        elif len(self.variants) > VARIANTS:
            wrong = f"it has {len(self.variants)} variants, and {VARIANTS} are the most"
        elif self.cover_m2 > 3 * reaches:
            told = f"{self.cover_m2:g} m² of ground with a reach of {self.reach_m:g} m"
            wrong = f"it cannot hide {told}"
        elif min(self.colour) < 0 or max(self.colour) > 1:
            wrong = "its colour is linear light, 0 to 1"
        if wrong:
            raise SceneError(f"The kind “{self.label}” contradicts itself: {wrong}.")

    def footing(self) -> tuple[tuple[float, float, float], ...]:
        """Discs on the ground that nothing else may stand in, at size 1: metres east and north of
        its middle when it is not turned, and radius. Grasses and herbs have none.
        """
        part = families[self.family].footing
        return self.feet or (((0.0, 0.0, part * self.reach_m),) if part else ())

    def look(self, wanted: str) -> str:
        """The look that this kind has for the one wanted: a stone has no spring."""
        return wanted if wanted in self.looks else "summer"

    def shape(self, look: str = "summer") -> KindShape:
        """Meshes and sheet in a look, made once and kept."""
        look = self.look(look)
        if self.name.startswith("own-") or MARK in self.name or self.outside:
            return self.make(look)
        return kept(
            f"kind-{self.name}-{look}", lambda: self.make(look), KindShape.plain, KindShape.of
        )

    def parts(self, variant: int, look: str = "summer", share: float = 1.0) -> list[Part]:
        """A variant leaf by leaf, in a look, with a share of its leaves, which are as much larger;
        for kinds that have such a build.
        """
        nearest = self.nearest
        assert nearest is not None
        look, variant = self.look(look), variant % len(self.variants)
        make = lambda: [thinned(part, share**part.power) for part in nearest(look, variant, share)]
        if share == 1 or MARK in self.name or self.outside:
            return make()
        told = f"thin-{self.name}-{look}-{variant}-{share:.4f}"
        plain = lambda parts: [{**vars(part), "mesh": vars(part.mesh)} for part in parts]
        of = lambda rows: [Part(**{**row, "mesh": Mesh(**row["mesh"])}) for row in rows]
        return from_folder(told, make, plain, of)

    def mean(self, look: str = "summer") -> tuple[float, float, float]:
        """Mean linear colour in a look, seen from afar."""
        if self.look(look) == "snow":
            red, green, blue = (0.45 * c + 0.36 for c in self.colour)
            return red, green, blue
        return tuple(self.means(look)) if self.means and self.look(look) == look else self.colour


@dataclass(frozen=True)
class Ground:
    """A tileable ground: `colour` uint8 (512, 512, 4) sRGB with height in alpha, `detail` uint8
    (512, 512, 4) with normal east, normal north, roughness and hollow shade; `mean` its mean linear
    colour. `directed` grounds, as layered rock and rippled sand, keep their way when their patches
    are set anew; others are turned. `family` is the ground that this is a variant of; `grown` ones
    are plants, which do not lie down in the troughs of what is below. `lies` says where it belongs
    at first: "steep", "flat", "shore", "wet", or in patches.
    """

    name: str
    label: str
    make: Callable[[], tuple[np.ndarray, np.ndarray]]
    directed: bool = False
    family: str = ""
    grown: bool = False
    lies: str = ""

    def maps(self) -> tuple[np.ndarray, np.ndarray]:
        """Colour with height, and detail: two uint8 (512, 512, 4)."""
        if self.name.startswith("own-"):
            return self.make()
        return kept(f"ground-{self.name}", self.make, list, tuple)

    def mean(self) -> np.ndarray:
        """Mean linear colour, float32 (3,)."""
        return _known_mean(self)

    def map_means(self) -> tuple[float, ...]:
        """Means of the maps: linear colour, height 0..1; normal east and north -1..1, roughness,
        hollow shade 0..1.
        """
        return _known_map_means(self)

    def ranks(self) -> np.ndarray:
        """The height of each texel as its rank among all, uint8 (512, 512): the part of the texture
        that lies lower.
        """
        height = self.maps()[0][..., 3]
        counts = np.bincount(height.ravel(), minlength=256)
        below = (np.cumsum(counts) - 0.5 * counts) / height.size
        return (below[height] * 255 + 0.5).astype(np.uint8)


_own: dict = {}


def own_ground(name: str, load: Callable[[], np.ndarray]) -> Ground:
    """A ground from a texture set that was brought in: a raster uint8 (512, 4096), the eight
    channels of the two pictures side by side.
    """
    if name not in _own:
        sheet = np.asarray(load())
        if sheet.dtype != np.uint8 or sheet.shape != (512, 4096):
            raise SceneError(
                "What is chosen as a texture is a raster of another sort.",
                "ground.texture",
                "Bring the texture's pictures in under the material.",
            )
        sheet = sheet.reshape(512, 512, 8)
        maps = (np.ascontiguousarray(sheet[..., :4]), np.ascontiguousarray(sheet[..., 4:]))
        if len(_own) > 24:
            _own.clear()
        _own[name] = Ground(f"own-{name}", "Own", lambda: maps, True)
    return _own[name]


_means: dict = {}


_map_means: dict[str, tuple[float, ...]] = {}


def _known_map_means(ground: Ground) -> tuple[float, ...]:
    if ground.name not in _map_means:
        colour, detail = ground.maps()
        lean = detail[..., :2].mean((0, 1)) / 127.5 - 1
        rest = detail[..., 2:].mean((0, 1)) / 255
        high = float(colour[..., 3].mean()) / 255
        means = [*map(float, ground.mean()), high, *map(float, lean), *map(float, rest)]
        _map_means[ground.name] = tuple(means)
    return _map_means[ground.name]


def _known_mean(ground: Ground) -> np.ndarray:
    if ground.name not in _means:
        _means[ground.name] = linear(ground.maps()[0][..., :3]).mean((0, 1))
    return _means[ground.name]


_own_kinds: dict[str, Kind] = {}
GONE = "stand-in"


def own_kind(name: str, load: Callable[[], Kind] | None = None) -> Kind:
    """A kind that was brought in, by its name "own-…"; `load` gives it when it is not known yet.
    What cannot be had is a bare stake, so that the rest of the scene can be built.
    """
    if (name not in _own_kinds or GONE in _own_kinds[name].tags) and load is not None:
        try:
            found = load()
        except SceneError:
            found = stake(name)
        while len(_own_kinds) > 200:
            _own_kinds.pop(next(iter(_own_kinds)))
        _own_kinds[name] = found
    return _own_kinds[name] if name in _own_kinds else stake(name)


def stake(name: str) -> Kind:
    """What stands in for a kind that cannot be had."""
    corners = np.array(
        [
            (x, y, z)
            for z in (0.0, 1.0)
            for x, y in ((-0.04, -0.04), (0.04, -0.04), (0.04, 0.04), (-0.04, 0.04))
        ]
    )
    sides = (
        [(a, b, b + 4) for a, b in ((0, 1), (1, 2), (2, 3), (3, 0))]
        + [(a, b + 4, a + 4) for a, b in ((0, 1), (1, 2), (2, 3), (3, 0))]
        + [(4, 5, 6), (4, 6, 7)]
    )
    mesh = Mesh.of(corners, sides, (0.5, 0.2, 0.08))
    return Kind(
        name,
        "missing kind",
        "thing",
        1.0,
        0.06,
        0.01,
        (0.5, 0.2, 0.08),
        range(1),
        lambda look: KindShape([[mesh, mesh]], np.zeros((2, 2, 4), np.uint8), (40.0,)),
        ("summer",),
        None,
        GONE,
    )


class _Kinds(dict[str, Kind]):
    """Kinds by their names, of which none may stand for two."""

    def __setitem__(self, name: str, kind: Kind) -> None:
        if name in self and not kind.outside:
            raise SceneError(
                f"Two kinds are called '{name}': {self[name].label}, and {kind.label}.",
                "",
                "Give one of them another name.",
            )
        super().__setitem__(name, kind)


kinds: dict[str, Kind] = _Kinds()
grounds: dict[str, Ground] = {}


def linear(srgb: np.ndarray) -> np.ndarray:
    """sRGB bytes to linear light, float32 (IEC 61966-2-1)."""
    s = np.asarray(srgb, np.float32) / 255
    return np.where(s <= 0.04045, s / 12.92, ((s + 0.055) / 1.055) ** 2.4)


@njit(cache=True, nogil=True, parallel=True)
def _shown(light, out):
    for k in prange(light.size):
        s = min(max(light[k], np.float32(0)), np.float32(1))
        if s <= np.float32(0.0031308):
            s = s * np.float32(12.92)
        else:
            s = np.float32(1.055) * s ** np.float32(1 / 2.4) - np.float32(0.055)
        out[k] = np.uint8(s * np.float32(255) + np.float32(0.5))


def srgb_bytes(light: np.ndarray) -> np.ndarray:
    """Linear light to sRGB bytes (IEC 61966-2-1)."""
    if light.size > LARGE and light.dtype == np.float32:
        out = np.empty(light.size, np.uint8)
        _shown(np.ascontiguousarray(light).ravel(), out)
        return out.reshape(light.shape)
    s = np.clip(light, 0, 1)
    s = np.where(s <= 0.0031308, s * 12.92, 1.055 * s ** (1 / 2.4) - 0.055)
    return (s * 255 + 0.5).astype(np.uint8)
