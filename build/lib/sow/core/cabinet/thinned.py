"""Fewer leaves for what is seen from afar, each as much larger."""

from dataclasses import replace

import numpy as np

from .mesh import Mesh, Part

SEED = 8


def thinned(part: Part, share: float) -> Part:
    """A part with about a share (0..1) of its pieces, spread evenly over it, each larger so that
    their area stays: a leaf in length and breadth about its foot, a twig in thickness alone. A part
    that is one whole stays as it is.

    Method: Cook, Halstead, Planck and Ryu 2007, Stochastic simplification of aggregate detail,
    without its fade of contrast.
    """
    mesh = part.mesh
    pieces = len(mesh.positions) // part.unit if part.unit else 0
    kept = max(1, round(pieces * share))
    if kept >= pieces:
        return part
    rng = np.random.default_rng(SEED)
    some = ((np.arange(kept) + rng.uniform(0, 1, kept)) * pieces / kept).astype(int)
    places = mesh.positions.reshape(pieces, part.unit, 3)[some]
    if part.ring:
        rings = places.reshape(kept, -1, part.ring, 3)
        middle = rings.mean(2, keepdims=True)
        places = middle + (rings - middle) * (pieces / kept)
    else:
        foot = places[:, :1]
        places = foot + (places - foot) * np.sqrt(pieces / kept)
    each = len(mesh.faces) // pieces
    lost = (some - np.arange(kept)) * part.unit
    faces = mesh.faces.reshape(pieces, each, 3)[some].astype(np.int64) - lost[:, None, None]
    of = lambda values: values.reshape(pieces, part.unit, -1)[some].reshape(kept * part.unit, -1)
    colour, normals, uv = of(mesh.colour), of(mesh.normals), of(mesh.uv)
    made = Mesh.of(places.reshape(-1, 3), faces.reshape(-1, 3), colour, normals, uv)
    return replace(part, mesh=made)
