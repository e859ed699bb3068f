"""What works share: their register, what they are asked with, and what they give."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from pydantic import BaseModel, ConfigDict, ValidationError

from ..build import Build, Rasters
from ..cache import Cache
from ..errors import SceneError
from ..scene import LISTS, Scene, read_scene

Document = dict[str, Any]


class Asked(BaseModel):
    """The base of what a work is asked with: unknown names are refused."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


@dataclass
class Done:
    """A work's result: the new document, the edit's label, what is chosen then, what is told.

    An empty label means that nothing was changed.
    """

    document: Document
    label: str
    chosen: str | None = None
    told: str = ""
    several: list[str] = field(default_factory=list)


@dataclass
class Hand:
    """What a work holds: the scene, and its document as a copy to change. Those that measure the
    land ask for a build.
    """

    scene: Scene
    document: Document
    cache: Cache
    rasters: Rasters

    def build(self, full: bool = False) -> Build:
        """The scene on its view grid, or on its full one."""
        plot = self.scene.plot
        grid = plot.grid() if full else plot.view_grid()
        return Build(self.scene, grid, self.cache, self.rasters)

    def find(self, entry_id: str) -> tuple[list, int]:
        """The list that holds an entry, and its place there. Raises SceneError."""
        for entries in self.lists().values():
            for index, entry in enumerate(entries):
                if entry["id"] == entry_id:
                    return entries, index
        raise SceneError(f"There is no entry '{entry_id}'.", "entry", "It may have been removed.")

    def lists(self) -> dict[str, list]:
        """Every list of entries by its name; the far land's own are "far" and "far ground"."""
        far = self.document["beyond"]
        return {name: self.document[name] for name in LISTS} | {
            "far": far["land"],
            "far ground": far["ground"],
        }

    def fresh_id(self, stem: str) -> str:
        """An id that no entry has, from a word."""
        used = {e["id"] for entries in self.lists().values() for e in entries}
        number = 1
        while f"{stem}-{number}" in used:
            number += 1
        return f"{stem}-{number}"

    @property
    def reach(self) -> float:
        """The plot's longer side in m."""
        return max(self.scene.plot.width_m, self.scene.plot.depth_m)


@dataclass(frozen=True)
class Work:
    """One work: what it is asked with, and its function."""

    asked: type[Asked]
    function: Callable[[Hand, Any], Done]
    help: str


works: dict[str, Work] = {}


def work(name: str, asked: type[Asked]) -> Callable:
    """Registers a work under a name. Raises SceneError when the name is in use."""
    if name in works:
        raise SceneError(f"The work '{name}' is registered twice.", "", "Give it another name.")

    def keep(function: Callable[[Hand, Any], Done]) -> Callable[[Hand, Any], Done]:
        works[name] = Work(asked, function, (function.__doc__ or name).strip())
        return function

    return keep


def do(
    name: str,
    scene: Scene,
    values: Document,
    cache: Cache | None = None,
    rasters: Rasters | None = None,
) -> Done:
    """Does a work on a scene; the given scene is left as it is.

    `cache` and `rasters` serve the builds of works that measure the land. Raises SceneError when
    there is no such work, when its values are wrong, or when it can't be done.
    """
    if name not in works:
        raise SceneError(f"There is no work '{name}'.", "work", f"Works: {', '.join(works)}.")
    try:
        asked = works[name].asked.model_validate(values)
    except ValidationError as e:
        first = e.errors()[0]
        raise SceneError(
            first["msg"], ".".join(map(str, first["loc"])), "Nothing was changed."
        ) from None

    hand = Hand(scene, scene.model_dump(mode="json"), cache or Cache(), rasters or Rasters())
    done = works[name].function(hand, asked)
    done.document = read_scene(done.document).model_dump(mode="json")
    return done
