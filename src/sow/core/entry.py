"""Entries of a scene and the register of their kinds.

One file adds one kind: a model derived from a base entry, and a function registered for it.
"""

import importlib
import pkgutil
from dataclasses import dataclass, field
from typing import Annotated, Callable, Union

from pydantic import BaseModel, ConfigDict, Field


class Strict(BaseModel):
    """Unknown names and not-a-number are refused, so that a slip of the pen is told."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, validate_default=False)


class Entry(Strict):
    id: str = Field(pattern=r"^[A-Za-z0-9_.-]{1,64}$")
    name: str = Field(min_length=1, max_length=80)
    on: bool = True


@dataclass
class Register:
    """Kinds of one family, in the order in which their files are read."""

    family: str
    models: dict = field(default_factory=dict)
    functions: dict = field(default_factory=dict)

    def add(self, model) -> Callable:
        kind = model.model_fields["kind"].default

        def keep(function):
            self.models[kind], self.functions[kind] = model, function
            return function

        return keep

    def union(self):
        """The pydantic type that accepts any kind of this family, told apart by `kind`."""
        return Annotated[Union[tuple(self.models.values())], Field(discriminator="kind")]


def load_folder(package) -> None:
    """Import every module of a package, so that each registers its kinds."""
    for module in sorted(m.name for m in pkgutil.iter_modules(package.__path__)):
        importlib.import_module(f"{package.__name__}.{module}")
