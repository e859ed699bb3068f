"""Materials and their weights."""
import numpy as np
from pydantic import Field, field_validator

from ..cabinet import known
from ..cabinet.kind import linear
from ..entry import Entry
from ..fields import setting
from ..where import Conditions, Site, mask

MOST = 8  # materials in a scene


class Material(Entry):
    """The first material lies everywhere; each later one covers those before it where its rules hold."""

    ground: str = Field("turf", title="Ground", json_schema_extra={"sow": {"drawer": "ground"}})
    cover: float = setting(100, "Cover", "%", lo=0, hi=100, help="How much of what lies below it covers, where it lies.")
    size_m: float = setting(4, "Size", "m", lo=0.05, hi=1000, slider=(0.5, 40), scale="log", help="Length of one repeat.")
    tint: str = Field("#ffffff", pattern=r"^#[0-9a-fA-F]{6}$", title="Tint", json_schema_extra={"sow": {"colour": True}})
    bright: float = setting(100, "Brightness", "%", lo=0, hi=300, slider=(30, 200))
    where: Conditions = Field(default_factory=list, title="Where")

    @field_validator("ground")
    @classmethod
    def _in_cabinet(cls, name):
        return known("ground", name)


def tint_of(material) -> np.ndarray:
    """Linear multiplier of a material's own tint and brightness."""
    code = material.tint.lstrip("#")
    return linear(np.array([int(code[i:i + 2], 16) for i in (0, 2, 4)])) * np.float32(material.bright / 100)


def weights(materials: list[Material], site: Site, path: str = "ground") -> np.ndarray:
    """Share of each material at each post, float32 (count, ny, nx), summing to 1.

    Each covers those before it: w_i = m_i, and all earlier ones are multiplied by 1 - m_i.
    A material that is off has weight 0; without any material the result has no layers.
    """
    out = np.zeros((len(materials),) + site.heights.shape, np.float32)
    laid = False
    for i, m in enumerate(materials):
        if not m.on:
            continue
        if not laid:
            out[i], laid = 1, True
            continue
        cover = np.float32(m.cover / 100)
        held = mask(m.where, site, f"{path}.{i}.where")
        cover = cover if held is None else held * cover
        out[:i] *= 1 - cover
        out[i] = cover
    return out
