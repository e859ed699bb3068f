"""Reads whichever form a scene comes in."""

import hashlib
import io
import zipfile
from typing import BinaryIO

import numpy as np

from ..build import Rasters
from ..formats.package import Package, placed, refuse_unsafe, unpack, write_package
from .composed import composed
from .found import Found
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
    """What is in a file; None where it is a scene's own zip, or nothing that is known."""
    if data[:4] == b"glTF":
        return read_gltf(data, name)
    if name.lower().endswith(ENDINGS):
        return read_usd({name: data})
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
    except (zipfile.BadZipFile, NotImplementedError, ValueError):
        return None
    refuse_unsafe(archive)
    names = archive.namelist()
    if any(n.endswith("scene.json") for n in names):
        return None
    if any(n.endswith("tiles.json") for n in names):
        return read_tiles(data, name)
    if any(n.lower().endswith(ENDINGS) for n in names):
        return read_usd({"layers.zip": data})
    return None


class _Kept(Rasters):
    """Rasters by the hash of their values."""

    def __init__(self) -> None:
        self.values: dict[str, np.ndarray] = {}

    def keep(self, values: np.ndarray, name: str) -> str:
        digest = hashlib.sha256(values.tobytes()).hexdigest()
        self.values[digest] = values
        return digest

    def load(self, name: str) -> np.ndarray:
        return self.values[name]


def write_read(package: Package, out: BinaryIO) -> None:
    """Writes what was read as a scene's own zip."""
    kept = _Kept()
    write_package(placed(package, kept.keep), kept, out)
