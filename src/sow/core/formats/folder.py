"""A scene on disk: scene.json with its rasters beside it, as a file, a folder or a zip."""

import hashlib
import zipfile
from pathlib import Path

import numpy as np

from ..build import Rasters
from ..errors import SceneError
from ..scene import Scene, read_scene
from .elevation import read_elevation
from .glb import as_raster

MOST_BYTES = 2 << 30


class Beside(Rasters):
    """Rasters by relative path beside a scene.json, in a folder or in a zip."""

    def __init__(
        self, folder: Path | None = None, archive: zipfile.ZipFile | None = None, inner: str = ""
    ):
        self.folder = folder
        self.archive = archive
        self.inner = inner
        self._kept: dict[str, np.ndarray] = {}

    def _bytes(self, name: str) -> bytes:
        if name.startswith(("/", "\\")) or ".." in Path(name).parts or ":" in name:
            raise SceneError(
                f"The raster '{name}' lies outside the scene.", "", "Put it beside the scene.json."
            )
        try:
            if self.archive is not None:
                if self.archive.getinfo(self.inner + name).file_size > MOST_BYTES:
                    raise SceneError(f"The raster '{name}' is too large.", "", "Make it smaller.")
                return self.archive.read(self.inner + name)
            return ((self.folder or Path()) / name).read_bytes()
        except (KeyError, OSError):
            raise SceneError(
                f"The raster '{name}' is missing.", "", "Put it beside the scene.json."
            ) from None

    def load(self, name: str) -> np.ndarray:
        """A raster from its file beside the scene. Raises SceneError."""
        if name not in self._kept:
            data = self._bytes(name)
            self._kept[name] = (
                as_raster(data) if name.endswith(".glb") else read_elevation(data, name).values
            )
        return self._kept[name]

    def key(self, name: str) -> str:
        """The hash of the file; the name where there is none: what ships with Sow has no file, and
        what is gone is told when it is loaded.
        """
        try:
            return hashlib.sha256(self._bytes(name)).hexdigest()
        except SceneError:
            return name


def open_scene(path: str | Path) -> tuple[Scene, Rasters]:
    """A scene and its rasters from a scene.json, its folder, or a zip that holds it."""
    path = Path(path)
    if path.is_dir():
        path = path / "scene.json"
    if not path.exists():
        raise SceneError(f"There is no file {path}.", "", "Give a scene.json, its folder or a zip.")
    if zipfile.is_zipfile(path):
        archive = zipfile.ZipFile(path)
        names = [n for n in archive.namelist() if n.split("/")[-1] == "scene.json"]
        if not names:
            raise SceneError(f"{path.name} holds no scene.json.", "", "Give a zip that Sow wrote.")
        inner = min(names, key=len).removesuffix("scene.json")
        return read_scene(archive.read(inner + "scene.json")), Beside(archive=archive, inner=inner)
    return read_scene(path.read_bytes()), Beside(folder=path.parent)
