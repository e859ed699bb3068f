"""Routes with their shapes, from which Flask's rules and the OpenAPI description both come."""

import errno
import json
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cache
from typing import Any
from urllib.parse import unquote

from flask import Flask, Response, jsonify, request
from peewee import InterfaceError, OperationalError
from pydantic import BaseModel, TypeAdapter, ValidationError
from werkzeug.exceptions import HTTPException

from ..core.document.text import plain_text
from ..core.errors import Cancelled, SceneError
from ..sandbox import Busy
from ..store import scenes
from ..store.strokes import OutOfOrder
from .shapes.shape import Problem


@dataclass
class Route:
    method: str
    path: str
    call: Callable[..., Any]
    body: type[BaseModel] | None
    answer: Any
    query: tuple[str, ...]
    doc: str


ROUTES: list[Route] = []
PROBLEMS = {
    "4XX": "A problem",
    "503": "The store is not to be reached; nothing was changed",
    "507": "The disk is full; nothing was changed",
}
IMMUTABLE = "private, max-age=31536000, immutable"
DISK_FULL, NO_MEMORY = "53100", "53200"
SUSPECT = re.compile(rb"\\u(0000|[dD][89a-fA-F])|\x00")
LONE = re.compile("[\ud800-\udfff]")


def route(method: str, path: str, body=None, answer=None, query: tuple[str, ...] = ()):
    """Registers a handler.

    It is called with the path's values and, when `body` is given, the checked body. `query` names
    what may stand behind the path, which the handler reads itself.
    """

    def keep(call):
        ROUTES.append(
            Route(method, path, call, body, answer, query, (call.__doc__ or call.__name__).strip())
        )
        return call

    return keep


def told_name(plain: str, longest: int = 200) -> str:
    """The name of a file as the header X-Name tells it, made plain; `plain` when it has none."""
    return plain_text(unquote(request.headers.get("X-Name", "")))[:longest] or plain


def problem(status: int, title: str, detail: str, path: str = "", advice: str = "") -> Response:
    """An error as RFC 9457 has it."""
    body = Problem(title=title, status=status, detail=detail, path=path, advice=advice).model_dump()
    return Response(json.dumps(body), status, content_type="application/problem+json")


def _checked(model: type[BaseModel], data: bytes) -> BaseModel:
    """A request's body by its model.

    Raises ValueError for text that the store cannot keep: NUL, or half of a pair of surrogates.
    """
    body = model.model_validate_json(data)
    if SUSPECT.search(data):
        for text in _texts(json.loads(data)):
            if "\0" in text:
                raise ValueError("A text holds the character NUL, which cannot be kept.")
            if LONE.search(text):
                raise ValueError("A text holds half of a character, which cannot be kept.")
    return body


def _texts(value: Any) -> Iterator[str]:
    """Every text in a plain value, keys too."""
    waiting = [value]
    while waiting:
        held = waiting.pop()
        if isinstance(held, str):
            yield held
        elif isinstance(held, list):
            waiting += held
        elif isinstance(held, dict):
            waiting += held.keys()
            waiting += held.values()


def _not_so(detail: str, path: str = "") -> Response:
    return problem(422, "The request is not as it should be", detail, path, "Nothing was changed.")


def _handler(r: Route):
    def handle(**values):
        if r.body is not None:
            try:
                values["body"] = _checked(r.body, request.get_data() or b"null")
            except ValidationError as e:
                first = e.errors(include_input=False, include_url=False, include_context=False)[0]
                return _not_so(first["msg"], ".".join(map(str, first["loc"])))
            except ValueError as e:
                return _not_so(str(e))
        result = r.call(**values)
        if isinstance(result, Response):
            return result
        if isinstance(result, BaseModel):
            return Response(result.model_dump_json(), content_type="application/json")
        if isinstance(result, list):
            result = [x.model_dump(mode="json") if isinstance(x, BaseModel) else x for x in result]
        return jsonify(result)

    handle.__name__ = r.call.__name__
    return handle


def install(app: Flask) -> None:
    """Gives an application every route, and its errors in words."""
    for r in ROUTES:
        app.add_url_rule(r.path, r.call.__name__, _handler(r), methods=[r.method])

    @app.errorhandler(SceneError)
    def scene_error(e):
        return problem(422, "The scene can't be built so", e.message, e.path, e.advice)

    @app.errorhandler(Busy)
    def busy(e):
        return problem(
            429,
            "Too many files at once",
            "Other files are being read; this one was not taken.",
            advice="Give it again in a moment.",
        )

    @app.errorhandler(Cancelled)
    def cancelled(e):
        return problem(409, "Stopped", "A newer edit took this build's place.")

    @app.errorhandler(scenes.Missing)
    def missing(e):
        return problem(
            404,
            "Not here",
            f"There is no {e.args[0]} here.",
            advice="It may have been deleted in another tab.",
        )

    @app.errorhandler(scenes.Stale)
    def stale(e):
        return problem(
            409,
            "Changed elsewhere",
            "This scene was changed in another tab since.",
            advice="Nothing was lost: reload to see it.",
        )

    @app.errorhandler(OutOfOrder)
    def out_of_order(e):
        return problem(
            409,
            "Not the next part",
            str(e),
            advice="Nothing was kept of it; send the parts of a stroke one after another.",
        )

    @app.errorhandler(OperationalError)
    @app.errorhandler(InterfaceError)
    def lost(e):
        if getattr(getattr(e, "orig", None), "pgcode", None) in (DISK_FULL, NO_MEMORY):
            return no_room(e)
        scenes.database.close_all() if hasattr(scenes.database, "close_all") else None
        return problem(
            503,
            "The store is not to be reached",
            "The database does not answer; nothing was changed.",
            advice="Run ./sow start; the page tries again by itself.",
        )

    @app.errorhandler(OSError)
    def no_room(e):
        if isinstance(e, OSError) and e.errno != errno.ENOSPC:
            raise e
        return problem(
            507,
            "No room on the disk",
            "The disk of the store is full; this change was not kept, and nothing that was "
            "kept before is harmed.",
            advice="Free some room, or prune the history, then do it again.",
        )

    @app.errorhandler(HTTPException)
    def plain(e):
        return problem(e.code, e.name, e.description or e.name)


@cache
def openapi() -> dict:
    """OpenAPI 3.1, from the routes and the pydantic models."""
    paths: dict[str, dict] = {}
    adapters: dict[tuple[str, Any], TypeAdapter] = {}
    for r in ROUTES:
        for shape in (r.body, r.answer):
            if shape is not None:
                adapters[(repr(shape), "serialization" if shape is r.answer else "validation")] = (
                    TypeAdapter(shape)
                )
    inputs = [(key, key[1], adapter) for key, adapter in adapters.items()]
    found, definitions = TypeAdapter.json_schemas(
        inputs, ref_template="#/components/schemas/{model}"
    )
    problem_schema = Problem.model_json_schema()
    for r in ROUTES:
        path = re.sub(r"<(?:\w+:)?(\w+)>", r"{\1}", r.path)
        entry: dict[str, Any] = {
            "summary": r.doc.split("\n")[0],
            "operationId": r.call.__name__,
            "parameters": [
                {
                    "name": name,
                    "in": "path",
                    "required": True,
                    "schema": {"type": "integer" if sort == "int" else "string"},
                }
                for sort, name in re.findall(r"<(?:(\w+):)?(\w+)>", r.path)
            ]
            + [{"name": name, "in": "query", "schema": {"type": "string"}} for name in r.query],
            "responses": {
                code: {
                    "description": description,
                    "content": {
                        "application/problem+json": {
                            "schema": {"$ref": "#/components/schemas/Problem"}
                        }
                    },
                }
                for code, description in PROBLEMS.items()
            }
            | {
                "200": {"description": "Done"},
            },
        }
        if r.body is not None:
            entry["requestBody"] = {
                "content": {
                    "application/json": {
                        "schema": found[(repr(r.body), "validation"), "validation"]
                    }
                }
            }
        if r.answer is not None:
            entry["responses"]["200"]["content"] = {
                "application/json": {
                    "schema": found[(repr(r.answer), "serialization"), "serialization"]
                }
            }
        paths.setdefault(path, {})[r.method.lower()] = entry
    schemas = definitions.get("$defs", {})
    schemas.setdefault("Problem", problem_schema)
    return {
        "openapi": "3.1.0",
        "info": {"title": "Sow", "version": "0.1.0"},
        "paths": paths,
        "components": {"schemas": schemas},
    }
