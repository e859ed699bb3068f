"""Air between the eye and what a ray met: haze, mist and the sky's own sun, laid over a pass."""

from collections.abc import Sequence

import numpy as np
from numba import njit, prange

from ..air.light_of import Daylight
from ..air.mist import Mist, mist_depth, packed

DISC_MOST = 400.0  # radiance of the sun's disc, in the light's units, beyond which no film tells


@njit(cache=True, nogil=True, parallel=True)
def _lay(light, depth, rays, eye, haze, takes, tone, maps, packs, sun, disc, shows):
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
            v = np.arccos(min(max(z, -1.0), 1.0)) / np.pi
            u = (np.arctan2(x, y) / (2 * np.pi)) % 1.0
            tr, tc = v * tone.shape[0] - 0.5, u * tone.shape[1] - 0.5
            i0 = min(max(int(np.floor(tr)), 0), tone.shape[0] - 2)
            j0 = int(np.floor(tc))
            fr = min(max(tr - i0, 0.0), 1.0)
            fc = tc - j0
            j1 = (j0 + 1) % tone.shape[1]
            j0 = j0 % tone.shape[1]
            for ch in range(3):
                passes = np.exp(-deep - (takes[ch] * d if air else 0.0))
                upper = tone[i0, j0, ch] * (1 - fc) + tone[i0, j1, ch] * fc
                lower = tone[i0 + 1, j0, ch] * (1 - fc) + tone[i0 + 1, j1, ch] * fc
                own = upper * (1 - fr) + lower * fr
                light[r, c, ch] = light[r, c, ch] * passes + own * (1 - passes)


class Air:
    """The air of a light and what mist lies in it, as a view sees it."""

    def __init__(self, lit: Daylight, mists: Sequence[Mist], eye: np.ndarray):
        self.lit = lit
        self.eye = np.asarray(eye, np.float64)
        self.maps, self.packs = packed(list(mists))
        half = np.deg2rad(lit.light.sun_size) / 2
        self.disc = float(np.cos(half))
        shows = lit.sunlight / max(np.pi * np.sin(half) ** 2, 1e-9)
        self.shows = np.minimum(shows, DISC_MOST * shows / max(float(shows.max()), 1e-9))

    def over(self, light: np.ndarray, depth: np.ndarray, rays: np.ndarray) -> np.ndarray:
        """A pass with the air before what it shows, float32 of the same shape."""
        out = np.ascontiguousarray(light, np.float32).copy()
        h = self.lit.haze
        _lay(
            out,
            np.ascontiguousarray(depth, np.float32),
            np.ascontiguousarray(rays, np.float32),
            self.eye,
            (h.k, h.top_m, h.base_m, h.from_m),
            np.asarray(h.air, np.float64),
            np.ascontiguousarray(self.lit.tone, np.float32),
            self.maps,
            self.packs,
            np.asarray(self.lit.sun, np.float64),
            self.disc,
            np.asarray(self.shows, np.float64),
        )
        return out
