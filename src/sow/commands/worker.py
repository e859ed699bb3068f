"""Do frames and tiles that a scheduler hands out."""

import argparse
import contextlib

from ..workers.join import work


def arguments(parser: argparse.ArgumentParser) -> None:
    """The scheduler's address."""
    parser.add_argument("address", help="as tcp://192.168.0.5:8786")


def run(args: argparse.Namespace) -> None:
    """Until the scheduler or this is ended."""
    with contextlib.suppress(KeyboardInterrupt):
        work(args.address)
