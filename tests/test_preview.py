"""Small pictures of what a hand-over writes."""

import io
import json
import tempfile
import unittest
from pathlib import Path

import numpy as np
from PIL import Image

from sow.core.build import Rasters
from sow.core.errors import SceneError
from sow.core.formats.exporter import exporters
from sow.core.formats.preview import WIDE_PX, of_heights, of_plan, of_water, of_weights
from sow.core.grow import grow
from sow.core.surface.relief import PAPER
from tests.served import ask
from tests.small import build_of, scene_of
from tests.test_store import new

TIER = "whole"

GROUND = [
    {"id": "t", "name": "Turf", "ground": "turf"},
    {
        "id": "white",
        "name": "Snow",
        "ground": "snow",
        "where": [{"kind": "height", "low": 5, "high": 99, "soft": 0.1}],
        "broken": 0,
    },
]
LAKE = {"id": "l", "name": "Lake", "reach": "everywhere", "level_m": 0}
WOOD = {"id": "w", "name": "Wood", "mix": [{"kind": "birch"}], "density": 2}


class Previews(unittest.TestCase):
    def test_each_exporter_of_our_own_has_one_and_they_differ(self):
        build = build_of(ground=GROUND, water=[LAKE], planting=[WOOD])
        pictures = {n: x.preview(build) for n, x in exporters.items() if x.preview is not None}
        self.assertEqual(
            set(pictures),
            {
                *("heights", "ground", "plants", "planting"),
                *("scene", "usd", "light", "water", "tiles", "stills"),
            },
        )
        for name, picture in pictures.items():
            self.assertEqual((picture.dtype, picture.shape[1:]), (np.uint8, (WIDE_PX, 3)), name)
        differ = {p.tobytes() for n, p in pictures.items() if n != "usd"}
        self.assertEqual(len(differ), len(pictures) - 1)

    def test_each_tick_has_one_and_those_of_what_differs_differ(self):
        shot = {"id": "s", "name": "Shot", "east_m": 100, "north_m": 2, "bearing": 0}
        build = build_of(ground=GROUND, water=[LAKE], planting=[WOOD], shots=[shot])
        drawn = {}
        for name, x in exporters.items():
            ticks = [n for n, f in x.options.model_fields.items() if f.annotation is bool]
            self.assertEqual(set(x.ticks), set(ticks) if x.preview is not None else set(), name)
            drawn |= {(name, tick): preview(build) for tick, preview in x.ticks.items()}
        for what, picture in drawn.items():
            self.assertEqual((picture.dtype, picture.shape[1:]), (np.uint8, (WIDE_PX, 3)), what)
            self.assertGreater(float(picture.std()), 3, what)
        several = [x for x in exporters.values() if len(set(x.ticks.values())) > 1]
        for x in several:
            made = {drawn[x.name, tick].tobytes() for tick in x.ticks}
            self.assertEqual(len(made), len(set(x.ticks.values())), x.name)

    def test_they_show_what_is_there(self):
        build = build_of(ground=GROUND, water=[LAKE], planting=[WOOD])
        heights = build.heights
        grey = of_heights(build)[..., 0].astype(float)
        row, column = np.unravel_index(np.argmax(heights), heights.shape)
        k = WIDE_PX / heights.shape[1]
        self.assertGreater(grey[int(row * k), int(column * k)], 240)
        white = of_weights(build).min(2) > 180
        self.assertAlmostEqual(float(white.mean()), float((heights > 5).mean()), delta=0.04)
        wet = np.abs(of_water(build) - PAPER).sum(2) > 6
        self.assertAlmostEqual(float(wet.mean()), float((heights < 0).mean()), delta=0.06)
        bare = build_of(planting=[{**WOOD, "where": [{"kind": "height", "low": 5e3, "high": 6e3}]}])
        self.assertTrue((of_plan(bare) == PAPER.astype(np.uint8)).all())

    def test_the_server_gives_them_of_a_scene(self):
        scene = new(land=[{"id": "n", "name": "n", "kind": "noise"}])
        status, png = ask("GET", f"/api/scenes/{scene['id']}/exporters/heights.png")
        self.assertEqual(status, 200)
        self.assertEqual(Image.open(io.BytesIO(png)).size[0], WIDE_PX)
        self.assertEqual(ask("GET", f"/api/scenes/{scene['id']}/exporters/none.png")[0], 404)
        tick = f"/api/scenes/{scene['id']}/exporters/tiles/survey"
        status, png = ask("GET", f"{tick}.png")
        self.assertEqual((status, Image.open(io.BytesIO(png)).size[0]), (200, WIDE_PX))
        self.assertEqual(ask("GET", f"{tick}-none.png")[0], 404)


class StillsBesideFiles(unittest.TestCase):
    def test_each_shot_is_taken_by_its_own_size_when_it_is_asked_for(self):
        shots = [
            {"id": f"s{k}", "name": f"Shot {k}", "east_m": 90, "north_m": 30 + k, "width_px": w}
            for k, w in enumerate((96, 80))
        ]
        scene = scene_of(ground=GROUND, shots=[{**s, "height_px": 64} for s in shots])
        with tempfile.TemporaryDirectory() as folder:
            out = Path(folder) / "out"
            files = {"stills": {"quality": "look"}}
            grow(scene, Rasters(), out, 33, files=files, only=["stills"])
            told = sorted((out / "stills").glob("*.json"))
            self.assertEqual(len(told), 2)
            for file, wide in zip(told, (96, 80)):
                self.assertTrue(json.loads(file.read_text())["files"])
                with Image.open(file.with_suffix(".png")) as picture:
                    self.assertEqual(picture.size, (wide, 64))
            none = scene_of(shots=[])
            with self.assertRaisesRegex(SceneError, "no shot"):
                grow(none, Rasters(), Path(folder) / "none", 33, only=["stills"])
            unwanted = Path(folder) / "plain"
            grow(
                none, Rasters(), unwanted, 33, files={"stills": {"wanted": False}}, only=["heights"]
            )
            self.assertFalse((unwanted / "stills").exists())


if __name__ == "__main__":
    unittest.main()
