"""What gunicorn loads, and how: the application is imported before its worker is forked, so a
worker that dies is followed by a ready one at once.

Nothing is computed before the fork: numba's threads would not outlive it.
"""

import os
import threading

from sow.core.cabinet import grounds

bind = f"127.0.0.1:{os.environ.get('SOW_PORT_NOW', '8420')}"
preload_app = True
worker_class = "gthread"
workers = 1
threads = 24
timeout, graceful_timeout = 0, 2

if "SOW_DATABASE" in os.environ:
    from sow.web.app import create_app

    app = create_app(os.environ["SOW_DATABASE"])


def post_fork(server, worker):
    """The grounds are made ahead, so that the first scene need not wait for them; kinds are made
    when a scene first asks for one.
    """

    def open_drawers():
        for item in grounds.values():
            if item.family == item.name:
                item.maps()

    threading.Thread(target=open_drawers, daemon=True).start()
