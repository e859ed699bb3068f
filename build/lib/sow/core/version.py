"""Which code computes: one stamp for whatever outlives a process.

It stands in every content key, so that products in browsers, tiles, kept pictures, kernels and
workers of another Sow, or of other files of a studio, are never taken for this one's.
"""

import functools
import hashlib
from pathlib import Path

from .document.extra import extra_files

DATA = ("*.py", "*.json", "*.toml", "*.png", "*.jpg")


@functools.cache
def version() -> str:
    """A short hash of the core's files and of those in SOW_EXTRA."""
    core = Path(__file__).parent
    own = sorted(file for ending in DATA for file in core.rglob(ending))
    digest = hashlib.sha256()
    for file in own:
        digest.update(file.relative_to(core).as_posix().encode() + b"\0")
        digest.update(file.read_bytes())
    for file in extra_files():
        digest.update(file.name.encode() + b"\0" + file.read_bytes())
    return digest.hexdigest()[:16]
