"""Exporters: what a hand-over writes, each one registration."""

from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from pydantic import BaseModel, ValidationError

from ..document.entry import Strict
from ..document.extra import guarded
from ..errors import SceneError
from ..planting.plants import Plants
from ..planting.sowing import Sowing

if TYPE_CHECKING:  # a build knows the formats of kinds, so it is named here for types alone
    from ..build import Build

Preview = Callable[["Build"], np.ndarray]


class NoOptions(Strict):
    """An exporter that asks nothing."""


@dataclass
class Grown:
    """What an exporter sees: the build on the grid asked for, what was sown, file names of the
    materials by id, and the folder to write into. `report` gathers facts for report.json.
    """

    out: Path
    build: "Build"
    sown: list[tuple[Sowing, Plants]]
    names: dict[str, str]
    tell: Callable[[str, float], None]
    check: Callable[[], None]
    report: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Exporter:
    """One exporter: its title in the panel, its options, its function, and what draws a small
    picture of what it writes (uint8 (rows, columns, 3)), if anything does; `ticks` draw those of
    single options, by their names.
    """

    name: str
    title: str
    options: type[BaseModel]
    write: Callable[[Grown, Any], None]
    help: str
    preview: Preview | None = None
    ticks: dict[str, Preview] = field(default_factory=dict)


exporters: dict[str, Exporter] = {}


def exporter(
    name: str,
    title: str,
    options: type[BaseModel] = NoOptions,
    preview: Preview | None = None,
    ticks: dict[str, Preview] | None = None,
) -> Callable:
    """Registers a function that writes files of a grown scene into its folder.

    Raises SceneError when the name is in use.
    """
    if name in exporters:
        raise SceneError(f"The exporter '{name}' is registered twice.", "", "Give it another name.")

    def keep(write: Callable[[Grown, Any], None]) -> Callable[[Grown, Any], None]:
        help_ = (write.__doc__ or "").strip()
        written = guarded(write, title)
        exporters[name] = Exporter(name, title, options, written, help_, preview, ticks or {})
        return write

    return keep


def options_of(files: dict[str, Any]) -> dict[str, Any]:
    """The options of every exporter, checked; what is not given has its first values.

    Raises SceneError with the path of what is wrong.
    """
    unknown = set(files) - set(exporters)
    if unknown:
        raise SceneError(
            f"There is no exporter '{min(unknown)}'.",
            "files",
            f"There are: {', '.join(exporters)}.",
        )
    out = {}
    for name, found in exporters.items():
        given = files.get(name, {})
        try:
            out[name] = given if isinstance(given, found.options) else found.options(**given)
        except ValidationError as e:
            first = e.errors()[0]
            path = ".".join(["files", name, *map(str, first["loc"])])
            raise SceneError(first["msg"], path, "Nothing was written.") from None
    return out
