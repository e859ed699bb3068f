"""Conditions added to a where-list, with first values that suit the land."""

from typing import Any

from pydantic import Field

from ..where.base import conditions
from .base import Asked, Done, Hand, work
from .offering import BEYOND, READY_RULES, context_of, rules


class AddRule(Asked):
    """`path` leads to what has the where-list: a list, an index and, for a kind of a mix, "mix"
    and its index.
    """

    path: list[str | int] = Field(min_length=2, max_length=6)
    key: str


@work("add a rule", AddRule)
def add_rule(hand: Hand, asked: AddRule) -> Done:
    """A condition, or a ready set of them, at the end of a where-list."""
    owner: Any = hand.document
    for step in asked.path:
        owner = owner[step]
    name = str(asked.path[0])
    if name == "beyond":
        name = next(n for n, held in BEYOND.items() if held == asked.path[1])
    index = next((s for s in asked.path if isinstance(s, int)), None)
    context = context_of(hand.scene, name, hand.build, index)
    owner["where"] += rules(asked.key, context)
    label = (
        READY_RULES[asked.key][0] if asked.key in READY_RULES else conditions.facts[asked.key].label
    )
    return Done(hand.document, f"{owner.get('name', owner.get('kind', 'Mix'))}: where {label}")
