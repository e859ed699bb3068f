"""Colours of sowings and pieces, compared and pulled towards one another."""

from collections.abc import Collection
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..build import Build
from ..cabinet import kind_of
from ..cabinet.kind import linear, srgb_bytes
from ..errors import SceneError
from ..planting.sowing import name_of, seen_colour
from ..sample import values_at
from ..surface.match import light_of, perceived

WHAT = ("hue", "saturation", "lightness")
DARKEST = 1e-4


@dataclass(frozen=True)
class Toned:
    """Linear colours: one's `own` as it shows, the `other`'s, one's own as it is `pulled`; for each
    of its parts a tint (#rrggbb) and a lightness in % that pull it so.
    """

    own: np.ndarray
    other: np.ndarray
    pulled: np.ndarray
    parts: list[tuple[str, float]]


def mean_tone(build: Build, index: int) -> np.ndarray:
    """A sowing's mean linear colour as it shows, by the parts of its mix and the ground that each
    hides.
    """
    mix = build.scene.planting[index].mix
    weight = np.array([max(p.share, 1e-6) * kind_of(p.kind).cover_m2 for p in mix])
    tones = np.array([seen_colour(name_of(p, build.scene.season)) for p in mix])
    return (tones * weight[:, None]).sum(0) / weight.sum()


def toned(
    build: Build, entry_id: str, towards: str, amount: float, what: Collection[str] = WHAT
) -> Toned:
    """A sowing or a piece pulled towards another, or towards the “ground” under it, by `amount`
    (0..1), in hue, saturation and lightness as the eye sees them, or in some of them. The ratio of
    the two is laid on every part of a mix alike, so its kinds keep their differences.

    Raises SceneError when either is not there, or there is no ground.
    """
    own = _shown(build, entry_id, "sowing")
    if towards == entry_id:
        raise SceneError("Nothing is pulled towards itself.", "towards", "Choose another.")
    other = _under(build, entry_id) if towards == "ground" else _shown(build, towards, "towards")
    goal = np.clip(_goal(own, other, what), DARKEST, None)
    ratio = (goal / np.clip(own, DARKEST, None)) ** amount
    parts = [_tinted(p, ratio) for p in _parts(build, entry_id)]
    return Toned(own, other, own * ratio, parts)


def _entry(build: Build, entry_id: str) -> tuple[str, int]:
    for name in ("planting", "pieces"):
        for index, entry in enumerate(getattr(build.scene, name)):
            if entry.id == entry_id:
                return name, index
    return "", -1


def _shown(build: Build, entry_id: str, path: str) -> np.ndarray:
    """The mean linear colour of a sowing or a piece."""
    name, index = _entry(build, entry_id)
    if name == "planting":
        return mean_tone(build, index)
    standing = next((p for p in build.pieces() if p["id"] == entry_id), None)
    if standing is None:
        raise SceneError(
            "There is no such sowing or piece.", path, "Choose another that is on, or the ground."
        )
    return np.array(seen_colour(standing["dressed"]))


def _parts(build: Build, entry_id: str) -> list[Any]:
    name, index = _entry(build, entry_id)
    entry = getattr(build.scene, name)[index]
    return entry.mix if name == "planting" else [entry]


def _under(build: Build, entry_id: str) -> np.ndarray:
    """The mean linear colour of the ground where a sowing may stand, or at a piece."""
    shares = build.ground()
    if not len(shares):
        raise SceneError("There is no ground to match.", "towards", "Add a material first.")
    means = np.array(build.means())
    name, index = _entry(build, entry_id)
    if name == "pieces":
        piece = build.scene.pieces[index]
        at = np.array([piece.east_m]), np.array([piece.north_m])
        here = [float(values_at(np.ascontiguousarray(s), build.grid, *at)[0]) for s in shares]
        return np.array(here) @ means
    held = build.sowing_mask(index)
    weight = np.ones(build.grid.shape, np.float32) if held is None else held
    total = max(float(weight.sum(dtype=np.float64)), 1e-9)
    held_by = [float((s * weight).sum(dtype=np.float64)) / total for s in shares]
    return np.array(held_by) @ means


def _goal(own: np.ndarray, other: np.ndarray, what: Collection[str]) -> np.ndarray:
    """One colour with the hue, the saturation or the lightness of another."""
    if set(what) == set(WHAT):
        return other
    here, there = perceived(own), perceived(other)
    strong = lambda seen: float(np.hypot(seen[1], seen[2]))
    way = there[1:] if "hue" in what else here[1:]
    strength = strong(there if "saturation" in what else here)
    light = (there if "lightness" in what else here)[0]
    opponents = np.asarray(way) / max(float(np.hypot(*way)), 1e-9) * strength
    return light_of(np.array([light, *opponents]))


def _tinted(part: Any, ratio: np.ndarray) -> tuple[str, float]:
    """The tint and the lightness of a part with a ratio laid on those that it has."""
    now = np.array([int(part.tint[i : i + 2], 16) for i in (1, 3, 5)], np.uint8)
    tone = linear(now) * part.bright / 100 * ratio
    most = float(tone.max())
    code = srgb_bytes(np.clip(tone / most, 0, 1))
    tint = "#{:02x}{:02x}{:02x}".format(*tuple(int(v) for v in code))
    return tint, float(np.clip(round(most * 100, 1), 5, 1000))
