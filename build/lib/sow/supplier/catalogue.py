"""What the supplier has: each made by recipe when it is asked for, at the size that is asked
for.
"""

from dataclasses import dataclass
from typing import Any

from .kinds import KINDS
from .textures import pictures


@dataclass(frozen=True)
class Item:
    name: str
    label: str
    sort: str
    note: str
    least: int = 0
    most: int = 0


ITEMS = {
    i.name: i
    for i in (
        Item("straw-bale", "Straw bale", "kind", "round, 1.2 m", 200, 6000),
        Item("field-gate", "Field gate", "kind", "five bars, 3 m", 60, 900),
        Item("hurdle", "Woven hurdle", "kind", "hazel rods on stakes, 1.8 m", 400, 5000),
        Item("cairn", "Cairn", "kind", "stones heaped by hand, 1.3 m", 600, 12000),
        Item("trough", "Stone trough", "kind", "hollowed, 1.4 m", 60, 1200),
        Item("thorn-cut", "Cut thorn", "kind", "a card with cut out twigs, crossed", 4, 16),
        Item("brick-setts", "Brick setts", "texture", "laid in a bond, 2 m"),
        Item("stubble", "Stubble", "texture", "cut rows, 3 m"),
        Item("boardwalk", "Boardwalk", "texture", "weathered planks, 1.6 m"),
    )
}


def made(item: Item, texture_px: int, triangles: int) -> Any:
    """A GLB, or the pictures of a texture set by file name."""
    if item.sort == "texture":
        return pictures(item.name, texture_px)
    return KINDS[item.name](texture_px, max(item.least, min(item.most, triangles)))
