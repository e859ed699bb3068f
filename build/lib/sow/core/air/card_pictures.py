"""Pictures for cards that ship, drawn by recipe: birds, people, trees far off, and backdrops."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np

from ..errors import SceneError

OVER = 3  # times finer than kept, for smooth edges
Points = list[tuple[float, float]]


@dataclass(frozen=True)
class CardPicture:
    """A recipe: its name in menus, its size in pixels, how it is drawn; its first height and height
    over the ground in m, and for a backdrop how many sides of the plot it stands beyond it.
    """

    label: str
    size: tuple[int, int]
    draw: Callable[[np.ndarray, np.random.Generator], None]
    first: tuple[float, float, float]


def _shape(out: np.ndarray, points: Points, colour: tuple[int, int, int], alpha: int = 255) -> None:
    """A closed shape; places are shares of the picture's width and height, y down."""
    rows, columns = out.shape[:2]
    p = np.array([(x * columns, y * rows) for x, y in points])
    cv2.fillPoly(out, [np.rint(p * 16).astype(np.int32)], (*colour, alpha), cv2.LINE_8, 4)


def _line(columns: int, seed: int, gain: float) -> np.ndarray:
    """A rough line of 0..1: octaves of random heights, each finer one weaker by `gain`."""
    random = np.random.default_rng(seed)
    total = np.zeros(columns)
    for octave in range(8):
        count = 4 * 2**octave + 1
        heights = random.random(count)
        x = np.linspace(0, count - 1, columns)
        total += gain**octave * np.interp(x, np.arange(count), heights)
    return (total - total.min()) / (total.max() - total.min())


def _birds(out: np.ndarray, random: np.random.Generator) -> None:
    for i in range(17):
        along = i - 8
        x = 0.5 + along * 0.05 + random.normal(0, 0.012)
        y = 0.24 + abs(along) * 0.06 + random.normal(0, 0.02)
        s = random.uniform(0.028, 0.036)
        lift = random.uniform(-0.5, 1.0)
        wing = lambda side: [
            (x, y),
            (x + side * s * 0.5, y - s * 0.9 * lift),
            (x + side * s * 1.25, y - s * 0.35 * lift),
            (x + side * s * 0.45, y - s * 0.45 * lift + s * 0.22),
            (x, y + s * 0.35),
        ]
        for side in (-1, 1):
            _shape(out, wing(side), (52, 50, 48))
        body = [(x - s * 0.16, y), (x, y - s * 0.7), (x + s * 0.16, y), (x, y + s * 0.8)]
        _shape(out, body, (44, 42, 40))


def _person(out: np.ndarray, x: float, coat: tuple[int, int, int], stride: float) -> None:
    """Someone seen from far: `stride` is how far the feet are apart, as a share of the width."""
    rows, columns = out.shape[:2]
    w = 0.155 * rows / columns  # half the shoulders
    legs = (46, 44, 46)
    for side in (-1, 1):
        foot = x + side * w * stride
        hip = x + side * w * 0.36
        knee = 0.5 * (hip + foot) + w * 0.06
        _shape(
            out,
            [
                (hip - w * 0.42, 0.5),
                (hip + w * 0.42, 0.5),
                (knee + w * 0.26, 0.74),
                (foot + w * 0.2, 0.965),
                (foot + w * 0.5, 0.99),
                (foot - w * 0.24, 0.99),
                (knee - w * 0.26, 0.74),
            ],
            legs,
        )
        elbow = x + side * w * 1.12
        _shape(
            out,
            [
                (x + side * w * 0.62, 0.185),
                (x + side * w * 0.98, 0.21),
                (elbow + side * w * 0.06, 0.36),
                (x + side * w * (1.0 + 0.3 * stride), 0.5),
                (x + side * w * (0.78 + 0.3 * stride), 0.5),
                (elbow - side * w * 0.34, 0.36),
            ],
            tuple(int(v * 0.86) for v in coat),  # type: ignore[arg-type]
        )
    _shape(
        out,
        [
            (x - w * 0.3, 0.15),
            (x + w * 0.3, 0.15),
            (x + w * 0.86, 0.19),
            (x + w * 0.72, 0.36),
            (x + w * 0.8, 0.54),
            (x - w * 0.8, 0.54),
            (x - w * 0.72, 0.36),
            (x - w * 0.86, 0.19),
        ],
        coat,
    )
    centre = round(x * columns * 16), round(0.09 * rows * 16)
    radii = round(0.042 * rows * 16), round(0.056 * rows * 16)
    skin, hair = (158, 122, 100, 255), (66, 54, 46, 255)
    cv2.ellipse(out, _box(centre, radii), skin, -1, cv2.LINE_8)
    above = centre[0], round(0.068 * rows * 16)
    cv2.ellipse(out, _box(above, (radii[0], round(0.038 * rows * 16))), hair, -1, cv2.LINE_8)


def _box(centre: tuple[int, int], radii: tuple[int, int]) -> tuple:
    """An upright ellipse in sixteenths of a pixel as OpenCV's turned box."""
    return (centre[0] / 16, centre[1] / 16), (radii[0] / 8, radii[1] / 8), 0.0


def _people(out: np.ndarray, random: np.random.Generator) -> None:
    _person(out, 0.22, (124, 74, 56), 0.5)
    _person(out, 0.52, (66, 88, 100), 0.75)
    _person(out, 0.80, (104, 104, 78), 0.36)


def _trees(out: np.ndarray, random: np.random.Generator) -> None:
    for _ in range(26):
        x, tall = random.uniform(0.03, 0.97), random.uniform(0.5, 0.97)
        wide = tall * random.uniform(0.07, 0.1)
        tone = random.uniform(0.75, 1.15)
        colour = tuple(int(v * tone) for v in (54, 66, 46))
        layers = 9
        for k in range(layers):
            top = 1 - tall + tall * k / layers
            reach = wide * (0.12 + 0.95 * k / layers) * random.uniform(0.8, 1.15)
            low = top + tall * 1.7 / layers
            _shape(out, [(x, top), (x + reach, low), (x, low - 0.02), (x - reach, low)], colour)  # type: ignore[arg-type]


def _ridge(
    out: np.ndarray, seed: int, base: float, rise: float, rough: float, colour: tuple
) -> None:
    columns = out.shape[1]
    line = _line(columns, seed, rough)
    points = [(i / (columns - 1), base - rise * v) for i, v in enumerate(line)]
    _shape(out, [*points, (1, 1.01), (0, 1.01)], colour)


def _hills(out: np.ndarray, random: np.random.Generator) -> None:
    for i, colour in enumerate(((134, 148, 156), (112, 126, 128), (92, 106, 98), (76, 90, 76))):
        _ridge(out, 3 + i, 0.45 + 0.15 * i, 0.36 - 0.05 * i, 0.42, colour)
    _soften_foot(out)


def _peaks(out: np.ndarray, random: np.random.Generator) -> None:
    rows, columns = out.shape[:2]
    _ridge(out, 21, 0.78, 0.74, 0.5, (136, 146, 156))
    streaks = cv2.GaussianBlur(
        random.normal(0, 1, (rows, columns)).astype(np.float32), (0, 0), 7, sigmaY=26
    )
    fine = cv2.GaussianBlur(
        random.normal(0, 1, (rows, columns)).astype(np.float32), (0, 0), 2.5, sigmaY=9
    )
    lies = streaks / streaks.std() + 0.5 * fine / fine.std()
    snow = lies > np.linspace(-1.6, 2.6, rows)[:, None]
    shown = out[..., 3] > 0
    out[..., :3][snow & shown] = (222, 228, 236)
    light = np.gradient(cv2.GaussianBlur(lies, (0, 0), 6), axis=1)
    shade = 1 + 0.14 * np.clip(light / light.std(), -1.5, 1.5)[..., None]
    out[..., :3] = np.clip(out[..., :3] * shade, 0, 255).astype(np.uint8)
    _ridge(out, 27, 0.88, 0.2, 0.45, (104, 116, 118))
    _soften_foot(out)


def _forest(out: np.ndarray, random: np.random.Generator) -> None:
    columns = out.shape[1]
    for layer, colour in enumerate(((104, 116, 108), (82, 96, 82), (60, 74, 58))):
        line = _line(columns, 40 + layer, 0.35)
        for x in np.arange(0, 1, 0.007 + 0.003 * layer):
            tall = 0.2 + 0.14 * random.random()
            foot = 0.72 + 0.1 * layer - 0.3 * float(line[int(x * (columns - 1))])
            wide = 0.006 + 0.003 * layer
            _shape(out, [(x, foot - tall), (x + wide, foot), (x - wide, foot)], colour)
        points = [(i / (columns - 1), 0.7 + 0.1 * layer - 0.3 * v) for i, v in enumerate(line)]
        _shape(out, [*points, (1, 1.01), (0, 1.01)], colour)
    _soften_foot(out)


def _soften_foot(out: np.ndarray) -> None:
    rows = out.shape[0]
    fade = np.clip((1 - np.arange(rows) / rows) / 0.08, 0, 1)
    out[..., 3] = (out[..., 3] * fade[:, None]).astype(np.uint8)


PICTURES: dict[str, CardPicture] = {
    "ready-birds": CardPicture("Flock of birds", (512, 256), _birds, (14, 40, 0)),
    "ready-people": CardPicture("People far off", (384, 256), _people, (1.8, 0, 0)),
    "ready-trees": CardPicture("Trees far off", (768, 256), _trees, (16, -0.5, 0)),
    "ready-hills": CardPicture("Backdrop of hills", (1536, 256), _hills, (420, -60, 3)),
    "ready-peaks": CardPicture("Backdrop of peaks", (1536, 384), _peaks, (1100, -60, 5)),
    "ready-forest": CardPicture("Backdrop of forest", (1536, 256), _forest, (90, -10, 0.6)),
}
BACKDROPS = ("ready-hills", "ready-peaks", "ready-forest")


@lru_cache(maxsize=8)
def _drawn(name: str) -> np.ndarray:
    found = PICTURES[name]
    columns, rows = found.size
    fine = np.zeros((rows * OVER, columns * OVER, 4), np.uint8)
    found.draw(fine, np.random.default_rng(len(name)))
    weights = fine[..., 3:].astype(np.float32) / 255
    size = columns, rows
    alpha = cv2.resize(weights, size, interpolation=cv2.INTER_AREA)[..., None]
    colour = cv2.resize(fine[..., :3] * weights, size, interpolation=cv2.INTER_AREA)
    bled = colour / np.maximum(alpha, 1e-3)
    return np.concatenate([np.clip(bled, 0, 255), alpha * 255], -1).round().astype(np.uint8)


def picture_of(name: str, load: Callable[[str], np.ndarray]) -> np.ndarray:
    """A card's picture, sRGB with cover, uint8 (rows, columns, 4): one that ships, or one that
    `load` gives. Raises SceneError.
    """
    if name in PICTURES:
        return _drawn(name)
    sheet = load(name)
    if sheet.dtype != np.uint8 or sheet.shape[1] % 4:
        raise SceneError(
            "What is chosen as a card is a raster of another sort.",
            "air.picture",
            "Bring its picture in again.",
        )
    return sheet.reshape(sheet.shape[0], -1, 4)
