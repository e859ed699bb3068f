"""Entries of a scene and the registers of their kinds.

One file adds one kind: a model derived from a base entry, and a function registered for it with
what the page offers of it.
"""

import importlib
import pkgutil
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from types import ModuleType
from typing import Annotated, Any, Union

from pydantic import BaseModel, ConfigDict, Field

from ..errors import SceneError
from .extra import guarded
from .offers import Offer
from .text import Name


class Strict(BaseModel):
    """Unknown names and not-a-number are refused, so that a slip of the pen is told."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, validate_default=False)


class Entry(Strict):
    id: str = Field(pattern=r"^[A-Za-z0-9_.-]{1,64}$")
    name: Name = Field(min_length=1, max_length=80)
    on: bool = True


@dataclass(frozen=True)
class Handles:
    """Grips on the map: the fields that hold the sizes across and along, and whether the outline
    is an ellipse. The centre lies at `east_m`, `north_m`, the turn in `turn`.
    """

    across: str
    along: str
    round: bool = False


@dataclass(frozen=True)
class Facts:
    """What the page tells of a kind: its `subtitle` under the name ("{feature_m} m, {form}"), its
    `handles` on the map, its `label` where a menu names it.
    """

    subtitle: str = ""
    handles: Handles | None = None
    label: str = ""


def at_place(entry: Any, scene: Any) -> float:
    """The reach of what needs to know of the land only the place itself."""
    return 0.0


@dataclass
class Register:
    """Kinds of one family, in the order in which their files are read."""

    family: str
    models: dict[str, Any] = field(default_factory=dict)
    functions: dict[str, Callable] = field(default_factory=dict)
    facts: dict[str, Facts] = field(default_factory=dict)
    reaches: dict[str, Callable[[Any, Any], float]] = field(default_factory=dict)
    offers: list[Offer] = field(default_factory=list)

    def add(
        self,
        model: type[BaseModel],
        *,
        offers: Sequence[Offer] = (),
        subtitle: str = "",
        handles: Handles | None = None,
        label: str = "",
        reach: Callable[[Any, Any], float] | None = None,
    ) -> Callable:
        """Registers a model and the function that it decorates.

        `reach(entry, scene)` is the distance in m beyond which nothing of the land below it or of
        the answers before it has a say in what it does at a place; without one all of the plot has.

        Raises SceneError when the kind is registered already.
        """
        kind = model.model_fields["kind"].default
        if kind in self.models:
            raise SceneError(
                f"The {self.family} '{kind}' is registered twice.", "", "Give it another kind."
            )

        def keep(function: Callable) -> Callable:
            self.models[kind], self.functions[kind] = model, guarded(function, kind)
            self.facts[kind] = Facts(subtitle, handles, label)
            if reach is not None:
                self.reaches[kind] = reach
            self.offers += [offer.of(kind) for offer in offers]
            return function

        return keep

    def union(self) -> Any:
        """The pydantic type that accepts any kind of this family, told apart by `kind`."""
        kinds: Any = Union[tuple(self.models.values())]  # noqa: UP007  (a union of a computed tuple)
        return Annotated[kinds, Field(discriminator="kind")]


def load_folder(package: ModuleType) -> None:
    """Import every module of a package, so that each registers its kinds."""
    for module in sorted(m.name for m in pkgutil.iter_modules(package.__path__)):
        importlib.import_module(f"{package.__name__}.{module}")
