"""The cabinet: the shapes and textures that ship, each made by recipe.

A drawer maps a name to its recipe's label and facts at once; shapes and pictures are made when
first asked for.
"""

import importlib
import pkgutil
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import numpy as np

from ..document.data import read_data
from ..document.entry import load_folder
from ..errors import SceneError
from . import growth
from .bent import bent_kind, told_bend
from .dressed import Dressed
from .kind import MARK, Kind, grounds, kinds, own_ground, own_kind

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
    """Kind, look and tint (a linear multiplier of its colour, or none) of a dressed kind's name."""
    dressed = Dressed.read(name)
    return kind_of(dressed.kind), dressed.look, dressed.tone


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


def _load() -> None:
    """Reads every file of the folder, modules and data, by name; what grows parts first."""
    load_folder(growth)
    here = Path(__file__).parent
    modules = {module.name for module in pkgutil.iter_modules(__path__)}
    for name in sorted(modules | {file.stem for file in here.glob("*.toml")}):
        if name in modules:
            importlib.import_module(f"{__name__}.{name}")
        else:
            read_data(here / f"{name}.toml")


_load()
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
