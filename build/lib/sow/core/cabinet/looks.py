"""Looks: what the seasons, death and fire make of a plant. Recipes ask here for their leaf colours;
meshes are coloured anew here.
"""

import numpy as np

from .mesh import Mesh

LOOKS = ("spring", "summer", "autumn", "winter", "snow", "dead", "burnt")
BARE = {"winter", "snow", "dead", "burnt"}
# young leaves hold about a half of the chlorophyll of full ones (Gitelson & Merzlyak 1994: how a
# maple's and a chestnut's reflectance near 550 and 700 nm follows it)
YOUNG = (1.7, 1.55, 0.95)
STRAW, RUST, CHAR, SNOW = (
    np.array(c)
    for c in ((0.36, 0.285, 0.14), (0.22, 0.1, 0.03), (0.016, 0.015, 0.014), (0.82, 0.85, 0.9))
)


def leaf_colour(colour, look: str, autumn=None, evergreen: bool = False) -> tuple:
    """The linear colour of foliage in a look; `autumn` is the kind's own, else a yellow brown."""
    c = np.asarray(colour, float)
    if look == "spring":
        c = c * (YOUNG if not evergreen else (1.1, 1.15, 1))
    elif look == "autumn" and not evergreen:
        c = np.asarray(autumn if autumn is not None else c.sum() * np.array((1.35, 0.75, 0.12)))
    elif look in ("winter", "snow") and evergreen:
        c = c * (0.95, 0.85, 0.9)
    elif look == "dead":
        c = 0.35 * c + 0.65 * RUST * 0.8
    elif look == "burnt":
        c = CHAR * 1.4
    return tuple(c)


def held(look: str, evergreen: bool = False) -> float:
    """The share of the leaves that a woody plant still holds."""
    if evergreen:
        return {"dead": 0.3, "burnt": 0.06}.get(look, 1.0)
    return {
        "spring": 0.65,
        "autumn": 0.75,
        "winter": 0.0,
        "snow": 0.0,
        "dead": 0.04,
        "burnt": 0.0,
    }.get(look, 1.0)


def herb(mesh: Mesh, look: str) -> Mesh:
    """Grasses, herbs and ferns, whose colour lies in their vertices: fresh, gone to straw, rusted,
    or charred; those that fall in winter lie lower.
    """
    c = mesh.colour
    if look == "spring":
        c = c * np.array((0.82, 1.12, 0.9))
    elif look == "autumn":
        c = c * 0.5 + 0.5 * c.sum(1, keepdims=True) / 0.6 * STRAW
    elif look in ("winter", "snow", "dead"):
        c = (
            c.sum(1, keepdims=True)
            / 0.5
            * (STRAW if look != "dead" else 0.6 * STRAW + 0.4 * RUST)
            * 0.8
        )
    elif look == "burnt":
        c = CHAR * (0.6 + 2.2 * c.sum(1, keepdims=True))
    out = Mesh(mesh.positions, mesh.normals, mesh.uv, np.asarray(c, np.float32), mesh.faces)
    fallen = {"winter": 0.62, "snow": 0.5, "dead": 0.75, "burnt": 0.45}.get(look)
    if fallen:
        out.positions = out.positions * np.array((1.12, 1.12, fallen), np.float32)
    return snowed(out, 0.4) if look == "snow" else out


def snowed(mesh: Mesh, depth: float = 0.75, under: float = 1.0) -> Mesh:
    """Snow on all that faces up. `under` is the mean of the picture that the colour multiplies."""
    up = np.clip((mesh.normals[:, 2:3] - 0.25) / 0.5, 0, 1) * depth
    mesh.colour = (mesh.colour * (1 - up) + SNOW / under * up).astype(np.float32)
    return mesh


def charred(mesh: Mesh) -> Mesh:
    """A mesh and a sheet as fire leaves them."""
    mesh.colour = (mesh.colour * np.array((0.16, 0.15, 0.15))).astype(np.float32)
    return mesh
