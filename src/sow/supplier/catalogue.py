"""What the supplier has: each made by recipe when it is asked for, at the size that is asked
for.
"""

import io
from dataclasses import dataclass

import numpy as np
import trimesh
from PIL import Image
from scipy.ndimage import gaussian_filter


@dataclass(frozen=True)
class Item:
    name: str
    label: str
    sort: str
    note: str
    least: int = 0
    most: int = 0


ITEMS = {
    i.name: i
    for i in (
        Item("straw-bale", "Straw bale", "kind", "round, 1.2 m", 200, 6000),
        Item("field-gate", "Field gate", "kind", "five bars, 3 m", 60, 900),
        Item("hurdle", "Woven hurdle", "kind", "hazel rods on stakes, 1.8 m", 400, 5000),
        Item("cairn", "Cairn", "kind", "stones heaped by hand, 1.3 m", 600, 12000),
        Item("trough", "Stone trough", "kind", "hollowed, 1.4 m", 60, 1200),
        Item("thorn-cut", "Cut thorn", "kind", "a card with cut out twigs, crossed", 4, 16),
        Item("brick-setts", "Brick setts", "texture", "laid in a bond, 2 m"),
        Item("stubble", "Stubble", "texture", "cut rows, 3 m"),
        Item("boardwalk", "Boardwalk", "texture", "weathered planks, 1.6 m"),
    )
}


def _noise(px: int, seed: int, *sizes: float) -> np.ndarray:
    """A tileable noise 0..1 with grain of these sizes, as parts of the picture."""
    rng = np.random.default_rng(seed)
    out = sum(
        gaussian_filter(rng.normal(size=(px, px)), s * px, mode="wrap")
        / max(gaussian_filter(rng.normal(size=(px, px)), s * px, mode="wrap").std(), 1e-9)
        for s in sizes
    )
    return (out - out.min()) / np.ptp(out)


def _glb(parts: list[tuple[trimesh.Trimesh, tuple]], picture: np.ndarray | None = None) -> bytes:
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


def _tube(a, b, r, sides=8, rings=2) -> trimesh.Trimesh:
    """A rod from a to b."""
    a, b = np.asarray(a, float), np.asarray(b, float)
    t = np.linspace(0, 1, rings)[:, None]
    return _along(a + t * (b - a), r, sides)


def _along(path: np.ndarray, r: float, sides: int) -> trimesh.Trimesh:
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


def _box(size, at) -> trimesh.Trimesh:
    return trimesh.creation.box(size, trimesh.transformations.translation_matrix(at))


def _stone(seed: int, size, at, detail: int) -> trimesh.Trimesh:
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


def _kind(name: str, px: int, triangles: int) -> bytes:
    rng = np.random.default_rng(len(name))
    wood, stone = (122, 104, 82), (142, 138, 128)
    if name == "straw-bale":
        sides = int(np.clip(np.sqrt(triangles / 2.2), 12, 64))
        rings = max(2, triangles // (2 * sides) - 1)
        y = np.linspace(-0.6, 0.6, rings)
        a = np.linspace(0, 2 * np.pi, sides + 1)
        wobble = 0.6 + 0.012 * rng.normal(size=(rings, sides + 1))
        wobble[:, -1] = wobble[:, 0]
        v = np.stack(
            [np.repeat(y[:, None], sides + 1, 1), wobble * np.cos(a), 0.6 + wobble * np.sin(a)], -1
        ).reshape(-1, 3)
        uv = np.stack(np.broadcast_arrays(a / (2 * np.pi), (y[:, None] + 0.6) / 1.2), -1).reshape(
            -1, 2
        )
        w = sides + 1
        f = [
            t
            for i in range(rings - 1)
            for k in range(sides)
            for t in (
                (i * w + k, i * w + k + 1, i * w + k + 1 + w),
                (i * w + k, i * w + k + 1 + w, i * w + k + w),
            )
        ]
        middle = len(v)
        v = np.concatenate([v, [(-0.6, 0, 0.6), (0.6, 0, 0.6)]])
        uv = np.concatenate([uv, [(0.5, 0.5), (0.5, 0.5)]])
        f += [(middle, k + 1, k) for k in range(sides)] + [
            (middle + 1, (rings - 1) * w + k, (rings - 1) * w + k + 1) for k in range(sides)
        ]
        mesh = trimesh.Trimesh(v, f, process=False)
        mesh.metadata["uv"] = uv
        straw = gaussian_filter(rng.normal(size=(px, px)), (0.6, px / 30), mode="wrap")
        straw = np.clip(0.75 + 0.25 * straw / straw.std(), 0.2, 1.3)[..., None] * np.array(
            (178, 150, 92)
        )
        return _glb([(mesh, wood)], np.clip(straw, 0, 255).astype(np.uint8))
    if name == "field-gate":
        n = int(np.clip(triangles / 12, 4, 24))
        parts = [
            _tube((-1.6, 0, 0), (-1.6, 0, 1.35), 0.09, max(4, n // 2)),
            _tube((1.6, 0, 0), (1.6, 0, 1.35), 0.09, max(4, n // 2)),
        ]
        parts += [_box((3.0, 0.035, 0.09), (0, 0, 0.22 + 0.22 * k)) for k in range(5)] + [
            _box((0.09, 0.045, 1.1), (x, 0, 0.66)) for x in (-1.46, 0, 1.46)
        ]
        brace = _box((3.0, 0.03, 0.08), (0, 0.03, 0))
        brace.apply_transform(
            trimesh.transformations.translation_matrix((0, 0, 0.66))
            @ trimesh.transformations.rotation_matrix(-0.28, (0, 1, 0))
        )
        return _glb(
            [
                (p, tuple(int(c * s) for c in wood))
                for p, s in zip([*parts, brace], rng.uniform(0.85, 1.1, 12))
            ]
        )
    if name == "hurdle":
        rings, rods = int(np.clip(triangles / 190, 6, 26)), 14
        parts = [_tube((x, 0, -0.05), (x, 0, 1.15), 0.022, 5) for x in np.linspace(-0.85, 0.85, 7)]
        x = np.linspace(-0.92, 0.92, rings)
        for k in range(rods):
            path = np.stack(
                [
                    x,
                    0.035 * (-1) ** k * np.sin((x + 0.85) / 1.7 * 6 * np.pi + np.pi / 2),
                    np.full_like(x, 0.12 + 0.068 * k) + rng.normal(0, 0.004, rings),
                ],
                1,
            )
            parts.append(_along(path, 0.016, 4))
        return _glb(
            [
                (p, tuple(int(c * s) for c in (112, 86, 60)))
                for p, s in zip(parts, rng.uniform(0.75, 1.15, len(parts)))
            ]
        )
    if name == "cairn":
        stones = [
            (0.55 * (1 - z / 1.35) * np.cos(t), 0.55 * (1 - z / 1.35) * np.sin(t), z)
            for z in np.linspace(0.08, 1.2, 9)
            for t in np.linspace(0, 2 * np.pi, max(1, int(8 * (1 - z / 1.35))), endpoint=False)
            + 2.4 * z * 7
        ]
        detail = 2 if triangles > 320 * len(stones) // 2 else 1
        return _glb(
            [
                (
                    _stone(i, rng.uniform(0.26, 0.42, 3) * (1, 0.9, 0.62), p, detail),
                    tuple(int(c * s) for c in stone),
                )
                for i, (p, s) in enumerate(zip(stones, rng.uniform(0.8, 1.12, len(stones))))
            ]
        )
    if name == "trough":
        parts = (
            [_box((1.4, 0.08, 0.45), (0, y, 0.28)) for y in (-0.26, 0.26)]
            + [_box((0.1, 0.46, 0.45), (x, 0, 0.28)) for x in (-0.65, 0.65)]
            + [_box((1.3, 0.5, 0.08), (0, 0, 0.1))]
            + [_box((0.2, 0.6, 0.06), (x, 0, 0.03)) for x in (-0.5, 0.5)]
        )
        while sum(len(p.faces) for p in parts) * 4 <= triangles:
            parts = [p.subdivide() for p in parts]
        return _glb([(p, stone) for p in parts])
    # thorn-cut: twigs drawn on a card, two or more cards crossed
    picture = np.zeros((px, px, 4), np.uint8)
    picture[..., :3] = (96, 78, 62)

    def twig(x, y, angle, length, depth):
        n = max(2, int(length * px * 2))
        for t in np.linspace(0, length, n):
            c = int((x + t * np.sin(angle)) * px)
            r = int((1 - (y + t * np.cos(angle))) * px)
            w = max(1, int(px * 0.006 * depth))
            if 0 <= c < px and 0 <= r < px:
                picture[
                    max(0, r - w // 2) : r + w // 2 + 1, max(0, c - w // 2) : c + w // 2 + 1, 3
                ] = 255
        if depth > 1:
            for _ in range(3):
                s = rng.uniform(0.35, 0.95) * length
                twig(
                    x + s * np.sin(angle),
                    y + s * np.cos(angle),
                    angle + rng.choice((-1, 1)) * rng.uniform(0.4, 0.9),
                    length * rng.uniform(0.4, 0.62),
                    depth - 1,
                )

    for lean in (-0.5, -0.15, 0.2, 0.55):
        twig(0.5, 0.0, lean, 0.5, 4)
    cards = []
    for k in range(max(2, min(8, triangles // 2))):
        turn = k * np.pi / max(2, min(8, triangles // 2))
        v = np.array(
            [
                (x * np.cos(turn), x * np.sin(turn), z)
                for x, z in ((-0.7, 0), (0.7, 0), (0.7, 1.4), (-0.7, 1.4))
            ]
        )
        card = trimesh.Trimesh(v, [(0, 1, 2), (0, 2, 3)], process=False)
        card.metadata["uv"] = np.array([(0, 0), (1, 0), (1, 1), (0, 1)], float)
        cards.append((card, wood))
    return _glb(cards, picture)


def _texture(name: str, px: int) -> dict[str, bytes]:
    """Pictures of a texture set: colour, height, roughness."""
    y, x = np.mgrid[0:px, 0:px] / px
    fine = _noise(px, 3, 0.002, 0.006)
    broad = _noise(px, 4, 0.03, 0.09)
    if name == "brick-setts":
        rows = 16
        row = np.floor(y * rows)
        u, v = (x * 8 + 0.5 * (row % 2)) % 1, (y * rows) % 1
        edge = np.minimum(np.minimum(u, 1 - u) * 2.0, np.minimum(v, 1 - v))
        cell = (np.floor(x * 8 + 0.5 * (row % 2)) % 8) * 31 + row * 7
        tone = np.random.default_rng(8).uniform(0.75, 1.15, 600)[cell.astype(int) % 600]
        height = np.clip(edge * 9, 0, 1) ** 0.6 * (0.8 + 0.2 * tone) * (0.9 + 0.1 * fine)
        colour = np.where(
            (edge > 0.055)[..., None],
            np.array((128, 74, 56)) * (tone * (0.8 + 0.3 * fine))[..., None],
            np.array((96, 88, 76)) * (0.7 + 0.5 * fine)[..., None],
        )
        rough = 0.75 + 0.2 * fine
    elif name == "stubble":
        phase = (y * 20 + 0.08 * np.sin(2 * np.pi * x * 3)) % 1
        rng = np.random.default_rng(5)
        stalk = gaussian_filter(rng.random((px, px)), px / 700, mode="wrap")
        stalk = np.clip(
            (stalk - np.quantile(stalk, 0.72)) / (stalk.max() - np.quantile(stalk, 0.72)), 0, 1
        ) * np.clip(1.4 - 5 * np.abs(phase - 0.5), 0, 1)
        straw = gaussian_filter(rng.normal(size=(px, px)), (0.7, px / 60), mode="wrap")
        straw = np.clip(straw / straw.std() - 0.6, 0, 1)
        height = np.clip(0.25 * broad + 0.5 * stalk + 0.3 * straw, 0, 1)
        mix = np.clip(stalk * 1.6 + straw, 0, 1)[..., None]
        colour = (1 - mix) * np.array((104, 82, 58)) * (0.7 + 0.5 * fine)[
            ..., None
        ] + mix * np.array((190, 164, 104))
        rough = 0.9 - 0.1 * mix[..., 0]
    else:
        planks = 9
        v = (y * planks) % 1
        plank = np.floor(y * planks).astype(int)
        edge = np.minimum(v, 1 - v)
        grain = gaussian_filter(
            np.random.default_rng(6).normal(size=(px, px)), (px / 500, px / 24), mode="wrap"
        )
        grain = grain / grain.std()
        tone = np.random.default_rng(9).uniform(0.8, 1.1, planks)[plank % planks]
        height = np.clip(edge * 14, 0, 1) * (0.85 + 0.05 * grain).clip(0, 1)
        colour = (
            np.array((138, 128, 114))
            * (tone * (0.85 + 0.12 * grain) * np.clip(0.25 + edge * 14, 0, 1))[..., None]
        )
        rough = 0.7 + 0.2 * fine
    return {
        f"{name}_colour.png": _png(colour),
        f"{name}_height.png": _png(height * 255),
        f"{name}_roughness.png": _png(np.broadcast_to(rough, height.shape) * 255),
    }


def _png(values: np.ndarray) -> bytes:
    file = io.BytesIO()
    Image.fromarray(np.clip(values, 0, 255).astype(np.uint8)).save(file, "PNG")
    return file.getvalue()


def made(item: Item, texture_px: int, triangles: int):
    """A GLB (bytes), or the pictures of a texture set by file name."""
    return (
        _kind(item.name, texture_px, int(np.clip(triangles, item.least, item.most)))
        if item.sort == "kind"
        else _texture(item.name, texture_px)
    )
