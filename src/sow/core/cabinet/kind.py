"""What a drawer of the cabinet holds."""
import functools
import hashlib
import os
import pickle
import tempfile
import threading
from dataclasses import dataclass
from pathlib import Path
from typing import Callable

import numpy as np

from .mesh import Mesh

SHEET = (512, 1024)  # a kind's picture: left half leaves and bark, right half its far cards


@dataclass(frozen=True)
class Shape:
    """One kind made: `levels[variant]` lists meshes from near to far (the last is a card that faces the eye);
    `sheet` is its picture, uint8 (512, 1024, 4); `far_m` the distances at which each next level takes over."""

    levels: list[list[Mesh]]
    sheet: np.ndarray
    far_m: tuple[float, ...]


@dataclass(frozen=True)
class Kind:
    """A plant, stone or figure. `height_m` and `reach_m` (radius on the ground) are those of size 1;
    `colour` is its mean linear colour seen from afar; `cover_m2` the ground that one hides."""

    name: str
    label: str
    family: str
    height_m: float
    reach_m: float
    cover_m2: float
    colour: tuple[float, float, float]
    variants: range
    make: Callable[[], Shape]

    def shape(self) -> Shape:
        return _kept(f"kind-{self.name}", self.make)


@dataclass(frozen=True)
class Ground:
    """A tileable ground: `colour` uint8 (512, 512, 4) sRGB with height in alpha, `detail` uint8 (512, 512, 4)
    with normal east, normal north, roughness and hollow shade; `mean` its mean linear colour."""

    name: str
    label: str
    make: Callable[[], tuple[np.ndarray, np.ndarray]]

    def maps(self) -> tuple[np.ndarray, np.ndarray]:
        return _kept(f"ground-{self.name}", self.make)

    def mean(self) -> np.ndarray:
        return linear(self.maps()[0][..., :3]).mean((0, 1))


kinds: dict[str, Kind] = {}
grounds: dict[str, Ground] = {}


def linear(srgb: np.ndarray) -> np.ndarray:
    """sRGB bytes to linear light, float32 (IEC 61966-2-1)."""
    s = np.asarray(srgb, np.float32) / 255
    return np.where(s <= 0.04045, s / 12.92, ((s + 0.055) / 1.055) ** 2.4)


def srgb_bytes(light: np.ndarray) -> np.ndarray:
    s = np.clip(light, 0, 1)
    s = np.where(s <= 0.0031308, s * 12.92, 1.055 * s ** (1 / 2.4) - 0.055)
    return (s * 255 + 0.5).astype(np.uint8)


@functools.lru_cache(1)
def _stamp() -> str:
    text = b"".join(p.read_bytes() for p in sorted(Path(__file__).parent.glob("*.py")))
    return hashlib.sha256(text).hexdigest()[:16]


_made: dict = {}
_making = threading.Lock()


def _kept(name: str, make: Callable):
    """The recipe's result, from this process, from the cache folder, or made and kept in both. Made once, whoever asks."""
    if name not in _made:
        with _making:
            if name not in _made:
                _made[name] = _from_folder(name, make)
    return _made[name]


def _from_folder(name: str, make: Callable):
    folder = Path(os.environ.get("SOW_CACHE") or Path(tempfile.gettempdir()) / f"sow-cabinet-{os.getuid()}")
    file = folder / f"{name}-{_stamp()}.bin"
    if "SOW_CACHE" in os.environ and file.exists():
        try:
            return pickle.loads(file.read_bytes())
        except Exception:
            file.unlink(missing_ok=True)
    made = make()
    if "SOW_CACHE" in os.environ:
        folder.mkdir(parents=True, exist_ok=True)
        part = file.with_suffix(f".{os.getpid()}")
        part.write_bytes(pickle.dumps(made))
        part.replace(file)
    return made
