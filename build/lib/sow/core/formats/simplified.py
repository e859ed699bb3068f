"""Meshes with fewer triangles: what is loose loses pieces, all else loses edges."""

import fast_simplification
import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from ..cabinet.mesh import Mesh, smooth_normals


def _islands(mesh: Mesh) -> tuple[int, np.ndarray]:
    """Number of connected pieces of a mesh and the piece of each face, places at one spot taken as
    one.
    """
    _, same = np.unique(mesh.positions.round(5), axis=0, return_inverse=True)
    f = same.reshape(-1)[mesh.faces]
    n = int(f.max()) + 1
    count, label = connected_components(
        coo_matrix(
            (np.ones(2 * len(f)), (np.r_[f[:, 0], f[:, 1]], np.r_[f[:, 1], f[:, 2]])), (n, n)
        ),
        directed=False,
    )
    return count, label[f[:, 0]]


def simplified(mesh: Mesh, share: float) -> Mesh:
    """A mesh with about `share` of its triangles.

    Foliage of many loose pieces loses pieces, the others growing to keep the cover (Cook and others
    2007); all else loses edges by quadrics (Garland & Heckbert 1997), and takes uv and colour from
    the nearest place that was.
    """
    if share >= 1 or len(mesh.faces) < 24:
        return mesh
    count, label = _islands(mesh)
    if count > 30 and len(mesh.faces) < 24 * count:
        order = np.argsort(
            (np.arange(count, dtype=np.uint64) * np.uint64(2654435761)) % np.uint64(2**32),
            kind="stable",
        )
        stays = np.isin(label, order[: max(1, round(count * share))])
        used, faces = np.unique(mesh.faces[stays], return_inverse=True)
        part = np.zeros(len(mesh.positions), np.int64)
        part[mesh.faces] = label[:, None]
        of = part[used]
        middle = (
            np.stack([np.bincount(of, mesh.positions[used, k], count) for k in range(3)], 1)
            / np.maximum(np.bincount(of, minlength=count), 1)[:, None]
        )
        grown = middle[of] + (mesh.positions[used] - middle[of]) * min(share**-0.5, 2.2)
        at = lambda v: None if v is None else v[used]
        return Mesh(
            grown.astype(np.float32),
            mesh.normals[used],
            mesh.uv[used],
            mesh.colour[used],
            faces.reshape(-1, 3).astype(np.uint32),
            at(mesh.leaf),
            at(mesh.surface),
        )
    places, faces = fast_simplification.simplify(
        np.ascontiguousarray(mesh.positions, np.float32),
        np.ascontiguousarray(mesh.faces, np.int32),
        float(1 - share),
    )[:2]
    if not len(faces):
        return mesh
    near = cKDTree(mesh.positions).query(places)[1]
    at = lambda v: None if v is None else v[near]
    return Mesh(
        places.astype(np.float32),
        smooth_normals(places.astype(np.float32), faces),
        mesh.uv[near],
        mesh.colour[near],
        faces.astype(np.uint32),
        at(mesh.leaf),
        at(mesh.surface),
    )
