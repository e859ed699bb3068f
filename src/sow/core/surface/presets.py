"""Sets of materials with their rules, whose bands come from the land's own distribution."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..cabinet import grounds
from ..where import Site


class LandMeasures:
    """Distributions of one land, for setting bands: each asked for by the part of the land that
    lies below (or above) it.
    """

    def __init__(self, site: Site):
        self.site = site
        self.wet = site.water_m is not None and bool(np.isfinite(site.water_m).any())
        self.told: list[str] = []
        self.dry = ~(site.heights < site.water_m) if self.wet else np.ones(site.heights.shape, bool)
        if not self.dry.any():
            self.dry[:] = True
        self.longer = site.plot.longer_m

    def at(self, kind: str, part: float) -> float:
        """The value below which this part of the dry land lies."""
        return float(np.quantile(self.site.sheet(kind)[self.dry], part))

    def steep(self, top: float, least: float) -> dict:
        """A slope band over the steepest part, but nowhere gentler than `least` degrees."""
        low = max(self.at("slope", 1 - top), least)
        share = float((self.site.sheet("slope")[self.dry] >= low).mean())
        self.told.append(f"steeper than {low:.0f}°: {100 * share:.0f} % of the dry land")
        return {
            "kind": "slope",
            "low": round(low, 1),
            "high": 90,
            "soft": round(max(3.0, low * 0.14), 1),
        }

    def gentle(self, most: float, part: float = 0.8) -> dict:
        """A slope rule for the gentlest share of the land."""
        high = min(self.at("slope", part), most)
        self.told.append(f"gentler than {high:.0f}°")
        return {
            "kind": "slope",
            "low": 0,
            "high": round(max(high, 2.0), 1),
            "soft": round(max(2.0, high * 0.2), 1),
        }

    def high(self, top: float) -> dict:
        """A height rule for the highest share."""
        low = self.at("height", 1 - top)
        span = self.at("height", 0.98) - self.at("height", 0.02)
        self.told.append(f"above {low:.0f} m: the highest {100 * top:.0f} %")
        return {
            "kind": "height",
            "low": round(low, 1),
            "high": 12000,
            "soft": round(max(0.5, 0.1 * span), 1),
        }

    def low(self, part: float) -> dict:
        """A height rule for the lowest share."""
        high = self.at("height", part)
        span = self.at("height", 0.98) - self.at("height", 0.02)
        self.told.append(f"below {high:.0f} m: the lowest {100 * part:.0f} %")
        return {
            "kind": "height",
            "low": -12000,
            "high": round(high, 1),
            "soft": round(max(0.5, 0.08 * span), 1),
        }

    def damp(self, top: float) -> dict:
        """A wetness rule for the dampest share."""
        low = self.at("wetness", 1 - top)
        self.told.append(f"wetter than {low:.1f}: the wettest {100 * top:.0f} %")
        return {"kind": "wetness", "low": round(low, 2), "high": 40, "soft": 1.2}

    def gathers(self, top: float) -> dict:
        """A rule for where most water gathers."""
        low = max(self.at("contributing-area", 1 - top), 1e-3)
        self.told.append(f"more than {low:.2g} ha drains through: {100 * top:.0f} %")
        return {
            "kind": "contributing-area",
            "low": round(low, 4),
            "high": 1e6,
            "soft": round(low * 0.6, 4),
        }

    def shore(self, low: float, high: float, soft: float, within: float = 60) -> dict:
        """A rule for a band about the water."""
        return {"kind": "shore", "low": low, "high": high, "soft": soft, "within_m": within}

    def patches(self, share: float, of: float = 0.04, seed: int = 1) -> dict:
        """A rule of noise patches."""
        return {
            "kind": "patches",
            "size_m": round(float(np.clip(self.longer * of, 3, 400)), 1),
            "share": share,
            "soft": 35,
            "seed": seed,
        }


@dataclass
class Preset:
    name: str
    label: str
    help: str
    make: Callable[[Any], list[dict]]  # of the measures that a set is made from


presets: dict[str, Preset] = {}


def preset(name: str, label: str, help: str):
    """Registers a set of materials under a name, label and help."""

    def keep(make):
        presets[name] = Preset(name, label, help, make)
        return make

    return keep


def clothes(name: str, site: Site) -> tuple[list[dict], list[str]]:
    """The materials of a preset as plain values, with ids of their own, and its bands in words.

    Raises KeyError for an unknown name.
    """
    m = LandMeasures(site)
    out = []
    for k, (ground, size, where, *more) in enumerate(presets[name].make(m)):
        extra = dict(more[0]) if more else {}
        extra.setdefault(
            "stands", 20 if grounds[ground].grown else 70
        )  # what grows does not lie down in the troughs
        out.append(
            {
                "id": f"{name}-{k + 1}",
                "name": extra.pop(
                    "name", ground.split("-2")[0].split("-3")[0].replace("-", " ").capitalize()
                ),
                "ground": ground,
                "size_m": size,
                "where": [w for w in where if w],
                **extra,
            }
        )
    return out, m.told


def _water(m: LandMeasures, *lines):
    return [line for line in lines if m.wet]


@preset("moor", "Upland moor", "Turf and heath, peat in the wet, scree under granite.")
def moor(m):
    """A moor."""
    return [
        ("turf", 4, []),
        ("mat-grass", 4, [m.patches(45)]),
        ("heath", 3, [m.gentle(32), m.patches(42, 0.06, 5)]),
        ("moss", 3, [m.damp(0.16)]),
        ("peat", 3, [m.damp(0.07)], {"edge": 35}),
        ("scree", 4, [m.steep(0.12, 24)]),
        ("granite", 6, [m.steep(0.06, 33)]),
        *_water(m, ("peat-3", 3, [m.shore(-60, 0.5, 0.5, 25)], {"name": "Wet margin"})),
    ]


@preset(
    "meadow",
    "Meadow valley",
    "Fresh turf, dry swards on the shoulders, mud in the gateways of the water.",
)
def meadow(m):
    """A meadow."""
    return [
        ("turf", 4, []),
        ("turf-2", 4, [m.patches(40)]),
        ("dry-grass", 4, [m.high(0.3), m.patches(55, 0.05, 3)]),
        ("mud", 3, [m.damp(0.05)], {"stands": 80}),
        ("gravel", 3, [m.gathers(0.02)]),
        ("sandstone", 6, [m.steep(0.05, 34)]),
        *_water(
            m,
            ("wet-sand", 3, [m.shore(-60, 0.3, 0.4, 20)]),
            ("cobbles", 3, [m.shore(0.1, 1.0, 0.5, 12), m.patches(55, 0.03, 9)]),
        ),
    ]


@preset(
    "sandy-shore",
    "Sandy shore",
    "Dry sand that turns wet and flat at the water, dune grass behind, layered rock on the steep.",
)
def sandy_shore(m):
    """A sandy shore."""
    return [
        ("sand", 5, []),
        ("dry-grass-2", 4, [m.high(0.55), m.gentle(26), m.patches(60)]),
        ("turf-2", 4, [m.high(0.25), m.gentle(24), m.patches(55, 0.06, 4)]),
        ("gravel-2", 3, [m.steep(0.22, 18)]),
        ("sandstone", 6, [m.steep(0.1, 30)]),
        *_water(
            m,
            ("cobbles-2", 3, [m.shore(0.5, 2.2, 0.9), m.patches(35, 0.03, 7)]),
            ("wet-sand", 4, [m.shore(-200, 0.7, 0.7, 90)]),
        ),
    ]


@preset(
    "dry-valley", "Dry valley", "Layered rock, drifted sand on the gentle ground, a gravel bed."
)
def dry_valley(m):
    """A dry valley."""
    return [
        ("sand-2", 5, []),
        ("gravel-2", 3, [m.patches(45)]),
        ("gravel", 3, [m.gathers(0.06)]),
        ("scree-2", 4, [m.steep(0.4, 16)]),
        ("sandstone-3", 7, [m.steep(0.22, 26)]),
        ("dry-grass-2", 4, [m.damp(0.08), m.patches(45, 0.03, 3)]),
        *_water(m, ("mud-2", 3, [m.shore(-60, 0.6, 0.6, 40)])),
    ]


@preset(
    "snow-peaks",
    "Snowed peaks",
    "Snow where it can lie, bare rock where it cannot, turf in the valleys.",
)
def snow_peaks(m):
    """Peaks under snow."""
    return [
        ("mat-grass", 4, []),
        ("turf", 4, [m.low(0.3)]),
        ("scree", 4, [m.steep(0.5, 20)]),
        ("granite-3", 6, [m.steep(0.3, 30)]),
        ("snow-2", 6, [m.high(0.55), m.gentle(38, 0.85), m.patches(70)]),
        ("snow", 6, [m.high(0.32), m.gentle(46, 0.92)], {"stands": 75}),
        *_water(m, ("ice", 5, [m.shore(-3, 0.4, 0.4, 30)])),
    ]


@preset(
    "wood-floor",
    "Wood floor",
    "Fallen leaves over mould, moss on the shaded and the wet, bare earth where it is steep.",
)
def wood_floor(m):
    """The floor of a wood."""
    return [
        ("leaf-litter", 2.5, []),
        ("leaf-litter-2", 2.5, [m.patches(40)]),
        ("turf-3", 4, [m.patches(22, 0.05, 6), m.gentle(24)]),
        (
            "moss",
            3,
            [{"kind": "facing", "towards": 0, "within": 70, "soft": 40}, m.patches(45, 0.03, 8)],
        ),
        ("moss-3", 3, [m.damp(0.12)]),
        ("mud", 3, [m.damp(0.05)]),
        ("peat-2", 3, [m.steep(0.12, 26)], {"name": "Bare earth"}),
        ("granite", 5, [m.steep(0.05, 36)]),
    ]


@preset("bog", "Blanket bog", "Bog moss and peat, heather on what stands proud.")
def bog(m):
    """A bog."""
    return [
        ("moss", 3, []),
        ("mat-grass-3", 4, [m.patches(45)]),
        (
            "heather-litter",
            3,
            [
                {
                    "kind": "hollows",
                    "size_m": round(m.longer * 0.03, 1),
                    "depth_m": 0,
                    "soft": 1,
                    "invert": True,
                },
                m.patches(60, 0.02, 3),
            ],
        ),
        ("heath", 3, [m.high(0.3), m.patches(60, 0.05, 5)]),
        ("peat", 3, [m.damp(0.14)], {"edge": 30}),
        ("mud-3", 3, [m.damp(0.05)]),
        ("granite-2", 6, [m.steep(0.04, 32)]),
    ]


@preset(
    "river-bars",
    "River bars",
    "Cobbles and gravel along the water, sand between, grass where floods seldom come.",
)
def river_bars(m):
    """Bars of a river."""
    return [
        ("turf-2", 4, []),
        ("dry-grass", 4, [m.patches(40)]),
        ("gravel", 3, [m.low(0.3), m.patches(55, 0.04, 2)], {"stands": 85}),
        ("sand-3", 4, [m.low(0.2), m.patches(45, 0.03, 4)]),
        ("cobbles", 3, [m.gathers(0.07)], {"stands": 85}),
        ("sandstone-2", 6, [m.steep(0.06, 32)]),
        *_water(
            m,
            ("cobbles", 3, [m.shore(-60, 1.4, 0.8, 40)], {"name": "Bank cobbles"}),
            ("wet-sand-3", 3, [m.shore(-60, 0.3, 0.3, 40), m.patches(55, 0.02, 5)]),
        ),
    ]


@preset("ice-front", "Ice front", "Ice and old snow above, ground rock and washed gravel below.")
def ice_front(m):
    """The front of a glacier."""
    return [
        ("gravel-3", 3, []),
        ("scree-3", 4, [m.steep(0.5, 14)]),
        ("mud-3", 3, [m.damp(0.1)]),
        ("cobbles-3", 3, [m.gathers(0.05)]),
        ("granite-3", 6, [m.steep(0.22, 28)]),
        ("snow-3", 6, [m.high(0.5), m.gentle(36), m.patches(55)], {"name": "Old snow"}),
        ("ice", 6, [m.high(0.4), m.gentle(30, 0.7)]),
        ("snow", 6, [m.high(0.18), m.gentle(44, 0.9)]),
    ]
