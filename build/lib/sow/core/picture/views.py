"""A view: where a picture is taken from, along which axes and through which lens."""

from dataclasses import dataclass

import numpy as np

from ..shots.shot import axes

FRAME_MM = 36.0  # width of the frame that focal lengths are told for


@dataclass(frozen=True)
class View:
    """An eye (east, north, up in m), unit axes, and a lens.

    `focal_mm` on a frame 36 mm wide; `shift` parts of the frame's width that the picture is moved
    right and up by; `blur_m` the radius of the lens's opening (0: all is sharp), `focus_m` the
    distance along the axis at which things are sharp. `around` tells that all that lies around the
    eye is needed, whatever the frame.
    """

    eye: np.ndarray
    right: np.ndarray
    up: np.ndarray
    ahead: np.ndarray
    focal_mm: float
    width: int
    height: int
    shift: tuple[float, float] = (0.0, 0.0)
    blur_m: float = 0.0
    focus_m: float = 100.0
    around: bool = False

    @property
    def focal_px(self) -> float:
        """Pixels that a thing of one metre at one metre spans at the middle."""
        return self.width * self.focal_mm / FRAME_MM

    def rays(self, right: float = 0.0, below: float = 0.0) -> np.ndarray:
        """Unit directions through all pixels, float32 (height, width, 3): through their middles, or
        places that lie so many pixels beside those.
        """
        across = np.arange(self.width) + 0.5 - self.width / 2 + self.shift[0] * self.width + right
        down = np.arange(self.height) + 0.5 - self.height / 2 - self.shift[1] * self.width + below
        f = self.focal_px
        ray = (
            self.ahead
            + (across / f)[None, :, None] * self.right
            - (down / f)[:, None, None] * self.up
        )
        return (ray / np.linalg.norm(ray, axis=-1, keepdims=True)).astype(np.float32)

    def seen_by(self, places: np.ndarray, radius: np.ndarray | float) -> np.ndarray:
        """Which balls (n, 3) of a radius in m touch what the frame spans, bool (n,)."""
        if self.around:
            return np.ones(len(places), bool)
        way = np.asarray(places) - self.eye
        deep = way @ self.ahead
        half_x = FRAME_MM / 2 / self.focal_mm
        half_y = half_x * self.height / self.width
        sx, sy = self.shift[0] * 2 * half_x, self.shift[1] * 2 * half_x
        inside = deep > -np.asarray(radius)
        for axis, low, high in (
            (self.right, sx - half_x, sx + half_x),
            (self.up, sy - half_y, sy + half_y),
        ):
            side = way @ axis
            reach = np.asarray(radius) * np.hypot(1, max(abs(low), abs(high)))
            inside &= (side > low * deep - reach) & (side < high * deep + reach)
        return inside


FACES = {
    "east": (90.0, 0.0),
    "west": (270.0, 0.0),
    "north": (0.0, 0.0),
    "south": (180.0, 0.0),
    "up": (0.0, 90.0),
    "down": (0.0, -90.0),
}


def face(view: View, name: str, side: int) -> View:
    """One of six square views of 90 degrees from the same eye: the upper edge of those around is
    up; `up` and `down` are seen as by one who faces north and bends.
    """
    right, up, ahead = axes(*FACES[name])
    return View(view.eye, right, up, ahead, FRAME_MM / 2, side, side)
