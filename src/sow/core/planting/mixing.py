"""Planting mixes: how one is registered, and the short words in which one is written."""

from collections.abc import Callable

from ..surface.presets import LandMeasures, Preset
from ..where import Site

mixes: dict[str, Preset] = {}

FILLER = 900_000  # plants that a layer of grass may bring to a scene


def mix_preset(name: str, label: str, help: str):
    """Registers a planting mix under a name, label and help."""

    def keep(make: Callable[["Mixing"], list[dict]]):
        mixes[name] = Preset(name, label, help, make)
        return make

    return keep


class Mixing(LandMeasures):
    """Measures of the land, and the making of sowings by short words."""

    def __init__(self, site: Site, prefix: str):
        super().__init__(site)
        self.prefix = prefix
        self.count = 0
        self.marks: list[dict] = []

    def sow(
        self,
        name: str,
        mix: dict[str, float | tuple],
        density: float,
        apart: float,
        *where: dict,
        filler: bool = False,
        **more,
    ) -> dict:
        """A sowing; `mix` gives kind: parts, or kind: (parts, further fields). A filler is thinned
        so that a large plot does not drown in it.
        """
        self.count += 1
        if filler:
            most = FILLER / self.site.plot.area_m2 * 100
            if density > most:
                density = round(most, 2)
                self.told.append(
                    f"{name} thinned to {density:g} per 100 m²: more would fill the scene"
                )
        stance = {"edge": 100, **more.pop("stance", {})}
        parts = [
            {"kind": k, "share": v}
            if not isinstance(v, tuple)
            else {"kind": k, "share": v[0], **v[1]}
            for k, v in mix.items()
        ]
        return {
            "id": f"{self.prefix}-{self.count}",
            "name": name,
            "mix": parts,
            "density": density,
            "apart_m": apart,
            "where": [w for w in where if w],
            "stance": stance,
            "seed": self.count + 10,
            "group": more.pop("group", mixes[self.prefix].label),
            **more,
        }

    def near(self, index: int, low: float, high: float, soft: float, **more) -> dict:
        """Near the plants of an earlier sowing of this mix, counted from 1."""
        return {
            "kind": "near-sowing",
            "sowing": f"{self.prefix}-{index}",
            "low": low,
            "high": high,
            "soft": soft,
            **more,
        }


def mixed(name: str, site: Site) -> tuple[list[dict], list[dict], list[str]]:
    """The sowings of a mix and the marks they need as plain values, and their bands in words.

    Raises KeyError for an unknown name.
    """
    m = Mixing(site, name)
    made = mixes[name].make(m)
    return made, m.marks, m.told


UPRIGHT = {"sway": 2, "smallest": 70, "largest": 125, "edge": 60}

STONES = {"lean": 100, "sway": 25, "smallest": 40, "largest": 160, "sink_cm": 12, "tint": 0}
