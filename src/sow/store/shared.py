"""The shared drawer: a folder of files that a team may keep where all reach it (SOW_SHARED; else
beside the data).
"""

import json
import os
import re
import tempfile
from pathlib import Path

from .scenes import Missing

ENDING = ".mix.json"


def folder() -> Path:
    """The folder that a team shares."""
    if os.environ.get("SOW_SHARED"):
        return Path(os.environ["SOW_SHARED"])
    return (
        Path(os.environ["SOW_CACHE"]).parent
        if "SOW_CACHE" in os.environ
        else Path(tempfile.gettempdir())
    ) / "shared"


def listed() -> list[dict]:
    """Every mix in the folder, by name; a file that cannot be read is passed over."""
    out = []
    for file in sorted(folder().glob(f"*{ENDING}")) if folder().is_dir() else []:
        try:
            found = json.loads(file.read_text())
            if found.get("format") == "sow-mix-1" and isinstance(found.get("sowings"), list):
                out.append(
                    {
                        **found,
                        "id": file.name.removesuffix(ENDING),
                        "name": str(found.get("name") or file.stem)[:80],
                    }
                )
        except (OSError, ValueError, AttributeError):
            continue
    return out


def put(name: str, document: dict) -> str:
    """Writes a mix whole or not at all; another of the same name is not overwritten. Gives its
    id.
    """
    folder().mkdir(parents=True, exist_ok=True)
    stem = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:60] or "mix"
    own, k = stem, 2
    while (folder() / f"{own}{ENDING}").exists():
        own, k = f"{stem}-{k}", k + 1
    part = folder() / f".{own}.{os.getpid()}"
    part.write_text(json.dumps(document, indent=1))
    part.replace(folder() / f"{own}{ENDING}")
    return own


def drop(own: str) -> None:
    """Takes a mix out. Raises Missing."""
    file = folder() / f"{own}{ENDING}"
    if "/" in own or ".." in own or not file.exists():
        raise Missing("such mix in the shared drawer")
    file.unlink()
