"""Content keys follow from the schema: of every registered model, every field that is changed
changes the keys of what is made with it, or stands in a short list of what does not matter there.
"""

import json
import os
import subprocess
import sys
import tempfile
import unittest
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Literal, get_args, get_origin

from pydantic import BaseModel

from sow.core.air.base import airs
from sow.core.air.light import Light
from sow.core.build import Build
from sow.core.build.far_land import far_colour_key, far_land_key
from sow.core.build.keys import (
    LABELS,
    LIES_NOT,
    LOOKS,
    NOT_IN_FILES,
    OF_MARK,
    SEES,
    TEXTURE,
    WORN,
)
from sow.core.cache import Cache
from sow.core.document.references import named_in
from sow.core.formats.folder import open_scene
from sow.core.hand.stroke import Stroke
from sow.core.land.base import landforms, processes
from sow.core.marks.mask import Mask
from sow.core.marks.shapes import Area, Drawn, Line
from sow.core.motion.base import moves
from sow.core.picture.grade.base import steps
from sow.core.planting.sowing import MixPart, Sowing
from sow.core.plot import Plot
from sow.core.scene import Beyond, Piece, Scene, read_scene
from sow.core.shots.shot import Shot
from sow.core.surface.material import Material
from sow.core.water.entry import Water
from sow.core.where.base import STAGES, conditions, stage_of

TIER = "fast"

ROOT = Path(__file__).parents[1]
MARKS = [
    {"id": "mark-line", "name": "L", "kind": "line", "points": [[0, 0], [50, 60]]},
    {"id": "mark-area", "name": "A", "kind": "area", "points": [[0, 0], [90, 0], [50, 60]]},
    {"id": "mark-mask", "name": "M", "kind": "mask", "raster": "one"},
]
BASE = {
    "name": "Every field",
    "plot": {"width_m": 300, "depth_m": 240, "posts": 65},
    "land": [{"id": "land", "name": "Noise", "kind": "noise"}],
    "beyond": {"edge": "run on"},
    "ground": [{"id": "ground", "name": "Turf"}],
    "planting": [{"id": "planting", "name": "Stones", "mix": [{"kind": "boulder"}]}],
    "pieces": [{"id": "pieces", "name": "Block", "kind": "block"}],
    "shots": [{"id": "shots", "name": "Shot"}],
    "marks": MARKS,
}


def other(value: Any, annotation: Any, facts: dict[str, Any]) -> Any:
    """Another value of a field than the one it has."""
    if facts.get("mark"):
        return f"mark-{facts['mark']}"
    if facts.get("entry"):
        return facts["entry"]
    if get_origin(annotation) is Literal:
        return next(choice for choice in get_args(annotation) if choice != value)
    if isinstance(value, bool):
        return not value
    if isinstance(value, (int, float)):
        return value + 1
    if isinstance(value, str):
        return "#123456" if value.startswith("#") else f"{value}x"
    if isinstance(value, list):
        return [*value, value[0]] if value else None
    return None


def changes(model: BaseModel, path: str = "") -> Iterator[tuple[str, BaseModel]]:
    """Each field of a model, or of one within it, with the model in which it alone is another."""
    for name, info in type(model).model_fields.items():
        value = getattr(model, name)
        if isinstance(value, BaseModel):
            for inner, changed in changes(value, f"{path}{name}."):
                yield inner, model.model_copy(update={name: changed})
            continue
        if name == "kind" and "kind" in type(model).model_fields and len(path) == 0:
            continue
        extra = info.json_schema_extra
        facts: Any = extra.get("sow", {}) if isinstance(extra, dict) else {}
        changed = other(value, info.annotation, facts)
        if changed is not None:
            yield f"{path}{name}", model.model_copy(update={name: changed})


def entry_of(model: type[BaseModel]) -> Any:
    """An entry of a model with its first values; what it names is in the scene."""
    plain = {"id": "entry", "name": "Entry"} if "id" in model.model_fields else {}
    needs: dict[str, Any] = {"mix": [MixPart(kind="boulder")]}
    if issubclass(model, Drawn):
        needs["points"] = [[0, 0, 1], [5, 5, 1]]
    if model is Piece or model is MixPart:
        plain["kind"] = "block"
    given = {k: v for k, v in needs.items() if k in model.model_fields}
    return model.model_validate({**plain, **given})


def scene_with(where: str, entry: Any) -> Scene:
    """The scene with an entry in one of its lists, or in the place of one of its parts."""
    scene = read_scene(BASE)
    if where == "beyond.land":
        return scene.model_copy(
            update={"beyond": scene.beyond.model_copy(update={"land": [entry]})}
        )
    held = getattr(scene, where)
    return scene.model_copy(update={where: [*held, entry] if isinstance(held, list) else entry})


class Rasters:
    """Rasters whose content is told by a number."""

    def __init__(self, content: int = 0):
        self.content = content

    def key(self, name: str) -> str:
        return f"{name} {self.content}"


def build_of(scene: Scene, rasters: Rasters | None = None) -> Build:
    return Build(scene, scene.plot.grid(), Cache(), rasters or Rasters())


def content(build: Build) -> str:
    return build.content_key()


def land(build: Build) -> str:
    return build.land_key


def far(build: Build) -> str:
    return far_land_key(build, 0)


def sown(build: Build) -> str:
    return build.sowing_key(len(build.scene.planting) - 1)


TABLE: list[tuple[str, str, Any, set[str]]] = [
    # models' list, what is asked, its key, fields that do not matter there
    ("land", "land", land, LABELS),
    ("beyond.land", "far land", far, LABELS),
    ("water", "water", lambda b: b.water_key, LIES_NOT),
    ("ground", "weights", lambda b: b.ground_key, LOOKS),
    ("ground", "far colour", lambda b: far_colour_key(b, 0), LABELS),
    ("planting", "plants", sown, LABELS),
    ("air", "air", lambda b: b.air_key, {"name"}),
    ("beyond", "far land", far, set()),
    ("plot", "land", land, set()),
]
MODELS: dict[str, list[type[BaseModel]]] = {
    "land": [*landforms.models.values(), *processes.models.values()],
    "beyond.land": [*landforms.models.values(), *processes.models.values()],
    "water": [Water],
    "ground": [Material],
    "planting": [Sowing],
    "pieces": [Piece],
    "air": list(airs.models.values()),
    "shots": [Shot],
    "light": [Light],
    "beyond": [Beyond],
    "plot": [Plot],
    "grade": list(steps.models.values()),
    "moves": list(moves.models.values()),
    "marks": [Line, Area, Mask],
}


class EveryField(unittest.TestCase):
    def test_a_field_that_changes_changes_the_keys_of_what_is_made_with_it(self):
        for where, asked, key, aside in TABLE:
            for model in MODELS[where]:
                entry = entry_of(model)
                before = key(build_of(scene_with(where, entry)))
                for name, changed in changes(entry):
                    with self.subTest(f"{asked}: {model.__name__}.{name}"):
                        after = key(build_of(scene_with(where, changed)))
                        self.assertEqual(after == before, name in aside)

    def test_every_field_of_a_scene_is_in_the_key_of_its_files(self):
        for where, models in MODELS.items():
            for model in models:
                entry = entry_of(model)
                before = content(build_of(scene_with(where, entry)))
                for name, changed in changes(entry):
                    with self.subTest(f"{model.__name__}.{name}"):
                        self.assertNotEqual(content(build_of(scene_with(where, changed))), before)
        self.assertLessEqual(NOT_IN_FILES, set(Scene.model_fields))

    def test_a_condition_in_every_place_is_in_its_keys(self):
        places: tuple[tuple[str, Any], ...] = (
            ("land", land),
            ("ground", lambda b: b.ground_key),
            ("planting", sown),
        )
        for where, key in places:
            holder = entry_of(MODELS[where][0])
            for model in conditions.models.values():
                item = entry_of(model)
                held = lambda c: scene_with(where, holder.model_copy(update={"where": [c]}))
                before = key(build_of(held(item)))
                for name, changed in changes(item):
                    with self.subTest(f"{where}: {model.__name__}.{name}"):
                        self.assertNotEqual(key(build_of(held(changed))), before)

    def test_what_a_field_names_is_in_the_key_by_its_content(self):
        """Whatever the field is called: a mark, a raster, an entry of another list."""
        keys = {"land": land, "ground": lambda b: b.ground_key, "planting": sown}
        keys |= {"air": lambda b: b.air_key, "water": lambda b: b.water_key}
        counted = 0
        for where, key in keys.items():
            holder = entry_of(MODELS[where][0])
            entries = [entry_of(model) for model in MODELS[where]]
            if "where" in type(holder).model_fields:
                allowed = STAGES[: STAGES.index(where) + 1]
                known = conditions.models.items()
                asked = [entry_of(model) for kind, model in known if stage_of[kind] in allowed]
                entries += [holder.model_copy(update={"where": [c]}) for c in asked]
            if where == "land":
                by_hand = entry_of(landforms.models["hand"])
                stroke = Stroke(points=[[0, 0, 1], [5, 5, 1]], picture="mark-mask")
                entries.append(by_hand.model_copy(update={"strokes": [stroke]}))
            for entry in entries:
                for named in named_in(entry):
                    changed = _naming(entry, named.path.split("."))
                    if named.field in LIES_NOT | {"over"} or changed is None:
                        continue
                    scene = scene_with(where, changed)
                    with self.subTest(f"{where}: {type(entry).__name__} {named.path}"):
                        self.assertNotEqual(
                            key(build_of(scene)), key(build_of(*_moved(scene, named.list)))
                        )
                        counted += 1
        self.assertGreater(counted, 60)

    def test_what_ships_or_is_gone_has_its_name_for_a_key(self):
        """A card and a panorama of the cabinet have no file; a reference that is gone is no reason
        to write nothing.
        """
        document = {
            **BASE,
            "marks": [],
            "air": [{"kind": "card", "id": "air", "name": "Birds"}],
            "light": {"panorama": "overcast"},
            "shots": [{"id": "shots", "name": "Shot", "reference": "gone.png"}],
        }
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        file = folder / "scene.json"
        file.write_text(json.dumps(document))
        build = build_of(*open_scene(file))
        self.assertEqual(len(build.content_key()), len(build.air_key))
        before = build.content_key()
        (folder / "gone.png").write_bytes(b"found again")
        self.assertNotEqual(build_of(*open_scene(file)).content_key(), before)

    def test_what_a_key_leaves_out_exists(self):
        """A field that is renamed leaves no name behind that leaves out nothing."""
        mark_fields = {*Line.model_fields, *Mask.model_fields}
        for aside, fields in (
            (LOOKS | TEXTURE, Material.model_fields),
            (LIES_NOT, Water.model_fields),
            (OF_MARK, mark_fields),
            (SEES, Shot.model_fields),
            (WORN, MixPart.model_fields),
        ):
            self.assertEqual(aside - LABELS - set(fields), set())


def _naming(model: Any, way: list[str]) -> Any:
    """A model with the field at the end of a way naming an entry that is in the scene."""
    name = way[0]
    value = model[int(name)] if isinstance(model, list) else getattr(model, name)
    if len(way) > 1:
        inner = _naming(value, way[1:])
        if isinstance(model, list):
            return [inner if i == int(name) else item for i, item in enumerate(model)]
        return None if inner is None else model.model_copy(update={name: inner})
    extra: Any = type(model).model_fields[name].json_schema_extra
    facts = extra["sow"]
    if "drawer" in facts:
        return None
    named = f"mark-{facts['mark']}" if facts.get("mark") else facts.get("entry", "a-raster")
    return model.model_copy(update={name: named})


def _moved(scene: Scene, name: str) -> tuple[Scene, Rasters]:
    """The scene with the content of what is named in a list, or of all rasters, changed."""
    if name == "rasters":
        return scene, Rasters(1)
    plain = scene.model_copy(deep=True)
    for entry in getattr(plain, name):
        match name:
            case "marks" if entry.kind == "mask":
                entry.invert = not entry.invert
            case "marks":
                entry.points = [[p[0] + 1, *p[1:]] for p in entry.points]
            case "land" if entry.id == "land":
                entry.height_m += 1
            case "ground" if entry.id == "ground":
                entry.cover = 50
            case "planting" if entry.id == "planting":
                entry.density += 1
            case "pieces" | "shots":
                entry.east_m += 1
    return plain, Rasters()


class Traps(unittest.TestCase):
    def test_files_of_a_studio_are_held_by_the_same_keys(self):
        """`tests/extra_traps.py` runs in a process of its own, where SOW_EXTRA is set."""
        told = subprocess.run(
            [sys.executable, "-m", "unittest", "tests.extra_traps"],
            cwd=ROOT,
            env=os.environ
            | {"SOW_EXTRA": str(ROOT / "tests" / "extra"), "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}"},
            capture_output=True,
            text=True,
            timeout=600,
        )
        self.assertEqual(told.returncode, 0, told.stderr)


if __name__ == "__main__":
    unittest.main()
