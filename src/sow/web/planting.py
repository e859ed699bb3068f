"""Routes of the planting: mixes, the plan with its schedule, and the fault finder."""
from flask import Response
from pydantic import Field

from ..core.build import COMPUTING
from ..core.formats.plan import counts, plan_pdf, plan_svg, schedule_csv
from ..core.planting.faults import faults
from ..core.planting.presets import mixed, mixes
from ..core.scene import read_scene
from ..store import scenes
from . import builds
from .api import route
from .shapes import Shape


class MixLine(Shape):
    name: str
    label: str
    help: str


class PlantingOrder(Shape):
    document: dict | None = None


class MixAnswer(Shape):
    sowings: list[dict]
    marks: list[dict] = Field(description="Marks that the sowings need, such as the line of an avenue.")
    told: list[str] = Field(description="The bands that were set from the land, in its units.")
    plants: list[int] = Field(description="Forecast for each sowing.")


class FaultLine(Shape):
    what: str = Field(description="floats, deep, cross or twin")
    id: str
    name: str
    east: float
    north: float
    told: str
    mend_cm: float | None = Field(description="The sink that mends a piece.")


class FaultAnswer(Shape):
    faults: list[FaultLine]
    count: dict[str, int]


class ScheduleLine(Shape):
    sowing: str
    kind: str
    label: str
    look: str
    number: int
    per_ha: float
    least_m: float
    greatest_m: float


def _document(scene: int, body=None):
    return read_scene(body.document if body is not None and body.document is not None else scenes.state(scene).document)


@route("GET", "/api/mixes", answer=list[MixLine])
def planting_mixes():
    """Ready planting mixes."""
    return [MixLine(name=p.name, label=p.label, help=p.help) for p in mixes.values()]


@route("POST", "/api/scenes/<int:scene>/mixes/<name>", body=PlantingOrder, answer=MixAnswer)
def planting_mix(scene, name, body):
    """A planting mix with its bands set from this land."""
    if name not in mixes:
        raise scenes.Missing(f"“{name}” among the planting mixes")
    document = _document(scene, body)
    build = builds.draw_up(document)
    with COMPUTING:
        sowings, marks, told = mixed(name, build.site("planting"))
        trial = read_scene({**document.model_dump(mode="json"), "planting": sowings, "marks": [*(m.model_dump(mode="json") for m in document.marks if m.id not in {x["id"] for x in marks}), *marks]})
        plants = builds.draw_up(trial).forecasts()
    return MixAnswer(sowings=sowings, marks=marks, told=told, plants=[round(p) for p in plants])


@route("POST", "/api/scenes/<int:scene>/faults", body=PlantingOrder, answer=FaultAnswer)
def planting_faults(scene, body):
    """What floats, sinks too deep, stands in one another, or repeats side by side in a shot."""
    build = builds.draw_up(_document(scene, body))
    with COMPUTING:
        found, count = faults(build)
    return FaultAnswer(faults=[FaultLine(**vars(f)) for f in found], count=count)


@route("GET", "/api/scenes/<int:scene>/schedule", answer=list[ScheduleLine])
def schedule(scene):
    """How many of each kind, per sowing."""
    with COMPUTING:
        return [ScheduleLine(**c) for c in counts(builds.draw_up(_document(scene)))]


def _sent(data, kind: str, name: str) -> Response:
    return Response(data, content_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})


@route("GET", "/api/scenes/<int:scene>/schedule.csv")
def schedule_file(scene):
    """The schedule of kinds as CSV."""
    with COMPUTING:
        return _sent(schedule_csv(builds.draw_up(_document(scene))), "text/csv; charset=utf-8", "schedule.csv")


@route("GET", "/api/scenes/<int:scene>/plan.svg")
def plan_as_svg(scene):
    """The planting plan as SVG."""
    with COMPUTING:
        return _sent(plan_svg(builds.draw_up(_document(scene))), "image/svg+xml", "planting-plan.svg")


@route("GET", "/api/scenes/<int:scene>/plan.pdf")
def plan_as_pdf(scene):
    """The planting plan as PDF."""
    with COMPUTING:
        return _sent(plan_pdf(builds.draw_up(_document(scene))), "application/pdf", "planting-plan.pdf")
