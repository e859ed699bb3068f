"""What recipes make, kept for the next asking: in this process, and in a folder for the next one.

The folder holds plain values only: nothing in a file of it can run.
"""

import os
import threading
from collections.abc import Callable
from typing import Any

from .. import message
from ..settings import settings
from ..version import version

MOST_BYTES = 1 << 30

_made: dict[str, Any] = {}
_making = threading.RLock()  # a portrait, when made, asks for its shape


def kept(
    name: str,
    make: Callable[[], Any],
    plain: Callable[[Any], Any] = lambda value: value,
    of: Callable[[Any], Any] = lambda value: value,
) -> Any:
    """The recipe's result, from this process, from the cache folder, or made and kept in both.

    Made once, whoever asks.

    Args:
        name: of the result, in the folder too.
        make: the recipe.
        plain: the result as plain values (`core/message.py`).
        of: the result from its plain values.
    """
    if name not in _made:
        with _making:
            if name not in _made:
                _made[name] = from_folder(name, make, plain, of)
    return _made[name]


def from_folder(
    name: str,
    make: Callable[[], Any],
    plain: Callable[[Any], Any] = lambda value: value,
    of: Callable[[Any], Any] = lambda value: value,
) -> Any:
    """As `kept`, but from the folder alone: for what is too large to stay in memory."""
    folder = settings().cache
    if folder is None:
        return make()
    file = folder / f"{name}-{version()}.bin"
    if file.exists():
        try:
            with open(file, "rb") as source:
                return of(message.read(source, MOST_BYTES))
        except Exception:  # torn, or of another time: it is made again
            file.unlink(missing_ok=True)
    made = make()
    folder.mkdir(parents=True, exist_ok=True)
    part = file.with_suffix(f".{os.getpid()}")
    with open(part, "wb") as out:
        message.write(out, plain(made))
    part.replace(file)
    return made
