"""Routes: what each list offers, and the works on a scene."""

from ...core.hand.stroke import Brush, first_brush
from ...core.judge.forecast import plot_cost
from ...core.scene import Scene
from ...core.works import do
from ...core.works.offering import context_of, offers, rule_offers
from ...core.works.plot import new_scene
from ..api import route
from ..kinds import fixed
from ..offer_pictures import offer_picture, pictured
from ..shapes.scenes import NewPlotOrder, PlotCost, PlotOrder
from ..shapes.works import OfferLine, WorkAnswer, WorkOrder
from ..working import WORK, Stored, document_of


@route("GET", "/api/offers/<name>", answer=list[OfferLine])
def list_offers(name):
    """What a list of a scene offers to add ("land", "far", "water", "ground", "planting")."""
    return [
        OfferLine(
            key=o.key, label=o.label, note=o.note, group=o.group, pictured=pictured(name, o.key)
        )
        for o in offers(name)
    ]


@route("GET", "/api/offers/<name>/<key>.png")
def draw_offer(name, key):
    """A small picture of what an offer makes."""
    return fixed(offer_picture(name, key), "image/png")


@route("GET", "/api/rules/<stage>", answer=list[OfferLine])
def list_rules(stage):
    """The rules that a where-list of a stage may take."""
    return [
        OfferLine(key=key, label=label, note=note, group="", pictured=False)
        for key, label, note in rule_offers(stage)
    ]


@route("GET", "/api/scenes/<int:scene>/offers/<name>")
def first_values(scene, name):
    """Complete first values of everything that a list of this scene offers, by key."""
    document = document_of(scene)
    context = context_of(document, name)
    return {o.key: o.values(context) for o in offers(name)}


@route("POST", "/api/scenes/<int:scene>/works/<name>", body=WorkOrder, answer=WorkAnswer)
def do_work(scene, name, body):
    """Does a work on a document, such as a row of pieces; what it gives is not kept yet."""
    done = do(name, document_of(scene, body), body.values, WORK, Stored())
    return WorkAnswer(
        document=done.document,
        label=done.label,
        chosen=done.chosen,
        told=done.told,
        several=done.several,
    )


@route("POST", "/api/plot-costs", body=PlotOrder, answer=PlotCost)
def cost_of_plot(body):
    """What a plot of this size and grid costs in full."""
    return PlotCost(**vars(plot_cost(body.width_m, body.depth_m, body.posts)))


@route("POST", "/api/new-documents", body=NewPlotOrder, answer=Scene)
def new_document(body):
    """The document of a new scene on a plot."""
    return new_scene(body.name, body.plot, body.rolling)


@route("GET", "/api/scenes/<int:scene>/brush", answer=Brush)
def brush_at_first(scene):
    """First values of the brush, whose sizes suit the scene's plot."""
    return first_brush(document_of(scene).plot)
