"""A still's files: the developed picture, its light with layers, and what it was made with."""

import json
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import OpenEXR

from ..build import Build
from ..judge.natural import USUAL_FALL, natural
from ..picture.film import in_acescg
from ..picture.order import Order
from ..picture.prepared import focus_in
from ..picture.still import Still
from ..picture.wrap import CONVENTIONS, crossed
from ..shots.shot import Shot, field_of_view, sharp_between

ACESCG = (0.713, 0.293, 0.165, 0.830, 0.128, 0.044, 0.32168, 0.33767)  # red, green, blue, white
JPEG_QUALITY = 94
LEAST_MEASURED_PX = 64


def write_picture(path: Path, shown: np.ndarray, bits: int) -> None:
    """What a screen shows, 0..1, as a PNG of 8 or 16 bits."""
    most, kind = (65535, np.uint16) if bits == 16 else (255, np.uint8)
    values = np.rint(shown * most).astype(kind)
    _written(path, np.ascontiguousarray(values[..., ::-1]), [])


def _bytes(shown: np.ndarray) -> np.ndarray:
    return np.ascontiguousarray(np.rint(shown * 255).astype(np.uint8)[..., ::-1])


def _written(path: Path, picture: np.ndarray, how: list[int]) -> None:
    part = path.with_name(f".{path.stem}.part{path.suffix}")
    if not cv2.imwrite(str(part), picture, how):
        raise OSError(f"{path} cannot be written")
    part.replace(path)


def write_layers(path: Path, light: np.ndarray, layers: dict[str, Any], facts: dict) -> None:
    """Light in linear Rec.709 as scene-linear ACEScg with other layers (height, width) in float,
    OpenEXR, and facts as text in its header.
    """
    header = {
        "compression": OpenEXR.ZIP_COMPRESSION,
        "type": OpenEXR.scanlineimage,
        "chromaticities": ACESCG,
        "sow": json.dumps(facts, sort_keys=True),
    }
    channels = {"RGB": np.ascontiguousarray(np.clip(in_acescg(light), -6e4, 6e4), np.float16)}
    for name, values in layers.items():
        channels[name] = np.ascontiguousarray(values, np.float32)
    part = path.with_name(f".{path.stem}.part{path.suffix}")
    OpenEXR.File(header, channels).write(str(part))
    part.replace(path)


def facts_of(build: Build, shot: Shot, order: Order, still: Still) -> dict[str, Any]:
    """What a still was made with, as plain values."""
    across, up = field_of_view(shot)
    near, far = sharp_between(shot, focus_in(build, shot))
    view = still.parts[0].view
    noise = still.noise()
    return {
        "scene": build.scene.name,
        "shot": shot.model_dump(),
        "order": order.model_dump(),
        "passes": order.passes,
        "noise_left": None if noise is None else round(noise, 5),
        "eye_m": [round(float(v), 3) for v in view.eye],
        "angle_across_deg": round(across, 3),
        "angle_up_deg": round(up, 3),
        "sharp_from_m": round(near, 3),
        "sharp_to_m": None if far == float("inf") else round(far, 3),
        "unit_kcd_m2": float(f"{still.lit.unit_kcd:.6g}"),
        "exposed_by": [float(f"{v:.6g}") for v in still.exposure],
        "content": build.content_key(),
    }


def beside_nature(light: np.ndarray) -> dict[str, Any]:
    """How a picture's light is spread beside photographs of nature: a hint (`judge/natural`)."""
    found = natural(light)
    told = {k: round(v, 3) for k, v in vars(found).items()}
    return {**told, "usual_fall": list(USUAL_FALL)}


def write_frame(still: Still, out: Path, name: str) -> list[str]:
    """Writes `name`.png of a frame whose passes are summed, and .exr where its light is ordered.
    Gives the names of the files.
    """
    light = still.wrapped(still.light())["whole"]
    write_picture(out / f"{name}.png", still.shown(light), still.order.bits)
    clip = still.order.clip
    if not (clip and clip.light):
        return [f"{name}.png"]
    depth = still.wrapped(still.depths())["whole"]
    facts = facts_of(still.build, still.shot, still.order, still)
    write_layers(out / f"{name}.exr", light, {"Z": depth}, facts)
    return [f"{name}.png", f"{name}.exr"]


def _all_layers(still: Still) -> dict[str, dict[str, np.ndarray]]:
    """The channels of all layers by the names of the pictures that are written."""
    of_parts = still.layers()
    names = sorted({n for own in of_parts.values() for n in own})
    out: dict[str, dict[str, np.ndarray]] = {}
    for name in names:
        empty = lambda part: np.zeros(next(iter(of_parts[part].values())).shape, np.float32)
        faces = {part: own.get(name, empty(part)) for part, own in of_parts.items()}
        for part, values in still.wrapped(faces).items():
            out.setdefault(part, {})[name] = values
    return out


def write_still(still: Still, out: Path, name: str) -> list[str]:
    """Writes `name`.png, .exr and .json (and .jpg where ordered) of a still whose passes are
    summed; a cube writes its six faces and the cross. Gives the names of the files.
    """
    out.mkdir(parents=True, exist_ok=True)
    order = still.order
    pictures = still.wrapped(still.light())
    depths = still.wrapped(still.depths())
    more = _all_layers(still) if order.layers else {}
    facts = facts_of(still.build, still.shot, order, still)
    called = CONVENTIONS[order.names] if order.projection == "cube" else {"whole": ""}
    files: list[str] = []
    for part, light in pictures.items():
        stem = f"{name}-{called[part]}" if called[part] else name
        shown = still.shown(light, part)
        write_picture(out / f"{stem}.png", shown, order.bits)
        layers = {"Z": depths[part]}
        if order.projection in ("flat", "cube"):
            view = next(p.view for p in still.parts if p.name == part)
            place = view.eye + view.rays() * depths[part][..., None]
            place[depths[part] <= 0] = 0
            layers |= {f"P.{axis}": place[..., k] for k, axis in enumerate("XYZ")}
        layers |= more.get(part, {})
        write_layers(out / f"{stem}.exr", light, layers, facts)
        files += [f"{stem}.png", f"{stem}.exr"]
        if order.jpeg:
            how = [cv2.IMWRITE_JPEG_QUALITY, JPEG_QUALITY]
            _written(out / f"{stem}.jpg", _bytes(shown), how)
            files.append(f"{stem}.jpg")
    if order.projection == "cube":
        faces = {k: _bytes(still.shown(v, k)) for k, v in pictures.items()}
        _written(out / f"{name}-cross.png", crossed(faces), [])
        files.append(f"{name}-cross.png")
    if order.projection == "flat" and min(order.width_px, order.height_px) >= LEAST_MEASURED_PX:
        facts["beside_nature"] = beside_nature(pictures["whole"])
    facts["files"] = files
    (out / f"{name}.json").write_text(json.dumps(facts, indent=1) + "\n")
    return [*files, f"{name}.json"]
