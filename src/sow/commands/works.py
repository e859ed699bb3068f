"""List what can be done to a scene in one deed."""

import argparse

from ..core.works import works


def run(args: argparse.Namespace) -> None:
    """A line for each."""
    for name, work in works.items():
        print(f"{name}: {' '.join(work.help.split())}")
