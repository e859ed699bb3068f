"""The Flask application: every route of Sow's API, and the page."""

import os
from pathlib import Path

from flask import Flask, request, send_from_directory
from flask.json.provider import DefaultJSONProvider

from ..store import scenes
from . import routes  # noqa: F401  (registers them)
from .api import install, problem

MOST_UPLOAD = 512 << 20


PAGE = Path(__file__).resolve().parents[3] / "web" / "dist"


class InOrder(DefaultJSONProvider):
    """A panel shows settings in the order of their model."""

    sort_keys = False


def create_app(database_url: str) -> Flask:
    """The application on a store.

    Connections are opened for each request and given back after it.
    """
    scenes.open_store(database_url)
    app = Flask("sow", static_folder=None)
    app.json = InOrder(app)
    app.config["MAX_CONTENT_LENGTH"] = MOST_UPLOAD
    app.config["HOSTS"] = tuple(filter(None, os.environ.get("SOW_HOSTS", "").split(",")))

    @app.before_request
    def connect():
        if request.path.startswith("/api/") and not request.path.endswith("/events"):
            scenes.database.connect(reuse_if_open=True)

    @app.teardown_request
    def give_back(error):
        if not scenes.database.is_closed():
            scenes.database.close()

    install(app)

    @app.get("/", defaults={"path": "index.html"})
    @app.get("/<path:path>")
    def page(path):
        if path.startswith("api/"):
            return problem(404, "Not here", f"There is no {path}.")
        return send_from_directory(
            PAGE, path, max_age=31536000 if path.startswith("assets/") else 0
        )

    return app
