"""A planting mix taken into a scene."""

from typing import Any

from ..parts import renamed
from ..planting.mix_file import read_mix
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
