"""The ground as files: weights, pictures of the whole ground, texture sets, a legend."""

import json
from collections.abc import Callable
from html import escape
from pathlib import Path
from typing import Any, Literal

import cv2
import numpy as np
from pydantic import Field

from ..build import Build
from ..cabinet.kind import srgb_bytes
from ..document.entry import Strict
from ..document.fields import shown
from ..surface.bake import colour_at, normal_bytes, picture_relief_at, roughness_at
from ..survey.slope import normals
from .exporter import Grown, exporter
from .preview import of_packed, of_textures, of_weights
from .raster import png_bytes

PICTURES = (1024, 2048, 4096, 8192, 16384)


class GroundFiles(Strict):
    """What of the ground is written beside its weights."""

    bits: Literal[8, 16] = Field(8, title="Weights", description="Bits a post.")
    packed: bool = Field(
        False,
        title="Weights packed by four",
        description="Red, green, blue and alpha of one picture each hold a material.",
    )
    picture_px: int = Field(
        0,
        ge=0,
        le=16384,
        title="Picture of the whole ground",
        description="Pixels along the longer side of colour, normal and roughness; 0 writes none.",
        json_schema_extra=shown(choices={0: "none", **{v: f"{v} px" for v in PICTURES}}),
    )
    tile_px: int = Field(
        4096,
        ge=256,
        le=8192,
        title="Tiles of at most",
        description="Larger pictures are cut into tiles of this size.",
    )
    textures: bool = Field(False, title="Texture sets")


def whole(shares: np.ndarray, top: int) -> np.ndarray:
    """Weights as whole numbers that sum to `top` exactly at each post: the largest remainders are
    rounded up (Hamilton's method).
    """
    scaled = shares.astype(np.float64) * top
    low = np.floor(scaled)
    left = np.rint(top - low.sum(0)).astype(int)
    order = np.argsort(-(scaled - low), axis=0, kind="stable")
    rank = np.empty_like(order)
    np.put_along_axis(
        rank,
        order,
        np.arange(len(shares))[:, None, None] * np.ones((1,) + shares.shape[1:], int),
        0,
    )
    return (low + (rank < left)).astype(np.uint16 if top > 255 else np.uint8)


def write_weights(
    out: Path, build: Build, names: dict[str, str], options: GroundFiles
) -> list[dict]:
    """materials/NAME.png each, or materials/weights-1.png packed by four in the order of the
    legend; the legend's lines.
    """
    on = [(i, m) for i, m in enumerate(build.scene.ground) if m.on]
    top = 65535 if options.bits == 16 else 255
    lines: list[dict[str, Any]] = []
    if not on:
        return lines
    values = whole(build.ground()[[i for i, _ in on]], top)
    for k, (i, m) in enumerate(on):
        line = {
            "name": m.name,
            "ground": m.ground,
            "size_m": m.size_m,
            "share": round(float(values[k].mean() / top), 6),
            "colour": "#{:02x}{:02x}{:02x}".format(*tuple(srgb_bytes(build.means()[i]))),
        }
        if options.packed:
            line |= {
                "file": f"materials/weights-{k // 4 + 1}.png",
                "channel": ["red", "green", "blue", "alpha"][k % 4],
            }
        else:
            file = f"materials/{names[m.id]}.png"
            line["file"] = file
            (out / file).write_bytes(png_bytes(values[k]))
        lines.append(line)
    if options.packed:
        for a in range(0, len(on), 4):
            part = np.zeros(values.shape[1:] + (4,), values.dtype)
            part[..., : len(values[a : a + 4])] = values[a : a + 4].transpose(1, 2, 0)
            (out / "materials" / f"weights-{a // 4 + 1}.png").write_bytes(png_bytes(part))
    return lines


def write_pictures(
    out: Path, build: Build, options: GroundFiles, tell: Callable, check: Callable
) -> list[dict]:
    """ground/colour, normal and roughness (PNG; normals with x east, y north, z up), in tiles named
    by row and column from the north-west.
    """
    plot, px = build.scene.plot, options.picture_px
    w, h = (max(2, round(px * s / plot.longer_m)) for s in (plot.width_m, plot.depth_m))
    east = (np.arange(w) + 0.5) * plot.width_m / w
    north = plot.depth_m - (np.arange(h) + 0.5) * plot.depth_m / h
    unit = normals(build.heights, build.grid.spacing)
    (out / "ground").mkdir(exist_ok=True)
    size, lines = options.tile_px, []
    many = w > size or h > size
    for r in range(0, h, size):
        for c in range(0, w, size):
            check()
            tell("write ground picture", (r * w + c * size) / (w * h))
            e, n = east[c : c + size], north[r : r + size]
            end = f"-{r // size + 1}-{c // size + 1}" if many else ""
            rows, cols = build.grid.rows_of(n), build.grid.cols_of(e)
            local = np.dstack(
                [
                    cv2.remap(
                        unit[..., k],
                        *np.meshgrid(cols.astype(np.float32), rows.astype(np.float32)),
                        cv2.INTER_LINEAR,
                        borderMode=cv2.BORDER_REPLICATE,
                    )
                    for k in range(3)
                ]
            )
            # a px beyond the tile's own edges, so that the slopes of a tile are those of the whole
            step = plot.width_m / w
            wide_e = np.concatenate([[e[0] - step], e, [e[-1] + step]])
            wide_n = np.concatenate([[n[0] + step], n, [n[-1] - step]])
            raised = picture_relief_at(build, wide_e, wide_n)
            if raised is not None:
                local[..., 0] -= local[..., 2] * (raised[1:-1, 2:] - raised[1:-1, :-2]) / (2 * step)
                local[..., 1] -= local[..., 2] * (raised[:-2, 1:-1] - raised[2:, 1:-1]) / (2 * step)
            local = local / np.maximum(np.linalg.norm(local, axis=-1, keepdims=True), 1e-6)
            for name, values in (
                ("colour", srgb_bytes(colour_at(build, e, n))),
                ("normal", normal_bytes(local)),
                ("roughness", (roughness_at(build, e, n) * 255 + 0.5).astype(np.uint8)),
            ):
                (out / "ground" / f"{name}{end}.png").write_bytes(png_bytes(values))
            lines.append(
                {
                    "tile": end.strip("-") or "whole",
                    "west_m": float(e[0] - plot.width_m / w / 2),
                    "north_m": float(n[0] + plot.depth_m / h / 2),
                    "columns": len(e),
                    "rows": len(n),
                }
            )
    return lines


def write_textures(out: Path, build: Build, names: dict[str, str]) -> None:
    """textures/NAME-colour, -height, -normal, -roughness and -shade.png, each repeating at its
    material's size.
    """
    (out / "textures").mkdir(exist_ok=True)
    for m in build.scene.ground:
        if not m.on:
            continue
        colour, detail = build.ground_of(m).maps()
        xy = detail[..., :2].astype(np.float32) / 127.5 - 1
        z = np.sqrt(np.clip(1 - (xy**2).sum(-1), 0, 1))
        for part, values in (
            ("colour", colour[..., :3]),
            ("height", colour[..., 3]),
            ("normal", np.dstack([detail[..., :2], np.uint8(z * 127.5 + 127.5)])),
            ("roughness", detail[..., 2]),
            ("shade", detail[..., 3]),
        ):
            (out / "textures" / f"{names[m.id]}-{part}.png").write_bytes(
                png_bytes(np.ascontiguousarray(values))
            )


def legend_svg(title: str, lines: list[dict]) -> str:
    """The key of the materials, drawn: a swatch, the name, its share and where its weights are."""
    rows = "".join(
        f'<g transform="translate(24 {56 + 30 * i})"><rect width="34" height="20" '
        f'fill="{line["colour"]}" stroke="#23302b"/><text x="46" y="15">{i + 1}  '
        f"{escape(line['name'])}</text>"
        f'<text x="330" y="15" text-anchor="end">{100 * line["share"]:.1f} %</text><text '
        f'x="350" y="15" fill="#5e665f">{escape(line["file"])}{channel}</text></g>'
        for i, line in enumerate(lines)
        for channel in [f" {line['channel']}" if "channel" in line else ""]
    )
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" width="620" '
        f'height="{80 + 30 * len(lines)}" font-family="sans-serif" font-size="13"><rect '
        'width="100%" height="100%" fill="#f4efe4"/>'
        f'<text x="24" y="34" font-size="17">{escape(title)}</text>{rows}</svg>'
    )


def write_ground(
    out: Path,
    build: Build,
    names: dict[str, str],
    options: GroundFiles,
    tell=lambda step, share: None,
    check=lambda: None,
) -> None:
    """Weights and legend always; pictures and texture sets as asked."""
    (out / "materials").mkdir(exist_ok=True)
    for old in (out / "materials").glob("*.png"):
        old.unlink()
    lines = write_weights(out, build, names, options)
    legend = {
        "bits": options.bits,
        "sum": 65535 if options.bits == 16 else 255,
        "row_0": "north",
        "materials": lines,
    }
    if options.picture_px:
        legend["ground"] = write_pictures(out, build, options, tell, check)
    if options.textures:
        write_textures(out, build, names)
    (out / "materials" / "legend.json").write_text(json.dumps(legend, indent=1) + "\n")
    (out / "materials" / "legend.svg").write_text(legend_svg(f"{build.scene.name}: ground", lines))


@exporter(
    "ground",
    "Ground",
    GroundFiles,
    of_weights,
    {"packed": of_packed, "textures": of_textures},
)
def ground_files(grown: Grown, options: GroundFiles) -> None:
    """Weights of the materials with a legend (JSON, and a drawn key)."""
    write_ground(grown.out, grown.build, grown.names, options, grown.tell, grown.check)
