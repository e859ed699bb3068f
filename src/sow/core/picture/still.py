"""A still: a shot's picture, taken pass by pass, kept so that it goes on after any end."""

import json
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

import cv2
import numpy as np

from ..air.light_of import REST_ROWS, Daylight
from ..build import Build
from ..hashing import name_seed
from ..motion.base import Moment
from ..shots.shot import Shot
from .airlight import Air
from .clean import cleaned
from .film import graded
from .grade.base import GradedFrame, steps_of
from .heaven import sky_behind
from .layers import RAYS, layers_of
from .order import Order, checked
from .pace import Pace, preview_share
from .parts import PicturePart, parts_of
from .passes import Sums, tiles
from .prepared import middle_of, view_of
from .stage import Stage
from .stages import Stages
from .under import under_of
from .wrap import curved_rays, face_at, panorama_rays

KEEPS_EVERY_S = 15.0
RAW = 0.12  # part of the picture as it was before cleaning, for the grain of far rock


@dataclass(frozen=True)
class Progress:
    """How far a still is: its share 0..1, seconds so far and left, noise left (None before the
    second pass), and what it is doing.
    """

    doing: str
    share: float
    seconds: float
    left: float | None
    noise: float | None


def in_air(
    stage: Stage,
    air: Air,
    light: np.ndarray,
    depth: np.ndarray,
    rays: np.ndarray,
    k: int,
    sky: np.ndarray | None = None,
) -> np.ndarray:
    """A pass with the air before what it shows, with shafts of light where they are wished."""
    if air.lit.light.shafts <= 0 or air.lit.sun[2] <= 0:
        return air.over(light, depth, rays, sky=sky)
    places, shape = air.ways(depth, rays, k)
    opens = air.opened(stage.sees_sun(places), places, shape, depth.shape)
    return air.over(light, depth, rays, opens, sky)


Tile = tuple[int, int]  # a pass and the number of a tile
Laid = tuple[np.ndarray, np.ndarray]  # its light with the air before it, and its depth
Passed = Callable[[PicturePart, list[Tile]], Iterator[Laid]]


class Still:
    """A still of a shot, made in `folder`, where what it has gathered is kept. `tell` hears how far
    it is and may be asked at any pass to stop: `check` raises Cancelled. `moment` is the scene at a
    time; `stages` keeps a stage from one still to the next. `passed` gives the passes of a part in
    the order in which they are asked for, where they are not made here.
    """

    def __init__(
        self,
        build: Build,
        shot: Shot,
        order: Order,
        folder: Path,
        tell: Callable[[Progress], None] = lambda told: None,
        check: Callable[[], None] = lambda: None,
        moment: Moment | None = None,
        stages: Stages | None = None,
        passed: Passed | None = None,
    ):
        self.moment = moment
        shot = moment.shot if moment else shot
        self.stages = stages or Stages()
        self.keeps_stage = stages is not None
        self.passed = passed or self.here
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
        self.pace = Pace()
        self.sky: tuple[str, np.ndarray] | None = None  # of a part, by its name
        self.ready = 0.0  # when a stage was set up here

    def _read_seconds(self) -> float:
        try:
            return float(json.loads((self.folder / "seconds.json").read_text()))
        except (OSError, ValueError):
            return 0.0

    @cached_property
    def lit(self) -> Daylight:
        """The scene's light."""
        return self.build.daylight(REST_ROWS, self.moment.light if self.moment else None)

    @property
    def exposure(self) -> np.ndarray:
        """What light in its units is multiplied with before the film, float64 (3)."""
        return self.lit.exposure * 2.0**self.shot.exposure

    def told(self, doing: str = "") -> Progress:
        """How far it is."""
        todo = sum(self.order.passes * len(s.done) for s in self.sums)
        done = sum(min(k, self.order.passes) for s in self.sums for k in s.done)
        seconds = self.before + time.perf_counter() - self.began
        sizes = [(p.view.width, p.view.height) for p in self.parts]
        layers = RAYS[self.order.quality] * sum(len(x.done) for x in self.sums)
        skies = sum(max(x.done) == 0 for x in self.sums)
        left = self.pace.left(todo - done, sizes, skies, layers if self.order.layers else 0)
        return Progress(doing, done / max(todo, 1), seconds, left, self.noise())

    def noise(self) -> float | None:
        """What is left of noise; None before two passes."""
        if all(max(s.done) < 2 for s in self.sums):
            return None
        noises = [n for s in self.sums if (n := s.noise(self.exposure)) is not None]
        return float(np.mean(noises)) if noises else None

    def run(self) -> None:
        """Follows the light until all passes are summed. Raises Cancelled; what was gathered until
        then is kept.
        """
        self.build.check = self.check
        self.build.tell = lambda step, share: self.tell(self.told(f"preparing: {step}"))
        try:
            for part, sums in zip(self.parts, self.sums):
                self._follow(part, sums)
        finally:
            self.sky = None
            self._keep()
            if not (self.keeps_stage or self.order.layers):
                self.stages.free()  # its memory is wanted by what comes after

    def here(self, part: PicturePart, todo: list[Tile]) -> Iterator[Laid]:
        """The passes `todo` of a part, made in this process."""
        view = part.view
        stage = self.stages.of(self.build, view, self.lit, self.moment)
        ran_s = self.moment.waves_s if self.moment else 0.0
        under = under_of(self.build, view.eye, self.lit, ran_s)
        air = Air(self.lit, self.build.in_air().mists, view.eye, middle_of(self.build), under)
        rays = view.rays()
        sky = self._sky_of(part, rays)
        self.ready = time.perf_counter()
        all_tiles = tiles(view.width, view.height)
        for k, i in todo:
            x, y, w, h = all_tiles[i]
            crop = None if h == view.height else (x, y, w, h)
            light, depth = stage.passed(view, k, crop)
            here = slice(y, y + h), slice(x, x + w)
            yield in_air(stage, air, light, depth, rays[here], k, sky[here]), depth

    def _sky_of(self, part: PicturePart, rays: np.ndarray) -> np.ndarray:
        """The sky behind a part, kept for the next pass that a worker is asked for."""
        if self.sky is None or self.sky[0] != part.name:
            start = time.perf_counter()
            heard = lambda share: self.build.tell(f"the sky, {share:.0%}", 0.9)
            self.sky = part.name, sky_behind(self.lit, rays, self.order.quality, heard)
            self.pace.skies.append(time.perf_counter() - start)
        return self.sky[1]

    def _follow(self, part: PicturePart, sums: Sums) -> None:
        order = self.order
        todo = [(k, i) for k in range(order.passes) for i, n in enumerate(sums.done) if n <= k]
        if not todo:
            return
        self.tell(self.told("preparing: the stage"))
        kept = time.perf_counter()
        shown_at = kept
        given = self.passed(part, todo)
        for n, (k, i) in enumerate(todo):
            self.check()
            start = time.perf_counter()
            light, depth = next(given)
            sums.add(i, light, depth)
            now = time.perf_counter()
            # the first holds the setting up of the stage, where that is done here
            start = max(start, self.ready)
            if n or self.ready:
                self.pace.passes.append(now - start)
            self.tell(self.told("following the light"))
            whole = i == len(sums.done) - 1 and n < len(todo) - 1
            if self.moment is None and whole and (k == 0 or self.pace.shows_now(now - shown_at)):
                self._show(part, sums)
                shown_at = time.perf_counter()
                self.pace.shows.append(shown_at - now)
            if now - kept > KEEPS_EVERY_S:
                self._keep()
                kept = time.perf_counter()

    def _keep(self) -> None:
        for part, sums in zip(self.parts, self.sums):
            if max(sums.done) > 0:
                sums.write(self.folder / f"{part.name}.sums")
        seconds = self.before + time.perf_counter() - self.began
        (self.folder / "seconds.json").write_text(json.dumps(seconds))

    def _show(self, part: PicturePart, sums: Sums) -> None:
        """Writes the picture so far, small, as `so-far.jpg`."""
        mean = sums.mean()
        k = preview_share(mean.shape[1], mean.shape[0])
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
        own = f"{self.shot.id} {self.moment.at_s:.4f}" if self.moment else self.shot.id
        seed = name_seed(own)  # grain is another at each moment
        frame: GradedFrame | None = GradedFrame(columns, rows, seed=seed)
        region = self.order.region
        if region and self.order.projection == "flat":
            whole = round(columns / region[2]), round(rows / region[3])
            corner = round(region[0] * whole[0]), round(region[1] * whole[1])
            frame = GradedFrame(*whole, *corner, seed=seed)
        if self.order.projection == "cube":
            frame = None  # what looks beyond a pixel would show the faces' edges
        grade = steps_of(self.build.scene.grade, self.shot.id, self.build.grade_raster)
        return graded(light * self.exposure, self.shot.film, grade, frame)

    def depths(self) -> dict[str, np.ndarray]:
        """Distances in m of the parts, 0 where nothing was met, by name."""
        return {p.name: s.depth for p, s in zip(self.parts, self.sums)}

    def layers(self) -> dict[str, dict[str, np.ndarray]]:
        """All layers of the parts by the parts' names, each of its channels float32 (height,
        width).
        """
        self.tell(self.told("layers"))
        count = RAYS[self.order.quality]
        out = {}
        for p in self.parts:
            stage = self.stages.of(self.build, p.view, self.lit, self.moment)
            out[p.name] = layers_of(self.build, stage, p.view, count, self.check)
        if not self.keeps_stage:
            self.stages.free()
        return out

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
