"""A planting mix as a file: sowings with the lines and areas that they refer to."""

import json
import re
from dataclasses import dataclass
from typing import Any

from ..document.text import plain_text
from ..errors import SceneError
from ..scene import Scene, read_scene

FORMAT = "sow-mix-1"


@dataclass(frozen=True)
class Mix:
    """A mix by name, as plain values of a document."""

    name: str
    sowings: list[dict[str, Any]]
    marks: list[dict[str, Any]]

    def document(self) -> dict[str, Any]:
        """What a file or a drawer keeps."""
        return {
            "format": FORMAT,
            "name": self.name,
            "sowings": self.sowings,
            "marks": self.marks,
        }


def gathered(scene: Scene, sowing_id: str) -> Mix:
    """The sowings of a sowing's group, or it alone, with the lines and areas that they name.

    Raises SceneError when there is no such sowing.
    """
    found = next((s for s in scene.planting if s.id == sowing_id), None)
    if found is None:
        raise SceneError(f"There is no sowing '{sowing_id}'.", "sowing", "Choose another.")
    mine = [
        s for s in scene.planting if s.id == sowing_id or (found.group and s.group == found.group)
    ]
    sowings = [s.model_dump(mode="json") for s in mine]
    named = set(re.findall(r'"(?:mark|line)": "([^"]+)"', json.dumps(sowings)))
    marks = [m.model_dump(mode="json") for m in scene.marks if m.id in named and m.kind != "mask"]
    return Mix(found.group or found.name, sowings, marks)


def read_mix(text: str | bytes | dict[str, Any]) -> Mix:
    """A mix from a file or from plain values, checked whole. Raises SceneError."""
    advice = "Give a file that “Save as a mix” wrote; nothing was changed."
    try:
        found = text if isinstance(text, dict) else json.loads(text)
    except (json.JSONDecodeError, UnicodeDecodeError, RecursionError) as e:
        raise SceneError(f"This is not a planting mix: {e}.", "", advice) from None
    if not isinstance(found, dict) or found.get("format") != FORMAT:
        raise SceneError("This is not a planting mix.", "", advice)
    given = found.get("marks", [])
    if not isinstance(given, list) or not all(isinstance(m, dict) for m in given):
        raise SceneError("The lines and areas of this mix are not laid out as a list.", "", advice)
    marks = [m for m in given if m.get("kind") != "mask"]
    name = plain_text(str(found.get("name") or ""))[:80] or "Mix"
    whole = read_scene({"name": name, "planting": found.get("sowings", []), "marks": marks})
    plain = whole.model_dump(mode="json")
    return Mix(name, plain["planting"], plain["marks"])
