"""Ready-made lands: whole scene documents that ship, one JSON file each in the folder `lands`."""

import functools
import json
from dataclasses import dataclass
from pathlib import Path

from ..errors import SceneError

FOLDER = Path(__file__).parent / "lands"


@dataclass(frozen=True)
class ReadyLand:
    """A ready-made land in a list."""

    name: str
    label: str
    note: str
    width_m: float
    relief_m: float


@functools.lru_cache(1)
def listed() -> list[ReadyLand]:
    """All of them, by label; what is told beside the document lies in lands/index.json."""
    index = json.loads((FOLDER / "index.json").read_text())
    return [
        ReadyLand(name, **facts)
        for name, facts in sorted(index.items(), key=lambda kv: kv[1]["label"])
    ]


def text(name: str) -> bytes:
    """The document of a ready-made land as JSON. Raises SceneError when there is none so named."""
    if name not in {x.name for x in listed()}:
        raise SceneError(
            f"There is no ready-made land '{name}'.",
            "name",
            f"There are: {', '.join(x.name for x in listed())}.",
        )
    return (FOLDER / f"{name}.json").read_bytes()


def picture_path(name: str) -> Path:
    """Where the picture of a ready-made land lies, a JPEG (core/picture/lands.py draws it). Raises
    SceneError when there is no land so named.
    """
    text(name)
    return FOLDER / f"{name}.jpg"
