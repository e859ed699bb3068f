"""Entries of any list: one added from an offer, one duplicated."""

from pydantic import Field

from .base import Asked, Done, Hand, work
from .offering import find_offer


class Add(Asked):
    """`list` is a list of the scene ("land", "far", "water", "ground", "far ground",
    "planting"), `key` that of
    an offer in it.
    """

    list: str
    key: str = Field(max_length=120)


class Duplicate(Asked):
    entry: str


@work("add an entry", Add)
def add(hand: Hand, asked: Add) -> Done:
    """An offer becomes an entry at the end of its list, with first values that suit the plot."""
    offer, context = find_offer(hand.scene, asked.list, asked.key, hand.build)
    new = hand.fresh_id(asked.key)
    hand.lists()[asked.list].append({**offer.values(context), "id": new})
    return Done(hand.document, f"{offer.label} added", new)


@work("duplicate an entry", Duplicate)
def duplicate(hand: Hand, asked: Duplicate) -> Done:
    """A copy behind the entry, with another seed, or its plants would stand inside the first
    ones.
    """
    entries, index = hand.find(asked.entry)
    entry = entries[index]
    new = hand.fresh_id(entry["id"].rstrip("0123456789-") or "entry")
    copy = {**entry, "id": new, "name": f"{entry['name'][:70]} 2"}
    if "seed" in entry:
        copy["seed"] = (entry["seed"] + 1) % 1000
    if entries is hand.document["pieces"]:
        copy["east_m"] += 2
    copy["where"] = [
        {**c, "bound": new} if c.get("bound") == entry["id"] else c for c in entry.get("where", [])
    ]
    if "where" not in entry:
        del copy["where"]
    entries.insert(index + 1, copy)
    return Done(hand.document, f"{entry['name']}: duplicate", new)
