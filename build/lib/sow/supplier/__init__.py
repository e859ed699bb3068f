"""A small simulated outside library, from which kinds and textures are fetched: it stands in for a
service on the network, with its listing, its sizes to choose from, its slowness, and its failures.
It ships with Sow and needs no network.
"""

from .catalogue import ITEMS, Item
from .service import Supplier, Unreachable

__all__ = ["ITEMS", "Item", "Supplier", "Unreachable"]
