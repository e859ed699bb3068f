"""A scene as USD: a folder of layers, and the same as one package."""

from .files import UsdFiles, usd_files

__all__ = ["UsdFiles", "usd_files"]
