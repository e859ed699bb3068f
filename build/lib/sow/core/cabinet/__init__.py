"""The cabinet: the shapes and textures that ship, each made by recipe.

A drawer maps a name to its recipe's label and facts at once; shapes and pictures are made when
first asked for.
"""

import sys
from collections.abc import Mapping
from typing import Any

import numpy as np

from ..document.entry import load_folder
from ..errors import SceneError
from .bent import bent_kind, told_bend
from .kind import MARK, Kind, grounds, kinds, linear, own_ground, own_kind

_DRAWERS: dict[str, Mapping[str, Any]] = {"kind": kinds, "ground": grounds}


def known(drawer: str, name: str) -> str:
    """The name itself, or a ValueError that lists what the drawer holds."""
    if drawer == "kind" and name.startswith("own-") and len(name) < 120:
        return name
    if name not in _DRAWERS[drawer]:
        raise ValueError(
            f"the cabinet has no {drawer} called '{name}'; it has: "
            f"{', '.join(sorted(_DRAWERS[drawer]))}"
        )
    return name


def worn(name: str) -> tuple[Kind, str, np.ndarray | None]:
    """Kind, look and tint (a linear multiplier of its colour, or none) of a name such as
    "birch~autumn~ffddaa~120", the last being its lightness in %.
    """
    kind, look, tint, bright = (name.split("~") + ["", "", ""])[:4]
    tone = (
        linear(np.array([int(tint[i : i + 2], 16) for i in (0, 2, 4)], np.uint8))
        * (float(bright or 100) / 100)
        if tint
        else None
    )
    return kind_of(kind), look or "summer", tone


def kind_of(name: str) -> Kind:
    """A kind by its name, own and bent ones too. Raises SceneError when there is none."""
    if MARK in name:
        base, told = name.split(MARK, 1)
        return bent_kind(kind_of(base), *told_bend(told))
    if name.startswith("own-"):
        return own_kind(name)
    try:
        return kinds[name]
    except KeyError:
        raise SceneError(f"The cabinet has no kind called '{name}'.") from None


load_folder(sys.modules[__name__])
SHIPPED = frozenset(kinds)

__all__ = [
    "Kind",
    "grounds",
    "kind_of",
    "kinds",
    "known",
    "linear",
    "own_ground",
    "own_kind",
    "worn",
]
