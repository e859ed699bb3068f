"""Routes: builds, their products and their progress."""

from flask import Response, request

from ..api import IMMUTABLE, problem, route
from ..manifest import draft_land, order_build, stop_order
from ..shapes.builds import BuildOrder, LandDraft, Manifest
from ..working import document_of, product_bytes


@route("POST", "/api/scenes/<int:scene>/builds", body=BuildOrder, answer=Manifest)
def build_scene(scene, body):
    """Builds the head, or a document that is not kept yet, and tells where its products are."""
    return order_build(scene, body.client, document_of(scene, body), body.grid == "draft")


@route("POST", "/api/scenes/<int:scene>/land-drafts", body=BuildOrder, answer=LandDraft)
def draft_of_land(scene, body):
    """The land of a document that is not kept yet, before all that lies and stands on it."""
    return draft_land(document_of(scene, body))


@route("DELETE", "/api/scenes/<int:scene>/builds/<client>")
def stop_build(scene, client):
    """Stops the build under way for this page."""
    stop_order(scene, client)
    return {"stopped": True}


@route("GET", "/api/products/<key>")
def get_product(key):
    """A product's bytes; its key is the hash of all that it depends on."""
    if request.headers.get("If-None-Match", "").strip('"') == key:
        return Response(status=304)
    data = product_bytes(key)
    if data is None:
        return problem(410, "Gone", "This product has left the cache.", advice="Build again.")
    kind = "image/png" if data[:4] == b"\x89PNG" else "application/octet-stream"
    return Response(
        data, content_type=kind, headers={"Cache-Control": IMMUTABLE, "ETag": f'"{key}"'}
    )
