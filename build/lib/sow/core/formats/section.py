"""A transect as CSV and as SVG."""

import csv
import io
from xml.sax.saxutils import escape

import numpy as np

from ..cabinet import kind_of
from ..cabinet.kind import srgb_bytes
from ..document.text import cell
from ..judge.transect import Transect


def section_csv(t: Transect) -> str:
    """One row a sample: metres along, east, north, height, slope, water, then the share of each
    material.
    """
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(
        ["along_m", "east_m", "north_m", "height_m", "slope_deg", "water_m", *map(cell, t.names)]
    )
    for i in range(len(t.along)):
        wet = "" if np.isnan(t.water[i]) else f"{t.water[i]:.3f}"
        writer.writerow(
            [
                f"{t.along[i]:.3f}",
                f"{t.east[i]:.3f}",
                f"{t.north[i]:.3f}",
                f"{t.height[i]:.3f}",
                f"{t.slope[i]:.2f}",
                wet,
                *(f"{s:.4f}" for s in t.shares[:, i]),
            ]
        )
    return out.getvalue()


def _colour(linear) -> str:
    return "#{:02x}{:02x}{:02x}".format(*tuple(srgb_bytes(np.asarray(linear, np.float32))))


def section_svg(
    t: Transect, tones: list, times: float = 1.0, title: str = "", width: float = 1200
) -> str:
    """A drawing to scale, heights `times` exaggerated: ground, water, plants at their height, the
    band of materials, a scale in m.

    `tones` are the mean linear colours of the materials.
    """
    scale = width / t.along[-1]
    top = max([float(t.height.max())] + [p[1] + p[2] for p in t.plants])
    low = float(t.height.min())
    tall = (top - low) * scale * times
    x = lambda d: 60 + d * scale
    y = lambda h: 40 + (top - h) * scale * times
    foot = 40 + tall + 30
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width + 100:.0f}" '
        f'height="{foot + 70:.0f}" font-family="sans-serif" font-size="12">',
        '<rect width="100%" height="100%" fill="#f4efe4"/><text x="60" y="22" '
        f'font-size="15">{escape(title)}</text>',
    ]
    for along, at, high, kind, _ in sorted(t.plants, key=lambda p: -abs(p[4])):
        tone = _colour(kind_of(kind).colour)
        spread = max(min(kind_of(kind).reach_m, high * 0.5) * scale, 0.6)
        out.append(
            f'<path d="M{x(along):.1f} {y(at):.1f}V{y(at + high):.1f}" stroke="{tone}" '
            'stroke-width="0.8"/>'
            f'<ellipse cx="{x(along):.1f}" cy="{y(at + high * 0.62):.1f}" rx="{spread:.1f}" '
            f'ry="{high * 0.38 * scale * times:.1f}" fill="{tone}" fill-opacity="0.55"/>'
        )
    wet = ~np.isnan(t.water)
    edges = np.flatnonzero(np.diff(wet.astype(int), prepend=0, append=0))
    for a, b in zip(edges[::2], edges[1::2]):
        top_line = " ".join(f"L{x(t.along[i]):.1f} {y(t.water[i]):.1f}" for i in range(a, b))
        bed = " ".join(
            f"L{x(t.along[i]):.1f} {y(t.height[i]):.1f}" for i in range(b - 1, a - 1, -1)
        )
        out.append(f'<path d="M{top_line[1:]} {bed}Z" fill="#8fb0bd"/>')
    line = " ".join(f"L{x(d):.1f} {y(h):.1f}" for d, h in zip(t.along, t.height))
    out.append(
        f'<path d="M{line[1:]} L{x(t.along[-1]):.1f} {foot:.1f} L{x(0):.1f} {foot:.1f}Z" '
        f'fill="#ddd4bf" stroke="none"/><path d="M{line[1:]}" fill="none" stroke="#23302b" '
        'stroke-width="1.4"/>'
    )
    if len(t.shares):
        most = t.shares.argmax(0)
        cuts = np.flatnonzero(np.diff(most, prepend=-1, append=-1))
        for a, b in zip(cuts[:-1], cuts[1:]):
            m = most[a]
            out.append(
                f'<rect x="{x(t.along[a]):.1f}" y="{foot:.1f}" '
                f'width="{(t.along[min(b, len(most) - 1)] - t.along[a]) * scale:.1f}" '
                'height="10" '
                f'fill="{_colour(tones[m])}"><title>{escape(t.names[m])}</title></rect>'
            )
    step = 10 ** np.floor(np.log10(t.along[-1] / 5))
    for k in range(int(t.along[-1] // step) + 1):
        out.append(
            f'<path d="M{x(k * step):.1f} {foot + 10:.1f}v5" stroke="#23302b"/><text '
            f'x="{x(k * step):.1f}" y="{foot + 28:.1f}" '
            f'text-anchor="middle">{k * step:g}</text>'
        )
    out.append(
        f'<text x="60" y="{foot + 48:.1f}">m along; heights {low:.1f} to '
        f"{float(t.height.max()):.1f} m, drawn {times:g} times</text></svg>"
    )
    return "\n".join(out)
