"""Routes: the survey, proofs and transects."""

import numpy as np
from flask import Response

from ...core.errors import SceneError
from ...core.formats.section import section_csv, section_svg
from ...core.judge.proof import values, varied
from ...core.judge.reality import reality
from ...core.judge.transect import transect
from ...core.scene import read_scene
from ...core.survey.isoline import isolines
from ...core.survey.sky import sun_line
from ..api import route
from ..pictures import proof_picture
from ..shapes.builds import BuildOrder
from ..shapes.surveys import (
    IsolineQuery,
    MeasureLine,
    ProofOrder,
    SunLineOrder,
    SurveyAnswer,
    SurveyOrder,
    TransectAnswer,
    TransectOrder,
)
from ..shapes.works import ProofChoice, ProofPlan, ProofPlanOrder
from ..surveys import survey_sheet
from ..working import document_of, draw_up, product_field, raw_bytes


@route("POST", "/api/scenes/<int:scene>/surveys", body=SurveyOrder, answer=SurveyAnswer)
def survey_scene(scene, body):
    """One sheet of the survey over the scene, or over a document that is not kept yet."""
    return survey_sheet(document_of(scene, body), body)


@route("POST", "/api/isolines", body=IsolineQuery)
def draw_isolines(body):
    """Isolines of a field: for each line its level, the number of its points, and each point's
    column and row in posts, float32.
    """
    parts = []
    for level, line in isolines(product_field(body.key, body.ny, body.nx), body.levels):
        parts += [np.array((level, len(line)), "<f4"), line.ravel().astype("<f4")]
    data = b"".join(part.tobytes() for part in parts)
    return Response(data, content_type="application/octet-stream")


@route("POST", "/api/sun-lines", body=SunLineOrder)
def draw_sun_line(body):
    """For each post of a field of heights the height above which the sun is seen, float32."""
    heights = product_field(body.key, body.ny, body.nx)
    line = sun_line(heights, body.spacing, np.array(body.sun))
    return Response(raw_bytes(line), content_type="application/octet-stream")


@route("POST", "/api/scenes/<int:scene>/reality", body=BuildOrder, answer=list[MeasureLine])
def check_reality(scene, body):
    """How like real land this land is, measure by measure."""
    build = draw_up(document_of(scene, body))
    found = reality(build.heights, build.grid.spacing)
    return [
        MeasureLine(**{**vars(m), "value": m.value if np.isfinite(m.value) else None}, fits=m.fits)
        for m in found
    ]


@route("POST", "/api/scenes/<int:scene>/proofs", body=ProofOrder)
def draw_proof(scene, body):
    """A small picture (PNG) of a document: one of a proof sheet."""
    return Response(proof_picture(read_scene(body.document), body), content_type="image/png")


@route("POST", "/api/scenes/<int:scene>/proof-plans", body=ProofPlanOrder, answer=ProofPlan)
def plan_proof(scene, body):
    """The settings of an entry that may be varied, and twelve values of one of them."""
    document = document_of(scene, body)
    found = varied(document, body.entry)
    if found is None or not found.settings:
        raise SceneError(
            "There is nothing to vary yet.", "entry", "Choose an entry of the land or a sowing."
        )
    index = min(max(body.setting or 0, 0), len(found.settings) - 1)
    setting = found.settings[index]
    now = document.model_dump(mode="json")
    for step in setting.path:
        now = now[step]
    return ProofPlan(
        owner=found.owner,
        entry=found.entry,
        sowing=found.sowing,
        choices=[
            ProofChoice(path=list(s.path), label=s.label, unit=s.unit, seed=s.seed)
            for s in found.settings
        ],
        setting=index,
        now=now,
        values=values(setting, now, body.middle, body.spread, body.turn),
    )


def _section(scene, body):
    return transect(
        draw_up(document_of(scene, body)),
        tuple(body.line[:2]),
        tuple(body.line[2:]),
        body.samples,
        body.reach_m,
    )


@route("POST", "/api/scenes/<int:scene>/transects", body=TransectOrder, answer=TransectAnswer)
def cut_transect(scene, body):
    """A cross-section along a line."""
    t = _section(scene, body)
    listed = lambda v, digits=3: [round(float(x), digits) for x in v]
    return TransectAnswer(
        length=float(t.along[-1]),
        east=listed(t.east),
        north=listed(t.north),
        height=listed(t.height),
        slope=listed(t.slope, 2),
        water=[None if np.isnan(x) else round(float(x), 3) for x in t.water],
        names=t.names,
        most=t.shares.argmax(0).tolist() if len(t.shares) else [-1] * len(t.along),
        plants=[
            {"along": a, "foot": f, "height": h, "kind": k, "off": o} for a, f, h, k, o in t.plants
        ],
    )


@route("POST", "/api/scenes/<int:scene>/transects.csv", body=TransectOrder)
def transect_csv(scene, body):
    """A cross-section as CSV."""
    return Response(section_csv(_section(scene, body)), content_type="text/csv; charset=utf-8")


@route("POST", "/api/scenes/<int:scene>/transects.svg", body=TransectOrder)
def transect_svg(scene, body):
    """A cross-section as a drawing to scale."""
    document = document_of(scene, body)
    return Response(
        section_svg(
            _section(scene, body),
            draw_up(document).means(),
            body.times,
            f"{document.name}: transect",
        ),
        content_type="image/svg+xml",
    )
