"""What the server runs: live channels on the event loop, everything else by Flask in threads.

A connection that waits, is half sent or only listens holds no thread, so that thousands of them
keep nobody from being answered.
"""

import asyncio
import contextlib
import json
from collections.abc import Awaitable, Callable, MutableMapping
from typing import Any

from a2wsgi import WSGIMiddleware
from flask import Flask

from .guard import POLICY, Asked, Guard
from .live import listen
from .shapes.shape import Problem

Scope = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[dict[str, Any]]]
Send = Callable[[dict[str, Any]], Awaitable[None]]

EVENTS = "/api/events"
THREADS = 24


class Site:
    """The ASGI application over a Flask application and its guard."""

    def __init__(self, app: Flask, guard: Guard) -> None:
        self.guard = guard
        self.pages = WSGIMiddleware(app, workers=THREADS)  # type: ignore[arg-type]

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            return
        if scope["path"] == EVENTS and scope["method"] == "GET":
            await self._events(scope, receive, send)
        else:
            await self.pages(scope, receive, send)  # type: ignore[arg-type]

    async def _events(self, scope: Scope, receive: Receive, send: Send) -> None:
        headers = {k.decode("latin-1"): v.decode("latin-1") for k, v in scope["headers"]}
        refused = self.guard.refusal(Asked("GET", EVENTS, headers))
        if refused is not None:
            problem = Problem(
                title=refused.title,
                status=refused.status,
                detail=refused.detail,
                advice=refused.advice,
            )
            body = json.dumps(problem.model_dump()).encode()
            await _begin(send, refused.status, "application/problem+json")
            await send({"type": "http.response.body", "body": body})
            return
        await _begin(send, 200, "text/event-stream")
        gone = asyncio.create_task(_until_gone(receive))
        telling = asyncio.create_task(_tell(send))
        await asyncio.wait((gone, telling), return_when=asyncio.FIRST_COMPLETED)
        for task in (gone, telling):
            task.cancel()
            with contextlib.suppress(asyncio.CancelledError, OSError):
                await task


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
