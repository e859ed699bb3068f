"""What the renderer makes of bodies and their surfaces.

Light is followed by Mitsuba 3 (Jakob and others 2022), variant scalar_rgb, with Embree's rays.
"""

from collections.abc import Callable
from typing import Any

import numpy as np

from ..errors import SceneError
from .bodies import Body, Surface

try:
    import mitsuba as mi

    mi.set_variant("scalar_rgb")
    mi.set_log_level(mi.LogLevel.Error)
except ImportError:  # a machine without it: all else works
    mi = None  # type: ignore[assignment]


SMOOTHEST = 0.008
FILM = 0.42  # roughness of wet ground


def refuse_without() -> None:
    """Raises SceneError with what to install where the renderer is missing."""
    if mi is None:
        raise SceneError(
            "Stills need the renderer Mitsuba, which is not installed here; all else works.",
            "",
            "Run ./sow test or ./sow demo once with a network, or: .venv/bin/pip install mitsuba",
        )


def whole(values: np.ndarray) -> np.ndarray:
    """Values as one block of float32."""
    return np.ascontiguousarray(values, np.float32)


def bitmap(picture: np.ndarray, raw: bool, wrap: str = "clamp") -> dict[str, Any]:
    """A picture as a texture; `raw` takes its numbers as they are."""
    return {
        "type": "bitmap",
        "bitmap": mi.Bitmap(whole(picture)),
        "raw": raw,
        "wrap_mode": wrap,
    }


def _roughness(rough: float | np.ndarray) -> Any:
    """The renderer's own roughness of a mirror, whose square is the width of its facets."""
    if isinstance(rough, np.ndarray):
        return bitmap(np.sqrt(np.maximum(rough, SMOOTHEST))[..., None], True)
    return max(rough, SMOOTHEST) ** 0.5


def _wetted(dry: dict[str, Any], colour: dict[str, Any], wet: np.ndarray) -> dict[str, Any]:
    """A surface that a film of water makes shine, as far as it is wet."""
    film = {"type": "principled", "base_color": colour, "roughness": FILM, "eta": 1.333}
    share = bitmap(np.clip(wet, 0, 1)[..., None], True)
    return {"type": "blendbsdf", "weight": share, "dry": dry, "wet": film}


def _pane(surface: Surface, colour: dict[str, Any]) -> dict[str, Any]:
    """A thin pane: light goes straight through as far as it is glass."""
    return {
        "type": "principledthin",
        "base_color": colour,
        "roughness": surface.rough,
        "spec_trans": surface.glass,
        "diff_trans": 0.0,
        "eta": 1.5,
    }


def _bsdf(surface: Surface) -> Any:
    if surface.picture is None:
        colour: dict[str, Any] = {"type": "mesh_attribute", "name": "face_color"}
    else:
        colour = bitmap(surface.picture, True, "repeat" if surface.tiles else "clamp")
    if surface.mirrors:
        bsdf: dict[str, Any] = {
            "type": "principled",
            "base_color": colour,
            "roughness": _roughness(surface.rough),
            "eta": 1.333,
        }
    elif surface.glass > 0:
        return mi.load_dict(_pane(surface, colour))
    elif surface.shines:
        bsdf = {
            "type": "principled",
            "base_color": colour,
            "roughness": surface.rough,
            "metallic": surface.metal,
        }
    elif surface.through > 0:
        return mi.load_dict(
            {
                "type": "principledthin",
                "base_color": colour,
                "roughness": surface.rough,
                "diff_trans": 2 * surface.through * 0.6,
                "spec_trans": 0.0,
                "eta": 1.3,
            }
        )
    else:
        bsdf = {"type": "diffuse", "reflectance": colour}
        if surface.wet is not None:
            bsdf = _wetted(bsdf, colour, surface.wet)
    if surface.lean is not None:
        bsdf = {"type": "normalmap", "bsdf": bsdf, "normalmap": bitmap(surface.lean, True)}
    return mi.load_dict({"type": "twosided", "bsdf": bsdf})


def mesh_of(name: str, body: Body, origin: np.ndarray) -> Any:
    """A body as a mesh of the renderer, its places told from an origin."""
    props = mi.Properties()
    props["bsdf"] = _bsdf(body.surface)
    if body.normals is None:
        props["face_normals"] = True
    mesh = mi.Mesh(
        name,
        len(body.positions),
        len(body.faces),
        has_vertex_normals=body.normals is not None,
        has_vertex_texcoords=body.uv is not None,
        props=props,
    )
    if body.colour is not None:
        colours = whole(body.colour).ravel()
        mesh.add_attribute("face_color", 3, colours)  # type: ignore[arg-type]
    params = mi.traverse(mesh)
    # the renderer's own arrays take a whole buffer at once, and a hundred times as fast
    floats, numbers = type(params["vertex_positions"]), type(params["faces"])
    flat = lambda v: floats(whole(v).ravel())
    params["vertex_positions"] = flat(np.asarray(body.positions, np.float64) - origin)
    params["faces"] = numbers(np.ascontiguousarray(body.faces, np.uint32).ravel())
    if body.normals is not None:
        params["vertex_normals"] = flat(body.normals)
    if body.uv is not None:
        params["vertex_texcoords"] = flat(body.uv)
    params.update()
    return mesh


def group_of(bodies: list[Body]) -> Any:
    """Bodies that copies are made of."""
    group: dict[str, Any] = {"type": "shapegroup"}
    for j, body in enumerate(bodies):
        group[f"part{j}"] = mesh_of(f"part{j}", body, np.zeros(3))
    return mi.load_dict(group)


class Made:
    """The renderer's own things by the bodies that they were made of, taken over from one stage to
    the next where the very same bodies stand on it.
    """

    def __init__(self, before: "Made | None" = None):
        self.before = {} if before is None else before.now
        self.now: dict[tuple, tuple[Any, Any]] = {}

    def of(self, bodies: list[Body], where: tuple, make: Callable[[], Any]) -> Any:
        """What was made of these bodies at a place, or is made of them now."""
        key = (*(id(b) for b in bodies), *where)
        if key not in self.now:
            # the bodies are held with it, so that none is taken for another of the same address
            self.now[key] = self.before.get(key) or (bodies, make())
        return self.now[key][1]
