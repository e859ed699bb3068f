"""How near the shots come to each kind, and which of its levels that calls for."""

import unittest

from sow.core.build import Build
from sow.core.cabinet import kind_of
from sow.core.cache import Cache
from sow.core.judge.kind_nearness import KindNear, kind_nearness
from sow.core.scene import read_scene

TIER = "fast"

EYE_M = 1.7


def piece(name: str, north: float, kind: str = "boulder", **more) -> dict:
    return {"id": name, "name": name, "kind": kind, "east_m": 100, "north_m": north, **more}


def shot(name: str, north: float = 20, **more) -> dict:
    """A shot that looks north along the middle of the plot."""
    return {"id": name, "name": name, "east_m": 100, "north_m": north, "eye_m": EYE_M, **more}


def near(pieces: list[dict], shots: list[dict], wide_px: int = 1920, **more) -> list[KindNear]:
    document = {
        "name": "Near",
        "plot": {"width_m": 200, "depth_m": 400, "posts": 129},
        "pieces": pieces,
        "shots": shots,
        **more,
    }
    scene = read_scene(document)
    return kind_nearness(Build(scene, scene.plot.grid(), Cache()), wide_px)


class KindNearness(unittest.TestCase):
    def test_the_nearest_is_told_with_its_height_in_pixels(self):
        kind = kind_of("boulder")
        (line,) = near([piece("a", 30), piece("b", 90)], [shot("s")])
        self.assertEqual((line.kind, line.number, line.shot), ("boulder", 2, "s"))
        away = (10**2 + (EYE_M - kind.height_m / 2) ** 2) ** 0.5
        self.assertAlmostEqual(line.nearest_m, away, delta=0.05)
        focal = read_scene({"name": "f", "shots": [shot("s")]}).shots[0].focal_mm
        self.assertAlmostEqual(line.pixels, kind.height_m / away * focal / 36 * 1920, delta=2)
        (wide,) = near([piece("a", 30), piece("b", 90)], [shot("s")], 3840)
        self.assertAlmostEqual(wide.pixels, 2 * line.pixels, delta=2)

    def test_the_level_falls_with_distance(self):
        levels = [near([piece("a", n)], [shot("s")])[0].level for n in (22, 45, 120, 390)]
        self.assertEqual(levels, sorted(levels))
        self.assertEqual(levels[0], 0)
        self.assertGreater(levels[-1], 0)
        most = [near([piece("a", n)], [shot("s")])[0].triangles for n in (22, 390)]
        self.assertGreater(most[0], most[1])
        self.assertIn("never drawn", near([piece("a", 390)], [shot("s")])[0].verdict)
        self.assertIn("finer", near([piece("a", 22)], [shot("s")])[0].verdict)

    def test_what_no_shot_sees(self):
        for pieces, shots, more in (
            ([piece("a", 30)], [], {}),
            ([piece("a", 30)], [shot("s", on=False)], {}),
            ([piece("a", 10)], [shot("s", north=60)], {}),  # it lies behind
            (
                [piece("a", 300)],
                [shot("s", north=20)],
                {
                    "land": [
                        {
                            "id": "h",
                            "name": "Hill",
                            "kind": "form",
                            "form": "dome",
                            "height_m": 40,
                            "length_m": 160,
                            "breadth_m": 160,
                            "east_m": 100,
                            "north_m": 160,
                        }
                    ]
                },
            ),
        ):
            (line,) = near(pieces, shots, **more)
            self.assertEqual((line.nearest_m, line.verdict), (None, "no shot sees it"), more)
            self.assertEqual((line.number, line.drawn, line.pixels), (1, 0, 0))

    def test_the_shot_that_comes_nearest_is_named(self):
        lines = near([piece("a", 100)], [shot("far"), shot("close", north=90)])
        self.assertEqual(lines[0].shot, "close")
        self.assertLess(lines[0].nearest_m, 11)

    def test_larger_ones_count_as_nearer(self):
        small = near([piece("a", 60, size=50)], [shot("s")])[0]
        large = near([piece("a", 60, size=300)], [shot("s")])[0]
        self.assertLessEqual(large.level, small.level)
        self.assertGreater(large.pixels, 5 * small.pixels)

    def test_sown_and_placed_are_one_kind(self):
        planting = [
            {
                "id": "p",
                "name": "Stones",
                "mix": [{"kind": "boulder"}, {"kind": "cobble"}],
                "density": 0.5,
                "apart_m": 3,
            }
        ]
        lines = near([piece("a", 40)], [shot("s")], planting=planting)
        self.assertEqual([line.kind for line in lines], ["boulder", "cobble"])
        alone = near([], [shot("s")], planting=planting)
        self.assertEqual(lines[0].number, alone[0].number + 1)
        self.assertEqual(lines[1].number, alone[1].number)
        self.assertGreaterEqual(lines[0].drawn, alone[0].drawn)


if __name__ == "__main__":
    unittest.main()
