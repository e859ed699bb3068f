"""Reads whichever form a scene comes in."""

import io
import zipfile

from ..formats.package import Package, unpack
from .composed import composed
from .found import Found, refuse
from .gltf import read_gltf
from .tiles import read_tiles
from .usd import ENDINGS, read_usd


def read_any(data: bytes, name: str, measured: bool = False) -> tuple[Package, Found]:
    """A scene from a GLB, a USD, a zip of tiles or of USD layers, or Sow's own zip; and what was
    found of it in words. `measured` tells it from what stands in the file, although the scene that
    it was written from travels along.

    Raises SceneError, which says what is wrong with the file.
    """
    found = _found(data, name)
    if found is None:
        return unpack(data), Found(name, taken=["The scene itself, with its rasters."])
    return composed(found, measured), found


def _found(data: bytes, name: str) -> Found | None:
    lower = name.lower()
    if data[:4] == b"glTF":
        return read_gltf(data, name)
    if lower.endswith(ENDINGS):
        return read_usd({name: data})
    if data[:2] != b"PK":
        raise refuse(
            f"“{name}” is no scene.",
            "Give a .glb, a .usdz or .usdc, a zip of tiles, or a scene's own .zip.",
        )
    try:
        names = zipfile.ZipFile(io.BytesIO(data)).namelist()
    except zipfile.BadZipFile as e:
        raise refuse(f"“{name}” is damaged: {e}.", "Fetch it again.") from None
    if any(n.endswith("scene.json") for n in names):
        return None
    if any(n.endswith("tiles.json") for n in names):
        return read_tiles(data, name)
    return read_usd({"layers.zip": data})
