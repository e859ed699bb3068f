"""A sowing: a mix of kinds, how many, where, and how each one stands."""

from typing import Literal

import numpy as np
from pydantic import Field, field_validator

from ..cabinet import kind_of, known, worn
from ..cabinet.dressed import Dressed
from ..cabinet.looks import LOOKS
from ..document.entry import Entry, Strict
from ..document.fields import length_m, percent, setting
from ..hashing import name_seed
from ..shared import VARIANTS
from ..where import Conditions

MOST = 20_000_000  # plants in a scene: more is refused
FOOTED = 0.04  # m; what has a smaller foot keeps nothing out


class MixPart(Strict):
    kind: str = Field(title="Kind", json_schema_extra={"sow": {"drawer": "kind"}})
    share: float = percent("Parts", 50)
    size: float = percent(
        "Size",
        100,
        lo=1,
        hi=2000,
        slider=(10, 300),
        scale="log",
        help="Of the kind, beside the sowing's sizes.",
    )
    apart_m: float = setting(
        0,
        "Least distance",
        "m",
        lo=0,
        hi=500,
        slider=(0, 20),
        step=0.05,
        help="0: as the sowing. Two kinds keep the mean of theirs.",
    )
    spread: float = percent(
        "Size varies",
        100,
        hi=300,
        help="Of the sowing's range: 0 makes all of a kind alike, 200 twice as unlike.",
    )
    lean: float = percent(
        "Leans to slope",
        -1,
        lo=-1,
        help="-1: as the sowing; 0 stands upright, 100 square to the ground.",
    )
    sink_cm: float = setting(0, "Sinks further", "cm", lo=-200, hi=1000, slider=(0, 100))
    variant: int = setting(
        0, "Variant", "", lo=0, hi=VARIANTS, slider=(0, 4), step=1, help="0: all of them."
    )
    look: Literal["season", *LOOKS] = Field(  # type: ignore[valid-type]
        "season", title="Look", json_schema_extra={"sow": {"labels": {"season": "of the season"}}}
    )
    tint: str = Field(
        "#ffffff",
        pattern=r"^#[0-9a-fA-F]{6}$",
        title="Tint",
        json_schema_extra={"sow": {"colour": True}},
    )
    bright: float = percent("Lightness", 100, lo=5, hi=1000, slider=(40, 250), scale="log")
    called: list[str] = Field(
        default_factory=list,
        max_length=200,
        title="Called in the file",
        json_schema_extra={"sow": {"points": True}},
    )
    where: Conditions = Field(default_factory=list, title="Belongs where")

    @field_validator("kind")
    @classmethod
    def _in_cabinet(cls, name):
        return known("kind", name)


class Stance(Strict):
    """How each one stands. Each is turned, sized and leant by its own hash."""

    faces: Literal["any", "bearing", "light", "wind", "downhill"] = Field(
        "any",
        title="Faces",
        json_schema_extra={
            "sow": {
                "labels": {
                    "any": "any way",
                    "bearing": "one way",
                    "light": "the light",
                    "wind": "off the wind",
                    "downhill": "downhill",
                }
            }
        },
    )
    bearing: float = setting(
        180, "Bearing", "°", lo=0, hi=360, only={"faces": ["bearing"]}, help="Clockwise from north."
    )
    turn: float = setting(
        360, "Random turn", "°", lo=0, hi=360, help="0 makes all face the same way."
    )
    smallest: float = percent(
        "Smallest", 80, lo=1, hi=2000, slider=(5, 300), help="Of the kind's own size."
    )
    largest: float = percent("Largest", 120, lo=1, hi=2000, slider=(5, 300))
    edge: float = percent(
        "Size at the edge",
        100,
        lo=5,
        help="Where its rules fade, plants are this much of their size.",
    )
    patchy: float = percent(
        "Sizes in patches", 0, help="All larger here and all smaller there, up to twice and half."
    )
    patch_m: float = length_m("Patches", 25, lo=0.5, hi=5000, slider=(2, 300), given="patchy")
    lean: float = percent("Lean to slope", 0, help="0 stands upright, 100 square to the ground.")
    sway: float = setting(3, "Random lean", "°", lo=0, hi=90, slider=(0, 40))
    wind: float = setting(
        0, "Bent by the wind", "°", lo=0, hi=60, slider=(0, 40), help="All lean off the wind."
    )
    sink_cm: float = setting(2, "Sink", "cm", lo=0, hi=1000, slider=(0, 100))
    settle: float = percent(
        "Sinks by slope",
        100,
        hi=200,
        help="As far as the foot needs, so that its lower side does not show.",
    )
    tint: float = percent("Colour varies", 25)


class Sowing(Entry):
    group: str = Field("", max_length=40, title="Group")
    mix: list[MixPart] = Field(min_length=1, max_length=24, title="Mix")
    density: float = setting(
        5, "Density", "per 100 m²", lo=0, hi=100000, slider=(0.01, 2000), scale="log"
    )
    number: int = setting(
        0,
        "Exactly",
        "",
        lo=0,
        hi=MOST,
        slider=(0, 1000),
        step=1,
        help="0: as many as the density gives.",
    )
    layout: Literal["natural", "clumped", "rows", "line", "given"] = Field(
        "natural",
        title="Layout",
        json_schema_extra={
            "sow": {"labels": {"line": "along a line", "given": "places from a file"}}
        },
    )
    places: str = Field(
        "",
        max_length=120,
        title="Places",
        json_schema_extra={"sow": {"points": True, "raster": True}},
    )
    places_from: str = Field(
        "",
        max_length=120,
        title="Places from",
        json_schema_extra={"sow": {"told": True, "only": {"layout": ["given"]}}},
    )
    names: list[str] = Field(
        default_factory=list,
        max_length=2000,
        title="Names in the file",
        json_schema_extra={"sow": {"points": True}},
    )
    clump_m: float = length_m(
        "Clump",
        12,
        lo=0.1,
        hi=2000,
        slider=(0.5, 200),
        only={"layout": ["clumped"]},
        help="Across.",
    )
    clump_share: float = percent(
        "Clumps take",
        30,
        lo=1,
        hi=95,
        only={"layout": ["clumped"]},
        help="Of the ground; between them nothing stands.",
    )
    gap_m: float = length_m(
        "Gap in the row", 4, lo=0.02, hi=1000, slider=(0.1, 50), only={"layout": ["rows", "line"]}
    )
    row_m: float = length_m(
        "Between rows", 4, lo=0.02, hi=1000, slider=(0.1, 50), only={"layout": ["rows"]}
    )
    run: float = setting(
        0, "Rows run", "°", lo=0, hi=360, only={"layout": ["rows"]}, help="Clockwise from east."
    )
    stagger: float = percent(
        "Stagger", 0, only={"layout": ["rows"]}, help="50 sets every other row between."
    )
    jitter: float = percent("Jitter", 20, only={"layout": ["rows", "line"]}, help="Of the gap.")
    line: str = Field(
        "",
        max_length=64,
        title="Line",
        json_schema_extra={"sow": {"mark": "line", "only": {"layout": ["line"]}}},
    )
    sides: Literal["both", "left", "right", "on"] = Field(
        "both",
        title="Side",
        json_schema_extra={"sow": {"only": {"layout": ["line"]}, "labels": {"on": "on it"}}},
    )
    offset_m: float = setting(
        4, "From the line", "m", lo=0, hi=1000, slider=(0, 50), only={"layout": ["line"]}
    )
    apart_m: float = setting(
        0.5,
        "Least distance",
        "m",
        lo=0,
        hi=500,
        slider=(0, 20),
        step=0.05,
        help="Between any two of this sowing.",
    )
    keeps_off: float = percent(
        "Keeps off others",
        100,
        hi=500,
        slider=(0, 300),
        help="Of the feet of pieces and of earlier sowings.",
    )
    stands_on: str = Field(
        "",
        max_length=64,
        title="Stands on",
        json_schema_extra={"sow": {"entry": "pieces", "none": "the ground"}},
    )
    face_low: float = setting(
        0,
        "Faces steeper than",
        "°",
        lo=0,
        hi=180,
        fold="Surface",
        help="Of the piece that it stands on: 0 lies level, 90 is a wall.",
    )
    face_high: float = setting(180, "Faces up to", "°", lo=0, hi=180, fold="Surface")
    surface: str = Field(
        "",
        max_length=60,
        title="Its surface",
        json_schema_extra={"sow": {"fold": "Surface", "surface": True}},
        description="One material of a model brought in; empty: all of them.",
    )
    reach_m: float = setting(
        1000,
        "As high as",
        "m",
        lo=0,
        hi=1000,
        slider=(0, 20),
        fold="Surface",
        help="Above the piece's foot.",
    )
    wet: bool = Field(False, title="May stand in water")
    where: Conditions = Field(default_factory=list, title="Where")
    stance: Stance = Field(default_factory=Stance, title="Stance")
    seed: int = setting(1, "Seed", "", lo=0, hi=2**31 - 1, slider=(0, 999), step=1)


def name_of(part: MixPart, season: str) -> str:
    """How a kind of a mix is called towards the view: kind, look and, where it is tinted, its
    tint.
    """
    look = kind_of(part.kind).look(season if part.look == "season" else part.look)
    return str(Dressed(part.kind, look, part.tint, part.bright))


def seen_colour(name: str) -> tuple[float, float, float]:
    """Mean linear colour of a kind, by the name that `name_of` gives it."""
    kind, look, tint = worn(name)
    return tuple(np.array(kind.mean(look)) * tint) if tint is not None else kind.mean(look)


def aparts(sowing: Sowing) -> np.ndarray:
    """The least distance of each kind of the mix, m."""
    return np.array([p.apart_m or sowing.apart_m for p in sowing.mix])


def footed(sowing: Sowing) -> bool:
    """Whether a sowing has feet that keep later ones off."""
    return (
        sowing.on
        and not sowing.stands_on
        and any(
            r * p.size / 100 * sowing.stance.largest / 100 >= FOOTED
            for p in sowing.mix
            for _, _, r in kind_of(p.kind).footing()
        )
    )


def sowing_seed(sowing: Sowing, plot_seed: int) -> int:
    """The seed of all that is random in a sowing."""
    return name_seed(plot_seed, sowing.seed) & 0x3FFFFFFF


def own_radii(sowing: Sowing) -> np.ndarray:
    """The radius of the widest disc of each kind's foot, m, at the size that the mix gives it."""
    widest = [max((r for _, _, r in kind_of(p.kind).footing()), default=0.0) for p in sowing.mix]
    return np.array(widest) * np.array([p.size / 100 for p in sowing.mix])
