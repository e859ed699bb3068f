"""What stands on the stage: bodies with their surfaces, and where copies of them stand."""

from dataclasses import dataclass, field

import numpy as np


@dataclass(frozen=True)
class Surface:
    """How a body takes light.

    `picture` float32 (rows, columns, 3) linear colour, laid by uv with row 0 at v = 0, or None
    where faces bring their own colours; `lean` float32 of the same shape holds normals as 0..1 (x
    along u). `through` 0..1 is the part of the diffuse light that comes through (leaves). `rough`
    0..1, or a picture of it (rows, columns); `mirrors` is whether it reflects as a smooth skin of
    water does; `wet` a picture of how wet it is, 0..1 (rows, columns); `tiles` tells that its
    picture repeats. What `shines` is as `rough` as it says, and a metal or glass as far as `metal`
    and `glass` (0..1) say.
    """

    picture: np.ndarray | None = None
    lean: np.ndarray | None = None
    through: float = 0.0
    rough: float | np.ndarray = 1.0
    mirrors: bool = False
    wet: np.ndarray | None = None
    tiles: bool = False
    metal: float = 0.0
    glass: float = 0.0
    shines: bool = False


@dataclass(frozen=True)
class Body:
    """Triangles in m: positions float32 (n, 3), faces uint32 (m, 3), normals (n, 3) or None where
    it is flat, uv (n, 2) or None, linear colour of each face (m, 3) or None. `of` says what it
    belongs to: "ground", "far land", "water NAME", "card NAME".
    """

    positions: np.ndarray
    faces: np.ndarray
    surface: Surface
    normals: np.ndarray | None = None
    uv: np.ndarray | None = None
    colour: np.ndarray | None = None
    of: str = ""


@dataclass(frozen=True)
class Copies:
    """Bodies that stand together, at many places: matrices float64 (n, 4, 4). `of` says what they
    belong to ("sowing NAME", "piece NAME"), `kind` what they are.
    """

    bodies: list[Body]
    at: np.ndarray
    of: str = ""
    kind: str = ""


@dataclass
class Setting:
    """All that a stage holds: the land and what stands once, copies, and lamps; the middle of the
    plot's ground, and how far the land reaches from it in m.
    """

    bodies: list[Body] = field(default_factory=list)
    copies: list[Copies] = field(default_factory=list)
    lamps: list = field(default_factory=list)
    middle: tuple[float, float, float] = (0.0, 0.0, 0.0)
    reach_m: float = 20_000.0
