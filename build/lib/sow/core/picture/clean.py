"""Noise taken from a picture. The only file that knows the library (Intel Open Image Denoise)."""

import numpy as np

from ..errors import SceneError

try:
    import pyoidn
except ImportError:
    pyoidn = None


def cleaned(
    light: np.ndarray, albedo: np.ndarray | None = None, normal: np.ndarray | None = None
) -> np.ndarray:
    """A picture of scene light without its noise, float32 (height, width, 3).

    Raises SceneError where the library is missing.
    """
    if pyoidn is None:
        raise SceneError(
            "Stills are cleaned of noise by Open Image Denoise, which is not installed here.",
            "",
            "Run: .venv/bin/pip install pyoidn",
        )
    whole = lambda v: None if v is None else np.ascontiguousarray(v, np.float32)
    with_ = {"albedo": whole(albedo), "normal": whole(normal)}
    asked = {k: v for k, v in with_.items() if v is not None}
    # told that this is scene light: else all that is brighter than one is cut off
    out = pyoidn.denoise(whole(light), hdr=True, **asked)
    return np.maximum(np.asarray(out, np.float32), 0)
