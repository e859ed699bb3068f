"""A planting mix taken into a scene."""

from typing import Any

from ..parts import renamed
from ..planting.mix_file import read_mix
from ..scene import Scene, read_scene
from .base import Asked, Done, Hand, work


class TakeMix(Asked):
    """A mix as a file holds it; `label` names it in the history."""

    mix: dict[str, Any]
    label: str = ""


@work("take a mix", TakeMix)
def take_mix(hand: Hand, asked: TakeMix) -> Done:
    """The sowings of a mix follow those that are there, each with an id of its own; its lines and
    areas come with it.
    """
    mix = read_mix(asked.mix)
    names: dict[str, str] = {}
    used = {e["id"] for entries in hand.lists().values() for e in entries}
    for entry in [*mix.sowings, *mix.marks]:
        number = 2
        new = entry["id"]
        while new in used:
            new = f"{entry['id'][:56]}-{number}"
            number += 1
        used.add(new)
        names[entry["id"]] = new
    hand.document["marks"] += renamed(mix.marks, names)
    hand.document["planting"] += renamed(mix.sowings, names)
    return Done(hand.document, f"Planting: {asked.label or mix.name}")


def with_mix(scene: Scene, sowings: list[dict], marks: list[dict]) -> Scene:
    """The scene with nothing planted but a mix, to forecast or to draw it; a mark of the mix takes
    the place of one with the same id.

    Raises SceneError when the mix does not fit a scene.
    """
    own = {str(mark.get("id")) for mark in marks}
    kept = [m.model_dump(mode="json") for m in scene.marks if m.id not in own]
    document = scene.model_dump(mode="json")
    return read_scene({**document, "planting": sowings, "marks": [*kept, *marks]})
