"""Files of a studio's own in the folder SOW_EXTRA: a Python file adds one thing, a data file some.

A file that cannot be had is told and left out; the rest works.
"""

import ast
import functools
import importlib.util
import sys
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..errors import Cancelled, SceneError
from ..settings import settings
from .data import read_data

PREFIX = "sow_extra_"


@dataclass(frozen=True)
class Trouble:
    """A file that was left out, and why."""

    file: str
    message: str


troubles: list[Trouble] = []


def extra_files(ending: str = "*") -> list[Path]:
    """The files in SOW_EXTRA that add something (Python and data), by name; none when it is not
    set or no folder.
    """
    folder = settings().extra
    found = folder.glob(f"*{ending}") if folder and folder.is_dir() else ()
    return sorted(file for file in found if file.suffix in (".py", ".toml"))


def load_data() -> None:
    """Reads the data files; what is wrong with a table of one is told in `troubles`."""
    for file in extra_files(".toml"):
        read_data(file, lambda at, error: troubles.append(Trouble(at.name, error.message)))


def _adds_condition(file: Path) -> bool:
    """Whether a file registers a condition: those come first, as all other models hold them."""
    try:
        tree = ast.parse(file.read_text())
    except (OSError, SyntaxError, ValueError):
        return False
    return any(
        isinstance(node, ast.ImportFrom)
        and (node.module or "").startswith("sow.core.where")
        and any(name.name == "condition" for name in node.names)
        for node in ast.walk(tree)
    )


def load_extra(conditions: bool) -> None:
    """Imports the files that register conditions, or all others; what fails is told in
    `troubles`.
    """
    for file in extra_files(".py"):
        name = PREFIX + file.stem
        if name in sys.modules or _adds_condition(file) != conditions:
            continue
        try:
            spec = importlib.util.spec_from_file_location(name, file)
            if spec is None or spec.loader is None:
                raise ImportError("it is no Python file")
            module = importlib.util.module_from_spec(spec)
            sys.modules[name] = module
            spec.loader.exec_module(module)
        except Exception as e:
            sys.modules.pop(name, None)
            reason = e.message if isinstance(e, SceneError) else f"{type(e).__name__}: {e}"
            troubles.append(Trouble(file.name, reason))


def guarded(function: Callable, what: str) -> Callable:
    """A function of an extra file whose faults are told as SceneErrors; others are left as they
    are.
    """
    if not function.__module__.startswith(PREFIX):
        return function

    @functools.wraps(function)
    def told(*values: Any, **named: Any) -> Any:
        try:
            return function(*values, **named)
        except (SceneError, Cancelled):
            raise
        except Exception as e:
            file = function.__module__.removeprefix(PREFIX) + ".py"
            raise SceneError(
                f"“{what}” of the extra file {file} failed: {type(e).__name__}: {e}.",
                "",
                "Mend the file and start Sow again, or turn the entry off.",
            ) from e

    return told
