"""What stones do to a stream: it heaps up before them, parts, and sheds eddies behind.

The lee behind a blunt thing is some three of its half widths long, and the eddies that part from it
to either side follow one another at five half widths (the street of von Karman 1911, at Strouhal's
number of 0.2); foam gathers where fast and slow water meet.
"""

from dataclasses import dataclass

import numpy as np

ACROSS = 32  # texels over the width
MOST_ROWS = 4000
LEE, STREET = 3.0, 5.0  # half widths: the calm behind, and from eddy to eddy
FADES = 9.0  # half widths over which eddies die away
RUNS = 0.8  # of the stream's speed with which eddies go


@dataclass(frozen=True)
class Eddies:
    """A strip along a stream, float32 (rows, columns, 4), its first row upstream, its columns from
    the left edge to the right: foam 0..1; how much calmer (negative) or rougher the water is; how
    far eddies move it aside (m); and how far they are apart (m). `long_m` is its length.
    """

    strip: np.ndarray
    long_m: float

    def at(self, along: np.ndarray, side: np.ndarray) -> np.ndarray:
        """The four at places: metres along, -1 at the left edge to 1 at the right."""
        rows, columns = self.strip.shape[:2]
        r = np.clip(along / self.long_m * rows - 0.5, 0, rows - 1)
        c = np.clip((side + 1) / 2 * columns - 0.5, 0, columns - 1)
        i, j = np.minimum(r.astype(int), rows - 2), np.minimum(c.astype(int), columns - 2)
        fr, fc = (r - i)[:, None], (c - j)[:, None]
        s = self.strip
        upper = s[i, j] * (1 - fc) + s[i, j + 1] * fc
        lower = s[i + 1, j] * (1 - fc) + s[i + 1, j + 1] * fc
        return upper * (1 - fr) + lower * fr


def lengths(spine: np.ndarray) -> np.ndarray:
    """Metres along the surface of a stream at each of its points."""
    steps = np.linalg.norm(np.diff(spine, axis=0), axis=1)
    return np.concatenate([[0.0], np.cumsum(steps)])


def eddies_of(spine: np.ndarray, fast: np.ndarray, width_m: float, discs: np.ndarray) -> Eddies:
    """The eddies of a stream (points of its surface in m, downstream, and its speed there in m/s)
    around discs (east, north, radius, level).
    """
    at = lengths(spine)
    step = max(width_m / ACROSS, at[-1] / MOST_ROWS)
    rows = max(int(at[-1] / step), 2)
    strip = np.zeros((rows, ACROSS, 4), np.float32)
    strip[..., 3] = 1.0
    side = ((np.arange(ACROSS) + 0.5) / ACROSS - 0.5) * width_m
    ahead = np.gradient(spine[:, :2], axis=0)
    ahead /= np.maximum(np.linalg.norm(ahead, axis=1, keepdims=True), 1e-9)
    for east, north, radius, _ in discs:
        off = np.array([east, north]) - spine[:, :2]
        near = int(np.linalg.norm(off, axis=1).argmin())
        way = ahead[near]
        middle = at[near] + off[near] @ way
        aside = off[near] @ np.array([way[1], -way[0]])
        if abs(aside) > width_m / 2 + radius:
            continue
        first = max(int((middle - 3 * radius) / step), 0)
        last = min(int((middle + 3 * FADES * radius) / step) + 1, rows)
        if last <= first:
            continue
        u = ((np.arange(first, last) + 0.5) * step - middle)[:, None] / radius
        _add(strip[first:last], u, (side - aside)[None, :] / radius, radius, float(fast[near]))
    return Eddies(strip, float(at[-1]))


def _add(part: np.ndarray, u: np.ndarray, v: np.ndarray, radius: float, fast: float) -> None:
    """One stone more; `u` downstream of it and `v` to its right, in half widths."""
    away = np.hypot(u, v)
    strong = np.clip(fast / 1.2, 0, 1)
    heaped = np.exp(-(((away - 1.15) / 0.3) ** 2)) * (u < 0) * strong
    behind = np.clip(u, 0, None)
    fades = np.exp(-behind / FADES) * (u > -0.2)
    wide = 0.16 + 0.07 * behind
    seam = 1.0 + 0.1 * behind
    seams = np.exp(-(((np.abs(v) - seam) / wide) ** 2)) * fades
    lee = (u > 0) * np.clip(1 - u / LEE, 0, 1) * np.exp(-((v / 0.9) ** 4))
    street = np.exp(-((v / (1.2 + 0.2 * behind)) ** 2)) * fades * (1 - np.exp(-behind))
    out = away > 0.9
    part[..., 0] = np.maximum(part[..., 0], strong * (0.75 * seams + 0.5 * heaped) * out)
    part[..., 1] += (0.8 * heaped - 0.75 * lee * strong) * out
    part[..., 1] = np.clip(part[..., 1], -0.8, 1.5)
    moved = 0.45 * radius * street * strong
    ours = moved > part[..., 2]
    part[..., 2] = np.where(ours, moved, part[..., 2])
    part[..., 3] = np.where(ours, STREET * radius, part[..., 3])
