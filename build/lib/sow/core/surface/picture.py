"""A picture of a whole ground, laid exactly over the plot or over one landform."""

import cv2
import numpy as np

from ..cabinet.kind import linear
from ..land.base import Frame
from ..plot import Plot


def linear_picture(sheet: np.ndarray) -> np.ndarray:
    """sRGB and relief bytes (rows, columns * 4) as linear colour and relief 0..1, float32 (rows,
    columns, 4).
    """
    whole = sheet.reshape(sheet.shape[0], -1, 4)
    return np.dstack([linear(whole[..., :3]), whole[..., 3:].astype(np.float32) / 255])


def whole_plot(plot: Plot) -> Frame:
    """The plot as a frame."""
    return Frame(plot.width_m / 2, plot.depth_m / 2, plot.width_m, plot.depth_m)


def picture_at(
    picture: np.ndarray, frame: Frame, east: np.ndarray, north: np.ndarray
) -> np.ndarray:
    """Linear colour and relief at places (m) of any shape, float32 (..., 4); beyond its frame the
    picture goes on as at its edge.
    """
    a = np.deg2rad(frame.turn)
    dx, dy = east - frame.east_m, north - frame.north_m
    across = dx * np.cos(a) - dy * np.sin(a)
    along = dx * np.sin(a) + dy * np.cos(a)
    x = (across / frame.width_m + 0.5) * picture.shape[1] - 0.5
    y = (0.5 - along / frame.depth_m) * picture.shape[0] - 0.5
    return cv2.remap(
        picture,
        x.astype(np.float32),
        y.astype(np.float32),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    )
