"""Print the JSON Schema of a scene."""

import argparse
import json

from ..core.scene import schema


def run(args: argparse.Namespace) -> None:
    """All of it, indented."""
    print(json.dumps(schema(), indent=1))
