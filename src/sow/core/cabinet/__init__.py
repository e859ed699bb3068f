"""The cabinet: the shapes and textures that ship, each made by recipe.

A drawer maps a name to its recipe's label and facts at once; shapes and pictures are made when first asked for.
"""
import sys

from ..entry import load_folder
from ..errors import SceneError
from .kind import Kind, grounds, kinds, own_ground

_DRAWERS = {"kind": kinds, "ground": grounds}


def known(drawer: str, name: str) -> str:
    """The name itself, or a ValueError that lists what the drawer holds."""
    if name not in _DRAWERS[drawer]:
        raise ValueError(f"the cabinet has no {drawer} called '{name}'; it has: {', '.join(sorted(_DRAWERS[drawer]))}")
    return name


def worn(name: str) -> tuple[Kind, str, str]:
    """Kind, look and tint (hex without #, or nothing) of a name such as "birch~autumn~ffddaa"."""
    kind, look, tint = (name.split("~") + ["", ""])[:3]
    return kind_of(kind), look or "summer", tint


def kind_of(name: str) -> Kind:
    try:
        return kinds[name]
    except KeyError:
        raise SceneError(f"The cabinet has no kind called '{name}'.") from None


load_folder(sys.modules[__name__])
