"""Positions made elsewhere: CSV, GeoJSON points, or the named nodes of a GLB, as places with the
name of what stands there.
"""

import csv
import io
import json
import re
import struct
from dataclasses import dataclass

import numpy as np

from ..document.text import plain_text
from ..errors import SceneError
from ..plot import Plot
from .model_check import tree_of

MOST = 2_000_000
MOST_LINE = 100_000
FAR = 1e8  # m
NAMES = ("name", "kind", "species", "type", "label", "model", "object")
EAST = ("east", "east_m", "x", "easting", "e")
NORTH = ("north", "north_m", "y", "northing", "n")
TURN = ("turn", "turn_deg", "rotation", "rot", "heading", "yaw", "angle")
SIZE = ("size", "scale")


@dataclass
class Positions:
    """`table` float32 (n, 5): number of the name, metres east and north on the plot, turn in
    degrees and size as a multiple (-1 where the file tells none).
    """

    names: list[str]
    table: np.ndarray
    told: list[str]

    def counts(self) -> list[int]:
        """How many places bear each name."""
        return np.bincount(self.table[:, 0].astype(int), minlength=len(self.names)).tolist()


def _refuse(message: str, advice: str) -> SceneError:
    return SceneError(message, "places", advice)


def _number(text) -> float:
    try:
        return float(str(text).strip().replace(",", "."))
    except ValueError:
        return float("nan")


def _csv(data: bytes) -> list[tuple]:
    text = data.decode("utf-8-sig", errors="replace")
    longest = max(map(len, text.split("\n")), default=0)
    if longest > MOST_LINE:
        raise _refuse(
            f"The CSV has a line of {longest:,} characters; lines of up to {MOST_LINE:,} are read.",
            "Give one place a line.",
        )
    first = text.split("\n", 1)[0]
    mark = max(",;\t", key=first.count)
    rows = csv.reader(io.StringIO(text.replace("\0", "")), delimiter=mark, strict=False)
    head = [h.strip().lower() for h in next(rows, [])]
    column = lambda words: next((head.index(w) for w in words if w in head), None)
    name, east, north, turn, size = (column(w) for w in (NAMES, EAST, NORTH, TURN, SIZE))
    if east is None or north is None:
        raise _refuse(
            "The CSV has no columns for east and north; it has: "
            f"{', '.join(h for h in head if h)[:160] or 'none'}.",
            "Call them east and north, or x and y, in metres; a column “name” tells what "
            "stands there.",
        )
    of = lambda row, k: row[k] if k is not None and k < len(row) else ""
    try:
        return _table(rows, of, (name, east, north, turn, size))
    except csv.Error as e:
        raise _refuse(f"The CSV cannot be read: {e}.", "Save it again as plain CSV.") from None


def _table(rows, of, columns) -> list[tuple]:
    name, east, north, turn, size = columns
    return [
        (
            of(r, name).strip(),
            _number(of(r, east)),
            _number(of(r, north)),
            _number(of(r, turn)),
            _number(of(r, size)),
        )
        for r in rows
        if any(c.strip() for c in r)
    ]


def _geojson(data: bytes) -> list[tuple]:
    try:
        document = json.loads(data)
    except (json.JSONDecodeError, UnicodeDecodeError) as e:
        raise _refuse(
            f"This is not GeoJSON: {e}.", "Give points as GeoJSON, a CSV or a GLB."
        ) from None
    try:
        return _points(document)
    except (KeyError, IndexError, TypeError, ValueError, AttributeError):
        raise _refuse(
            "The file is JSON, but its features are not laid out as GeoJSON says (RFC 7946).",
            "Give points as GeoJSON, a CSV or a GLB.",
        ) from None


def _points(document: object) -> list[tuple]:
    out: list[tuple] = []
    features = document.get("features", [document]) if isinstance(document, dict) else []
    for f in features:
        told = {str(k).lower(): v for k, v in (f.get("properties") or {}).items()}
        geometry = f.get("geometry") or f
        points = {"Point": lambda c: [c], "MultiPoint": lambda c: c}.get(
            geometry.get("type"), lambda c: []
        )(geometry.get("coordinates", []))
        of = lambda words: next((told[w] for w in words if w in told), "")
        out += [
            (
                str(of(NAMES)).strip(),
                _number(p[0]),
                _number(p[1]),
                _number(of(TURN)),
                _number(of(SIZE)),
            )
            for p in points
        ]
    return out


def _glb(data: bytes) -> list[tuple]:
    """Named nodes that have no children with names of their own: where their origin comes to
    lie.
    """
    try:
        size = struct.unpack_from("<I", data, 12)[0]
        doc = json.loads(data[20 : 20 + size])
        nodes = doc.get("nodes", [])
        out: list[tuple] = []

        def local(n) -> np.ndarray:
            if "matrix" in n:
                return np.array(n["matrix"], float).reshape(4, 4).T
            m = np.eye(4)
            x, y, z, w = n.get("rotation", (0, 0, 0, 1))
            m[:3, :3] = np.array(
                [
                    [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
                    [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
                    [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
                ]
            ) * np.array(n.get("scale", (1, 1, 1)))
            m[:3, 3] = n.get("translation", (0, 0, 0))
            return m

        stack = [(i, np.eye(4)) for i in tree_of(nodes)]
        while stack:
            i, above = stack.pop()
            n, here = nodes[i], above @ local(nodes[i])
            below = n.get("children", [])
            stack += [(c, here) for c in below]
            if isinstance(n.get("name"), str) and n["name"] and not below and "camera" not in n:
                side = here[:3, 0]
                out.append(
                    (
                        re.sub(r"[._\s-]*\d+$", "", n["name"]).strip(),
                        here[0, 3],
                        -here[2, 3],
                        float(np.degrees(np.arctan2(side[2], side[0])) % 360),
                        float(np.cbrt(abs(np.linalg.det(here[:3, :3])))),
                    )
                )
        return out
    except (KeyError, IndexError, TypeError, ValueError, AttributeError, struct.error) as e:
        raise _refuse(f"The GLB is damaged: {e}.", "Export it again.") from None


def read_positions(data: bytes, name: str, plot: Plot) -> Positions:
    """The places in a file.

    Places whose box lies off the plot are moved so that it is centred on the plot, and this is
    told.

    Raises SceneError ("places") when there are none, or too many.
    """
    lower = name.lower()
    rows = (
        _glb(data)
        if data[:4] == b"glTF"
        else _geojson(data)
        if lower.endswith(("json", ".geojson")) or data.lstrip()[:1] == b"{"
        else _csv(data)
    )
    told: list[str] = []
    good = [r for r in rows if abs(r[1]) < FAR and abs(r[2]) < FAR]
    if len(good) < len(rows):
        told.append(
            f"{len(rows) - len(good):,} lines without two numbers for their place were left out."
        )
    if not good:
        raise _refuse(
            f"“{name}” holds no places.",
            "Give points: a CSV with east and north, GeoJSON points, or a GLB with named nodes.",
        )
    if len(good) > MOST:
        raise _refuse(
            f"“{name}” holds {len(good):,} places; up to {MOST:,} are read.", "Give them in parts."
        )
    good = [(plain_text(r[0])[:80] or "unnamed", *r[1:]) for r in good]
    names = sorted({r[0] for r in good})
    if len(names) > 2000:
        raise _refuse(
            f"“{name}” holds {len(names):,} names.",
            "Let places of one kind share a name; numbers at the end of a node's name are "
            "left out by themselves.",
        )
    at = {n: i for i, n in enumerate(names)}
    table = np.array([(at[r[0]], *r[1:]) for r in good], np.float64)
    east, north = table[:, 1], table[:, 2]
    inside = lambda: (
        (table[:, 1] >= 0)
        & (table[:, 2] >= 0)
        & (table[:, 1] <= plot.width_m)
        & (table[:, 2] <= plot.depth_m)
    )
    if inside().mean() < 0.5 and np.ptp(east) <= plot.width_m and np.ptp(north) <= plot.depth_m:
        table[:, 1] += plot.width_m / 2 - (east.min() + east.max()) / 2
        table[:, 2] += plot.depth_m / 2 - (north.min() + north.max()) / 2
        told.append("They lay off the plot and were moved so that they are centred on it.")
    out = int((~inside()).sum())
    if out:
        told.append(f"{out:,} of them lie off the plot and will not be sown.")
    table[:, 3] = np.where(np.isfinite(table[:, 3]), table[:, 3] % 360, -1)
    table[:, 4] = np.where(np.isfinite(table[:, 4]) & (table[:, 4] > 0), table[:, 4], -1)
    return Positions(names, table.astype(np.float32), told)
