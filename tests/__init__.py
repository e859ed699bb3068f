"""Tests share one folder of what recipes make."""

import os
import tempfile
from pathlib import Path

os.environ.setdefault(
    "SOW_CACHE", str(Path(tempfile.gettempdir()) / f"sow-test-cabinet-{os.getuid()}")
)
