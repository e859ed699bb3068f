"""Triangle meshes of the cabinet: metres, east north up, standing on the origin."""

from dataclasses import dataclass

import numpy as np


@dataclass
class Mesh:
    """float32 positions (n, 3), normals (n, 3), uv (n, 2), colour (n, 3, a linear multiplier) and
    uint32 faces (m, 3).

    `uv` points into the kind's sheet, its origin at the upper left; u < 0 means plain colour
    without the sheet. `leaf` (n,) 0..1 is how much light comes through, none where the kind's
    family tells it; `surface` (n,) numbers the surfaces of a model brought in.
    """

    positions: np.ndarray
    normals: np.ndarray
    uv: np.ndarray
    colour: np.ndarray
    faces: np.ndarray
    leaf: np.ndarray | None = None
    surface: np.ndarray | None = None

    @staticmethod
    def joined(parts: list["Mesh"]) -> "Mesh":
        """Several meshes as one."""
        shift = np.cumsum([0] + [len(p.positions) for p in parts[:-1]])
        cat = lambda name: np.concatenate([getattr(p, name) for p in parts]).astype(np.float32)
        each = lambda name: (
            None
            if all(getattr(p, name) is None for p in parts)
            else np.concatenate(
                [
                    np.zeros(len(p.positions)) if getattr(p, name) is None else getattr(p, name)
                    for p in parts
                ]
            ).astype(np.float32)
        )
        return Mesh(
            cat("positions"),
            cat("normals"),
            cat("uv"),
            cat("colour"),
            np.concatenate([p.faces + s for p, s in zip(parts, shift)]).astype(np.uint32),
            each("leaf"),
            each("surface"),
        )

    @staticmethod
    def of(positions, faces, colour, normals=None, uv=None) -> "Mesh":
        """A mesh of corners (n, 3) in m and faces (m, 3), flat shaded, of one linear colour."""
        positions = np.asarray(positions, np.float32)
        faces = np.asarray(faces, np.uint32).reshape(-1, 3)
        n = len(positions)
        if normals is None:
            normals = smooth_normals(positions, faces)
        if uv is None:
            uv = np.full((n, 2), -1, np.float32)
        return Mesh(
            positions,
            np.asarray(normals, np.float32),
            np.asarray(uv, np.float32),
            np.broadcast_to(np.asarray(colour, np.float32), (n, 3)).copy(),
            faces,
        )

    def moved(self, matrix=None, shift=(0, 0, 0)) -> "Mesh":
        """The mesh shifted, turned and sized."""
        m = np.eye(3) if matrix is None else np.asarray(matrix)
        return Mesh(
            (self.positions @ m.T + shift).astype(np.float32),
            (self.normals @ m.T).astype(np.float32),
            self.uv,
            self.colour,
            self.faces,
            self.leaf,
            self.surface,
        )

    def parted(self) -> "Mesh":
        """Each face cut in four at the middles of its edges; the shape stays."""
        edges = np.sort(
            np.concatenate([self.faces[:, [0, 1]], self.faces[:, [1, 2]], self.faces[:, [2, 0]]]), 1
        )
        ends, which = np.unique(edges, axis=0, return_inverse=True)
        n = len(self.positions)
        m = len(self.faces)
        ab, bc, ca = (which.reshape(-1)[k * m : (k + 1) * m] + n for k in range(3))
        a, b, c = self.faces.T
        faces = np.concatenate(
            [np.c_[a, ab, ca], np.c_[ab, b, bc], np.c_[ca, bc, c], np.c_[ab, bc, ca]]
        )
        both = lambda values: np.concatenate([values, values[ends].mean(1)])
        return Mesh.of(
            both(self.positions),
            faces,
            both(self.colour),
            both(self.normals),
            both(self.uv),
        )


@dataclass
class Part:
    """One stuff of a kind as stills see it near: its mesh; a picture linear float32 (rows, columns,
    3) that repeats by the mesh's uv, or none where faces bring their colours; how much light comes
    `through` (0..1), how `rough` it is, and whether its faces are `flat`. `unit` tells how many
    posts each of the equal pieces has, such as leaves, that it consists of (0: it is one whole);
    `ring` those of each ring of such a piece where it is a twig; `power` that of the share by
    which it thins with distance.
    """

    mesh: Mesh
    picture: np.ndarray | None = None
    through: float = 0.0
    rough: float = 0.9
    flat: bool = False
    unit: int = 0
    ring: int = 0
    power: float = 1.0


def smooth_normals(positions: np.ndarray, faces: np.ndarray) -> np.ndarray:
    """Unit normals at each vertex from the faces about it, float32 (n, 3)."""
    a, b, c = (positions[faces[:, k]] for k in range(3))
    flat = np.cross(b - a, c - a)
    out = np.zeros_like(positions)
    for k in range(3):
        np.add.at(out, faces[:, k], flat)
    return out / np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-12)


def turned(angle: float) -> np.ndarray:
    """Rotation about the upright axis, radians."""
    c, s = np.cos(angle), np.sin(angle)
    return np.array([[c, -s, 0], [s, c, 0], [0, 0, 1.0]])


def frame(direction: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Two unit vectors square to a unit direction."""
    x, y, z = (float(v) for v in direction)
    a, b, c = (y, -x, 0.0) if abs(z) < 0.9 else (0.0, z, -y)
    k = 1 / (a * a + b * b + c * c) ** 0.5
    a = a * k
    b = b * k
    c = c * k
    return np.array((a, b, c)), np.array((b * z - c * y, c * x - a * z, a * y - b * x))


def frames(directions: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Two unit vectors square to each of unit directions (n, 3)."""
    x, y, z = directions.T
    none = np.zeros_like(x)
    level = (np.abs(z) < 0.9)[:, None]
    side = np.where(level, np.stack([y, -x, none], 1), np.stack([none, z, -y], 1))
    side /= np.linalg.norm(side, axis=1, keepdims=True)
    return side, np.cross(side, directions)


def tube(path: np.ndarray, radii: np.ndarray, sides: int, colour, uv_box, repeat_m=1.0) -> Mesh:
    """A tapered tube along a path; its skin is the `uv_box` (u0, v0, u1, v1) of the sheet, mirrored
    along it.
    """
    rings, uvs = [], []
    along = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(path, axis=0), axis=1))])
    for i, p in enumerate(path):
        d = path[min(i + 1, len(path) - 1)] - path[max(i - 1, 0)]
        side, other = frame(d / np.linalg.norm(d))
        a = np.linspace(0, 2 * np.pi, sides + 1)
        rings.append(p + radii[i] * (np.cos(a)[:, None] * side + np.sin(a)[:, None] * other))
        t = abs((along[i] / repeat_m + 1) % 2 - 1)
        uvs.append(
            np.c_[
                uv_box[0] + (uv_box[2] - uv_box[0]) * np.linspace(0, 1, sides + 1),
                np.full(sides + 1, uv_box[1] + (uv_box[3] - uv_box[1]) * t),
            ]
        )
    pos = np.concatenate(rings)
    centre = np.repeat(path, sides + 1, axis=0)
    normals = (pos - centre) / np.maximum(np.repeat(radii, sides + 1)[:, None], 1e-6)
    n = sides + 1
    faces = []
    for i in range(len(path) - 1):
        for k in range(sides):
            at = i * n + k
            faces += [(at, at + 1, at + 1 + n), (at, at + 1 + n, at + n)]
    return Mesh.of(pos, faces, colour, normals, np.concatenate(uvs))


def card(centre, right, up, uv_box, colour, normal) -> Mesh:
    """A flat quad with half-extents `right` and `up` about its centre."""
    centre, right, up = map(np.asarray, (centre, right, up))
    pos = [centre - right - up, centre + right - up, centre + right + up, centre - right + up]
    u0, v0, u1, v1 = uv_box
    return Mesh.of(
        pos,
        [(0, 1, 2), (0, 2, 3)],
        colour,
        np.broadcast_to(normal, (4, 3)),
        [(u0, v1), (u1, v1), (u1, v0), (u0, v0)],
    )


def cards(centres, rights, ups, uv_box, colours, normals) -> Mesh:
    """Many flat quads at once: each of the arrays is (n, 3)."""
    centres, rights, ups = (
        np.asarray(v, np.float32).reshape(-1, 3) for v in (centres, rights, ups)
    )
    n = len(centres)
    pos = np.stack(
        [
            centres - rights - ups,
            centres + rights - ups,
            centres + rights + ups,
            centres - rights + ups,
        ],
        1,
    ).reshape(-1, 3)
    u0, v0, u1, v1 = uv_box
    faces = (np.array([(0, 1, 2), (0, 2, 3)])[None] + 4 * np.arange(n)[:, None, None]).reshape(
        -1, 3
    )
    spread = lambda v: np.repeat(np.asarray(v, np.float32).reshape(n, 3), 4, 0)
    return Mesh(
        pos,
        spread(normals),
        np.tile(np.array([(u0, v1), (u1, v1), (u1, v0), (u0, v0)], np.float32), (n, 1)),
        spread(colours),
        faces.astype(np.uint32),
    )


def far_card(variant: int, width: float, height: float) -> Mesh:
    """The card that faces the eye: x is across, z is up, and its picture is the variant's place in
    the sheet.
    """
    u0, v0 = 0.5 + 0.25 * (variant % 2), 0.5 * (variant // 2)
    e = 1 / 512
    return card(
        (0, 0, height / 2),
        (width / 2, 0, 0),
        (0, 0, height / 2),
        (u0 + e, v0 + e, u0 + 0.25 - e, v0 + 0.5 - e),
        (1, 1, 1),
        (0, -0.4, 0.9),
    )


def icosphere(times: int) -> tuple[np.ndarray, np.ndarray]:
    """Unit sphere directions (n, 3) and faces."""
    g = (1 + 5**0.5) / 2
    v = np.array(
        [
            (-1, g, 0),
            (1, g, 0),
            (-1, -g, 0),
            (1, -g, 0),
            (0, -1, g),
            (0, 1, g),
            (0, -1, -g),
            (0, 1, -g),
            (g, 0, -1),
            (g, 0, 1),
            (-g, 0, -1),
            (-g, 0, 1),
        ]
    )
    v /= np.linalg.norm(v[0])
    f = np.array(
        [
            (0, 11, 5),
            (0, 5, 1),
            (0, 1, 7),
            (0, 7, 10),
            (0, 10, 11),
            (1, 5, 9),
            (5, 11, 4),
            (11, 10, 2),
            (10, 7, 6),
            (7, 1, 8),
            (3, 9, 4),
            (3, 4, 2),
            (3, 2, 6),
            (3, 6, 8),
            (3, 8, 9),
            (4, 9, 5),
            (2, 4, 11),
            (6, 2, 10),
            (8, 6, 7),
            (9, 8, 1),
        ]
    )
    for _ in range(times):
        edges = np.sort(np.concatenate([f[:, [0, 1]], f[:, [1, 2]], f[:, [2, 0]]]), axis=1)
        unique, back = np.unique(edges, axis=0, return_inverse=True)
        back = back.reshape(-1)
        mid = v[unique].mean(1)
        mid /= np.linalg.norm(mid, axis=1, keepdims=True)
        ab, bc, ca = len(v) + back.reshape(3, -1)
        v = np.concatenate([v, mid])
        f = np.concatenate(
            [
                np.c_[f[:, 0], ab, ca],
                np.c_[f[:, 1], bc, ab],
                np.c_[f[:, 2], ca, bc],
                np.c_[ab, bc, ca],
            ]
        )
    return v, f
