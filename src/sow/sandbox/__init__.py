"""The sandbox: readers of files from outside run in processes of their own, with bounds on memory,
time and output that are set before a byte is decoded.

`read` is what the web asks; `readers.py` holds what may be asked, a function for each sort of file.
"""

from .sandbox import Busy, Sandbox, read, warm

__all__ = ["Busy", "Sandbox", "read", "warm"]
