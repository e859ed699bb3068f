"""Print where the sun stands, as JSON."""

import argparse
import json

from ..core.air.sun import moment_of, sun_place


def arguments(parser: argparse.ArgumentParser) -> None:
    """A place and a moment."""
    parser.add_argument("latitude", type=float, help="degrees north")
    parser.add_argument("longitude", type=float, help="degrees east")
    parser.add_argument("moment", help="as 2026-06-21T15:00:00+02:00")


def run(args: argparse.Namespace) -> None:
    """Bearing and height in degrees, and what goes with them."""
    place = sun_place(args.latitude, args.longitude, moment_of(args.moment))
    print(json.dumps(vars(place)))
