"""Faults of the planting mended where a rule can mend them."""

from pydantic import Field

from ..judge.faults import faults
from .base import Asked, Done, Hand, work


class Mend(Asked):
    """Nothing is asked but the scene; `seed_step` is what is added to the seed of twins."""

    seed_step: int = Field(101, ge=1, le=10000)


@work("mend faults", Mend)
def mend(hand: Hand, asked: Mend) -> Done:
    """Pieces that float are sunk to their foot, sowings that float sink more by slope, sowings with
    twins side by side get another seed.
    """
    found, _ = faults(hand.build())
    pieces = {p["id"]: p for p in hand.document["pieces"]}
    sowings = {s["id"]: s for s in hand.document["planting"]}
    mended = 0
    for fault in found:
        if fault.mend_cm is not None and fault.id in pieces:
            pieces[fault.id]["sink_cm"] = fault.mend_cm
            mended += 1
    floating = {f.id for f in found if f.what == "floats" and f.mend_cm is None} & set(sowings)
    for sowing_id in floating:
        stance = sowings[sowing_id]["stance"]
        more = 1.3 if stance["settle"] >= 100 else 1.0
        stance["settle"] = min(200, max(100, stance["settle"] * more))
        stance["sink_cm"] = round(stance["sink_cm"] * 1.3 + 2, 1)
    twins = {f.id for f in found if f.what == "twin"} & set(sowings)
    for sowing_id in twins:
        sowing = sowings[sowing_id]
        sowing["seed"] = (sowing["seed"] + asked.seed_step) % 2147483647
    if not mended and not floating and not twins:
        return Done(hand.document, "", None, "There is nothing that a rule can mend.")
    return Done(hand.document, "Faults mended")
