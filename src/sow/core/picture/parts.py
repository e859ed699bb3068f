"""The views that a still is made of: one, its region, or faces about the eye."""

from dataclasses import dataclass, replace

import numpy as np

from ..build import Build
from ..shots.shot import Shot
from .order import Order
from .prepared import view_of
from .views import FACES, View, face
from .wrap import curved_rays, face_at

FACE_OF = {"panorama": 0.27, "curved": 0.6}  # side of a face, as a part of the picture's width


@dataclass(frozen=True)
class PicturePart:
    """One view that a still is made of, by its name: the whole picture, or a face."""

    name: str
    view: View


def parts_of(build: Build, shot: Shot, order: Order) -> list[PicturePart]:
    """The views that a still needs."""
    if order.projection == "flat":
        return [
            PicturePart(
                "whole", cropped(view_of(build, shot, order.width_px, order.height_px), order)
            )
        ]
    square = replace(view_of(build, shot, 64, 64), around=True)
    if order.projection == "cube":
        side = order.width_px
    else:
        side = max(64, int(order.width_px * FACE_OF[order.projection]) // 2 * 2)
    names = list(FACES)
    if order.projection == "curved":
        rays, inside = curved_rays(64, order.angle, (square.right, square.up, square.ahead))
        stubs = {n: np.full((2, 2), k, np.float32) for k, n in enumerate(names)}
        used = set(np.rint(face_at(stubs, rays))[inside].astype(int).tolist())
        names = [n for k, n in enumerate(names) if k in used]
    return [PicturePart(n, replace(face(square, n, side), around=True)) for n in names]


def cropped(view: View, order: Order) -> View:
    """A view of the region alone, at the scale of the whole."""
    if not order.region:
        return view
    left, top, wide, high = order.region
    width, height = round(wide * view.width), round(high * view.height)
    middle_x, middle_y = left + wide / 2 - 0.5, 0.5 - (top + high / 2)
    focal = view.focal_mm * view.width / width
    shift_x = (view.shift[0] + middle_x) * view.width / width
    shift_y = (view.shift[1] + middle_y * view.height / view.width) * view.width / width
    return replace(view, width=width, height=height, focal_mm=focal, shift=(shift_x, shift_y))
