"""Land beyond the plot: what clothes it, masks and pictures bound to it, what stands on it."""

import unittest

import numpy as np

from sow.core.build import Build, Rasters
from sow.core.build.far_land import (
    far_colour,
    far_frame,
    far_heights_at,
    far_land,
    far_site,
)
from sow.core.cache import Cache
from sow.core.land.base import Frame
from sow.core.land.join_far import moved_frame
from sow.core.works import do
from tests.small import SIDE_M, scene_of

TIER = "fast"

DOME = {
    "id": "peak",
    "name": "Peak",
    "kind": "form",
    "form": "dome",
    "east_m": 1500,
    "north_m": 100,
    "length_m": 800,
    "breadth_m": 800,
    "height_m": 300,
}
TURF = {"id": "turf", "name": "Turf", "ground": "turf"}
SNOW = {"id": "snow", "name": "Snow", "ground": "snow"}
WHITE_SHOWS = {**SNOW, "where": [{"kind": "shows", "landform": "peak"}]}


class Given(Rasters):
    """Rasters at hand."""

    def __init__(self, **held):
        self.held = held

    def load(self, name):
        return self.held[name]


def build_of(rasters=None, **more) -> Build:
    scene = scene_of(ground=[TURF], **more)
    return Build(scene, scene.plot.grid(), Cache(1 << 30), rasters or Rasters())


def at(build: Build, east: float, north: float, ring: int = 1) -> np.ndarray:
    """Linear colour of the far land at a place."""
    _, grid = far_land(build, ring)
    row = int(round(float(grid.rows_of(north))))
    column = int(round(float(grid.cols_of(east))))
    return (far_colour(build, ring)[row, column, :3].astype(float) / 255) ** 2


class OwnMaterials(unittest.TestCase):
    def test_they_clothe_the_far_land_alone_where_its_landform_shows(self):
        far_turf = {**TURF, "id": "far-turf"}
        far = {"land": [DOME], "ground": [far_turf, {**WHITE_SHOWS, "id": "far-snow"}]}
        plain, snowy = build_of(beyond={"land": [DOME]}), build_of(beyond=far)
        self.assertGreater(at(snowy, 1500, 100).mean(), 2 * at(plain, 1500, 100).mean())
        np.testing.assert_allclose(at(snowy, 4500, 100), at(plain, 4500, 100), atol=0.01)
        self.assertEqual(len(snowy.ground()), 1)  # the plot keeps its own

    def test_a_material_of_the_plot_does_not_see_far_landforms_at_home(self):
        build = build_of(beyond={"land": [DOME]})
        both = build_of(beyond={"land": [DOME]})
        both.scene.ground.append(type(both.scene.ground[0])(**WHITE_SHOWS))
        self.assertEqual(float(both.ground()[1].max()), 0.0)
        np.testing.assert_array_equal(build.ground()[0], both.ground()[0])

    def test_a_wood_that_names_a_material_of_the_plot_still_finds_it_there(self):
        wood = {
            "id": "w",
            "name": "Wood",
            "mix": [{"kind": "birch"}],
            "where": [{"kind": "covered", "material": "turf"}],
        }
        far = {"ground": [{**SNOW, "id": "far-snow"}]}
        build = build_of(planting=[wood], beyond=far)
        site, own = far_site(build, 0)
        self.assertEqual(len(own), 1)
        self.assertEqual(float(site.shares("turf", "").min()), 1.0)

    def test_one_is_added_like_any_entry_and_read_back(self):
        done = do("add an entry", scene_of(), {"list": "far ground", "key": "snow"})
        self.assertEqual(done.document["beyond"]["ground"][0]["ground"], "snow")
        path = ["beyond", "ground", 0]
        again = do("add a rule", scene_of(**done.document), {"path": path, "key": "slope"})
        self.assertEqual(again.document["beyond"]["ground"][0]["where"][-1]["kind"], "slope")


class BoundToFarLand(unittest.TestCase):
    MASK = {"id": "m", "name": "Half", "kind": "mask", "raster": "half"}

    def half(self) -> Given:
        """White in its western half."""
        mask = np.zeros((8, 8), np.uint8)
        mask[:, :4] = 255
        return Given(half=mask)

    def test_an_inverted_mask_leaves_snow_on_the_other_side(self):
        white = {**SNOW, "where": [{"kind": "mask", "mark": "m", "bound": "peak", "invert": True}]}
        far = {"land": [DOME], "ground": [{**TURF, "id": "far-turf"}, white]}
        build = build_of(self.half(), beyond=far, marks=[self.MASK])
        west, east = at(build, 1250, 100), at(build, 1750, 100)
        self.assertGreater(east.mean(), 2 * west.mean())

    def test_a_mask_goes_with_the_far_land_as_it_is_moved_turned_and_sized(self):
        white = {**SNOW, "where": [{"kind": "mask", "mark": "m", "bound": "peak"}]}
        far = {"land": [DOME], "ground": [{**TURF, "id": "far-turf"}, white]}
        moved = {"east_m": 400, "north_m": -900, "turn": 70, "size": 150}
        still = build_of(self.half(), beyond=far, marks=[self.MASK])
        other = build_of(self.half(), beyond={**far, **moved}, marks=[self.MASK])
        for place in ((1300, 100), (1300, 300), (1700, 100), (1700, -100)):
            there = self._carried(other, *place)
            np.testing.assert_allclose(at(other, *there), at(still, *place), atol=0.05)
            heights = [
                float(far_heights_at(b, np.array([float(p[0])]), np.array([float(p[1])]))[0])
                for b, p in ((still, place), (other, there))
            ]
            self.assertAlmostEqual(*heights, delta=12)  # m of 300: the grid's posts lie otherwise

    def _carried(self, build: Build, east: float, north: float) -> tuple[float, float]:
        far = build.scene.beyond
        frame = moved_frame(Frame(east, north, 1, 1), far, build.scene.plot)
        return frame.east_m, frame.north_m

    def test_a_picture_is_laid_over_its_landform_and_ends_with_it(self):
        red = np.zeros((4, 4, 4), np.uint8)
        red[..., 0] = red[..., 3] = 255
        picture = {**SNOW, "picture": "red", "over": "peak"}
        far = {"land": [DOME], "ground": [{**TURF, "id": "far-turf"}, picture]}
        build = build_of(Given(red=red.reshape(4, 16)), beyond=far)
        inside, outside = at(build, 1500, 100), at(build, 2500, 100)
        self.assertGreater(inside[0], 20 * max(inside[1], 1e-3))
        self.assertLess(outside[0], 3 * outside[1])

    def test_its_frame_is_where_the_landform_came_to_lie(self):
        build = build_of(beyond={"land": [DOME], "east_m": 100, "size": 50})
        frame = far_frame(build, "peak")
        middle = SIDE_M / 2
        self.assertAlmostEqual(frame.east_m, middle + 100 + (1500 - middle) / 2)
        self.assertAlmostEqual(frame.width_m, 400)


class StandsThere(unittest.TestCase):
    def test_pieces_and_cards_beyond_the_plot_stand_on_the_far_land(self):
        place = {"east_m": 1500, "north_m": 100}
        build = build_of(
            beyond={"land": [DOME]},
            pieces=[{"id": "p", "name": "Cairn", "kind": "boulder", **place}],
            air=[{"id": "c", "name": "Card", "kind": "card", **place}],
        )
        top = float(far_heights_at(build, np.array([1500.0]), np.array([100.0]))[0])
        self.assertGreater(top, 250)
        self.assertAlmostEqual(build.pieces()[0]["up_m"], top, delta=1e-6)
        self.assertAlmostEqual(build.in_air().cards[0].place[2], top, delta=1e-6)
        ends = build_of(beyond={"edge": "end"})
        edge = far_heights_at(ends, np.array([1500.0]), np.array([100.0]))
        np.testing.assert_allclose(edge, far_heights_at(ends, np.array([200.0]), np.array([100.0])))


if __name__ == "__main__":
    unittest.main()
