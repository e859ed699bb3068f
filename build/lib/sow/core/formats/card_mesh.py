"""Cards in glTF: upright pictures with transparency. A file knows no picture that turns to the
eye, so such a card faces the first shot, and its extras tell that it turns.
"""

import numpy as np

from ..air.card_pictures import picture_of
from ..air.things.card import CardStands
from ..build import Build
from ..shots.shot import eye_over
from .glb import Glb
from .raster import png_bytes


def add_cards(out: Glb, build: Build) -> None:
    """A mesh of two triangles for each card that is on."""
    load = lambda name: build.marks.raster(name, "air.picture")
    cards = build.in_air().cards
    shots = [s for s in build.shots() if s.on]
    eye = np.array(eye_over(shots[0], build.ground_at)[:2]) if shots else None
    names = {e.id: e.name for e in build.scene.air}
    textures: dict[str, int] = {}
    for card in cards:
        if card.picture not in textures:
            sheet = picture_of(card.picture, load)
            textures[card.picture] = out.texture(png_bytes(sheet), f"card {card.picture}")
        _add(out, card, names[card.id], textures[card.picture], eye)


def facing(card: CardStands, eye: np.ndarray | None) -> np.ndarray:
    """The level direction (east, north) in which a card's face looks: its own, or towards an eye
    (m); south where there is none.
    """
    if card.faces is not None:
        a = np.deg2rad(card.faces)
        return np.array([np.sin(a), np.cos(a)])
    way = np.array([0.0, -1.0]) if eye is None else eye - np.array(card.place[:2])
    return way / max(float(np.linalg.norm(way)), 1e-6)


def _add(out: Glb, card: CardStands, name: str, texture: int, eye: np.ndarray | None) -> None:
    way = facing(card, eye)
    right = np.array([-way[1], way[0], 0.0])
    half = card.width_m / 2
    corners = np.array(
        [
            x * half * right + [0, 0, z * card.height_m]
            for x, z in ((-1, 0), (1, 0), (1, 1), (-1, 1))
        ]
    )
    look = {
        "name": f"card {name}",
        "doubleSided": True,
        "alphaMode": "BLEND",
        "pbrMetallicRoughness": {
            "baseColorTexture": {"index": texture},
            "metallicFactor": 0,
            "roughnessFactor": 1,
        },
    }
    if card.shines:
        look["emissiveTexture"] = {"index": texture}
        look["emissiveFactor"] = [min(card.shines, 1.0)] * 3
        if card.shines > 1:
            out.uses("KHR_materials_emissive_strength")
            strength = {"emissiveStrength": card.shines}
            look["extensions"] = {"KHR_materials_emissive_strength": strength}
    mesh = out.mesh(
        f"card {name}",
        corners,
        np.tile([*way, 0.0], (4, 1)),
        np.array([[0, 1], [1, 1], [1, 0], [0, 0]], np.float32),
        None,
        np.array([[0, 1, 2], [0, 2, 3]]),
        out.material(**look),
    )
    east, north, up = card.place
    out.node(
        name=name,
        mesh=mesh,
        translation=[east, up, -north],
        extras={"sow": {"card": card.id, "faces": card.faces, "shadow": card.shadow}},
    )
