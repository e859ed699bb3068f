"""The film: scene light to what a screen shows, by OpenColorIO's built-in ACES 2.

The view holds the same film as a table behind a logarithm, sampled between its entries.
"""

from functools import lru_cache

import numpy as np
import PyOpenColorIO as ocio  # noqa: N813  (its own name is longer than its use)

CONFIG = "ocio://cg-config-v4.0.0_aces-v2.0_ocio-v2.5"
SCENE = "Linear Rec.709 (sRGB)"
SHOWN = "sRGB - Display", "ACES 2.0 - SDR 100 nits (Rec.709)"
LOWEST_STOP, HIGHEST_STOP = -10.0, 6.5  # of the table, about middle grey
GREY = 0.18
SIDE = 33
NORMAL = 1.7  # what middling light is lifted by, so that a grey card comes out as on paper
# Of each stop from middle grey so much is kept: outdoors shade is five stops below the sky, and
# ACES alone would show it black.
KEEPS = 0.86


@lru_cache(maxsize=1)
def _processor() -> ocio.CPUProcessor:
    config = ocio.Config.CreateFromFile(CONFIG)
    display, view = SHOWN
    shown = ocio.DisplayViewTransform(src=SCENE, display=display, view=view)
    return config.getProcessor(shown).getDefaultCPUProcessor()


def developed(light: np.ndarray) -> np.ndarray:
    """Exposed scene light (..., 3) in linear Rec.709 as sRGB values, float32 0..1."""
    lifted = np.maximum(np.asarray(light) * (NORMAL / GREY), 0) ** KEEPS * GREY
    out = np.ascontiguousarray(lifted, np.float32)
    flat = out.reshape(1, -1, 3)
    _processor().apply(ocio.PackedImageDesc(flat, flat.shape[1], 1, 3))
    return np.clip(flat.reshape(out.shape), 0, 1)


@lru_cache(maxsize=1)
def _to_acescg() -> ocio.CPUProcessor:
    config = ocio.Config.CreateFromFile(CONFIG)
    return config.getProcessor(SCENE, "ACEScg").getDefaultCPUProcessor()


def in_acescg(light: np.ndarray) -> np.ndarray:
    """Light (..., 3) in linear Rec.709 as ACEScg, float32."""
    out = np.array(light, np.float32, order="C")
    flat = out.reshape(1, -1, 3)
    _to_acescg().apply(ocio.PackedImageDesc(flat, flat.shape[1], 1, 3))
    return flat.reshape(out.shape)


@lru_cache(maxsize=1)
def table() -> np.ndarray:
    """The film as a table, uint8 (SIDE, SIDE, SIDE, 4) with blue outermost and red innermost; its
    axes are log2(light * NORMAL / GREY) from the lowest to the highest stop.
    """
    stops = np.linspace(LOWEST_STOP, HIGHEST_STOP, SIDE)
    axis = GREY * 2.0**stops / NORMAL
    axis[0] = 0
    blue, green, red = np.meshgrid(axis, axis, axis, indexing="ij")
    shown = developed(np.stack([red, green, blue], -1))
    opaque = np.ones(shown.shape[:3] + (1,), np.float32)
    return np.rint(np.concatenate([shown, opaque], -1) * 255).astype(np.uint8)


def bytes_of(light: np.ndarray) -> np.ndarray:
    """Exposed scene light as a picture, uint8 (..., 3)."""
    return np.rint(developed(light) * 255).astype(np.uint8)
