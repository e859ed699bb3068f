"""What the server runs: live channels on the event loop, everything else by Flask in threads.

A connection that waits, is half sent or only listens holds no thread, so that thousands of them
keep nobody from being answered.
"""

import asyncio
import contextlib
import json
import threading
from collections.abc import Awaitable, Callable, MutableMapping
from typing import Any

from a2wsgi import WSGIMiddleware
from flask import Flask

from .guard import POLICY, Caller, Guard, Refusal
from .live import listen
from .shapes.shape import Problem
from .waiting import GONE

Scope = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[dict[str, Any]]]
Send = Callable[[dict[str, Any]], Awaitable[None]]

EVENTS = "/api/events"
THREADS = 24
MOST_UPLOAD = 512 << 20
SLOWEST_BODY_S = 120.0  # a request that is not here whole by then is let go
TOO_LARGE = Refusal(
    413,
    "Too large",
    f"What was sent is more than the {MOST_UPLOAD >> 20} MB that are taken at once.",
    "Make the file smaller, or give it in parts.",
)


class Gateway:
    """The ASGI application over a Flask application and its guard."""

    def __init__(self, app: Flask, guard: Guard) -> None:
        self.guard = guard
        self.pages = WSGIMiddleware(app, workers=THREADS)  # type: ignore[arg-type]

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            return
        headers = {k.decode("latin-1"): v.decode("latin-1") for k, v in scope["headers"]}
        if scope["path"].startswith("/api/"):
            refused = self.guard.refusal(Caller(scope["method"], scope["path"], headers))
            if refused is not None:
                await _refuse(send, refused)
                return
        if scope["path"] == EVENTS and scope["method"] == "GET":
            await _events(receive, send)
            return
        await self._page(scope, headers, receive, send)

    async def _page(self, scope: Scope, headers: dict, receive: Receive, send: Send) -> None:
        """Hands a request to a thread once all of it is here, and tells when nobody waits for the
        answer any more.
        """
        told = headers.get("content-length", "0")
        if not told.isdecimal() or int(told) > MOST_UPLOAD:
            await _refuse(send, TOO_LARGE)
            return
        try:
            whole = await asyncio.wait_for(_body(receive), SLOWEST_BODY_S)
        except (TimeoutError, _Gone):
            return
        if whole is None:
            await _refuse(send, TOO_LARGE)
            return
        if "content-length" not in headers:  # sent in chunks: threads are told how much it was
            scope["headers"] = [*scope["headers"], (b"content-length", b"%d" % len(whole))]
        scope[GONE] = threading.Event()
        watching = asyncio.create_task(_until_gone(receive))
        watching.add_done_callback(lambda _: scope[GONE].set())
        given = asyncio.Event()

        async def again() -> dict[str, Any]:
            if not given.is_set():
                given.set()
                return {"type": "http.request", "body": whole, "more_body": False}
            await watching
            return {"type": "http.disconnect"}

        try:
            await self.pages(scope, again, send)  # type: ignore[arg-type]
        finally:
            watching.cancel()


class _Gone(Exception):
    """The connection ended before all of the request was here."""


async def _body(receive: Receive) -> bytes | None:
    """All of a request's body; None when it is more than is taken."""
    parts: list[bytes] = []
    size = 0
    while True:
        message = await receive()
        if message["type"] == "http.disconnect":
            raise _Gone
        parts.append(message.get("body", b""))
        size += len(parts[-1])
        if size > MOST_UPLOAD:
            return None
        if not message.get("more_body"):
            return b"".join(parts)


async def _events(receive: Receive, send: Send) -> None:
    await _begin(send, 200, "text/event-stream")
    gone = asyncio.create_task(_until_gone(receive))
    telling = asyncio.create_task(_tell(send))
    await asyncio.wait((gone, telling), return_when=asyncio.FIRST_COMPLETED)
    for task in (gone, telling):
        task.cancel()
        with contextlib.suppress(asyncio.CancelledError, OSError):
            await task


async def _refuse(send: Send, refused: Refusal) -> None:
    problem = Problem(
        title=refused.title, status=refused.status, detail=refused.detail, advice=refused.advice
    )
    await _begin(send, refused.status, "application/problem+json")
    body = json.dumps(problem.model_dump()).encode()
    await send({"type": "http.response.body", "body": body})


async def _begin(send: Send, status: int, kind: str) -> None:
    told = {"content-type": kind, "cache-control": "no-store", "x-accel-buffering": "no"}
    headers = [(k.lower().encode(), v.encode()) for k, v in {**POLICY, **told}.items()]
    await send({"type": "http.response.start", "status": status, "headers": headers})


async def _tell(send: Send) -> None:
    async with contextlib.aclosing(listen()) as events:  # type: ignore[type-var]
        async for text in events:
            body = text.encode()
            await send({"type": "http.response.body", "body": body, "more_body": True})


async def _until_gone(receive: Receive) -> None:
    while (await receive())["type"] != "http.disconnect":
        pass
