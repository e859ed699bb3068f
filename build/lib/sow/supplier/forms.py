"""Rods, boxes and stones that the supplier's kinds are put together from, and their GLB."""

import numpy as np
import trimesh
from PIL import Image


def glb(parts: list[tuple[trimesh.Trimesh, tuple]], picture: np.ndarray | None = None) -> bytes:
    """Meshes with their sRGB colours, or with one picture over all, as a GLB with y up."""
    scene = trimesh.Scene()
    turned = trimesh.transformations.rotation_matrix(-np.pi / 2, (1, 0, 0))
    for i, (mesh, colour) in enumerate(parts):
        mesh = mesh.copy()
        mesh.apply_transform(turned)
        factor = [
            *(round(255 * (c / 255) ** 2.2) for c in colour),
            255,
        ]  # glTF's factors are linear
        if picture is None:
            material = trimesh.visual.material.PBRMaterial(
                name=f"part {i}", baseColorFactor=factor, metallicFactor=0.0, roughnessFactor=0.9
            )
            mesh.visual = trimesh.visual.TextureVisuals(material=material)
        else:
            material = trimesh.visual.material.PBRMaterial(
                name="surface",
                baseColorTexture=Image.fromarray(picture),
                alphaMode="MASK" if picture.shape[2] == 4 else "OPAQUE",
                metallicFactor=0.0,
                roughnessFactor=0.9,
            )
            mesh.visual = trimesh.visual.TextureVisuals(uv=mesh.metadata["uv"], material=material)
        scene.add_geometry(mesh, geom_name=f"part {i}", node_name=f"part {i}")
    return scene.export(file_type="glb")


def rod(a, b, r, sides=8, rings=2) -> trimesh.Trimesh:
    """A rod from a to b."""
    a, b = np.asarray(a, float), np.asarray(b, float)
    t = np.linspace(0, 1, rings)[:, None]
    return along(a + t * (b - a), r, sides)


def along(path: np.ndarray, r: float, sides: int) -> trimesh.Trimesh:
    """A rod along a path, its ends closed."""
    d = np.gradient(path, axis=0)
    d /= np.linalg.norm(d, axis=1, keepdims=True)
    side = np.cross(d, (0.3, 0.2, 0.93))
    side /= np.maximum(np.linalg.norm(side, axis=1, keepdims=True), 1e-9)
    other = np.cross(d, side)
    a = np.linspace(0, 2 * np.pi, sides, endpoint=False)
    ring = path[:, None] + r * (
        np.cos(a)[None, :, None] * side[:, None] + np.sin(a)[None, :, None] * other[:, None]
    )
    v = np.concatenate([ring.reshape(-1, 3), path[:1], path[-1:]])
    n, f = len(path), []
    for i in range(n - 1):
        for k in range(sides):
            p, q = i * sides + k, i * sides + (k + 1) % sides
            f += [(p, q, q + sides), (p, q + sides, p + sides)]
    last = n * sides
    f += [(last, (k + 1) % sides, k) for k in range(sides)] + [
        (last + 1, (n - 1) * sides + k, (n - 1) * sides + (k + 1) % sides) for k in range(sides)
    ]
    return trimesh.Trimesh(v, f, process=False)


def box(size, at) -> trimesh.Trimesh:
    """A box of a size about a place, m."""
    return trimesh.creation.box(size, trimesh.transformations.translation_matrix(at))


def stone(seed: int, size, at, detail: int) -> trimesh.Trimesh:
    """A rounded stone of a size about a place, m."""
    rng = np.random.default_rng(seed)
    ball = trimesh.creation.icosphere(detail)
    v = ball.vertices
    v = v / (np.abs(v) ** 4).sum(1, keepdims=True) ** 0.25
    k = rng.normal(size=(8, 3)) * 2.2
    phase = rng.uniform(0, 6.28, 8)
    v = v * (1 + 0.06 * np.sin(v @ k.T + phase).sum(1, keepdims=True) / 2) * np.asarray(size) / 2
    turn = (
        trimesh.transformations.random_rotation_matrix(rng.random(3))[:3, :3]
        if seed % 3
        else np.eye(3)
    )
    return trimesh.Trimesh(v @ turn.T * (1, 1, 1) + at, ball.faces, process=False)
