"""Start all with the sample scenes and print the address."""

import argparse

from ._server import with_server
from .start import arguments, begin

__all__ = ["arguments", "run"]


def run(args: argparse.Namespace) -> int:
    """Starts what is not running and loads the samples that were never loaded."""
    return with_server(lambda server: begin(server, args.host, samples=True))
