"""A scene as one file: a zip of scene.json, its rasters and models in open formats, and a manifest
with their checksums.
"""

import hashlib
import io
import json
import re
import zipfile
import zlib
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import BinaryIO

import numpy as np
import tifffile

from ..build import Rasters
from ..errors import SceneError
from ..scene import Scene, read_scene
from .elevation import read_elevation
from .glb import as_raster, from_raster
from .kind_glb import kind_of_glb
from .raster import png_bytes

FORMAT = "sow-package-1"
MOST_BYTES = 4 << 30
MOST_FILES = 4000
MOST_RATIO = 400
MOST_RASTERS = 768 << 20
LEFT_OUT = "left-out"
FILES = re.compile(r"\.(png|tiff?|glb|jpe?g|exr|hdr|asc|npy)$", re.I)
HASHED = re.compile(r"[0-9a-f]{64}")
NUMBER = re.compile(r"[2-9]|[1-9][0-9]{1,8}")


def _each(value, change: Callable[[str], str]):
    """A plain value with `change` applied to every string in it."""
    if isinstance(value, dict):
        return {k: _each(v, change) for k, v in value.items()}
    if isinstance(value, list):
        return [_each(v, change) for v in value]
    return change(value) if isinstance(value, str) else value


def raster_bytes(values: np.ndarray) -> tuple[bytes, str]:
    """A raster in an open format that keeps every bit, and its ending: PNG for 8 and 16 bit, TIFF
    for floats.
    """
    if values.dtype == np.uint8 and values[0, :4].tobytes() == b"glTF":
        return from_raster(values), "glb"
    if values.dtype != np.float32:
        return png_bytes(values), "png"

    out = io.BytesIO()
    tifffile.imwrite(out, values, compression="zlib", metadata=None)
    return out.getvalue(), "tif"


def write_package(
    scene: Scene, rasters: Rasters, out: BinaryIO, more: Mapping[str, bytes] | None = None
) -> dict:
    """Writes the zip to `out`, with `more` files beside the scene; gives its manifest."""
    names: dict[str, str] = {}
    files = []
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:

        def put(path: str, data: bytes, **more):
            archive.writestr(
                path, data, zipfile.ZIP_STORED if path.endswith(".png") else zipfile.ZIP_DEFLATED
            )
            files.append(
                {
                    "path": path,
                    "bytes": len(data),
                    "sha256": hashlib.sha256(data).hexdigest(),
                    **more,
                }
            )

        def beside(text: str) -> str:
            own = (
                "own-" if text.startswith("own-") else ""
            )  # a kind brought in is called by its model
            text = text.removeprefix(own)
            if HASHED.fullmatch(text) and text not in names:
                values = rasters.load(text)
                data, ending = raster_bytes(values)
                names[text] = f"{'models' if ending == 'glb' else 'rasters'}/{text[:16]}.{ending}"
                put(
                    names[text],
                    data,
                    rows=values.shape[0],
                    columns=values.shape[1],
                    type=str(values.dtype),
                )
            return own + names.get(text, text)

        document = _each(scene.model_dump(mode="json"), beside)
        put("scene.json", json.dumps(document, indent=1).encode())
        for path, data in (more or {}).items():
            put(path, data)
        manifest = {"format": FORMAT, "scene": scene.name, "files": files}
        archive.writestr("manifest.json", json.dumps(manifest, indent=1))
    return manifest


def refuse_unsafe(archive: zipfile.ZipFile) -> None:
    """Refuses what no honest package holds, before anything is unpacked."""
    total = 0
    for i, item in enumerate(archive.infolist()):
        name = item.filename.replace("\\", "/")
        if name.startswith("/") or ".." in name.split("/") or ":" in name:
            raise SceneError(
                f"The zip holds a path outside itself: “{item.filename}”.",
                "",
                "Nothing was unpacked. Use only packages that Sow wrote.",
            )
        total += item.file_size
        if (
            i >= MOST_FILES
            or total > MOST_BYTES
            or item.file_size > 1 << 20
            and item.file_size > MOST_RATIO * max(item.compress_size, 1)
        ):
            raise SceneError(
                "The zip would unpack to far more than it should.",
                "",
                "Nothing was unpacked. Use only packages that Sow wrote.",
            )


def travelling(scene: Scene) -> dict:
    """A scene's plain values as they travel within another file: what lies outside of them, such as
    rasters and models, is LEFT_OUT.
    """

    def inside(text: str) -> str:
        plain = text.removeprefix("own-")
        return LEFT_OUT if HASHED.fullmatch(plain) or FILES.search(plain) else text

    return _each(scene.model_dump(mode="json", by_alias=True), inside)


def is_left_out(text: str) -> bool:
    """Whether a text of a scene names what lies outside of it."""
    return text == LEFT_OUT or bool(HASHED.fullmatch(text.removeprefix("own-")))


@dataclass
class Package:
    """What a zip holds: a scene's document, and its rasters by the path that the document names."""

    document: dict
    rasters: dict[str, np.ndarray]


def unpack(data: bytes) -> Package:
    """What a package holds, checked whole.

    Raises SceneError when it is no zip, holds no scene, a path outside itself, a bomb, a raster
    that is missing or damaged, or comes from a newer Sow.
    """
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
    except (zipfile.BadZipFile, NotImplementedError, ValueError):
        raise SceneError(
            "This is not a zip.", "", "Give the .zip that Sow wrote under Hand over."
        ) from None
    refuse_unsafe(archive)
    found = [n for n in archive.namelist() if n.split("/")[-1] == "scene.json"]
    if not found:
        raise SceneError(
            "The zip holds no scene.json.", "", "Give the .zip that Sow wrote under “Scene itself”."
        )
    inner = min(found, key=len).removesuffix("scene.json")
    manifest, document = _documents(archive, inner)
    _not_newer(manifest.get("format", FORMAT), FORMAT)
    _not_newer(document.get("format", ""), "sow-scene-1")
    sums = {
        f["path"]: f["sha256"]
        for f in manifest.get("files", [])
        if isinstance(f, dict) and "path" in f and "sha256" in f
    }
    read: dict[str, np.ndarray] = {}

    def look(whole: str) -> str:
        text = whole.removeprefix("own-")
        if text.startswith(("rasters/", "models/")) and text not in read:
            read[text] = _raster(archive, inner, text, sums.get(text))
            if sum(v.nbytes for v in read.values()) > MOST_RASTERS:
                raise SceneError(
                    f"The rasters of this zip take more than {MOST_RASTERS >> 20} MB.",
                    text,
                    "Nothing was brought in. Bring the scene in without them, and them one by one.",
                )
        return whole

    _each(document, look)
    read_scene(document)  # checked whole before anything is kept
    return Package(document, read)


def _documents(archive: zipfile.ZipFile, inner: str) -> tuple[dict, dict]:
    """The manifest (empty where there is none) and the scene of a package."""
    try:
        named = inner + "manifest.json" in archive.namelist()
        manifest = json.loads(archive.read(inner + "manifest.json")) if named else {}
        document = json.loads(archive.read(inner + "scene.json"))
    except (ValueError, zipfile.BadZipFile, RuntimeError, OSError, zlib.error) as e:
        raise SceneError(f"The zip is damaged: {e}.", "", "Fetch it again.") from None
    files = manifest.get("files", []) if isinstance(manifest, dict) else None
    if not isinstance(files, list) or not isinstance(document, dict):
        raise SceneError(
            "The zip's manifest or scene is not laid out as Sow writes it.",
            "",
            "Fetch it again, or use only packages that Sow wrote.",
        )
    return manifest, document


def _not_newer(text: object, known: str) -> None:
    """Refuses a format whose number is higher than the one known here."""
    stem, _, number = str(text).rpartition("-")
    if text != known and stem == known.rpartition("-")[0] and NUMBER.fullmatch(number):
        raise SceneError(
            f"This scene was written by a newer Sow (“{text}”).",
            "format",
            f"This one reads {known}. Bring Sow up to date.",
        )


def _raster(archive: zipfile.ZipFile, inner: str, text: str, told: str | None) -> np.ndarray:
    """One raster or model of a package, its checksum compared where the manifest tells one."""
    try:
        raw = archive.read(inner + text)
    except KeyError:
        raise SceneError(
            f"The raster “{text}” is missing from the zip.",
            text,
            "Nothing was brought in. Fetch the zip again.",
        ) from None
    except (zipfile.BadZipFile, RuntimeError, OSError, NotImplementedError, zlib.error) as e:
        raise SceneError(
            f"The raster “{text}” is damaged: {e}.",
            text,
            "Nothing was brought in. Fetch the zip again.",
        ) from None
    if told is not None and hashlib.sha256(raw).hexdigest() != told:
        raise SceneError(
            f"The raster “{text}” is not the one that the manifest tells of.",
            text,
            "Nothing was brought in. Fetch the zip again.",
        )
    if not text.endswith(".glb"):
        return read_elevation(raw, text).values
    if raw[:4] != b"glTF":
        raise SceneError(f"The model “{text}” is no GLB.", text, "Fetch the zip again.")
    kind_of_glb(raw, "own-model")  # read whole, so that a damaged one is refused here
    return as_raster(raw)


def placed(package: Package, keep: Callable[[np.ndarray, str], str]) -> Scene:
    """The scene of a package; `keep(raster, name)` takes each of its rasters and gives the name by
    which the scene shall know it.
    """
    names = {path: keep(values, path.split("/")[-1]) for path, values in package.rasters.items()}

    def known(text: str) -> str:
        if text.startswith("own-"):
            return "own-" + names.get(text[4:], text[4:])
        return names.get(text, text)

    return read_scene(_each(package.document, known))


def read_package(data: bytes, keep: Callable[[np.ndarray, str], str]) -> Scene:
    """The scene of a package. Nothing is kept before all of it was read."""
    return placed(unpack(data), keep)
