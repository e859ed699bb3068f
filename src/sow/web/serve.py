"""What gunicorn loads, and how: the application is imported before its worker is forked, so a
worker that dies is followed by a ready one at once.

Nothing is computed before the fork: numba's threads would not outlive it. One worker serves all, on
an event loop with threads for what computes, since builds share their cache and their cores.
"""

import resource
import threading

from uvicorn_worker import UvicornWorker

from sow.core.cabinet import grounds
from sow.core.settings import settings
from sow.launch import die_with_parent
from sow.sandbox import warm
from sow.warm import read_kernels


class Worker(UvicornWorker):
    """The event loop, as Sow runs it."""

    CONFIG_KWARGS = {  # noqa: RUF012  (uvicorn's own way of setting them)
        "loop": "asyncio",
        "http": "httptools",
        "lifespan": "off",
        "timeout_keep_alive": 30,
        "server_header": False,
        "h11_max_incomplete_event_size": 64 << 10,
    }


told = settings()
bind = f"{told.host_now}:{told.port_now}"
preload_app = True
worker_class = "sow.web.serve.Worker"
workers = 1
timeout, graceful_timeout = 0, 2
umask = 0o077

if told.database:
    from sow.web.app import create_app
    from sow.web.asgi import Gateway
    from sow.web.guard import Guard
    from sow.web.jobs import queue
    from sow.web.routes.catalogue import registers

    guard = Guard(
        key=told.key,
        hosts=tuple(filter(None, told.hosts.split(","))),
        remote=told.host_now != "127.0.0.1",
        password_hash=told.password_hash,
    )
    app = Gateway(create_app(told.database, guard), guard)


def post_fork(server, worker):
    """Compiled kernels are read from their files. The grounds are made ahead, so that the first
    scene need not wait for them; kinds are made when a scene first asks for one. The process that
    reads files is begun, and as many connections are allowed as the system lets.
    """
    most = resource.getrlimit(resource.RLIMIT_NOFILE)[1]
    die_with_parent()  # however that ends: two servers must not take the same jobs
    resource.setrlimit(resource.RLIMIT_NOFILE, (min(most, 65_536), most))
    read_kernels()  # by itself: nothing else computes yet
    warm()
    if told.database:
        queue()  # goes on with the jobs that were left
        threading.Thread(target=registers, daemon=True).start()

    def open_drawers():
        for item in grounds.values():
            if item.family == item.name:
                item.maps()

    threading.Thread(target=open_drawers, daemon=True).start()
