"""A scene to its products, each made once for the hash of all that it depends on."""

from .build import COMPUTING, Build
from .marks import Rasters

__all__ = ["COMPUTING", "Build", "Rasters"]
