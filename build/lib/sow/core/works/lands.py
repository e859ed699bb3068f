"""A ready-made land brought into a scene, scaled to its plot."""

from typing import Any

from ..cabinet import lands
from ..scene import read_scene
from .base import Asked, Done, Hand, work

IN_METRES = (
    "height",
    "lowered",
    "laid",
    "scree",
    "roughness",
)  # conditions whose bands are heights
BANDS = ("low", "high", "soft")
OPEN_END_M = 12_000  # the open end of a band of heights is no length
ANYWHERE_M = 200_000  # nor is a reach without end


class Bring(Asked):
    land: str


@work("bring a ready land", Bring)
def bring(hand: Hand, asked: Bring) -> Done:
    """The entries of a ready-made land join this scene's as one group, every length scaled by the
    ratio of the two plots.
    """
    source = read_scene(lands.text(asked.land)).model_dump(mode="json")
    label = next(x.label for x in lands.listed() if x.name == asked.land)
    theirs = max(source["plot"]["width_m"], source["plot"]["depth_m"])
    ratio = hand.reach / theirs
    for entry in source["land"]:
        new = hand.fresh_id(entry["id"])
        hand.document["land"].append({**scaled(entry, ratio), "id": new, "group": label[:40]})
    return Done(hand.document, f"Land: {label}")


def scaled(entry: dict[str, Any], ratio: float) -> dict[str, Any]:
    """An entry of the land with all its lengths (m) multiplied; angles, shares and lines stay."""
    heights = entry.get("kind") in IN_METRES

    def one(name: str, value: Any) -> Any:
        if name == "where":
            return [scaled(c, ratio) for c in value]
        if isinstance(value, bool) or not isinstance(value, int | float):
            return value
        length = name.endswith("_m") and abs(value) < ANYWHERE_M
        height = heights and name in BANDS and abs(value) < OPEN_END_M
        if not length and not height:
            return value
        return float(f"{value * ratio:.6g}")

    return {name: one(name, value) for name, value in entry.items()}
