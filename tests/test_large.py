"""Land grown by tiles: a tile equals the same part of the whole, and what was ended goes on."""

import json
import os
import re
import tempfile
import unittest
from pathlib import Path

import numpy as np
import rasterio

from sow.commands import main
from sow.core.build import Build, Rasters
from sow.core.cache import Cache
from sow.core.errors import SceneError
from sow.core.inward.window import window_of
from sow.core.land.base import landforms, processes
from sow.core.plot import Plot
from sow.core.scene import read_scene
from sow.core.tiles.cut import Cut, halo_of, reach_of, widened
from sow.core.tiles.files import TileOrder
from sow.core.tiles.tile import part_of, tile_of
from sow.core.tiles.whole import whole_of
from sow.core.works import do
from sow.core.works.offering import offers
from sow.tiles.grow import grow_tiles
from sow.workers.pool import Pool

TIER = "whole"

SIDE_M = 500
BASE = {"id": "base", "name": "Hills", "kind": "noise", "height_m": 60, "feature_m": 160}
MARKS = [
    {"id": "way", "name": "Way", "kind": "line", "points": [[40, 60], [260, 300], [470, 420]]},
    {
        "id": "glade",
        "name": "Glade",
        "kind": "area",
        "points": [[120, 120], [320, 140], [300, 330], [140, 300]],
        "clearing": True,
        "clear_m": 4,
    },
]
GROUND = [
    {"id": "g0", "name": "Turf", "ground": "turf"},
    {
        "id": "g1",
        "name": "Rock",
        "ground": "granite",
        "where": [{"kind": "slope", "low": 22, "high": 90, "soft": 8}],
        "broken": 40,
    },
    {
        "id": "g2",
        "name": "Moss",
        "ground": "moss",
        "where": [
            {"kind": "height", "take": "lowest", "share": 30, "low": 0, "high": 1, "soft": 3},
            {"kind": "hollows", "size_m": 40, "join": "any"},
        ],
    },
]
TREES = [{"kind": "birch", "share": 60}, {"kind": "rowan", "share": 40}]
PLANTING = [
    {"id": "p0", "name": "Trees", "mix": TREES, "density": 1.5},
    {
        "id": "p1",
        "name": "Mixed",
        "mix": [{"kind": "gorse", "share": 30}, {"kind": "heather", "share": 70}],
        "density": 18,
        "where": [{"kind": "slope", "low": 0, "high": 25, "soft": 6}],
    },
    {
        "id": "p2",
        "name": "Under the trees",
        "mix": [{"kind": "bracken", "share": 100}],
        "density": 30,
        "where": [{"kind": "near-sowing", "sowing": "p0", "low": 0, "high": 3, "soft": 1}],
    },
]
WATER = [{"id": "w", "name": "Lake", "reach": "everywhere", "level_m": -12}]


def scene_of(**more):
    """A hilly plot with ground, plants and a lake, grown in tiles."""
    document = {
        "format": "sow-scene-1",
        "name": "Large",
        "plot": {"width_m": SIDE_M, "depth_m": 400, "posts": 257, "seed": 5},
        "land": [BASE],
        "marks": MARKS,
    }
    return read_scene({**document, **more})


def full(**more):
    """The same with all that stands on it."""
    return scene_of(**{"ground": GROUND, "planting": PLANTING, "water": WATER, **more})


def part(whole: np.ndarray, grid) -> np.ndarray:
    """What lies under a tile of what was made in one."""
    rows = slice(grid.row0, grid.row0 + grid.ny)
    return whole[..., rows, grid.col0 : grid.col0 + grid.nx]


def _grown_older() -> None:
    """Makes a worker believe that it is of another version."""
    from sow.core import version as told

    told.version.cache_clear()
    told.hashlib = _OtherHash


class _OtherHash:
    """Stands for hashlib in a worker: every source has the same hash."""

    @staticmethod
    def sha256():
        return _OtherHash()

    def update(self, data: bytes) -> None:
        """Takes no notice."""

    def hexdigest(self) -> str:
        """That of no source."""
        return "0" * 64


class Reaches(unittest.TestCase):
    def test_every_entry_that_says_how_far_it_looks_is_the_same_in_a_tile(self):
        told = 0
        for offer in offers("land"):
            scene = scene_of()
            asked = {"list": "land", "key": offer.key}
            made = read_scene(do("add an entry", scene, asked).document)
            entry = made.land[-1]
            register = landforms if entry.kind in landforms.models else processes
            bare = any(getattr(entry, name, None) == "" for name in ("raster", "ready"))
            if bare or not getattr(entry, "lines", True):
                continue  # empty until something is brought in
            cut = Cut.of(made.plot, 129, 1.0)
            if reach_of(register, entry, made, cut.grid.spacing) is None:
                continue
            told += 1
            with self.subTest(offer.key):
                found = whole_of(made, Rasters(), cut.grid.spacing, 257)
                build = lambda grid, found=found: Build(
                    found.scene, grid, Cache(1 << 28), around=found.around
                )
                in_one = build(cut.grid).heights
                inner = cut.tile(1, 1)
                wide = widened(cut.grid, inner, halo_of(made, cut.grid.spacing))
                own = build(wide).heights
                r0, c0 = inner.row0 - wide.row0, inner.col0 - wide.col0
                np.testing.assert_array_equal(
                    own[r0 : r0 + inner.ny, c0 : c0 + inner.nx], part(in_one, inner)
                )
        self.assertGreater(told, 20)


class Tiles(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.scene = full()
        cls.cut = Cut.of(cls.scene.plot, 129, 1.0)
        cls.found = whole_of(cls.scene, Rasters(), cls.cut.grid.spacing, 257)
        one = Cut(cls.cut.grid, cls.cut.grid.nx)
        cls.in_one = tile_of(cls.found, Rasters(), one, 0, 0)
        cls.tiles = [
            tile_of(cls.found, Rasters(), cls.cut, row, column)
            for row in range(cls.cut.down)
            for column in range(cls.cut.across)
        ]

    def test_land_and_water_are_those_of_the_whole(self):
        for tile in self.tiles:
            np.testing.assert_array_equal(tile.heights, part(self.in_one.heights, tile.grid))
            level = part(self.in_one.water_m, tile.grid)
            own = np.full(level.shape, np.nan) if tile.water_m is None else tile.water_m
            np.testing.assert_array_equal(own, level)

    def test_the_ground_is_that_of_the_whole(self):
        for tile in self.tiles:
            off = np.abs(tile.shares - part(self.in_one.shares, tile.grid)).max()
            self.assertLess(off, 1e-4)
            np.testing.assert_allclose(tile.shares.sum(0), 1, atol=1e-5)

    def test_without_entries_that_look_far_it_is_the_land_of_a_plain_build(self):
        build = Build(self.scene, self.cut.grid, Cache(1 << 29))
        self.assertFalse(self.found.around.changes)
        np.testing.assert_array_equal(self.in_one.heights, build.heights)
        np.testing.assert_allclose(self.in_one.shares, build.ground(), atol=1e-4)

    def test_every_plant_stands_in_one_tile_and_where_it_stands_in_the_whole(self):
        for k, (sowing, plants) in enumerate(self.in_one.sown):
            rows = lambda p: {
                r.tobytes() for r in np.column_stack([p.east, p.north, p.up, p.turn, p.size])
            }
            own = [rows(tile.sown[k][1]) for tile in self.tiles]
            self.assertEqual(sum(map(len, own)), len(set().union(*own)), sowing.name)
            off = len(set().union(*own) ^ rows(plants))
            self.assertLessEqual(off, 1e-4 * len(plants), sowing.name)
            self.assertGreater(len(plants), 100)

    def test_as_many_stand_as_in_a_plain_build(self):
        build = Build(self.scene, self.scene.plot.grid(), Cache(1 << 29))
        for k, (sowing, plants) in enumerate(self.in_one.sown):
            want = len(build.plants(k))
            self.assertAlmostEqual(len(plants) / want, 1, delta=0.05, msg=sowing.name)

    def test_what_looks_far_comes_from_the_coarse_grid_without_a_seam(self):
        wear = {"id": "w", "name": "Wear", "kind": "wear", "strength": 1}
        scene = scene_of(land=[BASE, wear], planting=[], water=[])
        found = whole_of(scene, Rasters(), self.cut.grid.spacing, 257)
        self.assertEqual(list(found.around.changes), ["w"])
        west, east = (tile_of(found, Rasters(), self.cut, 1, c) for c in (1, 2))
        np.testing.assert_array_equal(west.heights[:, -1], east.heights[:, 0])
        build = Build(scene, self.cut.grid, Cache(1 << 29))
        own = part(build.heights, west.grid)
        off = np.abs(west.heights - own)  # the finest steps of the wear are left out
        self.assertLess(np.median(off), 0.02 * float(np.ptp(build.heights)))
        self.assertLess(np.quantile(off, 0.95), 0.08 * float(np.ptp(build.heights)))


class Windows(unittest.TestCase):
    def test_a_window_is_the_same_part_of_the_land_as_a_scene(self):
        scene = full()
        package = window_of(scene, Rasters(), 400, 100, 128, 1.0)

        class Read(Rasters):
            def load(self, name: str) -> np.ndarray:
                return package.rasters[name]

        own = read_scene(package.document)
        build = Build(own, own.plot.grid(), Cache(1 << 28), Read())
        grid = scene.plot.grid(501)
        found = whole_of(scene, Rasters(), grid.spacing)
        place = grid.window(236, 336, 129, 129)
        part = part_of(found, Rasters(), grid, place)
        self.assertEqual(build.heights.shape, (129, 129))
        self.assertLess(np.abs(build.heights - part.heights).max(), 0.005)
        self.assertLess(np.abs(build.ground() - part.shares).max(), 0.01)
        west, south, _, _ = place.bounds()
        names = [s.name for s in own.planting]
        self.assertIn("Trees", names)
        for sowing, plants in part.sown:
            if not len(plants):
                continue
            read = build.plants(names.index(sowing.name))
            self.assertEqual(len(read), len(plants), sowing.name)
            east = np.sort(plants.east - west)
            np.testing.assert_allclose(np.sort(read.east), east, atol=1e-3)
        level = build.water()[0]
        wet = np.isfinite(level)
        own_wet = np.zeros_like(wet) if part.water_m is None else np.isfinite(part.water_m)
        self.assertLess(float((wet != own_wet).mean()), 0.01)

    def test_one_that_cannot_be_is_told(self):
        with self.assertRaisesRegex(SceneError, "over the plot's edge"):
            window_of(scene_of(), Rasters(), 20, 200, 128, 1.0)
        with self.assertRaisesRegex(SceneError, "posts along a side"):
            window_of(scene_of(), Rasters(), 250, 200, 300, 0.05)
        vast = Plot(width_m=64000, depth_m=64000)
        self.assertLessEqual(Cut.of(vast, 513, 1.0).grid.nx ** 2, 1 << 32)
        with self.assertRaisesRegex(SceneError, "more than 4,294,967,296 in all") as told:
            Cut.of(vast, 513, 0.7)
        fits = float(re.search(r"Posts ([0-9.]+) m apart", told.exception.advice)[1])
        self.assertLessEqual(Cut.of(vast, 513, fits).grid.nx ** 2, 1 << 32)
        with self.assertRaisesRegex(SceneError, "posts along a side"):
            Cut.of(vast, 513, 0.4)


class Files(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.out = Path(folder.name) / "out"

    def test_two_workers_write_what_one_writes_and_another_library_reads_it(self):
        scene = full()
        order = TileOrder(posts=257, spacing_m=1.0, coarse_posts=257, png=True)
        bytes_of = []
        for workers in (1, 2):
            out = self.out / str(workers)
            with Pool(workers=workers) as pool:
                report = grow_tiles(scene, Rasters(), out, order, pool)
            self.assertEqual(report["grown"], 4)
            bytes_of.append({p.name: p.read_bytes() for p in sorted(out.iterdir())})
        self.assertEqual(bytes_of[0], bytes_of[1])
        told = json.loads((self.out / "1/tiles.json").read_text())
        for line in told["list"]:
            with rasterio.open(self.out / "1" / line["heights"]["tif"]) as file:
                metres = file.read(1)
            self.assertEqual(metres.shape, (257, 257))
            self.assertAlmostEqual(float(metres.max()), line["highest_m"], places=3)
            with rasterio.open(self.out / "1" / line["heights"]["png"]) as file:
                steps = file.read(1).astype(np.float64)
            span = told["heights"]["highest_m"] - told["heights"]["lowest_m"]
            whole_numbers = told["heights"]["lowest_m"] + steps / told["heights"]["of"] * span
            self.assertLess(np.abs(whole_numbers - metres).max(), span / 65535)
        self.assertEqual(told["plants"], sum(line["count"] for line in told["list"]))

    def test_a_worker_that_dies_loses_no_tile_and_what_was_ended_goes_on(self):
        scene = scene_of(ground=GROUND)
        order = TileOrder(posts=129, spacing_m=1.0, coarse_posts=257)
        undisturbed = self.out / "a"
        disturbed = self.out / "b"

        class Ended(Exception):
            pass

        def ends(done: int, of: int) -> None:
            if done == 5:
                raise Ended

        def kill_one(pool: Pool) -> None:
            pids = pool.client.run(os.getpid)
            os.kill(next(iter(pids.values())), 9)

        with Pool(workers=2) as pool:
            grow_tiles(scene, Rasters(), undisturbed, order, pool)
            with self.assertRaises(Ended):
                grow_tiles(scene, Rasters(), disturbed, order, pool, ends)
            there = len(list(disturbed.glob("tile-*.json")))
            killed = []

            def kills(done: int, of: int) -> None:
                if done > 7 and not killed:
                    killed.append(done)
                    kill_one(pool)

            report = grow_tiles(scene, Rasters(), disturbed, order, pool, kills)
        self.assertTrue(killed)
        self.assertEqual(report["grown"], report["tiles"] - there)
        files = lambda folder: {p.name: p.read_bytes() for p in folder.iterdir()}
        self.assertEqual(files(disturbed), files(undisturbed))

    def test_the_command_line_tells_what_is_wrong_and_writes_nothing(self):
        path = self.out.parent / "scene.json"
        path.write_text(scene_of().model_dump_json())
        for words in (["--tile-posts", "500"], ["--spacing", "0.0001"], ["--forms", "jpg"]):
            asked = ["grow", str(path), str(self.out), "--tiles", *words]
            self.assertEqual(main(asked), 2)
        self.assertFalse(self.out.exists())
        with self.assertRaises(SceneError):
            Cut.of(scene_of().plot, 129, 400)

    def test_workers_of_another_sow_are_told_and_left_alone(self):
        with Pool(workers=1) as far:
            far.client.run(_grown_older)
            with Pool(far.client.scheduler.address, workers=1) as pool:
                self.assertIn("another Sow", pool.told)
                self.assertFalse(pool.far)

    def test_it_goes_on_alone_where_the_scheduler_does_not_answer(self):
        with Pool("tcp://127.0.0.1:9", workers=1) as pool:
            self.assertIn("does not answer", pool.told)
            order = TileOrder(posts=513, spacing_m=1.0, coarse_posts=129, plants=False)
            report = grow_tiles(scene_of(), Rasters(), self.out, order, pool)
        self.assertEqual(report["tiles"], 1)


if __name__ == "__main__":
    unittest.main()
