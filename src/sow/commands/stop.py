"""Stop the server and its database."""

import argparse

from ..run import Server
from ._server import with_server


def run(args: argparse.Namespace) -> int:
    """Stops both; what was kept stays."""

    def stop(server: Server) -> None:
        server.stop()
        print("Sow is stopped.")

    return with_server(stop)
