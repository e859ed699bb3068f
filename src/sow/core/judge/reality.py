"""How like real land a land is: measures with the range that is known of real land, and what to
change.
"""

from dataclasses import dataclass

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


def reality(heights: np.ndarray, spacing: float) -> list[Measure]:
    """The measures of a land (float32 m).

    Ranges from the literature named, checked on real elevation data in the tests.
    """
    h = heights.astype(np.float32)
    filled, order = flood(h)
    relief = float(np.ptp(h))
    single = gather(filled, order, np.full(h.shape, spacing * spacing))
    steep = slope(h, spacing)
    inner = np.zeros(h.shape, bool)
    inner[2:-2, 2:-2] = True
    pits = float(((filled - h) > max(0.004 * relief, 0.05)).mean())

    # the way down from each post: its slope and length
    ny, nx = h.shape
    receiver = _receivers(filled)
    index = np.arange(ny * nx)
    step = (
        np.where((receiver % nx != index % nx) & (receiver // nx != index // nx), np.sqrt(2), 1.0)
        * spacing
    )
    down = (filled.ravel() - filled.ravel()[receiver]) / step
    gathers, dry = single.ravel(), (filled - h).ravel() < 0.02

    def by_class(values, least, most):
        """Means of the logarithms in classes of gathered area, over what is inside, flows and lies
        in no pit.
        """
        edges = np.logspace(
            np.log10(least * spacing**2), np.log10(max(most, 2 * least * spacing**2)), 16
        )
        pick = np.digitize(gathers, edges)
        x, y = np.full(15, np.nan), np.full(15, np.nan)
        for k in range(1, 16):
            here = (pick == k) & inner.ravel() & (values > 0) & (receiver != index) & dry
            if here.sum() > 8:
                x[k - 1], y[k - 1] = np.log(gathers[here]).mean(), np.log(values[here].mean())
        return x, y

    # slope against area over the whole map (Flint 1974)
    xs, ys = by_class(down, 8, gathers.max() / 2)
    concave = -_fit(xs, ys)
    steepness = float(np.exp(np.nanmedian(ys + 0.45 * xs))) if np.isfinite(ys).any() else np.nan

    # length of the longest way to each place against what drains there (Hack 1957)
    longest = np.zeros(ny * nx)
    for i in order[::-1]:
        j = receiver[i]
        if j != i and longest[i] + step[i] > longest[j]:
            longest[j] = longest[i] + step[i]
    hack = _fit(*by_class(longest, 100, gathers.max()))

    channel = single > max(80 * spacing**2, h.size * spacing**2 / 2500)
    orders = strahler(filled, order, channel)
    forks = [a / b for a, b in zip(orders, orders[1:]) if b > 1]
    fork = float(np.exp(np.mean(np.log(forks)))) if forks else np.nan
    hypso = float((h.mean() - h.min()) / max(relief, 1e-6))
    return [
        Measure(
            "pits",
            "Part in pits",
            100 * pits,
            0,
            7,
            "%",
            "real elevation data: under 7",
            "Many hollows have no way out: add Wear by water, or raise its soil laid.",
            True,
        ),
        Measure(
            "concavity",
            "Concavity of the slopes",
            concave,
            0.2,
            0.65,
            "",
            "0.2 to 0.65 over whole maps (Flint 1974; Tucker & Whipple 2002)",
            "Slopes do not ease as streams gather: more wear by water, or more time.",
            True,
        ),
        Measure(
            "hack",
            "Hack's exponent",
            hack,
            0.48,
            0.66,
            "",
            "0.48 to 0.66 (Hack 1957; Rigon and others 1996)",
            "Valleys are too wound or too straight: let water wear the land with uneven rock.",
            True,
        ),
        Measure(
            "steepest",
            "Slope that 95 % stay under",
            float(np.percentile(steep[inner], 95)),
            4,
            45,
            "°",
            "up to about 42 to 45 in mountains (Burbank and others 1996)",
            "Too steep to stand: lower the height, or let steep slopes collapse. Too "
            "gentle: raise the height.",
            True,
        ),
        Measure(
            "spectrum",
            "Slope of the spectrum",
            spectrum_slope(h),
            1.8,
            4.5,
            "",
            "2 to 4 (Turcotte 1992), as a wide band",
            "Too rough or too smooth in its detail: change the gain of the noise.",
            False,
        ),
        Measure(
            "hypsometry",
            "Hypsometric integral",
            hypso,
            0.15,
            0.7,
            "",
            "0.2 to 0.65 (Strahler 1952)",
            "Nearly all lies high or nearly all low: remap it by a curve.",
            False,
        ),
        Measure(
            "forks",
            "Bifurcation ratio",
            fork,
            2.5,
            6.0,
            "",
            "3 to 5 (Strahler 1957)",
            "Streams join in an odd way; more wear by water orders them.",
            False,
        ),
        Measure(
            "channels",
            "Channel steepness",
            steepness,
            0.5,
            500,
            "m^0.9",
            "about 1 to 400 (Kirby & Whipple 2012)",
            "Channels are nearly level or walls: change the height.",
            False,
        ),
    ]
