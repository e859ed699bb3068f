"""The light's files: the sky as pictures of light, and its numbers."""

import json

import cv2
import numpy as np
import OpenEXR
from pydantic import Field

from ..air.light import sun_angles
from ..air.light_of import Daylight
from ..document.entry import Strict
from ..document.fields import setting
from .exporter import Grown, exporter
from .glb import Glb
from .preview import of_light

REC709 = (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290)  # red, green, blue, white: x and y
MOST_HALF = 60000.0


class LightFiles(Strict):
    sky_px: int = setting(
        1024, "Sky, pixels across", "px", lo=256, hi=8192, slider=(512, 8192), step=256
    )
    hdr: bool = Field(True, title="Also as HDR")


def exr_bytes_of(path, picture: np.ndarray) -> None:
    """Writes linear Rec.709 light (rows, columns, 3) as OpenEXR with half floats and its
    chromaticities.
    """
    header = {
        "compression": OpenEXR.ZIP_COMPRESSION,
        "type": OpenEXR.scanlineimage,
        "chromaticities": REC709,
    }
    halves = np.ascontiguousarray(np.clip(picture, 0, MOST_HALF), np.float16)
    OpenEXR.File(header, {"RGB": halves}).write(str(path))


def light_facts(lit: Daylight) -> dict:
    """The light in numbers, for whoever lights the scene elsewhere."""
    bearing, height = sun_angles(lit.light)
    listed = lambda values: [float(f"{v:.6g}") for v in np.asarray(values).ravel()]
    klux = lit.sunlight * lit.unit_kcd
    return {
        "axes": "east, north, up; m",
        "colours": "linear Rec.709",
        "sky": {
            "picture": "sky.exr",
            "unit": "kcd/m2",
            "projection": "equirectangular: row 0 zenith, column 0 north, clockwise",
            "sun_in_it": False,
        },
        "sun": {
            "bearing_deg": bearing,
            "height_deg": height,
            "to_it": listed(lit.sun),
            "klux_on_a_plane_turned_to_it": listed(klux),
            "kelvin": round(kelvin_of(klux)) if klux.max() > 0 else None,
            "angular_size_deg": lit.light.sun_size,
        },
        "haze": {
            "law": "seen = light * T + tone * (1 - T); T = exp(-(k * thin + air) * d)",
            "thin": "mean of exp(-(z - base_m) / top_m) along the way",
            "k_per_m": lit.haze.k,
            "top_m": lit.haze.top_m,
            "base_m": lit.haze.base_m,
            "begins_m": lit.haze.from_m,
            "air_per_m": listed(lit.haze.air),
            "tone_at_horizon_kcd_m2": [
                listed(v) for v in lit.tone[lit.tone.shape[0] // 2 - 1, ::8] * lit.unit_kcd
            ],
        },
        "meter_kcd_m2": lit.unit_kcd,
        "exposure": listed(lit.exposure),
    }


def kelvin_of(rgb: np.ndarray) -> float:
    """Correlated colour temperature of linear Rec.709 light in K (McCamy 1992)."""
    to_xyz = np.array(
        [[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]]
    )
    x, y, z = to_xyz @ np.asarray(rgb, float)
    n = (x / (x + y + z) - 0.3320) / (0.1858 - y / (x + y + z))
    return float(449 * n**3 + 3525 * n**2 + 6823.3 * n + 5520.33)


@exporter("light", "Light and sky", LightFiles, of_light, {"hdr": of_light})
def light_files(grown: Grown, options: LightFiles) -> None:
    """light/sky.exr and .hdr, a full panorama; light/light.json with sun, haze and lamps."""
    folder = grown.out / "light"
    folder.mkdir(exist_ok=True)
    lit = grown.build.daylight(options.sky_px // 2)
    sky = lit.sky * np.float32(lit.unit_kcd)
    exr_bytes_of(folder / "sky.exr", sky)
    if options.hdr:
        cv2.imwrite(str(folder / "sky.hdr"), np.ascontiguousarray(sky[..., ::-1], np.float32))
    facts = light_facts(lit)
    facts["lamps"] = [vars(lamp) for lamp in grown.build.in_air().lamps]
    (folder / "light.json").write_text(json.dumps(facts, indent=1) + "\n")


def _turned(away: np.ndarray) -> list[float]:
    """Quaternion that turns glTF's -z to a direction told as east, north, up."""
    to = np.array([away[0], away[2], -away[1]], float)
    axis = np.cross([0.0, 0.0, -1.0], to)
    w = 1.0 + float(np.dot([0.0, 0.0, -1.0], to))
    q = np.array([*axis, w]) if w > 1e-6 else np.array([0.0, 1.0, 0.0, 0.0])
    return (q / np.linalg.norm(q)).tolist()


def add_lights(out: Glb, lit: Daylight, lamps: list) -> None:
    """The sun (lux) and the lamps (candela) by KHR_lights_punctual; intensity times colour is the
    light of each band in linear Rec.709.
    """
    lights: list[dict] = []

    def add(name: str, rgb: np.ndarray, kind: dict, node: dict) -> None:
        most = float(np.max(rgb))
        if most <= 0:
            return
        colour = (np.asarray(rgb) / most).tolist()
        lights.append({"name": name, "color": colour, "intensity": most * 1000, **kind})
        index = len(lights) - 1
        out.node(name=name, extensions={"KHR_lights_punctual": {"light": index}}, **node)

    sun = lit.sunlight * lit.unit_kcd
    add("Sun", sun, {"type": "directional"}, {"rotation": _turned(-lit.sun)})
    for lamp in lamps:
        east, north, up = lamp.place
        node = {"translation": [east, up, -north], "rotation": _turned(np.array(lamp.aim))}
        spot = lamp.outer >= 0
        cone = {"innerConeAngle": float(np.arccos(lamp.inner))} if spot else {}
        if spot:
            cone["outerConeAngle"] = float(np.arccos(lamp.outer))
        kind = {"type": "spot", "spot": cone} if spot else {"type": "point"}
        add(f"Lamp {lamp.id}", np.array(lamp.kcd), kind, node)
    if lights:
        out.uses("KHR_lights_punctual")
        out.doc["extensions"] = {"KHR_lights_punctual": {"lights": lights}}
