"""The Flask application: every route of Sow's API, and the page."""

import html
import re
from pathlib import Path
from urllib.parse import unquote

from flask import Flask, Response, request, send_from_directory
from flask.json.provider import DefaultJSONProvider

from ..store import scenes
from . import routes  # noqa: F401  (registers them)
from .api import install, problem
from .guard import POLICY, Caller, Guard, Slowed

CONTROL = re.compile(r"[\x00-\x1f\x7f]")
A_YEAR_S = 365 * 24 * 3600
PAGE = Path(__file__).resolve().parents[3] / "web" / "dist"
STRANGER = """<!doctype html><html lang="en"><meta charset="utf-8"><title>Sow</title>
<link rel="icon" href="data:,">
<style>body{{margin:12vh auto;max-width:26rem;padding:2rem;background:#f4efe4;color:#23302b;
font:16px/1.5 serif;border:1px solid #23302b}}h1{{margin:0 0 .5rem;font-style:italic;border-bottom:
3px solid #4c6b3c}}input,button{{font:inherit;padding:.3rem .6rem}}</style>
<h1>Sow</h1><p>{}</p>{}</html>"""
FORM = """<form method="post" action="/open"><label>Password <input name="password"
type="password" autofocus autocomplete="current-password"></label> <button>Open</button></form>"""


class InOrder(DefaultJSONProvider):
    """A panel shows settings in the order of their model."""

    sort_keys = False


def asked() -> Caller:
    """The request under way, as the guard looks at it."""
    return Caller(request.method, request.path, {k.lower(): v for k, v in request.headers.items()})


def create_app(database_url: str, guard: Guard) -> Flask:
    """The application on a store, behind a guard.

    Connections are opened for each request and given back after it.
    """
    scenes.open_store(database_url)
    app = Flask("sow", static_folder=None)
    app.json = InOrder(app)

    @app.before_request
    def legible():
        if CONTROL.search(unquote(request.full_path)):
            return problem(404, "Not here", "No address here holds a control character.")
        return None

    @app.before_request
    def admitted():
        if request.path.startswith("/api/") or request.path == "/open":
            refused = guard.refusal(asked())
            entering = request.path == "/open" and refused and refused.status in (401, 415)
            if refused is not None and not entering:
                return problem(refused.status, refused.title, refused.detail, "", refused.advice)
        return None

    @app.before_request
    def connect():
        if request.path.startswith("/api/"):
            scenes.database.connect(reuse_if_open=True)

    @app.after_request
    def told(response):
        for name, value in POLICY.items():
            response.headers.setdefault(name, value)
        return response

    @app.teardown_request
    def give_back(error):
        if not scenes.database.is_closed():
            scenes.database.close()

    install(app)
    _pages(app, guard)
    return app


def _pages(app: Flask, guard: Guard) -> None:
    """The page itself, and how a browser comes to it."""

    def with_key(target: str) -> Response:
        """Sets the key, then lets the page itself go on: a cookie that no other site sends along is
        not sent on the way from another site either.
        """
        go = f'<meta http-equiv="refresh" content="0;url={html.escape(target)}">'
        response = Response(STRANGER.format("Opening…", go), content_type="text/html")
        response.set_cookie(
            guard.cookie_name(asked()),
            guard.key,
            max_age=A_YEAR_S,
            httponly=True,
            samesite="Strict",
            secure=request.is_secure,
        )
        response.headers["Cache-Control"] = "no-store"
        return response

    def stranger(text: str, status: int = 401) -> Response:
        form = FORM if guard.password_hash else ""
        return Response(STRANGER.format(html.escape(text), form), status, content_type="text/html")

    @app.post("/open")
    def open_by_password():
        if not guard.password_hash:
            return stranger("This Sow is opened by the address that ./sow start prints.")
        try:
            right = guard.password_is_right(request.form.get("password", ""))
        except Slowed as e:
            return stranger(f"Too many wrong passwords. Try again in {e.args[0]:.0f} s.", 429)
        return with_key("/") if right else stranger("That is not the password.")

    @app.get("/", defaults={"path": "index.html"})
    @app.get("/<path:path>")
    def page(path):
        if path.startswith("api/"):
            return problem(404, "Not here", f"There is no {path}.")
        if path == "index.html":
            target = guard.entered(request.query_string.decode("latin-1"))
            if target is not None:
                return with_key(target)
            if not guard.knows(asked()):
                return stranger(
                    "This Sow belongs to somebody: give its password."
                    if guard.password_hash
                    else "Open Sow by the address that ./sow start printed, with its key; "
                    "./sow address prints it again."
                )
        longest = A_YEAR_S if path.startswith("assets/") else 0
        return send_from_directory(PAGE, path, max_age=longest)
