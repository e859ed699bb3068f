"""Kinds as data: each table of a data file names the recipe that makes it, and gives it numbers.

A recipe is a function registered by `recipe`; what it is given besides numbers (leaves, barks,
outlines of crowns) comes from `maker`s by name: `leaf = { as = "rhombic", long_m = 0.05, ... }`.
"""

from collections.abc import Callable
from typing import Any

from ..document.data import Table, WrongField, built, misnamed, taken_as
from ..errors import SceneError
from .kind import kinds

Recipe = Callable[[str, str, str, Table], None]
recipes: dict[str, Recipe] = {}
makers: dict[str, Callable[..., Any]] = {}
_tables: dict[str, Table] = {}


def maker(function: Callable) -> Callable:
    """Registers what makes a part of a kind from numbers, under the function's own name."""
    makers[function.__name__] = function
    return function


def recipe(name: str) -> Callable[[Recipe], Recipe]:
    """Registers a function from a kind's name, label, tags and fields that registers the kind."""

    def keep(function: Recipe) -> Recipe:
        recipes[name] = function
        return function

    return keep


def made(make: Callable, values: Table) -> Any:
    """What a function or a dataclass makes of a table's fields. Raises WrongField."""
    return built(make, values, makers)


def _over(base: Table, values: Table) -> Table:
    """A table with the fields of another laid over it, those of inner tables one by one."""
    both = {
        name: _over(base[name], value)
        for name, value in values.items()
        if isinstance(value, dict) and isinstance(base.get(name), dict) and "as" not in value
    }
    return {**base, **values, **both}


@taken_as("kind")
def take(name: str, table: Table) -> None:
    """Registers the kind of a table; `like` names another whose fields it takes where it has none
    of its own. Raises WrongField.
    """
    values = dict(table)
    like = values.pop("like", None)
    if like is not None:
        if like not in _tables:
            raise WrongField(misnamed(str(like), list(_tables)), "like")
        values = _over(_tables[like], values)
    if name in kinds:
        raise SceneError(f"the kind '{name}' is registered twice; give it another name")
    _tables[name] = values
    rest = {k: v for k, v in values.items() if k not in ("recipe", "label", "tags")}
    if values.get("recipe") not in recipes:
        raise WrongField(misnamed(str(values.get("recipe")), list(recipes)), "recipe")
    if not isinstance(values.get("label"), str):
        raise WrongField("“label” is missing", "label")
    recipes[values["recipe"]](name, values["label"], values.get("tags", ""), rest)
