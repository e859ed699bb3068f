"""The schedule of kinds: how many of each are sown or placed, and their heights; as CSV."""

import csv
import io

import numpy as np
from typing_extensions import TypedDict  # the API describes itself from it

from ..build import Build
from ..cabinet import kind_of
from ..cabinet.dressed import Dressed
from ..document.text import cell
from ..planting.formed import form_of, sizes_of
from .plants import called


class ScheduleLine(TypedDict):
    """A kind of a sowing, or of the pieces by hand."""

    sowing: str
    kind: str
    label: str
    look: str
    number: int
    per_ha: float
    least_m: float
    greatest_m: float


def counts(build: Build) -> list[ScheduleLine]:
    """A line for each kind of each sowing, and for each kind of piece: sowing, kind, number, per
    hectare, least and greatest height (m).
    """
    out: list[ScheduleLine] = []
    area = build.scene.plot.area_m2 / 1e4
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
        tall = [form_of(p).height_m * sizes_of(p)[2] for p in pieces if p["kind"] == kind]
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
                cell(c["sowing"]),
                called(c["kind"]),
                cell(c["label"]),
                Dressed.read(c["look"]).look,
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
                cell(mine[0]["label"]),
                "",
                sum(c["number"] for c in mine),
                f"{sum(c['per_ha'] for c in mine):.2f}",
                f"{min(c['least_m'] for c in mine):.2f}",
                f"{max(c['greatest_m'] for c in mine):.2f}",
            ]
        )
    return file.getvalue()
