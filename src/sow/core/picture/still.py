"""A still: a shot's picture, taken pass by pass, kept so that it goes on after any end."""

import json
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path

import cv2
import numpy as np

from ..air.light_of import REST_ROWS, Daylight
from ..build import Build
from ..hashing import name_seed
from ..shots.shot import Shot
from .airlight import Air
from .bodies import Setting
from .clean import cleaned
from .film import graded
from .grade.base import Frame, steps_of
from .order import Order, checked
from .passes import Sums, tiles
from .prepared import middle_of, setting_of, view_of
from .stage import Stage
from .views import FACES, View, face
from .wrap import curved_rays, face_at, panorama_rays

KEEPS_EVERY_S = 15.0
RAW = 0.12  # part of the picture as it was before cleaning, for the grain of far rock
PREVIEW_PX = 960
FACE_OF = {"panorama": 0.27, "curved": 0.6}  # side of a face, as a part of the picture's width


@dataclass(frozen=True)
class Told:
    """How far a still is: its share 0..1, seconds so far and left, noise left (None before the
    second pass), and what it is doing.
    """

    doing: str
    share: float
    seconds: float
    left: float | None
    noise: float | None


@dataclass(frozen=True)
class Part:
    """One view that a still is made of, by its name: the whole picture, or a face."""

    name: str
    view: View


def parts_of(build: Build, shot: Shot, order: Order) -> list[Part]:
    """The views that a still needs."""
    if order.projection == "flat":
        return [
            Part("whole", cropped(view_of(build, shot, order.width_px, order.height_px), order))
        ]
    square = replace(view_of(build, shot, 64, 64), around=True)
    if order.projection == "cube":
        side = order.width_px
    else:
        side = max(64, int(order.width_px * FACE_OF[order.projection]) // 2 * 2)
    names = list(FACES)
    if order.projection == "curved":
        rays, inside = curved_rays(64, order.angle, (square.right, square.up, square.ahead))
        stubs = {n: np.full((2, 2), k, np.float32) for k, n in enumerate(names)}
        used = set(np.rint(face_at(stubs, rays))[inside].astype(int).tolist())
        names = [n for k, n in enumerate(names) if k in used]
    return [Part(n, replace(face(square, n, side), around=True)) for n in names]


def cropped(view: View, order: Order) -> View:
    """A view of the region alone, at the scale of the whole."""
    if not order.region:
        return view
    left, top, wide, high = order.region
    width, height = round(wide * view.width), round(high * view.height)
    middle_x, middle_y = left + wide / 2 - 0.5, 0.5 - (top + high / 2)
    focal = view.focal_mm * view.width / width
    shift_x = (view.shift[0] + middle_x) * view.width / width
    shift_y = (view.shift[1] + middle_y * view.height / view.width) * view.width / width
    return replace(view, width=width, height=height, focal_mm=focal, shift=(shift_x, shift_y))


def in_air(
    stage: Stage, air: Air, light: np.ndarray, depth: np.ndarray, rays: np.ndarray, k: int
) -> np.ndarray:
    """A pass with the air before what it shows, with shafts of light where they are wished."""
    if air.lit.light.shafts <= 0 or air.lit.sun[2] <= 0:
        return air.over(light, depth, rays)
    places, shape = air.ways(depth, rays, k)
    opens = air.opened(stage.sees_sun(places), places, shape, depth.shape)
    return air.over(light, depth, rays, opens)


class Still:
    """A still of a shot, made in `folder`, where what it has gathered is kept. `tell` hears how far
    it is and may be asked at any pass to stop: `check` raises Cancelled.
    """

    def __init__(
        self,
        build: Build,
        shot: Shot,
        order: Order,
        folder: Path,
        tell: Callable[[Told], None] = lambda told: None,
        check: Callable[[], None] = lambda: None,
    ):
        self.build, self.shot, self.order = build, shot, checked(order)
        self.folder, self.tell, self.check = Path(folder), tell, check
        self.folder.mkdir(parents=True, exist_ok=True)
        self.parts = parts_of(build, shot, self.order)
        self.sums = [
            Sums.read(self.folder / f"{p.name}.sums", p.view.width, p.view.height)
            for p in self.parts
        ]
        self.began = time.perf_counter()
        self.before = self._read_seconds()
        self.spent: list[float] = []

    def _read_seconds(self) -> float:
        try:
            return float(json.loads((self.folder / "seconds.json").read_text()))
        except (OSError, ValueError):
            return 0.0

    @cached_property
    def lit(self) -> Daylight:
        """The scene's light."""
        return self.build.daylight(REST_ROWS)

    @property
    def exposure(self) -> np.ndarray:
        """What light in its units is multiplied with before the film, float64 (3)."""
        return self.lit.exposure * 2.0**self.shot.exposure

    def told(self, doing: str = "") -> Told:
        """How far it is."""
        todo = sum(self.order.passes * len(s.done) for s in self.sums)
        done = sum(min(k, self.order.passes) for s in self.sums for k in s.done)
        seconds = self.before + time.perf_counter() - self.began
        each = float(np.mean(self.spent[-12:])) if self.spent else None
        finish = 1.5 + 2.5e-6 * sum(p.view.width * p.view.height for p in self.parts)
        left = None if each is None else each * (todo - done) + finish
        return Told(doing, done / max(todo, 1), seconds, left, self.noise())

    def noise(self) -> float | None:
        """What is left of noise; None before two passes."""
        if all(max(s.done) < 2 for s in self.sums):
            return None
        noises = [n for s in self.sums if (n := s.noise(self.exposure)) is not None]
        return float(np.mean(noises)) if noises else None

    def _setting(self, part: Part, shared: Setting | None) -> Setting:
        if shared is not None:
            return shared
        return setting_of(self.build, part.view)

    def run(self) -> None:
        """Follows the light until all passes are summed. Raises Cancelled; what was gathered until
        then is kept.
        """
        stage, shared = None, None
        self.build.check = self.check
        self.build.tell = lambda step, share: self.tell(self.told(f"preparing: {step}"))
        try:
            for part, sums in zip(self.parts, self.sums):
                if min(sums.done) >= self.order.passes:
                    continue
                if stage is None or not part.view.around:
                    shared = self._setting(part, shared if part.view.around else None)
                    self.tell(self.told("preparing: the stage"))
                    origin = np.array([*np.round(part.view.eye[:2]), 0.0])
                    stage = Stage(shared, self.lit, origin)
                self._follow(stage, part, sums)
        finally:
            self._keep()

    def _follow(self, stage: Stage, part: Part, sums: Sums) -> None:
        view, order = part.view, self.order
        air = Air(self.lit, self.build.in_air().mists, view.eye, middle_of(self.build))
        rays = view.rays()
        kept = time.perf_counter()
        shown_at, shown_cost = 0.0, 0.0
        for k in range(order.passes):
            for i, (x, y, w, h) in enumerate(tiles(view.width, view.height)):
                if sums.done[i] > k:
                    continue
                self.check()
                start = time.perf_counter()
                crop = None if h == view.height else (x, y, w, h)
                light, depth = stage.passed(view, k, crop)
                hazed = in_air(stage, air, light, depth, rays[y : y + h, x : x + w], k)
                sums.add(i, hazed, depth)
                self.spent.append(time.perf_counter() - start)
                self.tell(self.told("following the light"))
            now = time.perf_counter()
            if now - shown_at > 8 * shown_cost + 0.5 or k == 0:
                self._show(part, sums)
                shown_at = time.perf_counter()
                shown_cost = shown_at - now
            if now - kept > KEEPS_EVERY_S:
                self._keep()
                kept = time.perf_counter()

    def _keep(self) -> None:
        for part, sums in zip(self.parts, self.sums):
            if max(sums.done) > 0:
                sums.write(self.folder / f"{part.name}.sums")
        seconds = self.before + time.perf_counter() - self.began
        (self.folder / "seconds.json").write_text(json.dumps(seconds))

    def _show(self, part: Part, sums: Sums) -> None:
        """Writes the picture so far, small, as `so-far.jpg`."""
        mean = sums.mean()
        k = min(1.0, PREVIEW_PX / max(mean.shape[:2]))
        if k < 1:
            size = max(1, round(mean.shape[1] * k)), max(1, round(mean.shape[0] * k))
            mean = cv2.resize(mean, size, interpolation=cv2.INTER_AREA)
        shown = self.shown(cleaned(mean), part.name)
        path = self.folder / "so-far.jpg"
        part_ = self.folder / "so-far.part.jpg"
        picture = np.rint(shown * 255).astype(np.uint8)
        cv2.imwrite(str(part_), picture[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 88])
        part_.replace(path)

    def light(self) -> dict[str, np.ndarray]:
        """The parts' light without noise, float32 (height, width, 3) each, by name."""
        self.tell(self.told("cleaning"))
        out = {}
        for part, sums in zip(self.parts, self.sums):
            mean = sums.mean()
            part_raw = RAW if self.order.quality != "look" else 0.0
            out[part.name] = cleaned(mean) * (1 - part_raw) + mean * part_raw
        return out

    def shown(self, light: np.ndarray, part: str = "whole") -> np.ndarray:
        """A part's light in its units as a screen shows it, float32 0..1, graded as its shot is."""
        rows, columns = light.shape[:2]
        frame: Frame | None = Frame(columns, rows, seed=name_seed(self.shot.id))
        region = self.order.region
        if region and self.order.projection == "flat":
            whole = round(columns / region[2]), round(rows / region[3])
            corner = round(region[0] * whole[0]), round(region[1] * whole[1])
            frame = Frame(*whole, *corner, seed=name_seed(self.shot.id))
        if self.order.projection == "cube":
            frame = None  # what looks beyond a pixel would show the faces' edges
        grade = steps_of(self.build.scene.grade, self.shot.id)
        return graded(light * self.exposure, self.shot.film, grade, frame)

    def depths(self) -> dict[str, np.ndarray]:
        """Distances in m of the parts, 0 where nothing was met, by name."""
        return {p.name: s.depth for p, s in zip(self.parts, self.sums)}

    def wrapped(self, faces: dict[str, np.ndarray]) -> dict[str, np.ndarray]:
        """Pictures as they are ordered: one, or the six faces of a cube."""
        order = self.order
        if order.projection == "panorama":
            return {"whole": face_at(faces, panorama_rays(order.width_px))}
        if order.projection == "curved":
            view = view_of(self.build, self.shot, 64, 64)
            frame = (view.right, view.up, view.ahead)
            rays, inside = curved_rays(order.width_px, order.angle, frame)
            whole = face_at(faces, rays)
            whole[~inside] = 0
            return {"whole": whole}
        return faces
