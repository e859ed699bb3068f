"""What the air is made of: how strongly it scatters and takes light.

Amounts and heights of a clear day on Earth after Bruneton & Neyret (2008) and, for ozone, Hillaire
(2020). Light is told in the three bands of linear Rec.709: each coefficient is its mean over
sunlight (5778 K), weighted by the band (CIE 1931 as fitted by Wyman, Sloan & Shirley 2013). Against
a sum over the spectrum the sun's colour at the ground is then right within 2 % down to five times
the air of the zenith. Lengths are km, coefficients 1/km.
"""

from dataclasses import dataclass

import numpy as np

GROUND_KM = 6360.0
TOP_KM = 6460.0
RAYLEIGH = np.array([7.09e-3, 13.76e-3, 33.10e-3])
RAYLEIGH_OVER_KM = 8.0  # height over which thin air falls to a third
# an optical depth of 0.06, as clear air over land has (their 0.0053 is that of the high seas)
DUST_SCATTERS = 45e-3
DUST_TAKES = 5e-3
DUST_OVER_KM = 1.2
OZONE = np.array([2.88e-3, 1.715e-3, 0.0])
OZONE_AT_KM, OZONE_HALF_KM = 25.0, 15.0  # a tent about its height
FORWARD = 0.8  # asymmetry of dust (Henyey & Greenstein 1941)

# Sunlight above the air on a plane turned to it, klux of each band
SUN_KLUX = 128.0 * np.array([1.108, 0.977, 0.912])


@dataclass(frozen=True)
class Gases:
    """Amounts beside a clear day (1 each), and the mean colour of the ground below."""

    air: float = 1.0
    dust: float = 1.0
    ozone: float = 1.0
    ground: tuple[float, float, float] = (0.15, 0.15, 0.15)

    def packed(self) -> np.ndarray:
        """The coefficients as the kernels read them, float64: scattering by air (3), scattering by
        dust, extinction by dust, extinction by ozone (3), ground (3).
        """
        return np.concatenate(
            [
                RAYLEIGH * self.air,
                [DUST_SCATTERS * self.dust, (DUST_SCATTERS + DUST_TAKES) * self.dust],
                OZONE * self.ozone,
                np.asarray(self.ground, float),
            ]
        )
