"""Where: near a piece placed by hand."""

from typing import Literal

import numpy as np
from pydantic import Field
from scipy.spatial import cKDTree

from ..document.entry import at_place
from ..document.fields import length_m, setting
from .base import Absent, Condition, condition, ramp
from .site import Site


class NearPiece(Condition):
    kind: Literal["near-piece"] = "near-piece"
    piece: str = Field(
        "",
        max_length=64,
        title="Piece",
        json_schema_extra={"sow": {"entry": "pieces", "none": "any piece"}},
    )
    within_m: float = length_m("Within", 5, lo=0, hi=50000, slider=(0.2, 500))
    soft: float = setting(3, "Softness", "m", lo=0, hi=50000, slider=(0, 100))


def away(p: NearPiece, site: Site, path: str) -> np.ndarray:
    """Distance to the piece, or to the nearest of all, in m, float32."""
    if p.piece and p.piece not in site.pieces:
        raise Absent(f"There is no piece '{p.piece}'.", f"{path}.piece", "Choose another.")
    places = [site.pieces[p.piece]] if p.piece else list(site.pieces.values())
    if not places:
        return np.full(site.heights.shape, 1e9, np.float32)

    def measure() -> np.ndarray:
        x, y = np.meshgrid(site.grid.xs(), site.grid.ys())
        return (
            cKDTree(np.array(places))
            .query(np.column_stack([x.ravel(), y.ravel()]))[0]
            .reshape(x.shape)
            .astype(np.float32)
        )

    return site.measure(f"from pieces {places}", measure)


@condition(NearPiece, label="near a piece", sees=("pieces",), reach=at_place, measures=away)
def answer(p: NearPiece, site: Site, path: str) -> np.ndarray:
    """1 within this distance of the piece's own place."""
    return ramp((p.within_m - away(p, site, path)) / max(p.soft / 2, 1e-3)).astype(np.float32)
