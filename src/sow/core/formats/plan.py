"""The planting plan: the map with a symbol for each kind, contours, water, paths and pieces, and a
key; as SVG and PDF from one drawing.
"""

import json
from pathlib import Path

import numpy as np
from contourpy import contour_generator

from ..build import Build
from ..cabinet import kind_of
from ..cabinet.family import families
from ..cabinet.feet import stretched
from ..marks.shapes import way
from ..planting.density import wished
from ..planting.formed import form_of, sizes_of
from .exporter import Grown, NoOptions, exporter
from .paper import (
    Drawing,
    Group,
    Polygon,
    PolyLine,
    Rect,
    String,
    collecting_paused,
    renderPDF,
    renderSVG,
)
from .plan_symbols import INK, PAPER, SOFT, WATER, plant_symbol, plant_symbols, tone_of
from .preview import of_plan
from .raster import file_name, png_bytes
from .schedule import ScheduleLine, counts, schedule_csv

WIDE = 760  # points: the map at most
HIGH = 980
KEY = 250  # its key
EDGE = 34  # the margin
MOST = 2500  # symbols of a kind that are drawn; of more, a share, and the key says so
STEPS = (0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500)


class PlanSheet:
    """One plan being drawn, in points, y up."""

    def __init__(self, build: Build) -> None:
        self.build = build
        self.scene = build.scene
        plot = build.scene.plot
        self.scale = min(WIDE / plot.width_m, HIGH / plot.depth_m)
        self.wide = plot.width_m * self.scale
        self.high = plot.depth_m * self.scale
        self.lines = counts(build)
        tall = max(self.high + 2 * EDGE + 30, 16 * len(self.lines) + 230)
        self.drawing = Drawing(self.wide + KEY + 3 * EDGE, tall)
        self.top = tall - EDGE
        self.step = self._contour_step()
        self.shown: dict[tuple[str, str], float] = {}

    def _contour_step(self) -> float:
        span = float(np.ptp(self.build.heights))
        return next((s for s in STEPS if span / s <= 24), STEPS[-1])

    def x(self, east):
        return EDGE + east * self.scale

    def y(self, north):
        return self.top - self.high + north * self.scale

    def flat(self, points: np.ndarray) -> list[float]:
        """Places in metres, (n, 2), as x and y one after the other."""
        return [v for e, n in points for v in (self.x(e), self.y(n))]

    def draw(self) -> Drawing:
        """Everything, from the paper up."""
        whole = self.drawing
        whole.add(Rect(0, 0, whole.width, whole.height, fillColor=PAPER, strokeColor=None))
        self._water()
        self._contours()
        self._plants()
        self._marks()
        self._pieces()
        low = self.top - self.high
        frame = Rect(
            EDGE, low, self.wide, self.high, fillColor=None, strokeColor=INK, strokeWidth=1.4
        )
        whole.add(frame)
        _Key(self).draw()
        return whole

    def _water(self) -> None:
        level = self.build.water()[0]
        if level is None or not np.isfinite(level).any():
            return
        grid = self.build.grid
        depth = np.where(np.isfinite(level), level - self.build.heights, -1)
        flooded = contour_generator(grid.xs(), grid.ys(), depth, fill_type="OuterOffset")
        for points, offsets in zip(*flooded.filled(0.0, 1e9)):
            shore = points[offsets[0] : offsets[1]]
            thinned = shore[:: max(1, len(shore) // 900)]
            self.drawing.add(Polygon(self.flat(thinned), fillColor=WATER, strokeColor=None))

    def _contours(self) -> None:
        grid = self.build.grid
        heights = self.build.heights
        contours = contour_generator(grid.xs(), grid.ys(), heights)
        lowest = np.ceil(heights.min() / self.step) * self.step
        for height in np.arange(lowest, heights.max(), self.step):
            fifth = round(height / self.step) % 5 == 0
            for line in map(np.asarray, contours.lines(float(height))):
                if len(line) > 8:
                    thinned = line[:: max(1, len(line) // 600)]
                    width = 0.7 if fifth else 0.3
                    self.drawing.add(
                        PolyLine(self.flat(thinned), strokeColor=SOFT, strokeWidth=width)
                    )

    def _plants(self) -> None:
        """Low sowings first, so that canopies lie over them."""
        numbers = {(c["sowing"], c["kind"]): n + 1 for n, c in enumerate(self.lines)}
        order = sorted(
            ((i, s) for i, s in enumerate(self.scene.planting) if s.on),
            key=lambda t: max(kind_of(p.kind).height_m for p in t[1].mix),
        )
        for i, sowing in order:
            plants = self.build.plants(i)
            names = self.build.names(i)
            for k, part in enumerate(sowing.mix):
                kind = kind_of(part.kind)
                tone = tone_of(names[k])
                here = np.flatnonzero(plants.kind == k)
                share = 1.0 if len(here) <= MOST else MOST / len(here)
                self.shown[sowing.name, part.kind] = share
                if share < 1:
                    here = here[plants.rank[here] < share]
                if not len(here):
                    continue
                spots = zip(
                    self.x(plants.east[here].astype(np.float64)).tolist(),
                    self.y(plants.north[here].astype(np.float64)).tolist(),
                    (plants.size[here] * (kind.reach_m * self.scale)).tolist(),
                )
                symbol = families[kind.family].symbol
                number = numbers[sowing.name, part.kind]
                self.drawing.add(Group(*plant_symbols(symbol, spots, tone, number)))

    def _marks(self) -> None:
        for mark in self.scene.marks:
            if not mark.on or mark.kind == "mask" or len(mark.points) < 2:
                continue
            line = way(mark)
            dashes = [4, 2] if mark.kind == "area" else None
            self.drawing.add(
                PolyLine(self.flat(line), strokeColor=INK, strokeWidth=0.9, strokeDashArray=dashes)
            )
            east, north = line[len(line) // 2]
            name = String(self.x(east) + 4, self.y(north) + 3, mark.name, fontSize=7, fillColor=INK)
            self.drawing.add(name)

    def _pieces(self) -> None:
        for piece in self.build.pieces():
            kind = form_of(piece)
            canopy = families[kind.family].symbol == "canopy"
            turn = np.deg2rad(piece["turn"])
            wide, deep, _ = sizes_of(piece)
            for dx, dy, reach in stretched(kind.footing(), wide, deep):
                east = piece["east_m"] + dx * np.cos(turn) + dy * np.sin(turn)
                north = piece["north_m"] + dy * np.cos(turn) - dx * np.sin(turn)
                for shape in plant_symbol(
                    "canopy" if canopy else "box",
                    self.x(east),
                    self.y(north),
                    reach * self.scale,
                    tone_of(piece["kind"]),
                ):
                    self.drawing.add(shape)


class _Key:
    """The key beside the map: title, scale, north, and a line for each kind."""

    def __init__(self, sheet: PlanSheet) -> None:
        self.sheet = sheet
        self.left = EDGE + sheet.wide + EDGE
        self.top = sheet.top

    def put(self, dx: float, dy: float, text: str, size: float = 8, tone=INK) -> None:
        """A text, from the key's upper left corner."""
        self.sheet.drawing.add(
            String(self.left + dx, self.top - dy, text, fontSize=size, fillColor=tone)
        )

    def draw(self) -> None:
        scene = self.sheet.scene
        self.put(0, 14, scene.name, 17)
        self.put(
            0,
            30,
            f"Planting plan. {scene.plot.width_m:g} x {scene.plot.depth_m:g} m; contours every "
            f"{self.sheet.step:g} m; season: {scene.season}",
            7.5,
            SOFT,
        )
        self._scale_bar()
        self._north()
        at = 90
        now = None
        for number, line in enumerate(self.sheet.lines, 1):
            if line["sowing"] != now:
                now = line["sowing"]
                self.put(0, at + 3, now, 9)
                at += 15
            self._line(line, number, at)
            at += 13
        whole = sum(c["number"] for c in self.sheet.lines)
        self.put(0, at + 12, f"In all {whole:,} plants, stones and pieces", 8)

    def _scale_bar(self) -> None:
        scale = self.sheet.scale
        bar = next(b for b in (1000, 500, 200, 100, 50, 20, 10, 5, 2, 1, 0.5) if b * scale < 160)
        self.sheet.drawing.add(
            Rect(self.left, self.top - 52, bar * scale, 4, fillColor=INK, strokeColor=INK)
        )
        self.put(0, 64, "0", 7)
        self.put(bar * scale - 4, 64, f"{bar:g} m", 7)

    def _north(self) -> None:
        right = self.left + KEY
        top = self.top
        arrow = [right - 20, top - 62, right - 14, top - 40, right - 8, top - 62]
        notch = [right - 14, top - 57]
        self.sheet.drawing.add(Polygon([*arrow, *notch], fillColor=INK, strokeColor=INK))
        self.put(KEY - 17, 72, "N", 8)

    def _line(self, line: ScheduleLine, number: int, at: float) -> None:
        symbol = families[kind_of(line["kind"]).family].symbol
        tone = tone_of(line["look"])
        for shape in plant_symbol(symbol, self.left + 10, self.top - at + 2, 5, tone, number):
            self.sheet.drawing.add(shape)
        share = self.sheet.shown.get((line["sowing"], line["kind"]), 1.0)
        drawn = f" (1 of {1 / share:.0f} drawn)" if share < 1 else ""
        self.put(22, at, f"{line['label']}, {line['number']:,}{drawn}", 8)
        heights = f"{line['least_m']:.1f} to {line['greatest_m']:.1f} m" if line["number"] else ""
        self.put(KEY - 44, at, heights, 7, SOFT)


def plan(build: Build) -> Drawing:
    """The planting plan of a build, in points, y up."""
    return PlanSheet(build).draw()


def plan_svg(build: Build) -> str:
    """The planting plan as SVG."""
    return renderSVG.drawToString(plan(build))


def plan_pdf(build: Build) -> bytes:
    """The planting plan as PDF."""
    return renderPDF.drawToString(plan(build), build.scene.name)


def write_planting(folder: Path, build: Build) -> None:
    """plan.svg, plan.pdf, schedule.csv, and for each sowing a map of its density (white:
    `most_per_100_m2` of density.json), north at the top.
    """
    folder.mkdir(parents=True, exist_ok=True)
    with collecting_paused():
        drawn = plan(build)
        (folder / "plan.svg").write_text(renderSVG.drawToString(drawn))
        (folder / "plan.pdf").write_bytes(renderPDF.drawToString(drawn, build.scene.name))
    (folder / "schedule.csv").write_text(schedule_csv(build))
    legend: dict[str, dict] = {}
    taken: set[str] = set()
    for i, s in enumerate(build.scene.planting):
        if s.on and not s.stands_on:
            held = build.sowing_mask(i)
            name = f"density-{file_name(s.name, taken)}.png"
            answer = np.ones(build.grid.shape) if held is None else np.clip(held, 0, 1)
            (folder / name).write_bytes(png_bytes(np.rint(answer * 255).astype(np.uint8)))
            legend[name] = {
                "sowing": s.name,
                "most_per_100_m2": round(wished(s, held, build.scene.plot.area_m2) * 100, 6),
            }
    (folder / "density.json").write_text(json.dumps(legend, indent=1) + "\n")


@exporter("planting", "Planting plan", preview=of_plan)
def planting_files(grown: Grown, options: NoOptions) -> None:
    """The plan as SVG and PDF, the schedule of kinds, density maps."""
    write_planting(grown.out / "planting", grown.build)
