"""The stage: a setting and its light in the renderer. This file and `made` alone know it."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np

from ..air.light_of import DRAFT_ROWS, Daylight
from .bodies import Setting
from .made import Made, bitmap, group_of, mesh_of, mi, refuse_without, whole
from .spared import Crop, shares_of, without_spared
from .sunshine import PLANE_PX, plane_axes, sunshine
from .views import View

SMALL_PX = 80_000  # of a picture of which distances are kept
BOUNCES = 6  # of light before it is let go
GOLDEN = 0.6180339887498949, 0.7548776662466927  # of a sequence that fills a disc evenly
FAR_M = 1e6
SUN_M = 4e6  # away, where clouds shade: so far that its light does not fade over the land


def disc(k: int) -> tuple[float, float]:
    """The k-th place of a sequence that fills the unit disc evenly (R2 sequence; Roberts 2018)."""
    a, b = (0.5 + (k + 1) * GOLDEN[0]) % 1, (0.5 + (k + 1) * GOLDEN[1]) % 1
    r, turn = np.sqrt(a), 2 * np.pi * b
    return float(r * np.cos(turn)), float(r * np.sin(turn))


@dataclass
class Met:
    """What rays met first: the number of the body, or of the copies counted on from the bodies (-1
    nothing), its diffuse colour in linear light, its normal towards the eye, and the place in m.
    """

    which: np.ndarray
    albedo: np.ndarray
    normal: np.ndarray
    place: np.ndarray


class Stage:
    """A setting in one light. `passed` follows the light of one sample for every pixel. `made` is
    what the stage before it had made.
    """

    def __init__(
        self, setting: Setting, lit: Daylight, origin: np.ndarray, made: Made | None = None
    ):
        refuse_without()
        self.made = Made(made)
        self.origin = np.asarray(origin, np.float64)
        self.lit = lit
        self.middle = np.array(setting.middle) - self.origin
        self.level_m = setting.middle[2]
        self.plane_px = PLANE_PX if lit.sky.shape[0] > DRAFT_ROWS else PLANE_PX // 3
        self.reach_m = setting.reach_m
        self.lamps = setting.lamps
        self.bodies = len(setting.bodies)
        self.told = [(b.of, "") for b in setting.bodies]
        self.told += [(c.of, c.kind) for c in setting.copies]
        parts: dict[str, Any] = {"type": "scene"}
        for i, body in enumerate(setting.bodies):
            own = partial(mesh_of, f"body{i}", body, self.origin)
            parts[f"body{i}"] = self.made.of([body], (i, *self.origin.tolist()), own)
        for i, copies in enumerate(setting.copies):
            shared = self.made.of(copies.bodies, ("group",), partial(group_of, copies.bodies))
            parts[f"group{i}"] = shared
            matrices = copies.at.copy()
            matrices[:, :3, 3] -= self.origin
            for k, matrix in enumerate(matrices):
                props = mi.Properties("instance")
                props["to_world"] = mi.ScalarTransform4f(matrix)
                props["shapegroup"] = shared
                parts[f"copy{i}_{k}"] = mi.PluginManager.instance().create_object(props)
        self.made.before = {}
        self._add_lights(parts)
        self.scene = mi.load_dict(parts)
        self.params = mi.traverse(self.scene)
        # all others would be looked through at each change, and there are many
        self.params.keep(r"(sky|sun|lamp\d+)\..*")
        self.paths = mi.load_dict({"type": "path", "max_depth": BOUNCES + 1, "rr_depth": 4})
        self.depths = mi.load_dict({"type": "depth"})
        self._sensors: dict[tuple, Any] = {}
        self._kept_depths: dict[tuple, np.ndarray] = {}
        self._spared: dict[tuple, tuple[View, dict[int, np.ndarray]]] = {}

    def _add_lights(self, parts: dict[str, Any]) -> None:
        lit = self.lit
        turned = mi.ScalarTransform4f().rotate([1, 0, 0], 90)
        parts["sky"] = {"type": "envmap", "bitmap": self._sky(), "to_world": turned}
        parts["sun"] = self._sun()
        for i, lamp in enumerate(self.lamps):
            strength = {"type": "rgb", "value": [float(v) / lit.unit_kcd for v in lamp.kcd]}
            if lamp.outer < -1:
                parts[f"lamp{i}"] = {
                    "type": "point",
                    "intensity": strength,
                    "position": self._lamp_place(i, 0).tolist(),
                }
            else:
                parts[f"lamp{i}"] = {
                    "type": "spot",
                    "intensity": strength,
                    "cutoff_angle": float(np.rad2deg(np.arccos(lamp.outer))),
                    "beam_width": float(np.rad2deg(np.arccos(lamp.inner))),
                    "to_world": self._lamp(i, 0),
                }

    def _sun(self) -> dict[str, Any]:
        shines = sunshine(self.lit, self.reach_m, self.level_m, self.plane_px)
        return {
            "type": "projector",
            "irradiance": bitmap(shines.picture, True),
            # it throws pi times what its picture holds, by the square of the way
            "scale": SUN_M**2 / np.pi,
            "fov": float(np.rad2deg(2 * np.arctan(shines.half_m / SUN_M))),
            "fov_axis": "x",
            "to_world": self._sun_at(self.lit.sun),
        }

    def _sun_at(self, way: np.ndarray) -> Any:
        place = self.middle + way * SUN_M
        up = plane_axes(self.lit.sun)[1]
        return mi.ScalarTransform4f().look_at(place.tolist(), self.middle.tolist(), up.tolist())

    def _sky(self) -> Any:
        return mi.Bitmap(whole(self.lit.sky))

    def _lamp_place(self, i: int, k: int) -> np.ndarray:
        """The k-th place of a lamp on its own small surface."""
        lamp = self.lamps[i]
        x, y = disc(k)
        aim = np.asarray(lamp.aim)
        aside = np.cross(aim, [0, 0, 1.0] if abs(aim[2]) < 0.9 else [1.0, 0, 0])
        aside /= np.linalg.norm(aside)
        own = lamp.radius_m * (x * aside + y * np.cross(aim, aside))
        return np.asarray(lamp.place) - self.origin + own

    def _lamp(self, i: int, k: int) -> Any:
        place, aim = self._lamp_place(i, k), np.asarray(self.lamps[i].aim)
        up = [0, 0, 1] if abs(aim[2]) < 0.99 else [0, 1, 0]
        target = (place + aim).tolist()
        return mi.ScalarTransform4f().look_at(place.tolist(), target, up)

    def _move_lights(self, k: int) -> None:
        """Sun and lamps at the k-th place of their own size, so that shadows are as soft as they
        are large once many passes are summed.
        """
        x, y = disc(k)
        sun = self.lit.sun
        aside = np.cross(sun, [0, 0, 1.0] if sun[2] < 0.9 else [1.0, 0, 0])
        aside /= np.linalg.norm(aside)
        half = np.tan(np.deg2rad(self.lit.light.sun_size) / 2)
        way = sun + half * (x * aside + y * np.cross(sun, aside))
        self.params["sun.to_world"] = self._sun_at(way / np.linalg.norm(way))
        for i in range(len(self.lamps)):
            if f"lamp{i}.position" in self.params:
                self.params[f"lamp{i}.position"] = self._lamp_place(i, k).tolist()
            else:
                self.params[f"lamp{i}.to_world"] = self._lamp(i, k)
        self.params.update()

    def _sensor(self, view: View, crop: tuple[int, int, int, int] | None) -> Any:
        key = (id(view), crop)
        if key in self._sensors:
            return self._sensors[key][1]
        eye = view.eye - self.origin
        film = {
            "type": "hdrfilm",
            "width": view.width,
            "height": view.height,
            "rfilter": {"type": "box"},
            "pixel_format": "rgb",
            "component_format": "float32",
        }
        if crop:
            x, y, width, height = crop
            film |= {
                "crop_offset_x": x,
                "crop_offset_y": y,
                "crop_width": width,
                "crop_height": height,
            }
        sensor: dict[str, Any] = {
            "type": "thinlens" if view.blur_m > 0 else "perspective",
            "fov": float(np.rad2deg(2 * np.arctan(18 / view.focal_mm))),
            "fov_axis": "x",
            "near_clip": 0.02,
            "far_clip": FAR_M,
            "to_world": mi.ScalarTransform4f().look_at(
                eye.tolist(), (eye + view.ahead).tolist(), view.up.tolist()
            ),
            "film": film,
            "sampler": {"type": "independent", "sample_count": 1},
        }
        if view.blur_m > 0:
            sensor |= {"aperture_radius": view.blur_m, "focus_distance": view.focus_m}
        if view.shift != (0.0, 0.0):
            sensor |= {
                "principal_point_offset_x": -view.shift[0],
                "principal_point_offset_y": view.shift[1] * view.width / view.height,
            }
        made = mi.load_dict(sensor)
        self._sensors = {key: (view, made)}
        return made

    def passed(
        self, view: View, k: int, crop: tuple[int, int, int, int] | None = None
    ) -> tuple[np.ndarray, np.ndarray]:
        """One pass: light (height, width, 3) in the light's units and the distance in m of what
        each of exactly those rays met, 0 where nothing (height, width). `k` is its seed; `crop` are
        left, top, width and height of a part of the picture in px.
        """
        self._move_lights(k)
        sensor = self._sensor(view, crop)
        seed: Any = k
        drawn = lambda how: np.array(
            mi.render(self.scene, sensor=sensor, integrator=how, spp=1, seed=seed)
        )
        light = drawn(self.paths)[..., :3]
        # how far things are stays as it is in another light, and small pictures try many
        key = (id(view), crop, k)
        known = key in self._kept_depths
        depth = self._kept_depths[key] if known else drawn(self.depths)[..., 0].copy()
        if depth.size <= SMALL_PX:
            self._kept_depths[key] = depth
        shares = self._shares_of(view, crop)
        if shares:

            def unlit(i: int) -> np.ndarray:
                with self._dark(i):
                    return drawn(self.paths)[..., :3]

            light = without_spared(light, shares, unlit)
        return light, depth

    def _shares_of(self, view: View, crop: Crop | None) -> dict[int, np.ndarray]:
        """What each lamp spares of a view, found once."""
        key = (id(view), crop)
        if key not in self._spared:
            self._spared = {key: (view, shares_of(self, view, crop))}
        return self._spared[key][1]

    @contextmanager
    def _dark(self, i: int) -> Iterator[None]:
        """A lamp is out for as long as this lasts."""
        name = f"lamp{i}.intensity.value"
        shines = [float(v) for v in self.params[name]]
        self.params[name] = [0.0, 0.0, 0.0]
        self.params.update()
        try:
            yield
        finally:
            self.params[name] = shines
            self.params.update()

    def sees_sun(self, places: np.ndarray) -> np.ndarray:
        """Whether nothing keeps the sun from places (n, 3) in m, bool (n,)."""
        way = [float(v) for v in self.lit.sun]
        test = self.scene.ray_test
        near = np.asarray(places, np.float64) - self.origin
        ray = lambda p: mi.Ray3f(p, way)  # type: ignore[call-overload]
        return np.array([not test(ray(p)) for p in near.tolist()], bool)

    def relit(self, lit: Daylight) -> None:
        """The same setting in another light, whose sky has as many rows."""
        self.lit = lit
        # the renderer keeps its last column before the first, and the first after the last
        wrapped = np.concatenate([lit.sky[:, -1:], lit.sky, lit.sky[:, :1]], 1)
        known = self.params["sky.data"]
        self.params["sky.data"] = type(known)(whole(wrapped[..., : known.shape[2]]))
        shines = sunshine(lit, self.reach_m, self.level_m, self.plane_px)
        self.params["sun.irradiance.data"] = type(known)(whole(shines.picture))
        self.params["sun.to_world"] = self._sun_at(lit.sun)
        for i, lamp in enumerate(self.lamps):
            strength = [float(v) / lit.unit_kcd for v in lamp.kcd]
            self.params[f"lamp{i}.intensity.value"] = strength
        self.params.update()

    def met(self, eye: np.ndarray, rays: np.ndarray) -> Met:
        """What rays (n, 3) from an eye meet first."""
        n = len(rays)
        found = Met(np.full(n, -1, np.int32), *(np.zeros((n, 3), np.float32) for _ in range(3)))
        start = (np.asarray(eye) - self.origin).tolist()
        cast, ray = self.scene.ray_intersect, mi.Ray3f
        which, albedo, normal, way = [], [], [], []
        for i, direction in enumerate(rays.tolist()):
            hit = cast(ray(start, direction))
            if not hit.is_valid():
                continue
            copy = hit.instance
            name = hit.shape.id() if copy is None else copy.id()
            colour = hit.bsdf().eval_diffuse_reflectance(hit)
            up = hit.sh_frame.n
            which.append((i, name))
            albedo.append((colour[0], colour[1], colour[2]))
            normal.append((up[0], up[1], up[2]))
            way.append(hit.t)
        if not which:
            return found
        at = np.array([i for i, _ in which])
        found.which[at] = [self._number(name) for _, name in which]
        found.albedo[at] = albedo
        found.normal[at] = normal
        found.place[at] = np.asarray(eye) + rays[at] * np.array(way)[:, None]
        away = np.einsum("ij,ij->i", found.normal[at], rays[at]) > 0
        found.normal[at[away]] *= -1
        return found

    def _number(self, name: str) -> int:
        """Of bodies by their place, of copies by that place after all bodies."""
        if name.startswith("body"):
            return int(name[4:])
        return self.bodies + int(name[4 : name.index("_")])

    def stop(self) -> None:
        """Ends the pass that runs, from another thread; what it gives is not whole."""
        self.paths.cancel()
        self.depths.cancel()
