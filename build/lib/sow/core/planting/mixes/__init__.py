"""The planting mixes that ship; the bands of their rules come from the land itself."""

import sys

from ...document.entry import load_folder
from ..mixing import mixed, mixes

load_folder(sys.modules[__name__])

__all__ = ["mixed", "mixes"]
