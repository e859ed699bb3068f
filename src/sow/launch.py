"""Begins a process of Sow's: `python -m sow.launch MODULE ARG ...` calls the module's `main`.

Whatever is slow to import comes after the kernel was told that this process dies with its parent.
"""

import ctypes
import importlib
import os
import signal
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from typing import Any

PARENT_DIES = 1  # PR_SET_PDEATHSIG of Linux


def die_with_parent() -> None:
    """This process is killed when the one that started it ends, however it ends."""
    parent = os.getppid()
    ctypes.CDLL(None).prctl(PARENT_DIES, signal.SIGKILL)
    if os.getppid() != parent:  # it ended before it could be told
        os._exit(1)


# The kernel's "parent" is the thread that starts a process, so one that lives on starts them all.
_starter = ThreadPoolExecutor(1, "starts-processes")


def started(module: str, *args: str, **settings: Any) -> subprocess.Popen:
    """A module's `main` in a process of its own, with pipes to its input and from its output;
    `settings` are those of `subprocess.Popen`.
    """
    words = [sys.executable, "-m", "sow.launch", module, *args]
    pipes = {"stdin": subprocess.PIPE, "stdout": subprocess.PIPE}
    begin = partial(subprocess.Popen, words, **{**pipes, **settings})
    return _starter.submit(begin).result()


if __name__ == "__main__":
    die_with_parent()
    importlib.import_module(sys.argv[1]).main(*sys.argv[2:])
