"""Lines with heights from GeoJSON and SVG."""

import io
import json
import re
from collections.abc import Iterator

import numpy as np
from svgelements import SVG, Path, Shape

from ..errors import SceneError
from ..plot import Plot
from .svg_check import check_svg

HEIGHTS = ("elevation", "elev", "ele", "height", "height_m", "z", "contour", "level")


FAR = 1e8  # m: nothing on the Earth lies farther from an origin on it


def _clean(points) -> list[list[float]]:
    out: list[list[float]] = []
    for p in points:
        p = [round(float(p[0]), 3), round(float(p[1]), 3)]
        if not (abs(p[0]) < FAR and abs(p[1]) < FAR):
            raise ValueError("a place that is no number, or beyond all land")
        if not out or out[-1] != p:
            out.append(p)
    return out


def _number(value: object) -> float | None:
    """A height, as a number or as text; None for anything else."""
    if isinstance(value, bool) or not isinstance(value, (int, float, str)):
        return None
    try:
        found = float(value)
    except (ValueError, OverflowError):
        return None
    return found if abs(found) < FAR else None


def _parts(geometry: dict) -> Iterator[list]:
    """The lines and rings of a geometry, those of a collection one after another."""
    waiting = [geometry]
    while waiting:
        held = waiting.pop()
        kind, at = held.get("type"), held.get("coordinates", [])
        if kind == "GeometryCollection":
            waiting += reversed(held.get("geometries", []))
        elif kind == "LineString":
            yield at
        elif kind in ("MultiLineString", "Polygon"):
            yield from at
        elif kind == "MultiPolygon":
            for polygon in at:
                yield from polygon


def _features(document: object, name: str, heights: bool) -> list[dict]:
    lines = []
    features = document.get("features", [document]) if isinstance(document, dict) else []
    for feature in features:
        properties = {str(k).lower(): v for k, v in (feature.get("properties") or {}).items()}
        known = (_number(properties.get(k)) for k in HEIGHTS)
        told = next((v for v in known if v is not None), None)
        for part in _parts(feature.get("geometry") or feature):
            height = told
            if height is None and part and len(part[0]) > 2:
                height = _number(float(np.mean([p[2] for p in part])))
            if height is None and not heights:
                height = 0.0
            if height is None:
                raise SceneError(
                    f"“{name}” has a line without a height.",
                    "file",
                    f"Give each line a property such as “{HEIGHTS[0]}”, or a third coordinate.",
                )
            points = _clean(part)
            if len(points) > 1:
                lines.append({"height_m": float(height), "points": points})
    return lines


def read_geojson(data: bytes, name: str, plot: Plot, heights: bool = True) -> list[dict]:
    """Every line and ring with a height (a property such as "elevation", or a third coordinate), as
    {height_m, points} in plot metres.

    Coordinates that lie within the plot's own metres are kept; others, if in metres, are moved so
    that their box is centred on the plot. Raises SceneError for what is no GeoJSON (RFC 7946).
    """
    try:
        document = json.loads(data)
    except (json.JSONDecodeError, UnicodeDecodeError) as e:
        raise SceneError(f"“{name}” is not GeoJSON: {e}.", "file", "Give a GeoJSON file.") from None
    try:
        lines = _features(document, name, heights)
    except SceneError:
        raise
    except (KeyError, IndexError, TypeError, ValueError, AttributeError):
        raise SceneError(
            f"“{name}” is JSON, but its features are not laid out as GeoJSON says (RFC 7946).",
            "file",
            "Save it again as GeoJSON.",
        ) from None
    return _fitted(lines, name, plot, degrees=True)


def _fitted(lines, name, plot, degrees=False) -> list[dict]:
    if not lines:
        raise SceneError(f"“{name}” holds no lines.", "file", "Give a file with lines.")
    every = np.array([p for line in lines for p in line["points"]])
    low, high = every.min(0), every.max(0)
    if (
        degrees
        and (np.abs(every) <= [180, 90]).all()
        and (high - low).max() < 5
        and plot.longer_m > 50
    ):
        raise SceneError(
            f"“{name}” is in degrees of longitude and latitude.",
            "file",
            "Save it in a projection in metres and bring that in.",
        )
    if (low >= -0.5 * plot.longer_m).all() and (high <= 1.5 * plot.longer_m).all():
        return lines
    shift = np.array([plot.width_m, plot.depth_m]) / 2 - (low + high) / 2
    for line in lines:
        line["points"] = [
            [round(x + shift[0], 3), round(y + shift[1], 3)] for x, y in line["points"]
        ]
    return lines


def read_svg(data: bytes, name: str, plot: Plot, heights: bool = True) -> list[dict]:
    """Every path of an SVG, its picture stretched over the plot; heights from `data-height`, or a
    number in the path's id or label.
    """

    check_svg(data, name)
    try:
        svg = SVG.parse(io.BytesIO(data))
    except Exception as e:
        raise SceneError(
            f"“{name}” is not an SVG that can be read ({str(e)[:80]}).",
            "file",
            "Save it as plain SVG.",
        ) from None
    lines: list[dict] = []
    width = float(svg.width or 0) or 100.0
    height = float(svg.height or 0) or 100.0
    for element in svg.elements():
        if not isinstance(element, Shape):
            continue
        values = element.values
        told = (
            values.get("data-height")
            or next((v for k, v in values.items() if str(k).endswith("label")), None)
            or values.get("id")
            or ""
        )
        number = re.search(r"-?[0-9]{1,9}(?:\.[0-9]{1,9})?", str(told))
        if not number and heights:
            raise SceneError(
                f"“{name}” has a path without a height.",
                "file",
                "Give each path an attribute data-height, or a number in its id, such as “h120”.",
            )
        for part in Path(element).as_subpaths():
            path = Path(part)
            length = path.length(error=1e-3)
            if not length:
                continue
            n = max(2, min(400, int(length / max(width, height) * 160) + 2))
            at = [path.point(t) for t in np.linspace(0, 1, n)]
            points = _clean(
                [p.x / width * plot.width_m, plot.depth_m * (1 - p.y / height)] for p in at
            )
            if len(points) > 1:
                lines.append(
                    {"height_m": float(number.group()) if number else 0.0, "points": points}
                )
    if not lines:
        raise SceneError(f"“{name}” holds no lines.", "file", "Give a file with paths.")
    return lines


def read_contours(data: bytes, name: str, plot: Plot, heights: bool = True) -> list[dict]:
    """Contours from GeoJSON or SVG, told apart by content.

    Without `heights` lines need none, and have 0.
    """
    head = data[:400].lstrip()
    return (read_svg if head.startswith(b"<") else read_geojson)(data, name, plot, heights)
