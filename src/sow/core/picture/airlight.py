"""Air between the eye and what a ray met: haze, mist and the sky's own sun, laid over a pass."""

from collections.abc import Sequence

import cv2
import numpy as np
from numba import njit, prange

from ..air.light_of import Daylight
from ..air.mist import Mist, mist_depth, packed
from .under import Under

SHAFT_PX = 4  # pixels to each way that is looked along for shafts
SHAFT_LOOKS = 6  # places on each
SHAFT_M = 900.0
DISC_MOST = 400.0  # radiance of the sun's disc, in the light's units, beyond which no film tells


@njit(cache=True, nogil=True, parallel=True)
def _lay(light, depth, rays, opens, eye, haze, takes, tone, shaded, maps, packs, sun, disc, shows):
    k, top, base, begins = haze
    rows, columns = depth.shape
    for r in prange(rows):
        for c in range(columns):
            d = depth[r, c]
            x, y, z = rays[r, c]
            if d <= 0:
                far = 6000.0
                deep = 0.0
                if len(packs) > 0:
                    deep = mist_depth(
                        maps,
                        packs,
                        eye[0],
                        eye[1],
                        eye[2],
                        eye[0] + x * far,
                        eye[1] + y * far,
                        eye[2] + z * far,
                    )
                if x * sun[0] + y * sun[1] + z * sun[2] > disc:
                    for ch in range(3):
                        light[r, c, ch] += shows[ch]
                air = False
            else:
                pz = eye[2] + z * d
                a = max((eye[2] - base) / top, -4.0)
                b = max((pz - base) / top, -4.0)
                gap = (pz - eye[2]) / top
                thin = np.exp(-a) if abs(gap) < 1e-3 else (np.exp(-a) - np.exp(-b)) / gap
                deep = k * max(d - begins, 0.0) * min(max(thin, 0.0), 4.0)
                if len(packs) > 0:
                    deep += mist_depth(
                        maps,
                        packs,
                        eye[0],
                        eye[1],
                        eye[2],
                        eye[0] + x * d,
                        eye[1] + y * d,
                        pz,
                    )
                air = True
            if not air and deep == 0.0:
                continue
            seen = opens[r, c]
            for ch in range(3):
                passes = np.exp(-deep - (takes[ch] * d if air else 0.0))
                own = _toned(tone, x, y, z, ch)
                if seen < 1.0:
                    own = own * seen + min(shaded[ch], own) * (1 - seen)
                light[r, c, ch] = light[r, c, ch] * passes + own * (1 - passes)


@njit(cache=True, nogil=True, forceinline=True)
def _toned(tone, x, y, z, ch):
    """What haze shows in a direction, which need not be of unit length."""
    size = np.sqrt(x * x + y * y + z * z)
    v = np.arccos(min(max(z / size, -1.0), 1.0)) / np.pi
    u = (np.arctan2(x, y) / (2 * np.pi)) % 1.0
    tr, tc = v * tone.shape[0] - 0.5, u * tone.shape[1] - 0.5
    i0 = min(max(int(np.floor(tr)), 0), tone.shape[0] - 2)
    j0 = int(np.floor(tc))
    fr = min(max(tr - i0, 0.0), 1.0)
    fc = tc - j0
    j1 = (j0 + 1) % tone.shape[1]
    j0 = j0 % tone.shape[1]
    upper = tone[i0, j0, ch] * (1 - fc) + tone[i0, j1, ch] * fc
    lower = tone[i0 + 1, j0, ch] * (1 - fc) + tone[i0 + 1, j1, ch] * fc
    return upper * (1 - fr) + lower * fr


class Air:
    """The air of a light and what mist lies in it, as a view sees it."""

    def __init__(
        self,
        lit: Daylight,
        mists: Sequence[Mist],
        eye: np.ndarray,
        middle: tuple[float, float, float] = (0.0, 0.0, 0.0),
        under: Under | None = None,
    ):
        self.under = under
        self.lit = lit
        self.middle = middle
        self.eye = np.asarray(eye, np.float64)
        self.maps, self.packs = packed(list(mists))
        half = np.deg2rad(lit.light.sun_size) / 2
        self.disc = float(np.cos(half))
        shows = lit.sunlight / max(np.pi * np.sin(half) ** 2, 1e-9)
        self.shows = np.minimum(shows, DISC_MOST * shows / max(float(shows.max()), 1e-9))

    def over(
        self,
        light: np.ndarray,
        depth: np.ndarray,
        rays: np.ndarray,
        opens: np.ndarray | None = None,
        sky: np.ndarray | None = None,
    ) -> np.ndarray:
        """A pass with the air before what it shows, float32 of the same shape; `opens` is how much
        of the sun reaches the way to it, 0..1 (height, width), where shafts are to be seen; `sky`
        is what stands behind it all, finer than the pass itself has it.
        """
        out = np.ascontiguousarray(light, np.float32).copy()
        if sky is not None:
            out[depth <= 0] = sky[depth <= 0]
        straight = out.copy() if self.under else out
        h = self.lit.haze
        _lay(
            out,
            np.ascontiguousarray(depth, np.float32),
            np.ascontiguousarray(rays, np.float32),
            np.ones(depth.shape, np.float32) if opens is None else opens,
            self.eye,
            (h.k, h.top_m, h.base_m, h.from_m),
            np.asarray(h.air, np.float64),
            np.ascontiguousarray(self.lit.tone, np.float32),
            np.asarray(self.lit.shaded, np.float64),
            self.maps,
            self.packs,
            np.asarray(self.lit.sun, np.float64),
            self.disc,
            np.asarray(self.shows, np.float64),
        )
        return self.under.over(out, straight, depth, rays) if self.under else out

    def ways(
        self, depth: np.ndarray, rays: np.ndarray, k: int
    ) -> tuple[np.ndarray, tuple[int, int, int]]:
        """Places (n, 3) in m on the ways of every SHAFT_PX-th pixel of a pass, SHAFT_LOOKS on each,
        nearer ones more often; and the rows, columns and looks that they make up.
        """
        d, r = depth[::SHAFT_PX, ::SHAFT_PX], rays[::SHAFT_PX, ::SHAFT_PX]
        way = np.where(d > 0, np.minimum(d, SHAFT_M), SHAFT_M)
        u = np.random.default_rng(k).random((*way.shape, SHAFT_LOOKS))
        t = ((np.arange(SHAFT_LOOKS) + u) / SHAFT_LOOKS) ** 1.5
        places = self.eye + r[..., None, :] * (way[..., None] * t)[..., None]
        return places.reshape(-1, 3), (*way.shape, SHAFT_LOOKS)

    def opened(
        self,
        sees: np.ndarray,
        places: np.ndarray,
        shape: tuple[int, int, int],
        size: tuple[int, int],
    ) -> np.ndarray:
        """How much of the sun reaches the ways of a pass, float32 (height, width) of `size`, from
        whether each of `places` sees it: clouds take their part, and the light's own strength of
        shafts says how far it shows.
        """
        lit = self.lit
        open_ = sees.astype(np.float32)
        if lit.shade.min() < 0.995:
            side = lit.shade.shape[0]
            middle = np.array(self.middle)
            # where the sun's ray through the place meets the level of the ground
            fall = (places[:, 2] - middle[2]) / max(float(lit.sun[2]), 0.05)
            x = (places[:, 0] - middle[0] - fall * lit.sun[0]) / lit.shade_m
            y = (places[:, 1] - middle[1] - fall * lit.sun[1]) / lit.shade_m
            column = np.clip((x + 1) / 2 * side, 0, side - 1).astype(int)
            row = np.clip((1 - y) / 2 * side, 0, side - 1).astype(int)
            open_ *= lit.shade[row, column]
        soft = cv2.GaussianBlur(open_.reshape(shape).mean(-1), (0, 0), 0.7)
        whole = cv2.resize(soft, size[::-1], interpolation=cv2.INTER_LINEAR)
        strength = min(lit.light.shafts / 100, 1.0)
        return (1 - strength * (1 - whole)).astype(np.float32)
