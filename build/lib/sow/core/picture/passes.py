"""Passes summed: what has been gathered of a picture so far, kept so that it can go on."""

import json
import os
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

TILE_PX = 1_200_000  # pixels that are followed at a time


@dataclass
class Sums:
    """Light summed over the even and the odd passes apart, float32 (2, height, width, 3): what they
    differ by tells the noise. `depth` is the distance (m) of the first pass, 0 where nothing was
    met. `done` is the number of passes of each tile.
    """

    light: np.ndarray
    depth: np.ndarray
    done: list[int] = field(default_factory=list)

    @staticmethod
    def empty(width: int, height: int) -> "Sums":
        """Nothing gathered yet."""
        light = np.zeros((2, height, width, 3), np.float32)
        return Sums(light, np.zeros((height, width), np.float32), [0] * len(tiles(width, height)))

    def add(self, tile: int, light: np.ndarray, depth: np.ndarray) -> None:
        """Adds the next pass of a tile."""
        height, width = self.depth.shape
        x, y, w, h = tiles(width, height)[tile]
        k = self.done[tile]
        self.light[k % 2, y : y + h, x : x + w] += light
        if k == 0:
            self.depth[y : y + h, x : x + w] = depth
        self.done[tile] = k + 1

    def mean(self) -> np.ndarray:
        """The picture so far, float32 (height, width, 3)."""
        height, width = self.depth.shape
        out = self.light.sum(0)
        for (x, y, w, h), k in zip(tiles(width, height), self.done):
            out[y : y + h, x : x + w] /= max(k, 1)
        return out

    def noise(self, exposure: np.ndarray) -> float | None:
        """What is left of noise, as a part of middle grey's range on the screen (root mean square
        over the tiles that have two passes); None before.
        """
        height, width = self.depth.shape
        errors = []
        for (x, y, w, h), k in zip(tiles(width, height), self.done):
            if k < 2:
                continue
            even, odd = self.light[:, y : y + h, x : x + w]
            a, b = even / ((k + 1) // 2) * exposure, odd / (k // 2) * exposure
            shown = lambda v: np.clip(v, 0, 8) ** 0.4
            errors.append(float(np.mean((shown(a) - shown(b)) ** 2)) / 4)
        return float(np.sqrt(np.mean(errors))) if errors else None

    def write(self, path: Path) -> None:
        """Keeps the sums, whole or not at all."""
        part = path.with_name(path.name + ".part")
        with open(part, "wb") as file:
            head = json.dumps({"shape": self.light.shape, "done": self.done}).encode()
            file.write(len(head).to_bytes(8, "little") + head)
            file.write(self.light.tobytes())
            file.write(self.depth.tobytes())
            file.flush()
            os.fsync(file.fileno())
        part.replace(path)

    @staticmethod
    def read(path: Path, width: int, height: int) -> "Sums":
        """What was kept for a picture of this size; nothing where there is none, or not whole."""
        try:
            data = path.read_bytes()
            size = int.from_bytes(data[:8], "little")
            head = json.loads(data[8 : 8 + size])
            shape = tuple(head["shape"])
            count = int(np.prod(shape))
            light = np.frombuffer(data, np.float32, count, 8 + size).reshape(shape).copy()
            depth = np.frombuffer(data, np.float32, -1, 8 + size + 4 * count)
            sums = Sums(light, depth.reshape(height, width).copy(), list(head["done"]))
            whole = shape == (2, height, width, 3) and len(sums.done) == len(tiles(width, height))
            return sums if whole else Sums.empty(width, height)
        except (OSError, ValueError, KeyError, TypeError):
            return Sums.empty(width, height)


def tiles(width: int, height: int) -> list[tuple[int, int, int, int]]:
    """Left, top, width and height of the parts that a picture is followed in: whole rows."""
    rows = max(1, min(height, TILE_PX // width))
    return [(0, y, width, min(rows, height - y)) for y in range(0, height, rows)]
