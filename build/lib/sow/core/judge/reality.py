"""How like real land a land is: measures with the range that is known of real land, and what to
change.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..survey.drainage import flood, gather
from ..survey.slope import slope


@dataclass
class Measure:
    """One measure, its range in real land, and advice when it lies outside.

    `tells` is true of those that tell real from false land.
    """

    name: str
    label: str
    value: float
    low: float
    high: float
    unit: str
    source: str
    advice: str
    tells: bool

    @property
    def fits(self) -> bool:
        """Whether the value lies within that of real land."""
        return bool(np.isfinite(self.value)) and self.low <= self.value <= self.high


# what is known of real land, and what to do about a land that lies outside it
RANGES: dict[str, dict[str, Any]] = {
    "pits": {
        "label": "Part in pits",
        "low": 0,
        "high": 7,
        "unit": "%",
        "source": "real elevation data: under 7",
        "advice": "Many hollows have no way out: add Wear by water, or raise its soil laid.",
        "tells": True,
    },
    "concavity": {
        "label": "Concavity of the slopes",
        "low": 0.2,
        "high": 0.65,
        "unit": "",
        "source": "0.2 to 0.65 over whole maps (Flint 1974; Tucker & Whipple 2002)",
        "advice": "Slopes do not ease as streams gather: more wear by water, or more time.",
        "tells": True,
    },
    "hack": {
        "label": "Hack's exponent",
        "low": 0.48,
        "high": 0.66,
        "unit": "",
        "source": "0.48 to 0.66 (Hack 1957; Rigon and others 1996)",
        "advice": "Valleys are too wound or too straight: "
        "let water wear the land with uneven rock.",
        "tells": True,
    },
    "steepest": {
        "label": "Slope that 95 % stay under",
        "low": 4,
        "high": 45,
        "unit": "°",
        "source": "up to about 42 to 45 in mountains (Burbank and others 1996)",
        "advice": "Too steep to stand: lower the height, or let steep slopes collapse. "
        "Too gentle: raise the height.",
        "tells": True,
    },
    "spectrum": {
        "label": "Slope of the spectrum",
        "low": 1.8,
        "high": 4.5,
        "unit": "",
        "source": "2 to 4 (Turcotte 1992), as a wide band",
        "advice": "Too rough or too smooth in its detail: change the gain of the noise.",
        "tells": False,
    },
    "hypsometry": {
        "label": "Hypsometric integral",
        "low": 0.15,
        "high": 0.7,
        "unit": "",
        "source": "0.2 to 0.65 (Strahler 1952)",
        "advice": "Nearly all lies high or nearly all low: remap it by a curve.",
        "tells": False,
    },
    "forks": {
        "label": "Bifurcation ratio",
        "low": 2.5,
        "high": 6.0,
        "unit": "",
        "source": "3 to 5 (Strahler 1957)",
        "advice": "Streams join in an odd way; more wear by water orders them.",
        "tells": False,
    },
    "channels": {
        "label": "Channel steepness",
        "low": 0.5,
        "high": 500,
        "unit": "m^0.9",
        "source": "about 1 to 400 (Kirby & Whipple 2012)",
        "advice": "Channels are nearly level or walls: change the height.",
        "tells": False,
    },
}


def _fit(x, y) -> float:
    """Slope of a straight line, or NaN."""
    ok = np.isfinite(x) & np.isfinite(y)
    return float(np.polyfit(x[ok], y[ok], 1)[0]) if ok.sum() > 3 and np.ptp(x[ok]) > 0 else np.nan


def spectrum_slope(h: np.ndarray) -> float:
    """Exponent b of the radial power spectrum, power ~ wavelength^b, over the middle of the
    range.
    """
    side = min(h.shape)
    part = h[:side, :side].astype(np.float64)
    y, x = np.mgrid[0:side, 0:side] / (side - 1) - 0.5
    plane = np.linalg.lstsq(
        np.stack([x.ravel(), y.ravel(), np.ones(side * side)], 1), part.ravel(), rcond=None
    )[0]
    part = (
        (part - plane[0] * x - plane[1] * y - plane[2])
        * np.hanning(side)[:, None]
        * np.hanning(side)[None, :]
    )
    power = np.abs(np.fft.fftshift(np.fft.fft2(part))) ** 2
    fy, fx = np.mgrid[0:side, 0:side] - side // 2
    ring = np.hypot(fx, fy).astype(int)
    mean = np.bincount(ring.ravel(), power.ravel()) / np.maximum(np.bincount(ring.ravel()), 1)
    k = np.arange(4, side // 8)
    return -_fit(np.log(k), np.log(mean[k]))


def strahler(filled: np.ndarray, order: np.ndarray, channel: np.ndarray) -> list[int]:
    """Number of streams of each Strahler order (1957) in the channels given, from the steepest way
    down.
    """
    ny, nx = filled.shape
    flat, on = filled.ravel(), channel.ravel()
    receiver = _receivers(filled)
    rank = np.zeros(flat.size, np.int32)
    kids = np.zeros(flat.size, np.int32)
    counts: dict[int, int] = {}
    for i in order[::-1]:
        if not on[i]:
            continue
        if rank[i] == 0:
            rank[i] = 1
        if kids[i] == 0 or kids[i] >= 2:  # a stream of this order begins here
            counts[rank[i]] = counts.get(rank[i], 0) + 1
        j = receiver[i]
        if j != i and on[j]:
            if rank[j] == rank[i]:
                kids[j] += 1
                if kids[j] >= 2:
                    rank[j] += 1
                    kids[j] = 2
            elif rank[j] < rank[i]:
                rank[j], kids[j] = rank[i], 1
    return [counts[k] for k in sorted(counts)]


def _receivers(filled: np.ndarray) -> np.ndarray:
    """Flat index of the steepest lower neighbour of each post, or its own."""
    ny, nx = filled.shape
    index = np.arange(ny * nx).reshape(ny, nx)
    best, out = np.zeros(filled.shape), index.copy()
    pad = np.pad(filled.astype(np.float64), 1, constant_values=np.inf)
    for dr in (-1, 0, 1):
        for dc in (-1, 0, 1):
            if dr or dc:
                drop = (filled - pad[1 + dr : 1 + dr + ny, 1 + dc : 1 + dc + nx]) / np.hypot(dr, dc)
                better = drop > best
                best[better] = drop[better]
                out[better] = (index + dr * nx + dc)[better]
    return out.ravel()


class _Drained:
    """A land with its water running off: what the measures of its form are taken from."""

    def __init__(self, heights: np.ndarray, spacing: float):
        self.spacing = spacing
        self.h = heights.astype(np.float32)
        self.relief = float(np.ptp(self.h))
        self.filled, self.order = flood(self.h)
        self.area = gather(self.filled, self.order, np.full(self.h.shape, spacing * spacing))
        self.steep = slope(self.h, spacing)
        self.inner = np.zeros(self.h.shape, bool)
        self.inner[2:-2, 2:-2] = True
        nx = self.h.shape[1]
        self.receiver = _receivers(self.filled)
        self.index = np.arange(self.h.size)
        across = self.receiver % nx != self.index % nx
        along = self.receiver // nx != self.index // nx
        self.step = np.where(across & along, np.sqrt(2), 1.0) * spacing  # m to the receiver

    def by_class(self, values: np.ndarray, least: float, most: float) -> tuple:
        """Means of the logarithms in 15 classes of contributing area (`least` posts to `most` m²),
        over what is inside, flows and lies in no pit.
        """
        area = self.area.ravel()
        first = least * self.spacing**2
        edges = np.logspace(np.log10(first), np.log10(max(most, 2 * first)), 16)
        pick = np.digitize(area, edges)
        dry = (self.filled - self.h).ravel() < 0.02
        counts = self.inner.ravel() & (values > 0) & (self.receiver != self.index) & dry
        x = np.full(15, np.nan)
        y = np.full(15, np.nan)
        for k in range(1, 16):
            here = (pick == k) & counts
            if here.sum() > 8:
                x[k - 1] = np.log(area[here]).mean()
                y[k - 1] = np.log(values[here].mean())
        return x, y

    def pits(self) -> float:
        """The part of the land that lies in hollows without a way out, %."""
        deep = (self.filled - self.h) > max(0.004 * self.relief, 0.05)
        return 100 * float(deep.mean())

    def concavity_and_steepness(self) -> tuple[float, float]:
        """How the slope of the ways down eases with their area, and how steep they are for it
        (Flint 1974).
        """
        flat = self.filled.ravel()
        down = (flat - flat[self.receiver]) / self.step
        x, y = self.by_class(down, 8, self.area.max() / 2)
        known = np.isfinite(y).any()
        return -_fit(x, y), float(np.exp(np.nanmedian(y + 0.45 * x))) if known else np.nan

    def hack(self) -> float:
        """The exponent of the longest way to a place against what drains there (Hack 1957)."""
        longest = np.zeros(self.h.size)
        for i in self.order[::-1]:
            j = self.receiver[i]
            if j != i and longest[i] + self.step[i] > longest[j]:
                longest[j] = longest[i] + self.step[i]
        return _fit(*self.by_class(longest, 100, self.area.max()))

    def forks(self) -> float:
        """How many streams of one order join to one of the next, the geometric mean."""
        least = max(80 * self.spacing**2, self.h.size * self.spacing**2 / 2500)
        orders = strahler(self.filled, self.order, self.area > least)
        forks = [a / b for a, b in zip(orders, orders[1:]) if b > 1]
        return float(np.exp(np.mean(np.log(forks)))) if forks else np.nan

    def hypsometry(self) -> float:
        """The hypsometric integral: the mean height as a part of the relief."""
        return float((self.h.mean() - self.h.min()) / max(self.relief, 1e-6))

    def steepest(self) -> float:
        """The slope that 95 % of the land stays under, degrees."""
        return float(np.percentile(self.steep[self.inner], 95))


def reality(heights: np.ndarray, spacing: float) -> list[Measure]:
    """The measures of a land (float32 m, posts `spacing` m apart).

    Ranges from the literature named, checked on real elevation data in the tests.
    """
    land = _Drained(heights, spacing)
    concavity, steepness = land.concavity_and_steepness()
    values = {
        "pits": land.pits(),
        "concavity": concavity,
        "hack": land.hack(),
        "steepest": land.steepest(),
        "spectrum": spectrum_slope(land.h),
        "hypsometry": land.hypsometry(),
        "forks": land.forks(),
        "channels": steepness,
    }
    return [Measure(name=name, value=values[name], **RANGES[name]) for name in values]
