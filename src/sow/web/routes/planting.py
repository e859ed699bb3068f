"""planting"""

import json
import re
from typing import Literal

import numpy as np
from flask import Response, request
from pydantic import Field

from ...core.build import COMPUTING
from ...core.cabinet import kinds
from ...core.cabinet.kind import srgb_bytes
from ...core.cabinet.likely import likely
from ...core.formats.plan import plan_pdf, plan_svg
from ...core.formats.positions import Positions
from ...core.formats.schedule import ScheduleLine, counts, schedule_csv
from ...core.judge.faults import Fault, faults
from ...core.judge.tone import toned
from ...core.planting.mix_file import gathered
from ...core.planting.mixes import mixed, mixes
from ...core.works.take_mix import with_mix
from ...sandbox import read
from ...store import parts as kept_parts
from ...store import rasters, scenes, shared
from ..api import route, told_name
from ..pictures import mix_picture
from ..shapes.shape import ApiModel, DocumentOrder, shape_of
from ..shapes.surveys import MixPictureOrder
from ..working import document_of, draw_up
from .ground import PresetLine


class MixAnswer(ApiModel):
    sowings: list[dict]
    marks: list[dict] = Field(
        description="Marks that the sowings need, such as the line of an avenue."
    )
    told: list[str] = Field(description="The bands that were set from the land, in its units.")
    plants: list[int] = Field(description="Forecast for each sowing.")


FaultLine = shape_of(Fault, "FaultLine")


class FaultAnswer(ApiModel):
    faults: list[FaultLine]  # type: ignore[valid-type]
    count: dict[str, int]


class PlacesAnswer(ApiModel):
    places: str = Field(description="The raster that holds them.")
    name: str
    names: list[str]
    counts: list[int]
    likely: list[str] = Field(
        description="For each name the kind of the cabinet that it seems to mean; empty where none "
        "does."
    )
    told: list[str]


class ToneOrder(DocumentOrder):
    """What of a sowing's or a piece's colour is pulled towards another's."""

    entry: str
    towards: str = Field(description="Another sowing or piece, or “ground”: what lies under it.")
    amount: float = Field(100, ge=0, le=100)
    what: list[Literal["hue", "saturation", "lightness"]] = Field(
        ["hue", "saturation", "lightness"], min_length=1
    )


class ToneLine(ApiModel):
    index: int
    tint: str
    bright: float


class ToneAnswer(ApiModel):
    own: str = Field(description="The sowing's mean colour as it shows now.")
    other: str
    pulled: str = Field(description="As it would show.")
    parts: list[ToneLine]


class KeptMix(ApiModel):
    id: str
    name: str
    drawer: str = Field(description="own or shared")
    sowings: list[dict]
    marks: list[dict]


class MixOrder(DocumentOrder):
    """A sowing whose group, or which alone, is gathered as a mix."""

    sowing: str
    drawer: str = Field("own", pattern="^(own|shared)$")


@route("GET", "/api/mixes", answer=list[PresetLine])
def planting_mixes():
    """Ready planting mixes."""
    return [PresetLine(name=p.name, label=p.label, help=p.help) for p in mixes.values()]


@route("POST", "/api/scenes/<int:scene>/mixes/<name>", body=DocumentOrder, answer=MixAnswer)
def planting_mix(scene, name, body):
    """A planting mix with its bands set from this land."""
    if name not in mixes:
        raise scenes.Missing(f"“{name}” among the planting mixes")
    document = document_of(scene, body)
    build = draw_up(document)
    with COMPUTING:
        sowings, marks, told = mixed(name, build.site("planting"))
        plants = draw_up(with_mix(document, sowings, marks)).forecasts()
    return MixAnswer(sowings=sowings, marks=marks, told=told, plants=[round(p) for p in plants])


@route("POST", "/api/scenes/<int:scene>/mix-pictures", body=MixPictureOrder)
def draw_mix(scene, body):
    """A small picture (PNG) of a mix as it stands on this land, seen by a person."""
    return Response(mix_picture(document_of(scene, body), body), content_type="image/png")


@route("POST", "/api/scenes/<int:scene>/faults", body=DocumentOrder, answer=FaultAnswer)
def planting_faults(scene, body):
    """What floats, sinks too deep, stands in one another, or repeats side by side in a shot."""
    build = draw_up(document_of(scene, body))
    with COMPUTING:
        found, count = faults(build)
    return FaultAnswer(faults=[FaultLine(**vars(f)) for f in found], count=count)


@route("GET", "/api/scenes/<int:scene>/schedule", answer=list[ScheduleLine])
def schedule(scene):
    """How many of each kind, per sowing."""
    with COMPUTING:
        return counts(draw_up(document_of(scene)))


def _sent(data, kind: str, name: str) -> Response:
    return Response(
        data, content_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )


@route("GET", "/api/scenes/<int:scene>/schedule.csv")
def schedule_file(scene):
    """The schedule of kinds as CSV."""
    with COMPUTING:
        return _sent(
            schedule_csv(draw_up(document_of(scene))),
            "text/csv; charset=utf-8",
            "schedule.csv",
        )


@route("GET", "/api/scenes/<int:scene>/plan.svg")
def plan_as_svg(scene):
    """The planting plan as SVG."""
    with COMPUTING:
        return _sent(
            plan_svg(draw_up(document_of(scene))),
            "image/svg+xml",
            "planting-plan.svg",
        )


@route("GET", "/api/scenes/<int:scene>/plan.pdf")
def plan_as_pdf(scene):
    """The planting plan as PDF."""
    with COMPUTING:
        return _sent(
            plan_pdf(draw_up(document_of(scene))),
            "application/pdf",
            "planting-plan.pdf",
        )


@route("POST", "/api/scenes/<int:scene>/places", answer=PlacesAnswer)
def read_places(scene):
    """Places from a CSV, GeoJSON points or the named nodes of a GLB, kept for a sowing to stand at;
    the body is the file.
    """
    name = told_name("places", 120)
    plot = document_of(scene).plot.model_dump(mode="json")
    found = Positions(**read("positions", {name: request.get_data(cache=False)}, plot=plot))
    return PlacesAnswer(
        places=rasters.keep(found.table, f"places: {name}").hash,
        name=name,
        names=found.names,
        counts=found.counts(),
        likely=[likely(n, kinds) for n in found.names],
        told=found.told,
    )


NUMBER = re.compile(r"[0-9]{1,9}")


@route("POST", "/api/scenes/<int:scene>/tones", body=ToneOrder, answer=ToneAnswer)
def pull_tones(scene, body):
    """Two sowings or pieces compared in colour, or one with the ground that it stands on, and the
    tints that pull the first towards the other.
    """
    build = draw_up(document_of(scene, body))
    with COMPUTING:
        found = toned(build, body.entry, body.towards, body.amount / 100, body.what)
    code = lambda c: "#{:02x}{:02x}{:02x}".format(*tuple(int(v) for v in srgb_bytes(np.asarray(c))))
    return ToneAnswer(
        own=code(found.own),
        other=code(found.other),
        pulled=code(found.pulled),
        parts=[ToneLine(index=k, tint=t, bright=b) for k, (t, b) in enumerate(found.parts)],
    )


@route("GET", "/api/kept-mixes", answer=list[KeptMix])
def kept_mixes():
    """Planting mixes in the own and in the shared drawer."""
    own = [
        KeptMix(
            id=str(p.id),
            name=p.name,
            drawer="own",
            sowings=p.document["sowings"],
            marks=p.document.get("marks", []),
        )
        for p in kept_parts.of("mix")
    ]
    return own + [
        KeptMix(
            id=m["id"],
            name=m["name"],
            drawer="shared",
            sowings=m["sowings"],
            marks=m.get("marks", []),
        )
        for m in shared.listed()
    ]


@route("POST", "/api/scenes/<int:scene>/kept-mixes", body=MixOrder)
def keep_mix(scene, body):
    """Puts a sowing's group into a drawer as a planting mix."""
    mix = gathered(document_of(scene, body), body.sowing)
    document = mix.document()
    if body.drawer == "own":
        return {"id": str(kept_parts.keep("mix", mix.name, document)), "name": mix.name}
    data = json.dumps(document, indent=1).encode()
    return {"id": shared.put(mix.name, data, shared.MIX), "name": mix.name}


@route("POST", "/api/scenes/<int:scene>/mix-files", body=MixOrder)
def mix_file(scene, body):
    """A sowing's group as a mix file."""
    mix = gathered(document_of(scene, body), body.sowing)
    return Response(json.dumps(mix.document(), indent=1), content_type="application/json")


@route("DELETE", "/api/kept-mixes/<drawer>/<mix>")
def drop_mix(drawer, mix):
    """Takes a planting mix out of a drawer."""
    if drawer == "shared":
        shared.file_of(mix, shared.MIX).unlink()
    elif drawer == "own" and NUMBER.fullmatch(mix):
        kept_parts.drop(int(mix), "mix")
    else:
        raise scenes.Missing(f"planting mix “{mix}” in the drawer “{drawer}”")
    return {"deleted": mix}
