"""Kinds of extra files that cannot be had: told and left out, while the rest works."""

import os
import time
import unittest
from unittest import mock

import numpy as np

from sow.core.build import Build
from sow.core.cabinet import SHIPPED, kinds
from sow.core.cabinet.kind import GONE, Kind, KindShape, stake
from sow.core.cabinet.mesh import Mesh, Part
from sow.core.cabinet.outside import watch, within
from sow.core.cabinet.portrait import portrait
from sow.core.cache import Cache
from sow.core.document.extra import troubles
from sow.core.errors import SceneError
from sow.core.picture.dressed import NEAREST, bodies_of
from tests.small import scene_of

TIER = "fast"


def cone(high: float, wide: float = 0.3) -> KindShape:
    corners = np.array([(-1, -1, 0), (1, -1, 0), (1, 1, 0), (-1, 1, 0), (0, 0, 1)], float)
    sides = [(0, 1, 4), (1, 2, 4), (2, 3, 4), (3, 0, 4)]
    mesh = Mesh.of(corners * (wide, wide, high), sides, (0.2, 0.3, 0.1))
    return KindShape([[mesh, mesh]], np.full((512, 1024, 4), 255, np.uint8), (60.0,))


def endless(look: str) -> KindShape:
    while True:
        time.sleep(0.001)


def bare(look: str) -> KindShape:
    none = Mesh.of(np.zeros((1, 3)), np.zeros((0, 3)), (0.1, 0.1, 0.1), np.array([[0, 0, 1.0]]))
    return KindShape([[none, none]], np.zeros((512, 1024, 4), np.uint8), (60.0,))


def broken(look: str) -> KindShape:
    raise KeyError("leaves")


def toy(name: str, make, **more) -> Kind:
    measures = {"height_m": 1.0, "reach_m": 0.4, "cover_m2": 0.2, "colour": (0.2, 0.3, 0.1)}
    return Kind(
        name=name,
        label=name.title(),
        family="shrub",
        variants=range(1),
        make=make,
        looks=("summer",),
        **{**measures, **more},
    )


class Outside(unittest.TestCase):
    def setUp(self):
        for patch in (
            mock.patch.dict(kinds),
            mock.patch.dict(os.environ, {"SOW_GROWS_S": "1"}),
        ):
            patch.start()
            self.addCleanup(patch.stop)
        before = list(troubles)
        self.addCleanup(lambda: troubles.__setitem__(slice(None), before))

    def watched(self, *added: Kind) -> None:
        kinds.update({kind.name: kind for kind in added})
        watch(SHIPPED)

    def told(self) -> str:
        return " ".join(t.message for t in troubles)

    def test_each_is_told_and_a_stake_stands_in_while_others_stand(self):
        self.watched(
            toy("slow", endless),
            toy("bald", bare),
            toy("torn", broken),
            toy("short", lambda look: cone(0.2)),
            toy("broad", lambda look: cone(1.0, 4.0)),
            toy("good", lambda look: cone(1.0)),
        )
        start = time.monotonic()
        names = ("slow", "bald", "torn", "short", "broad", "good")
        mix = [{"kind": name} for name in names]
        sowing = {"id": "mixed", "name": "Mixed", "mix": mix, "density": 3, "apart_m": 1}
        scene = scene_of(planting=[sowing])
        build = Build(scene, scene.plot.grid(33), Cache())
        self.assertEqual(len(set(build.plants(0).kind.tolist())), len(mix))
        shapes = {name: kinds[name].shape() for name in names}
        self.assertLess(time.monotonic() - start, 20)
        stood_in = stake("x").make("summer").levels[0][0].positions
        for name, shape in shapes.items():
            same = np.array_equal(shape.levels[0][0].positions, stood_in)
            self.assertEqual(same, name != "good", name)
            self.assertTrue(portrait(kinds[name]).size, name)
        for words in (
            "“Slow” cannot be had: it took over 1 s to grow and was stopped",
            "“Bald” cannot be had: it has no triangles",
            "“Torn” cannot be had: KeyError: 'leaves'",
            "states a height of 1 m and was grown 0.2 m high",
            "states a reach of 0.4 m and reaches",
        ):
            self.assertIn(words, self.told())
        count = len(troubles)
        kinds["slow"].shape()
        self.assertEqual(len(troubles), count)  # told once, and not tried again

    def test_a_nearest_build_without_leaves_is_the_nearest_level(self):
        none = bare("summer").levels[0][0]
        self.watched(
            toy(
                "thin",
                lambda look: cone(1.0),
                nearest=lambda look, variant, share: [Part(none, None)],
                nearest_m=10,
            )
        )
        bodies = bodies_of("thin", 0, NEAREST, 1.0)
        self.assertEqual(sum(len(b.faces) for b in bodies), 4)
        self.assertIn("its nearest build has no leaves", self.told())

    def test_measures_that_contradict_each_other_are_refused(self):
        make = lambda look: cone(1.0)
        for more, words in (
            ({"height_m": 0.0}, "above 0"),
            ({"cover_m2": 40.0}, "cannot hide 40 m² of ground with a reach of 0.4 m"),
            ({"colour": (0.2, 3.0, 0.1)}, "linear light"),
            ({"looks": ()}, "no look"),
        ):
            with self.assertRaisesRegex(SceneError, f"contradicts itself.*{words}"):
                Kind(**{**vars(toy("odd", make)), **more})

    def test_what_takes_too_long_is_ended(self):
        ran = []

        def work():
            while True:
                ran.append(time.monotonic())
                time.sleep(0.005)

        with self.assertRaises(TimeoutError):
            within(0.2, work)
        time.sleep(0.2)
        count = len(ran)
        time.sleep(0.2)
        self.assertEqual(len(ran), count)
        self.assertIn(GONE, stake("x").tags)


if __name__ == "__main__":
    unittest.main()
