"""The planting plan: the map with a symbol for each kind, contours, water, paths and pieces, and a
key; as SVG and PDF from one drawing. And the schedule of kinds.
"""

import csv
import io
import json
from pathlib import Path

import numpy as np
from contourpy import contour_generator
from reportlab import rl_config
from reportlab.graphics import renderPDF, renderSVG
from reportlab.graphics.shapes import Circle, Drawing, Group, Line, Polygon, PolyLine, Rect, String
from reportlab.lib.colors import Color, HexColor

from ..build import Build
from ..cabinet import kind_of
from ..cabinet.family import families
from ..cabinet.kind import srgb_bytes
from ..marks.shapes import way
from ..planting.density import wished
from ..planting.sowing import seen_colour
from .exporter import Grown, NoOptions, exporter
from .plants import called
from .raster import file_name, png_bytes

rl_config.invariant = 1  # no time in the file: the same scene gives the same bytes
PAPER, INK, SOFT, WATER = (
    HexColor("#f4efe4"),
    HexColor("#23302b"),
    HexColor("#8a8370"),
    HexColor("#8fb0bd"),
)
WIDE, KEY, EDGE = 760, 250, 34  # points: the map, its key, the margin
MOST = 2500  # symbols of a kind that are drawn; of more, a share, and the key says so
STEPS = (0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500)


def counts(build: Build) -> list[dict]:
    """A line for each kind of each sowing, and for each kind of piece: sowing, kind, number, per
    hectare, least and greatest height (m).
    """
    out, area = [], build.scene.plot.area_m2 / 1e4
    for i, s in enumerate(build.scene.planting):
        if not s.on:
            continue
        p = build.plants(i)
        for k, part in enumerate(s.mix):
            sizes = p.size[p.kind == k] * kind_of(part.kind).height_m
            out.append(
                {
                    "sowing": s.name,
                    "kind": part.kind,
                    "label": kind_of(part.kind).label,
                    "look": build.names(i)[k],
                    "number": len(sizes),
                    "per_ha": len(sizes) / area,
                    "least_m": float(sizes.min(initial=np.inf)) if len(sizes) else 0.0,
                    "greatest_m": float(sizes.max(initial=0)),
                }
            )
    pieces = build.pieces()
    for kind in sorted({p["kind"] for p in pieces}):
        tall = [kind_of(kind).height_m * p["size"] / 100 for p in pieces if p["kind"] == kind]
        out.append(
            {
                "sowing": "by hand",
                "kind": kind,
                "label": kind_of(kind).label,
                "look": kind,
                "number": len(tall),
                "per_ha": len(tall) / area,
                "least_m": min(tall),
                "greatest_m": max(tall),
            }
        )
    return out


def schedule_csv(build: Build) -> str:
    """The schedule of kinds as CSV, the total of each kind at the end."""
    file = io.StringIO()
    w = csv.writer(file, lineterminator="\n")
    w.writerow(
        [
            "sowing",
            "kind",
            "name",
            "look",
            "number",
            "per_hectare",
            "least_height_m",
            "greatest_height_m",
        ]
    )
    lines = counts(build)
    for c in lines:
        w.writerow(
            [
                c["sowing"],
                called(c["kind"]),
                c["label"],
                (c["look"].split("~") + ["summer"])[1] or "summer",
                c["number"],
                f"{c['per_ha']:.2f}",
                f"{c['least_m']:.2f}",
                f"{c['greatest_m']:.2f}",
            ]
        )
    for kind in sorted({c["kind"] for c in lines}):
        mine = [c for c in lines if c["kind"] == kind]
        w.writerow(
            [
                "all",
                called(kind),
                mine[0]["label"],
                "",
                sum(c["number"] for c in mine),
                f"{sum(c['per_ha'] for c in mine):.2f}",
                f"{min(c['least_m'] for c in mine):.2f}",
                f"{max(c['greatest_m'] for c in mine):.2f}",
            ]
        )
    return file.getvalue()


def _tone(name: str) -> Color:
    r, g, b = (srgb_bytes(np.clip(np.array(seen_colour(name)) * 1.25, 0, 1)) / 255.0).tolist()
    return Color(r, g, b)


def _symbol(symbol: str, x: float, y: float, r: float, tone: Color, number: int = 0):
    """One plant in plan, by its family's symbol: a tree is a canopy with its stem, a shrub a lobed
    ring, grass a tick, a flower a dot, a stone an angular outline.
    """
    r = max(r, 0.7)
    if symbol == "canopy":
        return [
            Circle(
                x,
                y,
                r,
                fillColor=Color(tone.red, tone.green, tone.blue, 0.35),
                strokeColor=tone,
                strokeWidth=0.5,
            ),
            String(x, y - 1.7, str(number), fontSize=5, textAnchor="middle", fillColor=INK)
            if number and r > 4
            else Circle(x, y, min(0.9, r * 0.3), fillColor=INK, strokeColor=None),
        ]
    if symbol == "ring":
        return [
            Circle(
                x, y, r, fillColor=Color(tone.red, tone.green, tone.blue, 0.55), strokeColor=None
            )
        ]
    if symbol == "outline":
        a = (x * 7.1 + y * 3.7) % 6.28
        return [
            Polygon(
                [
                    v
                    for k in range(5)
                    for v in (x + r * np.cos(a + k * 1.2566), y + r * 0.85 * np.sin(a + k * 1.2566))
                ],
                fillColor=tone,
                strokeColor=INK,
                strokeWidth=0.3,
            )
        ]
    if symbol == "box":
        return [
            Rect(
                x - r, y - r * 0.7, 2 * r, 1.4 * r, fillColor=tone, strokeColor=INK, strokeWidth=0.5
            )
        ]
    if symbol == "dot":
        return [Circle(x, y, 0.7, fillColor=tone, strokeColor=None)]
    return [Line(x, y - 0.9, x + 0.35, y + 0.9, strokeColor=tone, strokeWidth=0.5)]


def plan(build: Build) -> Drawing:
    """The sheet, in points, y up."""
    scene = build.scene
    plot = build.scene.plot
    grid = build.grid
    scale = min(WIDE / plot.width_m, 980 / plot.depth_m)
    w, h = plot.width_m * scale, plot.depth_m * scale
    lines = counts(build)
    tall = max(h + 2 * EDGE + 30, 16 * len(lines) + 230)
    sheet = Drawing(w + KEY + 3 * EDGE, tall)
    sheet.add(Rect(0, 0, sheet.width, sheet.height, fillColor=PAPER, strokeColor=None))
    ox, oy = EDGE, tall - EDGE - h
    x, y = (lambda e: ox + e * scale), (lambda n: oy + n * scale)
    level = build.water()[0]
    if level is not None and np.isfinite(level).any():
        depth = np.where(np.isfinite(level), level - build.heights, -1)
        filled = contour_generator(grid.xs(), grid.ys(), depth, fill_type="OuterOffset").filled(
            0.0, 1e9
        )
        for points, offsets in zip(*filled):
            p = points[offsets[0] : offsets[1]]
            sheet.add(
                Polygon(
                    [v for e, n in p[:: max(1, len(p) // 900)] for v in (x(e), y(n))],
                    fillColor=WATER,
                    strokeColor=None,
                )
            )
    span = float(np.ptp(build.heights))
    step = next((s for s in STEPS if span / s <= 24), STEPS[-1])
    lines_of = contour_generator(grid.xs(), grid.ys(), build.heights)
    lowest = np.ceil(build.heights.min() / step) * step
    for v in np.arange(lowest, build.heights.max(), step):
        for p in lines_of.lines(float(v)):
            if len(p) > 8:
                q = p[:: max(1, len(p) // 600)]
                sheet.add(
                    PolyLine(
                        [c for e, n in q for c in (x(e), y(n))],
                        strokeColor=SOFT,
                        strokeWidth=0.7 if round(v / step) % 5 == 0 else 0.3,
                    )
                )
    shown = {}
    numbers = {(c["sowing"], c["kind"]): n + 1 for n, c in enumerate(lines)}
    order = sorted(
        ((i, s) for i, s in enumerate(scene.planting) if s.on),
        key=lambda t: max(kind_of(p.kind).height_m for p in t[1].mix),
    )
    for i, s in order:
        p, names = build.plants(i), build.names(i)
        for k, part in enumerate(s.mix):
            kind, tone = kind_of(part.kind), _tone(names[k])
            here = np.flatnonzero(p.kind == k)
            share = 1.0 if len(here) <= MOST else MOST / len(here)
            shown[s.name, part.kind] = share
            here = here[p.rank[here] < share] if share < 1 else here
            layer = Group()
            for j in here:
                for shape in _symbol(
                    families[kind.family].symbol,
                    x(p.east[j]),
                    y(p.north[j]),
                    kind.reach_m * float(p.size[j]) * scale,
                    tone,
                    numbers[s.name, part.kind],
                ):
                    layer.add(shape)
            sheet.add(layer)
    for m in scene.marks:
        if m.on and m.kind != "mask" and len(m.points) > 1:
            p = way(m)
            sheet.add(
                PolyLine(
                    [c for e, n in p for c in (x(e), y(n))],
                    strokeColor=INK,
                    strokeWidth=0.9,
                    strokeDashArray=[4, 2] if m.kind == "area" else None,
                )
            )
            sheet.add(
                String(
                    x(p[len(p) // 2, 0]) + 4,
                    y(p[len(p) // 2, 1]) + 3,
                    m.name,
                    fontSize=7,
                    fillColor=INK,
                )
            )
    for q in build.pieces():
        kind = kind_of(q["kind"])
        for dx, dy, r in kind.footing():
            a, s = np.deg2rad(q["turn"]), q["size"] / 100
            for shape in _symbol(
                "canopy" if families[kind.family].symbol == "canopy" else "box",
                x(q["east_m"] + s * (dx * np.cos(a) + dy * np.sin(a))),
                y(q["north_m"] + s * (dy * np.cos(a) - dx * np.sin(a))),
                r * s * scale,
                _tone(q["kind"]),
            ):
                sheet.add(shape)
    sheet.add(Rect(ox, oy, w, h, fillColor=None, strokeColor=INK, strokeWidth=1.4))
    _key(sheet, build, lines, shown, ox + w + EDGE, tall - EDGE, scale, step)
    return sheet


def _key(sheet, build, lines, shown, left, top, scale, step):
    scene = build.scene
    put = lambda dx, dy, text, size=8, tone=INK: sheet.add(
        String(left + dx, top - dy, text, fontSize=size, fillColor=tone)
    )
    put(0, 14, scene.name, 17)
    put(
        0,
        30,
        f"Planting plan. {scene.plot.width_m:g} x {scene.plot.depth_m:g} m; contours every "
        f"{step:g} m; season: {scene.season}",
        7.5,
        SOFT,
    )
    bar = next(b for b in (1000, 500, 200, 100, 50, 20, 10, 5, 2, 1, 0.5) if b * scale < 160)
    sheet.add(Rect(left, top - 52, bar * scale, 4, fillColor=INK, strokeColor=INK))
    put(0, 64, "0", 7)
    put(bar * scale - 4, 64, f"{bar:g} m", 7)
    sheet.add(
        Polygon(
            [
                left + KEY - 20,
                top - 62,
                left + KEY - 14,
                top - 40,
                left + KEY - 8,
                top - 62,
                left + KEY - 14,
                top - 57,
            ],
            fillColor=INK,
            strokeColor=INK,
        )
    )
    put(KEY - 17, 72, "N", 8)
    at, now = 90, None
    for n, c in enumerate(lines):
        if c["sowing"] != now:
            now = c["sowing"]
            put(0, at + 3, now, 9)
            at += 15
        for shape in _symbol(
            families[kind_of(c["kind"]).family].symbol,
            left + 10,
            top - at + 2,
            5,
            _tone(c["look"]),
            n + 1,
        ):
            sheet.add(shape)
        part = shown.get((c["sowing"], c["kind"]), 1.0)
        put(
            22,
            at,
            f"{c['label']}, {c['number']:,}"
            + (f" (1 of {1 / part:.0f} drawn)" if part < 1 else ""),
            8,
        )
        put(
            KEY - 44,
            at,
            f"{c['least_m']:.1f} to {c['greatest_m']:.1f} m" if c["number"] else "",
            7,
            SOFT,
        )
        at += 13
    put(0, at + 12, f"In all {sum(c['number'] for c in lines):,} plants, stones and pieces", 8)


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
    drawn = plan(build)
    (folder / "plan.svg").write_text(renderSVG.drawToString(drawn))
    (folder / "plan.pdf").write_bytes(renderPDF.drawToString(drawn, build.scene.name))
    (folder / "schedule.csv").write_text(schedule_csv(build))
    legend, taken = {}, set()
    for i, s in enumerate(build.scene.planting):
        if s.on and not s.stands_on:
            held = build.sowing_mask(i)
            name = f"density-{file_name(s.name, taken)}.png"
            (folder / name).write_bytes(
                png_bytes(
                    np.uint8(
                        np.rint(
                            (np.ones(build.grid.shape) if held is None else np.clip(held, 0, 1))
                            * 255
                        )
                    )
                )
            )
            legend[name] = {
                "sowing": s.name,
                "most_per_100_m2": round(wished(s, held, build.scene.plot.area_m2) * 100, 6),
            }
    (folder / "density.json").write_text(json.dumps(legend, indent=1) + "\n")


@exporter("planting", "Planting plan")
def planting_files(grown: Grown, options: NoOptions) -> None:
    """The plan as SVG and PDF, the schedule of kinds, density maps."""
    write_planting(grown.out / "planting", grown.build)
