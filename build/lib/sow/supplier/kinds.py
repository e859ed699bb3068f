"""The supplier's kinds, each made with a picture of `px` and about so many triangles: a GLB."""

from collections.abc import Callable

import numpy as np
import trimesh
from scipy.ndimage import gaussian_filter

from .forms import along, box, glb, rod, stone

WOOD = (122, 104, 82)
STONE = (142, 138, 128)


def straw_bale(px: int, triangles: int) -> bytes:
    """A round bale lying on its side, straw wound about it."""
    rng = np.random.default_rng(10)
    sides = int(np.clip(np.sqrt(triangles / 2.2), 12, 64))
    rings = max(2, triangles // (2 * sides) - 1)
    y = np.linspace(-0.6, 0.6, rings)
    a = np.linspace(0, 2 * np.pi, sides + 1)
    wobble = 0.6 + 0.012 * rng.normal(size=(rings, sides + 1))
    wobble[:, -1] = wobble[:, 0]
    v = np.stack(
        [np.repeat(y[:, None], sides + 1, 1), wobble * np.cos(a), 0.6 + wobble * np.sin(a)], -1
    ).reshape(-1, 3)
    uv = np.stack(np.broadcast_arrays(a / (2 * np.pi), (y[:, None] + 0.6) / 1.2), -1).reshape(-1, 2)
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
    return glb([(mesh, WOOD)], np.clip(straw, 0, 255).astype(np.uint8))


def field_gate(px: int, triangles: int) -> bytes:
    """A gate of five bars with its brace, between two posts."""
    rng = np.random.default_rng(10)
    n = int(np.clip(triangles / 12, 4, 24))
    parts = [
        rod((-1.6, 0, 0), (-1.6, 0, 1.35), 0.09, max(4, n // 2)),
        rod((1.6, 0, 0), (1.6, 0, 1.35), 0.09, max(4, n // 2)),
    ]
    parts += [box((3.0, 0.035, 0.09), (0, 0, 0.22 + 0.22 * k)) for k in range(5)] + [
        box((0.09, 0.045, 1.1), (x, 0, 0.66)) for x in (-1.46, 0, 1.46)
    ]
    brace = box((3.0, 0.03, 0.08), (0, 0.03, 0))
    brace.apply_transform(
        trimesh.transformations.translation_matrix((0, 0, 0.66))
        @ trimesh.transformations.rotation_matrix(-0.28, (0, 1, 0))
    )
    return glb(
        [
            (p, tuple(int(c * s) for c in WOOD))
            for p, s in zip([*parts, brace], rng.uniform(0.85, 1.1, 12))
        ]
    )


def hurdle(px: int, triangles: int) -> bytes:
    """Rods woven about stakes."""
    rng = np.random.default_rng(6)
    rings, rods = int(np.clip(triangles / 190, 6, 26)), 14
    parts = [rod((x, 0, -0.05), (x, 0, 1.15), 0.022, 5) for x in np.linspace(-0.85, 0.85, 7)]
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
        parts.append(along(path, 0.016, 4))
    return glb(
        [
            (p, tuple(int(c * s) for c in (112, 86, 60)))
            for p, s in zip(parts, rng.uniform(0.75, 1.15, len(parts)))
        ]
    )


def cairn(px: int, triangles: int) -> bytes:
    """Stones heaped by hand, fewer and closer in towards the top."""
    rng = np.random.default_rng(5)
    stones = [
        (0.55 * (1 - z / 1.35) * np.cos(t), 0.55 * (1 - z / 1.35) * np.sin(t), z)
        for z in np.linspace(0.08, 1.2, 9)
        for t in np.linspace(0, 2 * np.pi, max(1, int(8 * (1 - z / 1.35))), endpoint=False)
        + 2.4 * z * 7
    ]
    detail = 2 if triangles > 320 * len(stones) // 2 else 1
    return glb(
        [
            (
                stone(i, rng.uniform(0.26, 0.42, 3) * (1, 0.9, 0.62), p, detail),
                tuple(int(c * s) for c in STONE),
            )
            for i, (p, s) in enumerate(zip(stones, rng.uniform(0.8, 1.12, len(stones))))
        ]
    )


def trough(px: int, triangles: int) -> bytes:
    """A hollowed block on two feet, its faces divided as far as the triangles allow."""
    parts = (
        [box((1.4, 0.08, 0.45), (0, y, 0.28)) for y in (-0.26, 0.26)]
        + [box((0.1, 0.46, 0.45), (x, 0, 0.28)) for x in (-0.65, 0.65)]
        + [box((1.3, 0.5, 0.08), (0, 0, 0.1))]
        + [box((0.2, 0.6, 0.06), (x, 0, 0.03)) for x in (-0.5, 0.5)]
    )
    while sum(len(p.faces) for p in parts) * 4 <= triangles:
        parts = [p.subdivide() for p in parts]
    return glb([(p, STONE) for p in parts])


def _twig(picture: np.ndarray, rng: np.random.Generator, x, y, angle, length, depth) -> None:
    """A twig with its side twigs, drawn into the picture's last channel; lengths in parts of it."""
    px = len(picture)
    n = max(2, int(length * px * 2))
    for t in np.linspace(0, length, n):
        c = int((x + t * np.sin(angle)) * px)
        r = int((1 - (y + t * np.cos(angle))) * px)
        w = max(1, int(px * 0.006 * depth))
        if 0 <= c < px and 0 <= r < px:
            picture[max(0, r - w // 2) : r + w // 2 + 1, max(0, c - w // 2) : c + w // 2 + 1, 3] = (
                255
            )
    if depth > 1:
        for _ in range(3):
            s = rng.uniform(0.35, 0.95) * length
            _twig(
                picture,
                rng,
                x + s * np.sin(angle),
                y + s * np.cos(angle),
                angle + rng.choice((-1, 1)) * rng.uniform(0.4, 0.9),
                length * rng.uniform(0.4, 0.62),
                depth - 1,
            )


def thorn_cut(px: int, triangles: int) -> bytes:
    """Twigs drawn on a card, two or more cards crossed."""
    rng = np.random.default_rng(9)
    picture = np.zeros((px, px, 4), np.uint8)
    picture[..., :3] = (96, 78, 62)
    for lean in (-0.5, -0.15, 0.2, 0.55):
        _twig(picture, rng, 0.5, 0.0, lean, 0.5, 4)
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
        cards.append((card, WOOD))
    return glb(cards, picture)


KINDS: dict[str, Callable[[int, int], bytes]] = {
    "straw-bale": straw_bale,
    "field-gate": field_gate,
    "hurdle": hurdle,
    "cairn": cairn,
    "trough": trough,
    "thorn-cut": thorn_cut,
}
