"""Files in memory, for readers that take nothing else. Behind the sandbox no file may be written;
these never touch a disk.
"""

import os
import resource
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

IN_MEMORY = "/dev/shm"


@contextmanager
def _writing() -> Iterator[None]:
    soft, hard = resource.getrlimit(resource.RLIMIT_FSIZE)
    resource.setrlimit(resource.RLIMIT_FSIZE, (hard, hard))
    try:
        yield
    finally:
        resource.setrlimit(resource.RLIMIT_FSIZE, (soft, hard))


@contextmanager
def scratch(data: bytes) -> Iterator[str]:
    """A path to these bytes."""
    held = os.memfd_create("scratch")
    try:
        with _writing(), os.fdopen(os.dup(held), "wb") as file:
            file.write(data)
        yield f"/proc/self/fd/{held}"
    finally:
        os.close(held)


@contextmanager
def scratch_folder() -> Iterator[Path]:
    """A folder in which files may be written as long as it is held."""
    place = IN_MEMORY if os.access(IN_MEMORY, os.W_OK) else None
    with _writing(), tempfile.TemporaryDirectory(prefix="sow-", dir=place) as folder:
        yield Path(folder)
