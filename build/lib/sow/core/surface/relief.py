"""Small shaded pictures: what an entry alone contributes."""

import numpy as np

from ..survey.slope import normals

PAPER = np.array((244, 239, 228))
INK = np.array((35, 48, 43))
MOSS = np.array((77, 106, 58))


def shaded(heights: np.ndarray, spacing: float, boost: float = 1.0) -> np.ndarray:
    """Relief lit from the north-west (Horn 1981), 0..1, as ink on paper; uint8 (ny, nx, 3)."""
    n = normals(heights * np.float32(boost), spacing)
    sun = np.array((-0.5, 0.5, 0.7071), np.float32)
    light = np.clip(n @ sun, 0, 1)[..., None]
    return (INK + (PAPER - INK) * (0.12 + 0.88 * light)).astype(np.uint8)


def contribution(
    before: np.ndarray, after: np.ndarray, spacing: float, size: tuple[int, int] = (52, 72)
) -> np.ndarray:
    """Relief of what one entry adds or takes, exaggerated so that a slight one shows too."""
    step = max(1, min(before.shape[0] // size[0], before.shape[1] // size[1]))
    change = (after - before)[::step, ::step]
    change = change[: size[0], : size[1]] if change.shape[0] >= size[0] else change
    span = float(change.max() - change.min())
    if span < 1e-4:
        return np.broadcast_to(np.uint8(PAPER * 0.93), change.shape + (3,)).copy()
    return shaded(change, spacing * step, 0.22 * change.shape[1] * spacing * step / span)


def washed(field: np.ndarray, colour: np.ndarray, size: tuple[int, int] = (52, 72)) -> np.ndarray:
    """A mask 0..1 as a wash of a linear colour on paper, uint8."""
    step = max(1, min(field.shape[0] // size[0], field.shape[1] // size[1]))
    part = np.clip(field[::step, ::step][: size[0], : size[1]], 0, 1)[..., None]
    tone = np.clip(np.asarray(colour) ** (1 / 2.2) * 255, 0, 255)
    return (PAPER + (tone - PAPER) * part).astype(np.uint8)
