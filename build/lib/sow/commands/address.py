"""Print the address that opens the page."""

import argparse

from ._server import with_server


def run(args: argparse.Namespace) -> int:
    """The address with its key."""
    return with_server(lambda server: print(server.opening))
