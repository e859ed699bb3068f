"""The shared drawer: a folder of files that a team may keep where all reach it (SOW_SHARED; else
beside the data).
"""

import json
import os
import re
import tempfile
from collections.abc import Iterator
from pathlib import Path

from ..core.settings import settings
from .scenes import Missing

MIX, PART = ".mix.json", ".part.zip"  # what files of each sort end in


def folder() -> Path:
    """The folder that a team shares."""
    told = settings()
    return told.shared or (told.folder or Path(tempfile.gettempdir())) / "shared"


def listed() -> list[dict]:
    """Every mix in the folder, by name; a file that cannot be read is passed over."""
    out = []
    for own, file in files(MIX):
        try:
            found = json.loads(file.read_text())
            if found.get("format") == "sow-mix-1" and isinstance(found.get("sowings"), list):
                name = str(found.get("name") or file.stem)[:80]
                out.append({**found, "id": own, "name": name})
        except (OSError, ValueError, AttributeError):
            continue
    return out


def files(ending: str) -> Iterator[tuple[str, Path]]:
    """The files of a sort, by their names without the ending."""
    found = sorted(folder().glob(f"*{ending}")) if folder().is_dir() else []
    return ((file.name.removesuffix(ending), file) for file in found)


def put(name: str, data: bytes, ending: str) -> str:
    """Writes a file whole or not at all; another of the same name is not overwritten. Gives its
    name there.
    """
    folder().mkdir(parents=True, exist_ok=True)
    stem = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:60] or "unnamed"
    own, k = stem, 2
    while (folder() / f"{own}{ending}").exists():
        own, k = f"{stem}-{k}", k + 1
    part = folder() / f".{own}.{os.getpid()}"
    part.write_bytes(data)
    part.replace(folder() / f"{own}{ending}")
    return own


def file_of(own: str, ending: str) -> Path:
    """The file of a name. Raises Missing."""
    file = folder() / f"{own}{ending}"
    if "/" in own or ".." in own or not file.exists():
        raise Missing(f"“{own}” in the shared drawer")
    return file
