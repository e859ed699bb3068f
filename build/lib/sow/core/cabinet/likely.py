"""What a name from elsewhere may mean."""

import re
from typing import Any


def likely(name: str, among: dict[str, Any]) -> str:
    """Of kinds or grounds by name, that whose name shares most with a word from elsewhere:
    “Oak_large.003” is an oak; nothing where none shares a word.
    """
    if name in among:
        return name
    words = set(re.findall(r"[a-z]+", name.lower()))
    own = lambda x: set(re.findall(r"[a-z]+", f"{x.name} {x.label}".lower()))
    best = max(
        among.values(),
        key=lambda x: (
            len(words & own(x)) / max(len(set(re.findall(r"[a-z]+", x.name))), 1),
            -len(x.name),
        ),
    )
    return best.name if words & own(best) else ""
