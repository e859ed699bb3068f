"""People from near by: a face with its features, hands, a finer skin. Figures face north (+y)."""

from collections.abc import Callable

import numpy as np
from scipy.ndimage import gaussian_filter

from .figure import SKIN, distances, grid_about, shaded, skin_at, skinned
from .hands import hand_near, is_hand
from .mesh import Mesh, Part

BODY_STEP_M, HEAD_STEP_M = 0.009, 0.004
HEAD_M = 0.085  # radius of the head for which the features are told
FLOWS_M = 0.003  # within which features flow into the skin
FOLDS_M, FOLD_DEEP_M = (0.035, 0.035, 0.014), 0.003  # of cloth: how wide, how deep
WHITE = (0.36, 0.32, 0.3)
BROWS = (0.17, 0.1, 0.07)
IRIS = (0.03, 0.025, 0.02)
LIPS = (0.36, 0.19, 0.145)
# across, up, out of the skin at either end, radii, colour; those aside from the middle in pairs
FEATURES = [
    ((0, 0.02, -0.006), (0, -0.02, 0.012), 0.008, 0.0115, SKIN),
    ((0.01, -0.025, 0.003), (0.011, -0.024, 0.0), 0.0075, 0.007, SKIN),
    ((0.013, 0.031, -0.004), (0.042, 0.032, -0.008), 0.0075, 0.006, SKIN),
    ((0.016, 0.033, 0.001), (0.043, 0.033, -0.004), 0.0036, 0.0026, BROWS),
    ((0.03, 0.012, -0.015), (0.0301, 0.012, -0.015), 0.0122, 0.0122, WHITE),
    ((0.03, 0.012, -0.0085), (0.0301, 0.012, -0.0085), 0.0068, 0.0068, IRIS),
    ((0.018, 0.0185, -0.009), (0.042, 0.0175, -0.013), 0.0068, 0.0055, SKIN),
    ((0.02, 0.0025, -0.01), (0.041, 0.0035, -0.013), 0.0055, 0.0045, SKIN),
    ((0.045, -0.01, -0.02), (0.05, -0.022, -0.024), 0.02, 0.016, SKIN),
    ((0, -0.044, 0.001), (0.019, -0.046, -0.004), 0.0055, 0.004, LIPS),
    ((0, -0.053, 0.0), (0.016, -0.051, -0.004), 0.006, 0.004, LIPS),
    ((0, -0.08, -0.012), (0.001, -0.08, -0.012), 0.02, 0.02, SKIN),
]
SOCKET = (0.03, 0.012, 0.012), 0.02  # what is hollow about an eye
# the line above which hair grows: how far ahead of the head's middle, and how high over it
HAIRLINE = (-0.09, -0.02, 0.02, 0.06, 0.1), (-0.07, -0.04, 0.02, 0.062, 0.078)
EARS = ((0.014, 0.012), (-0.028, 0.0), 0.013, 0.009)  # up and back at either end, radii


def _outmost(limbs, soft: float, foot: np.ndarray, way: np.ndarray) -> float:
    """How far along a way from a place within the skin it ends, m."""
    far = np.linspace(0, 0.2, 201)
    outside = skin_at(limbs, foot + far[:, None] * way, soft) > 0
    return float(far[outside.argmax()])


def _features(limbs, soft: float, head: np.ndarray, size: float) -> tuple[list, list]:
    """Limbs that are the features of a head's face, and its hollows (middle, radius)."""
    ahead = np.array((0, 1.0, 0))

    def on_skin(across: float, up: float, out: float) -> np.ndarray:
        foot = head + size * np.array((across, 0, up))
        return foot + (_outmost(limbs, soft, foot, ahead) + size * out) * ahead

    made, hollows = [], []
    for side in (-1, 1):
        turned = np.array((side, 1, 1))
        for a, b, ra, rb, colour in FEATURES:
            ends = on_skin(*(a * turned)), on_skin(*(b * turned))
            made.append((*ends, size * ra, size * rb, colour))
        (middle, radius) = SOCKET
        hollows.append((on_skin(*(middle * turned)), size * radius))
        beside = head + size * np.array((0, -0.01, 0))
        wide = _outmost(limbs, soft, beside, np.array((side, 0.0, 0)))
        top, low, ra, rb = EARS
        at = lambda end: beside + (side * wide, -size * end[1], size * end[0])
        made.append((at(top), at(low), size * ra, size * rb, SKIN))
    return made, hollows


def person_near(
    limbs, height: float, soft: float = 0.022
) -> Callable[[str, int, float], list[Part]]:
    """A builder of a person from near by, `height` m tall."""
    skins = [l for l in limbs if l[4] == SKIN]
    top = max(skins, key=lambda l: l[1][2])
    head = (np.array(top[0]) + np.array(top[1])) / 2
    neck = head[2] - 0.135
    scalp = limbs.index(top)
    hair = max(limbs, key=lambda l: l[1][2] + l[3])[4]
    size = top[2] / HEAD_M

    def parts(look: str, variant: int, share: float) -> list[Part]:
        made, hollows = _features(limbs, soft, head, size)
        sleeved = [l for l in limbs if not is_hand(l)]
        body = _body(sleeved, soft, neck, BODY_STEP_M / np.sqrt(share))
        lo, hi = head - 0.15, head + 0.17
        lo[2] = neck - 0.012
        step = HEAD_STEP_M / np.sqrt(share)
        places = grid_about(lo, hi, step)
        field = skin_at(limbs, places, soft)
        for middle, radius in hollows:
            hollow = radius - np.linalg.norm(places - middle, axis=-1)
            field = np.logaddexp(field / FLOWS_M, hollow / FLOWS_M) * FLOWS_M
        field = -np.logaddexp(-field / FLOWS_M, -skin_at(made, places, FLOWS_M) / FLOWS_M) * FLOWS_M
        field[:, :, 0] = np.abs(field[:, :, 0])  # open where the body goes on
        skin, faces = skinned(field, lo, step)
        whole = [body, (skin, faces[(skin[faces][..., 2] > lo[2] + 1.5 * step).all(1)])]
        whole += [hand_near(l, share) for l in limbs if is_hand(l)]
        tall = height / skin[:, 2].max()
        every = [*limbs, *made]
        colours = np.array([l[4] for l in every])
        out = []
        for places, faces in whole:
            nearest = distances(every, places).argmin(-1)
            colour = colours[nearest]
            colour[_under_hair((places - head) / size) & (nearest == scalp)] = hair
            places = places * (1, 1, tall)
            out.append(Mesh.of(places, faces, colour * shaded(places, height)))
        return [Part(Mesh.joined(out))]

    return parts


def _under_hair(places: np.ndarray) -> np.ndarray:
    """Which places about the middle of a head, at its told size, lie above its hairline."""
    return places[:, 2] > np.interp(places[:, 1], *HAIRLINE)


def _body(limbs, soft: float, neck: float, step: float) -> tuple[np.ndarray, np.ndarray]:
    """All below the neck, its clothes in folds."""
    ends = np.array([[l[0], l[1]] for l in limbs])
    reach = max(max(l[2], l[3]) for l in limbs) + 0.06
    lo, hi = ends.min((0, 1)) - reach, ends.max((0, 1)) + reach
    hi[2] = neck + 2 * step
    field = skin_at(limbs, grid_about(lo, hi, step), soft)
    noise = np.random.default_rng(6).normal(size=field.shape)
    noise = gaussian_filter(noise, np.array(FOLDS_M) / step)
    # a fold is a sharp ridge between two hollows (Perlin's turbulence, 1985)
    field += FOLD_DEEP_M * (np.abs(noise) / noise.std() - 0.8)
    places, faces = skinned(field, lo, step)
    return places, faces[(places[faces][..., 2] < neck + step).all(1)]
