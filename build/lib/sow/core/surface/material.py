"""Materials and their weights."""

import numpy as np
from numba import njit, prange
from pydantic import Field, field_validator

from .. import noise
from ..cabinet import known
from ..cabinet.kind import linear
from ..document.entry import Entry
from ..document.fields import bearing, length_m, percent, setting, shown
from ..where import Absent, Conditions, Site, holding
from .tiling import laid, shrunk

MOST = 16  # materials in a scene


class Material(Entry):
    """The first material lies everywhere; each later one covers those before it where its rules
    hold.
    """

    group: str = Field("", max_length=40, title="Group")
    ground: str = Field("turf", title="Ground", json_schema_extra={"sow": {"drawer": "ground"}})
    texture: str = Field(
        "",
        max_length=300,
        title="Own texture",
        json_schema_extra={"sow": {"texture": True}},
        description="A texture set brought in; it goes before the ground of the cabinet.",
    )
    picture: str = Field(
        "",
        max_length=300,
        title="Picture of the whole ground",
        json_schema_extra={"sow": {"picture": True}},
        description="Made elsewhere, it is laid exactly over the plot or one landform; the texture "
        "gives it grain near by.",
    )
    over: str = Field(
        "",
        max_length=64,
        title="Laid over",
        json_schema_extra=shown(entry="land", far=True, none="the plot", given="picture"),
    )
    picture_m: float = setting(
        1,
        "Relief of the picture",
        "m",
        lo=0,
        hi=5000,
        slider=(0, 20),
        given="picture",
        help="From black to white of the relief that came with it; drawn as light, it moves no "
        "ground.",
    )
    cover: float = percent(
        "Cover", 100, help="How much of what lies below it covers, where it lies."
    )
    size_m: float = length_m("Size", 4, hi=1000, slider=(0.5, 40), help="Length of one repeat.")
    turn: float = bearing("Turn", 0, fold="Lie")
    tint: str = Field(
        "#ffffff",
        pattern=r"^#[0-9a-fA-F]{6}$",
        title="Tint",
        json_schema_extra={"sow": {"colour": True, "fold": "Colour"}},
    )
    bright: float = percent("Lightness", 100, hi=300, slider=(30, 200), fold="Colour")
    hue: float = setting(0, "Hue", "°", lo=-180, hi=180, slider=(-60, 60), fold="Colour")
    saturation: float = percent("Saturation", 100, hi=300, slider=(0, 200), fold="Colour")
    rough: float = percent("Roughness", 100, hi=200, fold="Colour", help="Of the texture's own.")
    wet: float = percent("Darkens when wet", 100, hi=200, fold="Colour")
    relief: float = percent("Depth of relief", 100, hi=300, slider=(0, 200), fold="Lie")
    stands: float = percent(
        "Blend by height",
        60,
        fold="Edge",
        help="What stands high below it comes through last: stones stand out of sand.",
    )
    edge: float = percent(
        "Edge softness", 60, fold="Edge", help="100 as the rules make it, 0 cut sharp."
    )
    broken: float = percent("Edge breakup", 50, hi=200, slider=(0, 150), fold="Edge")
    broken_m: float = length_m("Breakup size", 12, hi=5000, slider=(0.5, 200), fold="Edge")
    where: Conditions = Field(default_factory=list, title="Where")

    @field_validator("ground")
    @classmethod
    def _in_cabinet(cls, name):
        return known("ground", name)


def colours_of(material) -> np.ndarray:
    """What a material's tint, lightness, hue and saturation make of linear colour: float32 (3, 3),
    colour = matrix @ colour.

    Saturation about the luminance, hue turned about the grey axis with the luminance kept (after
    Haeberli 1993).
    """
    code, lum = material.tint.lstrip("#"), np.array((0.2126, 0.7152, 0.0722))
    tint = linear(np.array([int(code[i : i + 2], 16) for i in (0, 2, 4)])) * (material.bright / 100)
    grey, s = np.tile(lum, (3, 1)), material.saturation / 100
    a = np.deg2rad(material.hue)
    k = np.array(((0, -1, 1), (1, 0, -1), (-1, 1, 0))) / np.sqrt(3)
    about = np.eye(3) + np.sin(a) * k + (1 - np.cos(a)) * (k @ k)
    about = about + np.ones((3, 1)) * (lum - lum @ about)[None, :]  # luminance kept
    return (np.diag(tint) @ (grey + s * (np.eye(3) - grey)) @ about).astype(np.float32)


def tuned(material, colour: np.ndarray) -> np.ndarray:
    """Linear colour (..., 3) as the material shows it."""
    return np.maximum(np.asarray(colour, np.float32) @ colours_of(material).T, 0)


def stood_out(cover: np.ndarray, height: np.ndarray, by: float, soft: float = 0.3) -> np.ndarray:
    """A cover 0..1 laid over relief whose heights are ranks 0..1: it fills the low places first,
    and its mean stays (shared with the shader).
    """
    s, c = np.float32(soft), np.clip(cover, 0, 1)
    # the level to which it fills, so that the mean over evenly spread heights is the cover
    level = np.where(
        c < s / 2,
        np.sqrt(2 * s * c),
        np.where(c <= 1 - s / 2, c + s / 2, 1 + s - np.sqrt(2 * s * (1 - c))),
    )
    t = np.clip((level - height) / s, 0, 1)
    return cover + np.float32(by) * (t - cover)


@njit(cache=True, nogil=True, parallel=True, fastmath=True)
def _edged(m, n, broken, edge, cover):
    """Breakup by noise `n` (deviation 1) within the soft edge, then the edge drawn tighter about
    its middle; in place.
    """
    k = np.float32(1.0 / max(edge, 0.03))
    for r in prange(m.shape[0]):
        for c in range(m.shape[1]):
            v = m[r, c]
            if v > 0 and v < 1:
                v = v + broken * n[r, c] * v * (1 - v)
                v = (v - np.float32(0.5)) * k + np.float32(0.5)
                v = min(max(v, np.float32(0)), np.float32(1))
            m[r, c] = v * cover


@njit(cache=True, nogil=True, parallel=True)
def _shared(covers, on):
    """Covers to shares, from the last material to the first, in place."""
    count, ny, nx = covers.shape
    for r in prange(ny):
        rest = np.ones(nx, np.float32)
        for i in range(count - 1, -1, -1):
            if not on[i]:
                for c in range(nx):
                    covers[i, r, c] = 0
                continue
            for c in range(nx):
                w = covers[i, r, c]
                covers[i, r, c] = w * rest[c]
                rest[c] *= 1 - w


def _relief(texture, grid, m) -> tuple[np.ndarray | None, float]:
    """The relief of a material over the grid as ranks 0..1, and how much of it the grid's spacing
    still shows (0 when posts are further apart than stones).
    """
    texels = int(round(m.size_m / max(grid.spacing, m.size_m / 512)))
    if texels < 8:
        return None, 0.0
    ranks, directed = texture(m)
    small = shrunk(ranks.astype(np.float32) / 255, min(texels, 512))
    shown = float(small.std() / max(ranks.std() / 255, 1e-6))
    spread = np.float32(1 / max(shown, 1e-3))
    x, y = np.meshgrid(grid.xs(), grid.ys())
    field = laid(small, x, y, m.size_m, m.turn, directed).reshape(grid.shape)
    return np.clip(np.float32(0.5) + (field - np.float32(0.5)) * spread, 0, 1), shown


def weights(
    materials: list[Material],
    site: Site,
    path: str = "ground",
    texture=None,
    frame=lambda entry_id: None,
) -> np.ndarray:
    """Share of each material at each post, float32 (count, ny, nx), summing to 1.

    Each covers those before it, by its rules, its edge, and the relief of what lies below
    (`texture(material)` gives ranks of its heights, uint8 (512, 512), and whether it is directed;
    without it relief is left out). Where posts are further apart than the relief is fine, the share
    is its mean. `frame(landform)` bounds a picture that is laid over one. A material that is off
    has weight 0; without any material the result has no layers. `broken` noise holds only what the
    grid can carry, so that grids agree in the mean.
    """
    out = np.zeros((len(materials),) + site.heights.shape, np.float32)
    on = np.zeros(len(materials), np.uint8)
    height = None  # ranks of what lies so far
    ids = {m.id: i for i, m in enumerate(materials)}

    def shares(material_id, place):
        j = ids.get(material_id)
        if j is None:
            raise Absent(
                "No material is chosen."
                if not material_id
                else f"There is no material '{material_id}'.",
                place,
                "Choose an earlier one.",
            )
        share = out[j].copy()
        for k in range(j + 1, now):
            if on[k]:
                share *= 1 - out[k]
        return share

    site.shares = shares
    nothing = np.broadcast_to(np.float32(0), site.heights.shape)
    fine = [i for i, m in enumerate(materials) if m.on]
    for now, m in enumerate(materials):
        if not m.on:
            continue
        base = not on.any()
        on[now] = 1
        if base:
            out[now] = 1
        else:
            held = holding(m.where, site, f"{path}.{now}.where")
            if held is None:
                out[now] = m.cover / 100
            else:
                out[now] = held
                n = (
                    noise.fbm(site.grid, m.broken_m, 4, 0.55, seed=site.plot.seed * 31 + 7919 + now)
                    if m.broken > 0 and m.broken_m > 2 * site.grid.spacing
                    else nothing
                )
                _edged(
                    out[now],
                    n,
                    np.float32(m.broken / 100),
                    np.float32(m.edge / 100),
                    np.float32(m.cover / 100),
                )
            bound = frame(m.over) if m.picture and m.over else None
            if bound is not None:  # a picture over one landform ends where that ends
                across, along = bound.local(site.grid)
                out[now][
                    (np.abs(across) > bound.width_m / 2) | (np.abs(along) > bound.depth_m / 2)
                ] = 0
            if texture and m.stands > 0 and height is not None:
                out[now] = stood_out(out[now], height[0], m.stands / 100 * height[1])
        if texture and now != fine[-1]:
            ranks, shown = _relief(texture, site.grid, m)
            if ranks is not None:
                if height is None:
                    height = (ranks, shown)
                else:
                    height = (height[0] + out[now] * (ranks - height[0]), max(height[1], shown))
    _shared(out, on)
    return out
