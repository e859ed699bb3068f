"""Data files: things whose recipe is only numbers, as TOML that a person can copy, change and put
into SOW_EXTRA.

A table is one thing: `[kind.birch]`, `[light.clear-morning]`. Its first word is the sort, its
second the name. A sort says in its own module how it takes a table (`taken_as`), and reads there
the file that ships. What is wrong is told with file and line.
"""

import difflib
import functools
import inspect
import tomllib
import types
import typing
from collections.abc import Callable, Sequence
from dataclasses import is_dataclass
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from ..errors import SceneError

SORTS = ("kind", "measure", "light", "water", "grade")
Table = dict[str, Any]
_takers: dict[str, Callable[[str, Table], None]] = {}
Heard = Callable[[Path, SceneError], None]
# tables whose sort no module has named yet
_waiting: list[tuple[Path, str, str, Table, "Heard | None"]] = []


class WrongField(SceneError):
    """A field of a table that cannot be; `path` leads to it from the table, dot by dot."""


def misnamed(name: str, known: Sequence[str]) -> str:
    """What is said of a field that there is not."""
    near = difflib.get_close_matches(name, known, 1)
    meant = f"; “{near[0]}” is meant?" if near else f"; there are: {', '.join(known)}"
    return f"“{name}” is not known here{meant}"


def taken_as(sort: str) -> Callable:
    """Registers the function `take(name, table)` that makes a thing of a sort; it may raise
    WrongField, SceneError or pydantic's ValidationError.
    """
    if sort not in SORTS:
        raise SceneError(f"There is no sort '{sort}' of data.", "", f"Sorts: {', '.join(SORTS)}.")

    def keep(take: Callable[[str, Table], None]) -> Callable[[str, Table], None]:
        _takers[sort] = take
        waiting = [one for one in _waiting if one[1] == sort]
        for file, sort_, name, table, told in waiting:
            _waiting.remove((file, sort_, name, table, told))
            try:
                _take(file, sort_, name, table)
            except SceneError as e:
                _tell(told, file, e)
        return take

    return keep


def read_data(file: Path, told: Heard | None = None) -> None:
    """Takes every table of a file. What is wrong with one is raised as SceneError, or told and
    passed over where there is somebody to tell.
    """
    try:
        document = tomllib.loads(file.read_text())
    except (OSError, UnicodeDecodeError, tomllib.TOMLDecodeError) as e:
        _tell(told, file, SceneError(f"{file.name} can't be read: {e}.", file.name))
        return
    for sort, tables in document.items():
        if sort not in SORTS or not isinstance(tables, dict):
            line = _line(file, [sort])
            message = f"{file.name}, line {line}: {misnamed(sort, SORTS)}."
            _tell(told, file, SceneError(message, file.name, "A table is [SORT.NAME]."))
            continue
        for name, table in tables.items():
            if sort not in _takers:
                _waiting.append((file, sort, name, table, told))
                continue
            try:
                _take(file, sort, name, table)
            except SceneError as e:
                _tell(told, file, e)


def _tell(told: Heard | None, file: Path, error: SceneError) -> None:
    if told is None:
        raise error
    told(file, error)


def _take(file: Path, sort: str, name: str, table: Table) -> None:
    try:
        _takers[sort](name, table)
    except ValidationError as e:
        first = e.errors()[0]
        way = [str(part) for part in first["loc"]]
        raise _placed(file, [sort, name, *way], first["msg"]) from None
    except WrongField as e:
        raise _placed(file, [sort, name, *e.path.split(".")], e.message) from None
    except SceneError as e:
        raise _placed(file, [sort, name], e.message) from None


def _placed(file: Path, way: list[str], message: str) -> SceneError:
    told = message.rstrip(".")
    text = f"{file.name}, line {_line(file, way)}: {way[0]} “{way[1]}”: {told}."
    return SceneError(text, file.name, "Mend the file and start Sow again.")


def _line(file: Path, way: list[str]) -> int:
    """The line on which the last part of a way stands that is found: its table, then its field."""
    lines = file.read_text().split("\n")
    begins = 0
    for depth in range(len(way), 0, -1):
        head = f"[{'.'.join(way[:depth])}"
        heads = (f"{head}]", f"{head}.") if depth == 1 else (f"{head}]",)
        found = next((i for i, text in enumerate(lines) if text.strip().startswith(heads)), None)
        if found is not None:
            begins = found
            break
    fields = way[depth:] if begins or lines[0].startswith("[") else way
    for name in reversed(fields):
        for i in range(begins + 1, len(lines)):
            if lines[i].startswith("["):
                break
            if lines[i].split("=")[0].strip() == name or f" {name} =" in lines[i]:
                return i + 1
    return begins + 1


def built(make: Callable, values: Table, makers: dict[str, Callable], path: str = "") -> Any:
    """What a function or a dataclass makes of a table: lists become tuples, `{as = "NAME", ...}`
    what the maker of that name makes, tables the dataclass that is wanted there.

    Raises WrongField for a name that is not known, one that is missing, a value of another type.
    """
    asked = inspect.signature(make).parameters
    plain: Any = make.func if isinstance(make, functools.partial) else make
    wanted = typing.get_type_hints(plain)
    for name in values:
        if name not in asked or name in getattr(make, "keywords", {}):
            raise WrongField(misnamed(name, list(asked)), path + name)
    for name, parameter in asked.items():
        if parameter.default is parameter.empty and name not in values:
            raise WrongField(f"“{name}” is missing", path + name)
    return make(
        **{
            name: _value(value, wanted.get(name, Any), makers, path + name)
            for name, value in values.items()
        }
    )


def _value(value: Any, wanted: Any, makers: dict[str, Callable], path: str) -> Any:
    options = typing.get_args(wanted) if isinstance(wanted, types.UnionType) else (wanted,)
    if isinstance(value, dict):
        if "as" in value:
            rest = {k: v for k, v in value.items() if k != "as"}
            if value["as"] not in makers:
                raise WrongField(misnamed(str(value["as"]), list(makers)), path)
            return built(makers[value["as"]], rest, makers, f"{path}.")
        for option in options:
            if is_dataclass(option):
                return built(typing.cast(Callable, option), value, makers, f"{path}.")
        return {k: _value(v, Any, makers, f"{path}.{k}") for k, v in value.items()}
    if isinstance(value, list):
        return tuple(_value(item, Any, makers, path) for item in value)
    plain = [option for option in options if option in (float, int, str, bool)]
    if plain and not any(_fits(value, option) for option in plain):
        raise WrongField(f"“{value}” is no {' or '.join(o.__name__ for o in plain)}", path)
    return value


def _fits(value: Any, wanted: type) -> bool:
    if isinstance(value, bool):
        return wanted is bool
    return isinstance(value, (int, float) if wanted is float else wanted)
