"""A product is kept under the hash of all that it depends on: an edit changes the keys of what
follows from it and of nothing else, and what is kept is never stale.
"""

import copy
import unittest
from collections.abc import Callable

import numpy as np

from sow.core.build import Build
from sow.core.cache import Cache
from sow.core.scene import read_scene

TIER = "fast"

DOCUMENT = {
    "name": "Keys",
    "plot": {"width_m": 300, "depth_m": 240, "posts": 65},
    "land": [
        {"id": "n", "name": "Noise", "kind": "noise", "height_m": 40, "feature_m": 120, "seed": 3},
        {"id": "p", "name": "Path", "kind": "path", "mark": "l", "width_m": 4},
        {"id": "t", "name": "Terraces", "kind": "terraces"},
    ],
    "marks": [
        {"id": "l", "name": "Line", "kind": "line", "points": [[20, 20], [150, 120], [280, 200]]},
        {
            "id": "a",
            "name": "Glade",
            "kind": "area",
            "points": [[60, 60], [140, 60], [140, 140], [60, 140]],
            "clearing": True,
        },
    ],
    "water": [{"id": "w", "name": "Lake", "level_m": 2}],
    "ground": [
        {"id": "g", "name": "Turf", "ground": "turf"},
        {
            "id": "r",
            "name": "Rock",
            "ground": "scree",
            "where": [{"kind": "slope", "low": 20, "high": 90}],
        },
    ],
    "planting": [
        {
            "id": "s",
            "name": "Stones",
            "mix": [{"kind": "boulder"}],
            "density": 0.6,
            "apart_m": 3,
        },
        {
            "id": "h",
            "name": "Heather",
            "mix": [{"kind": "heather"}, {"kind": "bilberry"}],
            "density": 6,
            "apart_m": 0.8,
            "where": [{"kind": "covered", "material": "g", "low": 40, "high": 100}],
        },
    ],
    "pieces": [{"id": "x", "name": "Block", "kind": "block", "east_m": 200, "north_m": 60}],
    "shots": [{"id": "c", "name": "Shot", "east_m": 150, "north_m": 10}],
    "light": {"sun_bearing": 200, "wind_from": 250},
}

LAND, WATER, GROUND, STONES, HEATHER = ALL = ("land", "water", "ground", "stones", "heather")
AFTER_LAND = set(ALL)
AFTER_WATER = {WATER, GROUND, STONES, HEATHER}
Edit = Callable[[dict], None]


def put(*path) -> Edit:
    """An edit that puts the last of `path` where the rest of it leads."""
    *way, name, value = path

    def edit(document: dict) -> None:
        at = document
        for step in way:
            at = at[step]
        at[name] = value

    return edit


EDITS: list[tuple[str, Edit, set[str]]] = [
    ("a landform's name", put("land", 0, "name", "Other"), set()),
    ("a landform's group", put("land", 0, "group", "Hills"), set()),
    ("a landform's height", put("land", 0, "height_m", 41), AFTER_LAND),
    ("a process switched off", put("land", 2, "on", False), AFTER_LAND),
    ("a line that a path follows", put("marks", 0, "points", 1, [150, 121]), AFTER_LAND),
    ("a line's name", put("marks", 0, "name", "Other"), set()),
    ("the level of the lake", put("water", 0, "level_m", 3), AFTER_WATER),
    ("the tint of the lake", put("water", 0, "tint", "#335577"), set()),
    ("the tint of a material", put("ground", 0, "tint", "#aa8866"), set()),
    ("the name of a material", put("ground", 1, "name", "Other"), set()),
    ("the cover of a material", put("ground", 1, "cover", 80), {GROUND, HEATHER}),
    ("the slope of a rule", put("ground", 1, "where", 0, "low", 22), {GROUND, HEATHER}),
    ("the density of the stones", put("planting", 0, "density", 0.7), {STONES, HEATHER}),
    ("the name of the stones", put("planting", 0, "name", "Other"), set()),
    ("the look of a kind", put("planting", 1, "mix", 0, "look", "autumn"), set()),
    ("the share of a kind", put("planting", 1, "mix", 0, "share", 70), {HEATHER}),
    ("the seed of the heather", put("planting", 1, "seed", 9), {HEATHER}),
    ("a clearing moved", put("marks", 1, "points", 0, [55, 60]), {STONES, HEATHER}),
    ("a clearing for no sowing", put("marks", 1, "clearing", False), {STONES, HEATHER}),
    ("a piece moved", put("pieces", 0, "east_m", 190), {STONES, HEATHER}),
    ("a piece's name", put("pieces", 0, "name", "Other"), set()),
    ("a shot moved", put("shots", 0, "east_m", 140), set()),
    ("the sun", put("light", "sun_bearing", 210), set()),
    ("the haze", put("light", "haze_m", 900), set()),
    ("the seed of the plot", put("plot", "seed", 7), AFTER_LAND),
]


def edited(edit: Edit) -> dict:
    document = copy.deepcopy(DOCUMENT)
    edit(document)
    return document


def build_of(document: dict, cache: Cache) -> Build:
    scene = read_scene(document)
    return Build(scene, scene.plot.grid(), cache)


def keys_of(build: Build) -> dict[str, str]:
    return {
        LAND: build.land_key,
        WATER: build.water_key,
        GROUND: build.ground_key,
        STONES: build.sowing_key(0),
        HEATHER: build.sowing_key(1),
    }


def products_of(build: Build) -> list[np.ndarray]:
    level = build.water()[0]
    plants = [build.plants(i) for i in (0, 1)]
    return [
        build.heights,
        np.nan_to_num(level, nan=-1e4),
        build.ground(),
        *(column for p in plants for column in (p.east, p.north, p.up, p.size, p.kind)),
    ]


class Keys(unittest.TestCase):
    def test_an_edit_changes_the_keys_of_what_follows_from_it(self):
        before = keys_of(build_of(DOCUMENT, Cache()))
        self.assertEqual(before, keys_of(build_of(copy.deepcopy(DOCUMENT), Cache())))
        for name, edit, wanted in EDITS:
            with self.subTest(name):
                after = keys_of(build_of(edited(edit), Cache()))
                changed = {k for k in ALL if before[k] != after[k]}
                self.assertEqual(changed, wanted)

    def test_keys_of_other_grids_are_others(self):
        scene = read_scene(DOCUMENT)
        build = Build(scene, scene.plot.grid(), Cache())
        own = build.keys.sowing(scene.plot.grid(), 1)
        self.assertEqual(own, build.sowing_key(1))
        self.assertNotEqual(own, build.keys.sowing(scene.plot.grid(129), 1))
        self.assertEqual(own, build.keys.sowing(scene.plot.grid(), 1))

    def test_what_is_kept_is_never_stale(self):
        """Every edit is built on what all the others left in one cache, and anew."""
        cache = Cache()
        products_of(build_of(DOCUMENT, cache))
        for name, edit, _ in EDITS:
            with self.subTest(name):
                document = edited(edit)
                kept = products_of(build_of(document, cache))
                anew = products_of(build_of(document, Cache()))
                for a, b in zip(kept, anew, strict=True):
                    np.testing.assert_array_equal(a, b)

    def test_nothing_is_made_twice_for_the_same_scene(self):
        cache = Cache()
        products_of(build_of(DOCUMENT, cache))
        made = cache.made
        products_of(build_of(copy.deepcopy(DOCUMENT), cache))
        self.assertEqual(cache.made, made)
        products_of(build_of(edited(put("land", 0, "name", "Other")), cache))
        self.assertEqual(cache.made, made)


if __name__ == "__main__":
    unittest.main()
