"""Ready grades: a few steps each, by name."""

from pathlib import Path
from typing import Any

from ...document.data import Table, WrongField, misnamed, read_data, taken_as
from ...document.entry import load_folder
from ...errors import SceneError
from . import steps as _steps
from .base import steps

Steps = list[dict[str, Any]]
READY: dict[str, tuple[str, Steps]] = {}

load_folder(_steps)


@taken_as("grade")
def take(name: str, table: Table) -> None:
    """A ready grade of a data file: its label and its steps."""
    for key in table:
        if key not in ("label", "steps"):
            raise WrongField(misnamed(key, ("label", "steps")), key)
    if name in READY:
        raise SceneError(f"the ready grade '{name}' is registered twice")
    own = table.get("steps", [])
    for step in own:
        if step.get("kind") not in steps.models:
            raise WrongField(misnamed(str(step.get("kind")), list(steps.models)), "kind")
        steps.models[step["kind"]].model_validate({"id": "ready", **step})
    READY[name] = (str(table.get("label", name)), own)


read_data(Path(__file__).parent / "ready.toml")
