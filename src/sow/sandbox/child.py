"""The process in the sandbox: each message that it reads is a file to be read, which it answers.

Its memory is bounded once its libraries are loaded, its time by an alarm that no reader puts off.
It writes no file and opens no connection.
"""

import gc
import os
import resource
import signal
from typing import Any

from numba.core.caching import FunctionCache

from ..core import message
from ..core.errors import SceneError
from .readers import READERS

MOST_MEMORY = 1536 << 20  # beyond what its libraries take
SCRATCH = 200 << 20
WORN = 400 << 20  # a process that holds more than this after a job is replaced
GRACE_S = 5  # after its time is over the one who asked ends it; if that one is gone, the alarm does


def _resident() -> int:
    with open("/proc/self/statm") as file:
        return int(file.read().split()[1]) * resource.getpagesize()


def _address_space() -> int:
    with open("/proc/self/statm") as file:
        return int(file.read().split()[0]) * resource.getpagesize()


def keep_no_kernels() -> None:
    """What is compiled here is used here only: keeping it would write a file."""
    FunctionCache.save_overload = lambda *_: None  # type: ignore[method-assign]


def bound() -> None:
    """Sets what this process may take from here on."""
    keep_no_kernels()
    most = _address_space() + MOST_MEMORY
    resource.setrlimit(resource.RLIMIT_AS, (most, most))
    # files held in memory alone may be written for a moment (formats/panorama)
    resource.setrlimit(resource.RLIMIT_FSIZE, (0, SCRATCH))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def answer(order: dict) -> dict[str, Any]:
    """What a reader makes of its files, or why it will not, in words."""
    try:
        return {"value": READERS[order["reader"]].call(order["files"], **order["settings"])}
    except SceneError as e:
        return {"problem": [e.message, e.path, e.advice]}
    except MemoryError:
        return {
            "problem": [
                f"Reading it takes more than the {MOST_MEMORY >> 20} MB that a file is given.",
                "file",
                "Make it smaller, or cut it into parts.",
            ]
        }
    except RecursionError:
        return {
            "problem": [
                "It is nested too deep to be read.",
                "file",
                "Save it again by the program that made it.",
            ]
        }
    except (
        Exception
    ) as e:  # whatever a decoder says of a broken file is told, never a fault of ours
        return {
            "problem": [
                f"It is damaged or of a kind that can't be read ({type(e).__name__}: {e!s:.120}).",
                "file",
                "Save it again by the program that made it.",
            ]
        }


def main() -> None:
    """Answers until nobody asks any more."""
    source = os.fdopen(os.dup(0), "rb", buffering=1 << 16)
    out = os.fdopen(os.dup(1), "wb", buffering=1 << 16)
    os.dup2(2, 1)  # what a library prints does not mix with the answers
    base = _resident()
    bound()
    message.write(out, {"ready": True})
    while True:
        try:
            order = message.read(source, 1 << 40)
        except EOFError:
            return
        signal.setitimer(signal.ITIMER_REAL, order["seconds"] + GRACE_S)
        reply = answer(order)
        try:
            message.write(out, reply)
        except (MemoryError, BrokenPipeError):
            return
        signal.setitimer(signal.ITIMER_REAL, 0)
        del reply, order
        gc.collect()
        if _resident() > base + WORN:
            return
