"""A material's colour pulled towards another."""

import numpy as np
from scipy.optimize import minimize

from .material import tuned

LIGHT_TO_CONES = np.array(
    (
        (0.4122214708, 0.5363325363, 0.0514459929),
        (0.2119034982, 0.6806995451, 0.1073969566),
        (0.0883024619, 0.2817188376, 0.6299787005),
    )
)
CONES_TO_SEEN = np.array(
    (
        (0.2104542553, 0.7936177850, -0.0040720468),
        (1.9779984951, -2.4285922050, 0.4505937099),
        (0.0259040371, 0.7827717662, -0.8086757660),
    )
)


def perceived(linear: np.ndarray) -> np.ndarray:
    """Lightness and two opponent hues of linear sRGB (Oklab; B. Ottosson 2020)."""
    cones = LIGHT_TO_CONES @ np.asarray(linear, np.float64)
    return CONES_TO_SEEN @ np.cbrt(np.maximum(cones, 1e-9))


def light_of(seen: np.ndarray) -> np.ndarray:
    """The linear sRGB that is perceived so, which may lie beyond what a screen shows."""
    return np.linalg.solve(LIGHT_TO_CONES, np.linalg.solve(CONES_TO_SEEN, seen) ** 3)


def matched(material, mean: np.ndarray, target: np.ndarray, amount: float) -> dict:
    """Hue (°), saturation and lightness (%) that bring a material of mean linear colour `mean`,
    with the tint that it has, `amount` (0..1) of the way from where it is to `target` (linear
    colour), measured as the eye sees it.
    """
    here = perceived(tuned(material, mean))
    goal = perceived(target)
    want = here + amount * (goal - here)

    def off(v):
        tried = material.model_copy(
            update={
                "hue": float(v[0] * 60),
                "saturation": float(v[1] * 100),
                "bright": float(v[2] * 100),
            }
        )
        return float(((perceived(tuned(tried, mean)) - want) ** 2).sum() * 1e4) + 1e-3 * float(
            (v[0] - material.hue / 60) ** 2
        )

    best = min(
        (
            minimize(
                off,
                (h, material.saturation / 100, material.bright / 100),
                method="Nelder-Mead",
                options={"xatol": 1e-4, "fatol": 1e-8, "maxiter": 600},
            )
            for h in (material.hue / 60, 0.5, -0.5)
        ),
        key=lambda r: r.fun,
    ).x
    return {
        "hue": round(float(np.clip((best[0] * 60 + 180) % 360 - 180, -180, 180)), 1),
        "saturation": round(float(np.clip(best[1] * 100, 0, 300)), 1),
        "bright": round(float(np.clip(best[2] * 100, 0, 300)), 1),
    }
