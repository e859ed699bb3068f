"""What a stroke that is done makes of a document, and whole masks made anew."""

from collections.abc import Callable
from typing import Any, Literal

import numpy as np

from ..build import Build
from ..errors import SceneError
from ..hand.bake import bake
from ..hand.stroke import Stroke, carried
from ..land.hand import ByHand
from ..marks.mask import Mask, combined, painted, stored
from ..where import holding

How = Literal["full", "empty", "where", "union", "common", "without"]
Keep = Callable[[np.ndarray, str], str]  # a raster and what it is called, kept; gives its hash


def with_stroke(build: Build, entry: str, stroke: dict[str, Any], keep: Keep) -> dict[str, Any]:
    """The build's document with one more stroke: on a mask it goes into its raster; on a landform
    by hand what was loose there does.
    """
    document = build.scene
    out = document.model_dump(mode="json")
    made = Stroke.model_validate(stroke)
    at = next((i for i, m in enumerate(document.marks) if m.id == entry), None)
    mask = document.marks[at] if at is not None else None
    if isinstance(mask, Mask):
        own = document.plot.grid(mask.posts)
        picture = build.marks.picture(made.picture, "picture") if made.picture else None
        values = painted(made, build.marks.mask_on(entry, own), own, picture)
        out["marks"][at]["raster"] = keep(stored(values), f"painted: {mask.name}")
        return out
    index = next(i for i, e in enumerate(document.land) if e.id == entry)
    hand: ByHand = document.land[index]
    if hand.strokes:
        out["land"][index]["raster"] = keep(bake(build, index), f"by hand: {hand.name}")
    out["land"][index]["strokes"] = [made.model_dump(mode="json")]
    out["land"][index]["count"] = hand.count + 1
    return out


def filled(build: Build, mark: str, how: How, other: str) -> tuple[np.ndarray, str]:
    """A whole mask made anew: full, empty, by a where-rule, or from itself and another. Gives its
    raster and what it is called. Raises SceneError.
    """
    document = build.scene
    target = next((m for m in document.marks if m.id == mark and m.kind == "mask"), None)
    if target is None:
        raise SceneError("There is no such mask.", "mark", "Choose one of the marks.")
    own = document.plot.grid(target.posts)
    if how == "full" or how == "empty":
        values = np.full((2, 2), 1.0 if how == "full" else 0.0, np.float32)
    elif how == "where":
        place = f"marks.{document.marks.index(target)}.where"
        held = holding(target.where, build.site(), place)
        whole = np.ones((2, 2), np.float32)
        values = whole if held is None else np.clip(carried(held, build.grid, own), 0, 1)
    else:
        parts = build.marks.mask_on(mark, own), build.marks.mask_answer(other, own)
        values = combined(*parts, how)
    return stored(values), f"{how}: {target.name}"
