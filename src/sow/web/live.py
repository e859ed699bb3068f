"""The live channel: server-sent events to every page that shows a scene."""

import contextlib
import json
import queue
import threading

_listeners: dict[int, set[queue.Queue]] = {}
_lock = threading.Lock()


def announce(scene_id: int, event: str, data: dict) -> None:
    """Tells every page that listens to a scene."""
    text = f"event: {event}\ndata: {json.dumps(data)}\n\n"
    with _lock:
        for q in _listeners.get(scene_id, ()):
            # a page that does not listen misses progress, never work
            with contextlib.suppress(queue.Full):
                q.put_nowait(text)


def listen(scene_id: int):
    """Events as they come, with a sign of life every 15 s."""
    q: queue.Queue = queue.Queue(256)
    with _lock:
        _listeners.setdefault(scene_id, set()).add(q)
    try:
        yield "event: hello\ndata: {}\n\n"
        while True:
            try:
                yield q.get(timeout=15)
            except queue.Empty:
                yield ": still here\n\n"
    finally:
        with _lock:
            _listeners[scene_id].discard(q)
