"""Tiles for real-time engines, read by other libraries."""

import json
import tempfile
import unittest
from pathlib import Path

import cv2
import numpy as np
import rasterio
import tifffile
from PIL import Image

from sow.core.cache import Cache
from sow.core.formats.waterfiles import flow_map
from sow.core.grow import grow
from tests.small import build_of, scene_of

TIER = "fast"

GROUND = [
    {"id": f"g{k}", "name": name, "ground": name, "where": where}
    for k, (name, where) in enumerate(
        [
            ("turf", []),
            ("peat", [{"kind": "slope", "low": 12, "high": 90, "soft": 8}]),
            ("granite", [{"kind": "slope", "low": 24, "high": 90, "soft": 6}]),
            ("moss", [{"kind": "height", "low": -50, "high": -4, "soft": 2}]),
            ("scree", [{"kind": "patches", "size_m": 30, "share": 20}]),
        ]
    )
]
PLOT = {"width_m": 200, "depth_m": 150, "posts": 257, "seed": 3}
ASKED = {
    "posts": 129,
    "raw": True,
    "tif": True,
    "whole": True,
    "origin_east_m": 5000,
    "origin_north_m": 700,
    "survey": True,
}


MARKS = [{"id": "m", "name": "Burn", "kind": "line", "points": [[20, 140], [90, 80], [180, 12]]}]
WATER = [
    {"id": "l", "name": "Lake", "reach": "everywhere", "level_m": -1},
    {"id": "b", "name": "Burn", "reach": "stream", "mark": "m", "width_m": 4},
]


class Written(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.out = Path(folder.name) / "tiles"
        more = {"plot": PLOT, "ground": GROUND, "water": WATER, "marks": MARKS}
        cls.build = build_of(**more)
        grow(
            scene_of(**more),
            lambda _: None,
            Path(folder.name),
            cache=Cache(1 << 30),
            files={"tiles": ASKED},
            only=["tiles"],
        )
        cls.told = json.loads((cls.out / "tiles.json").read_text())

    def whole(self, read) -> np.ndarray:
        """All tiles beside each other, the posts that they share once; tells where they differ."""
        n, facts = self.told["posts"] - 1, self.told["tiles"]
        out = np.full((facts["down"] * n + 1, facts["across"] * n + 1), np.nan)
        for line in self.told["list"]:
            at = np.s_[
                line["row"] * n : line["row"] * n + n + 1,
                line["column"] * n : line["column"] * n + n + 1,
            ]
            tile = read(line)
            there = out[at]
            both = np.isfinite(there)
            np.testing.assert_array_equal(there[both], tile[both])  # neighbours share their edge
            out[at] = tile
        return out

    def test_heights_in_every_form_are_the_land(self):
        low, high = (self.told["heights"][k] for k in ("lowest_m", "highest_m"))
        step = (high - low) / self.told["heights"]["of"]
        posts = self.told["posts"]
        tall = lambda steps: low + np.asarray(steps, float) * step
        png = self.whole(
            lambda l: tall(np.array(Image.open(self.out / l["heights"]["png"]), np.uint16))
        )
        raw = self.whole(
            lambda l: tall(np.fromfile(self.out / l["heights"]["raw"], "<u2").reshape(posts, posts))
        )
        tif = self.whole(lambda l: tifffile.imread(self.out / l["heights"]["tif"]).astype(float))
        land = self.build.heights
        ny, nx = land.shape
        self.assertEqual(self.told["spacing_m"], self.build.grid.spacing)
        np.testing.assert_allclose(tif[:ny, :nx], land, atol=1e-5)
        np.testing.assert_allclose(png[:ny, :nx], land, atol=step)
        np.testing.assert_array_equal(png, raw)
        # beyond the plot its edge is held
        np.testing.assert_allclose(tif[ny:], np.broadcast_to(tif[ny - 1], tif[ny:].shape))

    def test_weights_are_those_of_the_ground_and_sum_to_one(self):
        land = self.build.ground()
        self.assertEqual(self.told["materials"], [g["name"] for g in GROUND])
        total = 0
        for k in range(len(GROUND)):
            read = lambda l, k=k: cv2.cvtColor(
                cv2.imread(str(self.out / l["weights"][k // 4]), cv2.IMREAD_UNCHANGED),
                cv2.COLOR_BGRA2RGBA,
            )[..., k % 4].astype(float)
            mine = self.whole(read)
            np.testing.assert_allclose(
                mine[: land.shape[1], : land.shape[2]] / 255, land[k], atol=1.1 / 255
            )
            total = total + mine
        np.testing.assert_array_equal(total, 255)

    def test_depth_and_flow_are_those_of_the_waters(self):
        level = self.build.water()[0]
        deep = np.where(np.isfinite(level), np.maximum(level - self.build.heights, 0), 0)
        ny, nx = deep.shape
        read = self.whole(lambda l: tifffile.imread(self.out / l["depth"]).astype(float))
        np.testing.assert_allclose(read[:ny, :nx], deep, atol=1e-5)
        self.assertGreater(float(deep.max()), 1)
        flow = flow_map(self.build)
        for k in range(3):
            tile = lambda l, k=k: np.asarray(Image.open(self.out / l["flow"]))[..., k].astype(float)
            np.testing.assert_allclose(self.whole(tile)[:ny, :nx], flow[..., k], atol=0.5)
        self.assertIn("4 m/s", self.told["flow"])

    def test_the_whole_is_a_geotiff_with_overviews_at_its_origin(self):
        with rasterio.open(self.out / "height.tif") as file:
            spacing = self.build.grid.spacing
            np.testing.assert_allclose(file.read(1), self.build.heights, atol=1e-6)
            self.assertEqual(file.tags(ns="IMAGE_STRUCTURE")["LAYOUT"], "COG")
            east, north = file.transform @ (0.5, file.height - 0.5)
            self.assertAlmostEqual(east, 5000)
            self.assertAlmostEqual(north, 700)
            self.assertAlmostEqual(file.res[0], spacing)
            self.assertIn('UNIT["metre",1', file.crs.to_wkt())

    def test_one_file_tells_the_rest(self):
        slope = self.told["list"][0]["slope"]
        self.assertEqual(tifffile.imread(self.out / slope).shape, (129, 129))
        shot = self.told["shots"][0]
        self.assertEqual((shot["name"], shot["bearing_deg"]), ("One", 10))
        self.assertAlmostEqual(shot["eye_m"][2], self.build.ground_at(90, 30) + 4, places=4)
        self.assertEqual(self.told["sun"]["bearing_deg"], 200)
        named = set()
        for line in self.told["list"]:
            for value in line.values():
                if isinstance(value, dict):
                    named |= set(value.values())
                elif isinstance(value, (str, list)):
                    named |= {value} if isinstance(value, str) else set(value)
        found = {p.name for p in self.out.iterdir()} - {"tiles.json", "height.tif"}
        self.assertEqual(found, named)


if __name__ == "__main__":
    unittest.main()
