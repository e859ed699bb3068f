"""The live channel: server-sent events of every scene, to every browser that shows one.

Channels live on the event loop, so that one that waits holds no thread; what is told comes from any
thread.
"""

import asyncio
import contextlib
import json
import threading
from collections.abc import AsyncIterator

MOST_HELD = 256
SIGN_OF_LIFE_S = 15.0

_channels: set["_Channel"] = set()
_lock = threading.Lock()


class _Channel:
    """One browser that listens, on the loop that serves it."""

    def __init__(self) -> None:
        self.loop = asyncio.get_running_loop()
        self.waiting: asyncio.Queue[str] = asyncio.Queue(MOST_HELD)

    def put(self, text: str) -> None:
        # a page that does not listen misses progress, never work
        with contextlib.suppress(asyncio.QueueFull):
            self.waiting.put_nowait(text)


def announce(scene_id: int, event: str, data: dict) -> None:
    """Tells every page of something that happened to a scene."""
    text = f"event: {event}\ndata: {json.dumps({'scene': scene_id, **data})}\n\n"
    with _lock:
        channels = list(_channels)
    for channel in channels:
        with contextlib.suppress(RuntimeError):  # its loop has ended meanwhile
            channel.loop.call_soon_threadsafe(channel.put, text)


def listening() -> int:
    """How many channels are open."""
    with _lock:
        return len(_channels)


async def listen() -> AsyncIterator[str]:
    """Events as they come, with a sign of life now and then."""
    channel = _Channel()
    with _lock:
        _channels.add(channel)
    try:
        yield "event: hello\ndata: {}\n\n"
        while True:
            try:
                yield await asyncio.wait_for(channel.waiting.get(), SIGN_OF_LIFE_S)
            except TimeoutError:
                yield ": still here\n\n"
    finally:
        with _lock:
            _channels.discard(channel)
