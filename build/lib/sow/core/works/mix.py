"""Some kinds of a mix changed together, while the others keep their number."""

from pydantic import Field

from ..errors import SceneError
from .base import Asked, Done, Hand, work

DENSEST = 100_000  # per 100 m²


class SomeKinds(Asked):
    """`kinds` are places in the mix; `stand` how many of each kind of the mix stand now; `number`
    how many the chosen ones shall be; `size` their size in % of now; `sought` names them.
    """

    sowing: str
    kinds: list[int] = Field(min_length=1, max_length=24)
    stand: list[int] = Field(default_factory=list, max_length=24)
    number: float | None = Field(None, ge=0, le=20_000_000)
    size: float | None = Field(None, gt=0, le=10000)
    sought: str = Field("", max_length=80)


@work("some kinds of a mix", SomeKinds)
def some_kinds(hand: Hand, asked: SomeKinds) -> Done:
    """The chosen kinds of a mix get another number or size; the others keep theirs."""
    entries, index = hand.find(asked.sowing)
    sowing = entries[index]
    if "mix" not in sowing or max(asked.kinds) >= len(sowing["mix"]):
        raise SceneError(f"“{sowing['name']}” has no such kinds.", "kinds", "Choose others.")
    label = f"{sowing['name']}: {asked.sought.strip() or 'some kinds'}"
    if asked.size is not None:
        for i in asked.kinds:
            part = sowing["mix"][i]
            part["size"] = min(2000, max(1, float(f"{part['size'] * asked.size / 100:.5g}")))
        return Done(hand.document, f"{label}, size", sowing["id"])
    if asked.number is None:
        raise SceneError("Neither a number nor a size was given.", "number", "Give one of them.")
    _share_anew(sowing, set(asked.kinds), asked.stand, asked.number)
    return Done(hand.document, f"{label}, {asked.number:,.0f}", sowing["id"])


def _share_anew(sowing: dict, chosen: set[int], stand: list[int], number: float) -> None:
    """Parts and density so that the chosen kinds come to `number` and the rest stays."""
    now = sum(n for i, n in enumerate(stand) if i in chosen)
    factor = number / now if now else 1.0
    parts = [p["share"] for p in sowing["mix"]]
    changed = [s * factor if i in chosen else s for i, s in enumerate(parts)]
    if sum(changed) <= 0:
        raise SceneError("No plant would be left.", "number", "Turn the sowing off instead.")
    fit = min(1.0, 100 / max(*changed, 1e-9))
    for part, share in zip(sowing["mix"], changed):
        part["share"] = float(f"{share * fit:.6g}")
    grown = sum(changed) / sum(parts)
    sowing["density"] = min(DENSEST, float(f"{sowing['density'] * grown:.6g}"))
    if sowing["number"]:
        sowing["number"] = round(sowing["number"] * grown)
