"""White balance: the light that a picture takes for white."""

import numpy as np

# from CIE XYZ to linear Rec.709 (IEC 61966-2-1)
FROM_XYZ = np.array(
    [[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]]
)
Y = np.array([0.2126, 0.7152, 0.0722])


def white_of(kelvin: float) -> np.ndarray:
    """Linear Rec.709 of daylight (4000 to 25000 K, CIE D series) or, below it, of a glowing body
    (Kim and others 2002), with a luminance of one; float64 (3).
    """
    t = 1000.0 / float(np.clip(kelvin, 1667, 25000))
    if kelvin >= 4000:
        cut = (-4.6070, 2.9678, 0.09911, 0.244063) if kelvin <= 7000 else None
        cut = cut or (-2.0064, 1.9018, 0.24748, 0.237040)
        x = float(np.polyval(cut, t))
        y = -3.000 * x * x + 2.870 * x - 0.275
    else:
        x = float(np.polyval((-0.2661239, -0.2343589, 0.8776956, 0.179910), t))
        cut = (-0.9549476, -1.37418593, 2.09137015, -0.16748867)
        cut = (-1.1063814, -1.34811020, 2.18555832, -0.20219683) if kelvin < 2222 else cut
        y = float(np.polyval(cut, x))
    rgb = FROM_XYZ @ np.array([x / y, 1.0, (1 - x - y) / y])
    return np.maximum(rgb, 1e-3) / float(np.maximum(rgb, 1e-3) @ Y)


def balance(kelvin: float) -> np.ndarray:
    """What each colour is multiplied with so that light of this warmth comes out white."""
    gains = 1 / white_of(kelvin)
    return gains / float(gains @ Y)
