"""Six square faces around an eye laid into one picture: a panorama, a curved picture, a cross."""

import cv2
import numpy as np

from .views import FACES, axes

# where each face lies in the cross, by columns and rows of faces
CROSS = {
    "up": (1, 0),
    "west": (0, 1),
    "north": (1, 1),
    "east": (2, 1),
    "south": (3, 1),
    "down": (1, 2),
}
# the same six under the names that other programs read
CONVENTIONS: dict[str, dict[str, str]] = {
    "sides": {name: name for name in FACES},
    # right, left, front and back of one who faces north
    "body": {
        "east": "right",
        "west": "left",
        "north": "front",
        "south": "back",
        "up": "top",
        "down": "bottom",
    },
    # axes of a world whose x runs east, y up and z south
    "axes": {
        "east": "px",
        "west": "nx",
        "up": "py",
        "down": "ny",
        "south": "pz",
        "north": "nz",
    },
}


def face_at(faces: dict[str, np.ndarray], rays: np.ndarray) -> np.ndarray:
    """What faces show along unit directions (height, width, 3), float32 (height, width, k)."""
    first = next(iter(faces.values()))
    side = first.shape[0]
    channels = 1 if first.ndim == 2 else first.shape[2]
    out = np.zeros((*rays.shape[:2], channels), np.float32)
    names = list(faces)
    frames = [axes(*FACES[name]) for name in names]
    nearest = np.argmax(np.stack([rays @ ahead for _, _, ahead in frames]), 0)
    for k, (name, (right, up, ahead)) in enumerate(zip(names, frames)):
        here = nearest == k
        if not here.any():
            continue
        deep = np.maximum(rays[here] @ ahead, 1e-6)
        x = ((rays[here] @ right) / deep + 1) / 2 * side - 0.5
        y = (1 - (rays[here] @ up) / deep) / 2 * side - 0.5
        wide = 4096
        fill = -len(x) % wide
        fold = lambda v: np.pad(v.astype(np.float32), (0, fill)).reshape(-1, wide)
        parts = [
            cv2.remap(
                np.ascontiguousarray(faces[name], np.float32),
                fold(x)[at : at + 8192],
                fold(y)[at : at + 8192],
                cv2.INTER_LINEAR,
                borderMode=cv2.BORDER_REPLICATE,
            )
            for at in range(0, (len(x) + fill) // wide, 8192)
        ]
        out[here] = np.concatenate(parts).reshape(-1, channels)[: len(x)]
    return out if first.ndim == 3 else out[..., 0]


def panorama_rays(width: int) -> np.ndarray:
    """Directions of a full panorama, north at its left edge and the zenith at the top, float32
    (width / 2, width, 3).
    """
    turn = (np.arange(width) + 0.5) / width * 2 * np.pi
    rise = (0.5 - (np.arange(width // 2) + 0.5) / (width // 2)) * np.pi
    level = np.cos(rise)[:, None]
    up = np.broadcast_to(np.sin(rise)[:, None], (width // 2, width))
    return np.stack([level * np.sin(turn), level * np.cos(turn), up], -1).astype(np.float32)


def curved_rays(side: int, angle: float, frame: tuple) -> tuple[np.ndarray, np.ndarray]:
    """Directions of a curved picture about an axis that keeps areas (equisolid: r = 2 f sin(a/2)),
    float32 (side, side, 3), and which pixels lie within its circle. `frame` is right, up, ahead.
    """
    step = (np.arange(side) + 0.5) / side * 2 - 1
    x, y = np.meshgrid(step, -step)
    r = np.hypot(x, y)
    most = np.sin(np.deg2rad(angle) / 4)
    off = 2 * np.arcsin(np.clip(r * most, 0, 1))
    right, up, ahead = frame
    turn = np.sin(off) / np.maximum(r, 1e-9)
    ray = (
        (turn * x)[..., None] * right + (turn * y)[..., None] * up + np.cos(off)[..., None] * ahead
    )
    return ray.astype(np.float32), r <= 1


def crossed(faces: dict[str, np.ndarray]) -> np.ndarray:
    """Six faces laid out as one cross: around the horizon from west, up and down at north."""
    first = next(iter(faces.values()))
    side = first.shape[0]
    out = np.zeros((3 * side, 4 * side, *first.shape[2:]), first.dtype)
    for name, (column, row) in CROSS.items():
        out[row * side : (row + 1) * side, column * side : (column + 1) * side] = faces[name]
    return out
