"""Ready grades: a few steps each, by name."""

from typing import Any

Steps = list[dict[str, Any]]

READY: dict[str, tuple[str, Steps]] = {
    "clean": ("Clean", []),
    "evening": (
        "Evening",
        [
            {"kind": "warmth", "name": "Warmth", "kelvin": 7800, "tint": 4},
            {
                "kind": "tints",
                "name": "Tints",
                "lights": "#ffdfae",
                "darks": "#c3d0ea",
                "strength": 55,
            },
            {"kind": "contrast", "name": "Contrast", "contrast": 108},
            {"kind": "vignette", "name": "Vignette", "stops": 0.6},
        ],
    ),
    "cold": (
        "Cold morning",
        [
            {"kind": "warmth", "name": "Warmth", "kelvin": 5400, "tint": 0},
            {"kind": "saturation", "name": "Saturation", "saturation": 84},
            {
                "kind": "tints",
                "name": "Tints",
                "lights": "#eef6ff",
                "darks": "#b9cadd",
                "strength": 45,
            },
        ],
    ),
    "faded": (
        "Faded print",
        [
            {"kind": "saturation", "name": "Saturation", "saturation": 72},
            {
                "kind": "tone-curve",
                "name": "Tone curve",
                "points": [[0, 0.055], [0.25, 0.27], [0.75, 0.76], [1, 0.955]],
            },
            {
                "kind": "tints",
                "name": "Tints",
                "lights": "#fff0d6",
                "darks": "#d3dfdc",
                "strength": 50,
            },
            {"kind": "grain", "name": "Grain", "amount": 5},
        ],
    ),
    "strong": (
        "Strong",
        [
            {"kind": "contrast", "name": "Contrast", "contrast": 122},
            {"kind": "saturation", "name": "Saturation", "saturation": 114},
            {"kind": "vignette", "name": "Vignette", "stops": 0.8},
        ],
    ),
    "glow": (
        "Glow",
        [
            {"kind": "bloom", "name": "Bloom", "amount": 22, "size": 5, "above": 1.0},
            {"kind": "warmth", "name": "Warmth", "kelvin": 7000, "tint": 2},
        ],
    ),
    "ink": (
        "Ink",
        [
            {"kind": "saturation", "name": "Saturation", "saturation": 0},
            {"kind": "contrast", "name": "Contrast", "contrast": 118},
            {"kind": "grain", "name": "Grain", "amount": 4},
        ],
    ),
}
