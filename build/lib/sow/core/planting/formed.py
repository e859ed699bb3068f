"""The form of a piece placed by hand: its three sizes, and how it is bent."""

from typing import Any

import numpy as np

from ..cabinet import Kind, worn
from ..cabinet.bent import bent_name
from ..cabinet.kind import MARK


def sizes_of(piece: dict) -> np.ndarray:
    """How many times its kind's own a placed piece is wide, deep and tall, float64 (3); a bent
    kind has its three sizes already.
    """
    if MARK in piece["dressed"]:
        return np.full(3, piece["size"] / 100)
    return piece["size"] * np.array([piece["wide"], piece["deep"], piece["tall"]]) / 1e4


def form_of(piece: dict) -> Kind:
    """The kind that a placed piece is drawn as: bent, where it is."""
    return worn(piece["dressed"])[0]


def shaped(p: Any) -> str:
    """The name of a piece's kind in its form: bent, or as it is."""
    return bent_name(p.kind, p.bend, p.wide, p.deep, p.tall)
