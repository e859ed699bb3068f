"""Whether the one who asked still waits: what is computed for nobody is stopped."""

import threading
from collections.abc import Callable

from flask import has_request_context, request

from ..core.errors import Cancelled

GONE = "sow.gone"  # an event in the scope of a request, set when its connection has ended


def still_wanted() -> Callable[[], None]:
    """A check for the request under way, to be asked from any thread.

    It raises Cancelled once nobody waits for the answer; outside a request it never does.
    """
    event: threading.Event | None = None
    if has_request_context():
        event = request.environ.get("asgi.scope", {}).get(GONE)

    def check() -> None:
        if event is not None and event.is_set():
            raise Cancelled

    return check
