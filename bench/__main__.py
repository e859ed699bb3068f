"""Benchmarks as medians and ratios measured in one run, so that the machine's mood cancels out."""

import argparse
import json
import resource
import sys
from pathlib import Path

from bench.first_use import first_use
from bench.ground import drawn, ground
from bench.grow import grow
from bench.hand import strokes
from bench.kinds import kinds
from bench.land import drag, drainage, gdal_slope, noise, slope, wear
from bench.light import light
from bench.load import load
from bench.planting import density, placing
from bench.stills import stills
from bench.tiles import tiles
from bench.view import view
from bench.water import water
from bench.whole import demo, history, large, memory

ALL = {
    f.__name__: f
    for f in (
        noise,
        slope,
        gdal_slope,
        drainage,
        placing,
        density,
        wear,
        drag,
        ground,
        drawn,
        strokes,
        history,
        large,
        demo,
        memory,
        view,
        grow,
        first_use,
        light,
        kinds,
        stills,
        tiles,
        water,
        load,
    )
}


def _line(r: dict) -> str:
    """A row as it is printed; one of counts has no seconds."""
    if not r["unit"] and not r["seconds"]:
        return r["name"]
    ratio = "" if r["ratio"] is None else f"{r['ratio']:8.2f} {r['unit']} ({r['against']})"
    return f"{r['name']:<44}{r['seconds']:>10.4f} s {ratio}"


def main() -> int:
    parser = argparse.ArgumentParser(prog="sow bench", description=__doc__)
    parser.add_argument("--json", type=Path, metavar="FILE", help="also write the rows as JSON")
    parser.add_argument("--only", choices=ALL, metavar="NAME", help=f"one of {', '.join(ALL)}")
    args = parser.parse_args()
    rows = []
    for name, work in ALL.items():
        if args.only in (None, name):
            for r in work():
                rows.append(r)
                print(_line(r), flush=True)
    if args.json:
        args.json.write_text(
            json.dumps(
                [{k: r[k] for k in ("name", "seconds", "against", "ratio")} for r in rows], indent=1
            )
            + "\n"
        )
    print(
        "peak memory of this run: "
        f"{resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB"
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
