"""Stills as durable jobs: each a folder that holds its scene, its order and all it has gathered; a
process of its own takes them one after another and goes on where it was ended.
"""

from .easel import Easel
from .folder import Kept, StillState, Wish
from .keeper import Keeper

__all__ = ["Easel", "Keeper", "Kept", "StillState", "Wish"]
