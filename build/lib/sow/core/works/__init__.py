"""Works: what a person asks for as one deed on a scene, such as a row of pieces or a land scaled to
the plot.

Each is a pydantic model of what it is asked with and a pure function from a scene to a scene, so
that page, command line and tests do the same.
"""

import sys

from ..document.entry import load_folder
from .base import Asked, Done, do, work, works

load_folder(sys.modules[__name__])

__all__ = ["Asked", "Done", "do", "work", "works"]
