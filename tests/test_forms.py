"""Landforms: how they lie, how they join, and the files that they come from."""

import io
import json
import unittest

import cv2
import numpy as np
import rasterio
import tifffile
from rasterio.transform import from_origin

from sow.core import noise
from sow.core.build.far_land import far_land
from sow.core.document.curve import along
from sow.core.document.references import missing
from sow.core.errors import SceneError
from sow.core.formats.elevation import destep, fill_gaps, guess_raw, read_elevation
from sow.core.formats.lines import read_contours
from sow.core.plot import Plot
from sow.core.sample import heights_at, values_at
from sow.core.scene import read_scene
from tests.test_kinds import Given, built, entry

TIER = "fast"

NOISE = {"id": "n", "name": "n", "kind": "noise", "feature_m": 120, "height_m": 30, "seed": 8}


class Patterns(unittest.TestCase):
    def test_position_turn_and_stretch_carry_the_pattern_with_them(self):
        grid = Plot(width_m=800, depth_m=800, posts=401).grid()
        plain = noise.fbm(grid, 150, 4, seed=3)
        moved = noise.fbm(grid, 150, 4, seed=3, lay=noise.Lay(100, 40))
        np.testing.assert_allclose(moved[:-20, 50:], plain[20:, :-50], atol=2e-4)
        wide = noise.fbm(grid, 150, 1, seed=3, lay=noise.Lay(0, 0, 0, 2))
        self.assertAlmostEqual(
            np.abs(np.diff(wide, axis=0)).mean() / np.abs(np.diff(wide, axis=1)).mean(),
            0.5,
            delta=0.12,
        )
        quarter = noise.fbm(grid, 150, 1, seed=3, lay=noise.Lay(0, 0, 90, 2))
        self.assertAlmostEqual(
            np.abs(np.diff(quarter, axis=0)).mean() / np.abs(np.diff(quarter, axis=1)).mean(),
            2,
            delta=0.5,
        )

    def test_far_from_the_origin_no_steps(self):
        far = Plot(width_m=64000, depth_m=64000, posts=4097).grid().window(10, 4000, 60, 90)
        near = Plot(width_m=64000, depth_m=64000, posts=4097).grid().window(4000, 10, 60, 90)
        for make in (noise.fbm, noise.ridged, noise.damped, noise.cells):
            for lay in (noise.Lay(), noise.Lay(0, 0, 33, 1.4)):
                rough = [
                    np.abs(np.diff(make(g, 700, 3, seed=1, lay=lay), 3, axis=1)).mean()
                    for g in (near, far)
                ]
                self.assertLess(rough[1], 2.5 * rough[0], (make.__name__, lay))

    def test_sharpness_moves_the_mass_but_not_the_shape(self):
        for form in ("smooth", "billow", "ridged", "washed"):
            soft, plain, keen = (
                built([{**NOISE, "form": form, "sharp": s}], 257).heights for s in (10, 50, 90)
            )
            self.assertGreater(np.corrcoef(soft.ravel(), keen.ravel())[0, 1], 0.6, form)
            self.assertGreater(np.abs(keen - soft).mean(), 0.4, form)

    def test_no_pattern_favours_the_grid(self):
        for form in ("smooth", "billow", "ridged", "washed"):
            h = built([{**NOISE, "form": form, "feature_m": 70}], 513).heights
            self.assertLess(grain(h), 0.12, form)

    def test_dunes_are_gentle_to_the_wind_and_rest_at_the_slip_angle(self):
        b = built(
            [
                entry(
                    "dunes",
                    feature_m=60,
                    height_m=9,
                    wind=270,
                    winding=10,
                    broken=10,
                    small=0,
                    sharp=50,
                )
            ],
            513,
        )
        east = np.diff(b.heights, axis=1) / b.grid.spacing
        up, down = east[east > 0.02], -east[east < -0.02]
        self.assertGreater(down.mean(), 1.6 * up.mean())
        self.assertLess(np.degrees(np.arctan(np.percentile(down, 95))), 42)


def grain(h) -> float:
    """Largest excess of the histogram of facing at multiples of 45 degrees over its neighbours, on
    the steeper half.
    """
    gy, gx = np.gradient(h)
    steep = np.hypot(gx, gy)
    way = np.degrees(np.arctan2(gy, gx))[steep > np.median(steep)]
    counts = np.histogram((way + 4.5) % 45, 5, (0, 45))[0]
    return float(counts[0] / counts[1:].mean() - 1)


class Forms(unittest.TestCase):
    def test_every_form_stands_where_it_is_put_and_turns(self):
        common = {
            "height_m": 40,
            "length_m": 160,
            "breadth_m": 80,
            "east_m": 210,
            "north_m": 140,
            "inner": 40,
        }
        for form, middle, side in (
            ("ridge", 40, 0),
            ("valley", -40, 0),
            ("dome", 40, 0),
            ("basin", -40, 0),
            ("ring", 0, 0),
            ("plateau", 40, 0),
            ("cone", None, 0),
        ):
            for turn, out in ((0, (270, 140)), (90, (210, 80))):
                b = built([entry("form", form=form, turn=turn, **common)], 257)
                at = heights_at(b.heights, b.grid, [210.0, out[0]], [140.0, out[1]])
                if middle is not None:
                    self.assertAlmostEqual(float(at[0]), middle, delta=0.6, msg=form)
                self.assertAlmostEqual(float(at[1]), side, delta=0.6, msg=(form, turn))
        b = built([entry("form", form="cone", **{**common, "breadth_m": 160})], 257)
        rim, floor = heights_at(b.heights, b.grid, [210.0 + 32, 210.0], [140.0, 140.0])
        self.assertGreater(rim, floor + 5)
        self.assertLess(built([entry("form", form="island", **common)], 129).heights[0, 0], -9)

    def test_the_edge_follows_its_curve(self):
        steps = [[0, 1], [0.49, 1], [0.51, 0], [1, 0]]
        b = built(
            [
                entry(
                    "form",
                    form="dome",
                    height_m=40,
                    length_m=200,
                    breadth_m=200,
                    east_m=200,
                    north_m=150,
                    profile=steps,
                )
            ],
            257,
        )
        at = heights_at(b.heights, b.grid, [200.0 + 40, 200.0 + 60], [150.0, 150.0])
        np.testing.assert_allclose(at, [40, 0], atol=0.2)
        self.assertLessEqual(
            float(along([[0, 0], [0.5, 1], [1, 1]], np.linspace(0, 1, 99)).max()), 1.0
        )

    def test_a_curve_with_two_values_at_one_place_is_refused(self):
        for points, words in (
            ([[0, 0], [0.4, 0.2], [0.4, 0.9], [1, 1]], "two values at 0.4"),
            ([[0.5, 0], [0.1, 1]], "runs backwards"),
        ):
            with self.assertRaises(SceneError) as e:
                built([NOISE, entry("curve", points=points)])
            self.assertIn(words, e.exception.message)
            self.assertTrue(e.exception.path.startswith("land.1.points"))

    def test_roughness_bends_but_keeps_the_place(self):
        plain, rough = (
            built(
                [
                    entry(
                        "form",
                        form="dome",
                        height_m=60,
                        length_m=240,
                        breadth_m=240,
                        east_m=200,
                        north_m=150,
                        rough=r,
                        rough_m=50,
                    )
                ],
                257,
            ).heights
            for r in (0, 60)
        )
        self.assertGreater(np.abs(rough - plain).mean(), 0.5)
        self.assertGreater(np.corrcoef(plain.ravel(), rough.ravel())[0, 1], 0.9)


class Joining(unittest.TestCase):
    DOME = {
        "id": "d",
        "name": "d",
        "kind": "form",
        "form": "dome",
        "height_m": 50,
        "length_m": 200,
        "breadth_m": 200,
        "east_m": 200,
        "north_m": 150,
    }

    def test_each_way_of_combining(self):
        n, d = built([NOISE]).heights, built([self.DOME]).heights
        join = lambda combine, **more: (
            built([NOISE, {**self.DOME, "combine": combine, **more}]).heights
        )
        np.testing.assert_allclose(join("subtract"), n - d, atol=1e-4)
        inside, outside = d > 2, np.abs(d) < 1e-6
        for combine, want in (
            ("lowest", np.minimum(n, d)),
            ("highest", np.maximum(n, d)),
            ("replace", d),
        ):
            got = join(combine)
            np.testing.assert_allclose(got[inside], want[inside], atol=1e-4)
            np.testing.assert_allclose(
                got[outside], n[outside], atol=1e-4
            )  # a form is not a plain beyond its outline
        soft, hard = join("highest", join_m=8), join("highest")
        self.assertTrue((soft >= hard - 1e-4).all())
        self.assertAlmostEqual(float((soft - hard).max()), 2, delta=0.1)
        np.testing.assert_allclose(soft[np.abs(n - d) > 8.1], hard[np.abs(n - d) > 8.1], atol=1e-4)

    def test_cover_maps_tell_which_land_shows_and_sum_to_one(self):
        b = built([NOISE, {**self.DOME, "combine": "highest"}])
        below, above = b.cover("n"), b.cover("d")
        np.testing.assert_allclose(below + above, 1, atol=0.01)
        n, d = built([NOISE]).heights, built([self.DOME]).heights
        self.assertTrue(
            (above[(d > n + 0.2) & (d > 5)] > 0.98).all()
            and (above[(d < n - 0.2) | (d == 0)] < 0.02).all()
        )
        ground = [
            {"id": "a", "name": "a", "ground": "turf"},
            {
                "id": "b",
                "name": "b",
                "ground": "granite",
                "edge": 100,
                "broken": 0,
                "stands": 0,
                "where": [{"kind": "shows", "landform": "d"}],
            },
        ]
        clothed = built([NOISE, {**self.DOME, "combine": "highest"}], ground=ground).ground()
        np.testing.assert_allclose(clothed[1], above, atol=1e-5)
        with self.assertRaises(SceneError) as e:
            built([{**NOISE, "where": [{"kind": "shows", "landform": "d"}]}, self.DOME]).heights
        self.assertIn("only the land before it", e.exception.message)

    def test_a_bound_mask_moves_turns_and_stretches_with_its_landform_and_does_not_tile(self):
        corner = np.zeros((41, 41), np.uint8)
        corner[:20, 20:] = 255  # the north-east quarter
        marks = [{"id": "k", "name": "k", "kind": "mask", "raster": "corner"}]

        def held(**more):
            dome = {**self.DOME, **more, "where": [{"kind": "mask", "mark": "k", "bound": "d"}]}
            b = built([dome], 257, Given(corner=corner), marks=marks)
            return lambda e, n: float(values_at(b.heights, b.grid, [e], [n])[0])

        at = held()
        self.assertGreater(at(225, 175), 20)
        self.assertLess(max(at(175, 175), at(225, 125), at(310, 260)), 0.5)
        moved = held(east_m=140, north_m=100)
        self.assertGreater(moved(165, 125), 20)
        self.assertLess(moved(115, 75), 0.5)
        turned = held(turn=90)  # the quarter comes to lie south-east
        self.assertGreater(turned(225, 125), 20)
        self.assertLess(turned(225, 175), 0.5)
        wide = held(breadth_m=390)
        self.assertGreater(wide(290, 160), 5)
        lost = built(
            [NOISE],
            rasters=Given(corner=corner),
            marks=marks,
            ground=[
                {"id": "a", "name": "a"},
                {"id": "b", "name": "b", "where": [{"kind": "mask", "mark": "k", "bound": "gone"}]},
            ],
        )
        self.assertTrue((lost.ground()[1] == 1).all())  # what is gone asks nothing, and is told
        self.assertEqual([r.field for r, _ in missing(lost.scene)], ["bound"])

    def test_a_build_that_fails_names_the_entry(self):
        with self.assertRaises(SceneError) as e:
            built([NOISE, {**entry("heightmap"), "raster": "", "name": "Far ridge"}]).heights
        self.assertIn("“Far ridge”", e.exception.message)
        self.assertEqual(e.exception.path, "land.1.raster")
        for kind in ("wear", "slump", "ice", "terraces", "curve", "laying", "move"):
            with self.assertRaises(SceneError, msg=kind) as e:
                built([entry(kind)]).heights
            self.assertIn("no land under it", e.exception.message)


class Heightmaps(unittest.TestCase):
    def hill(self, n=65):
        y, x = np.mgrid[0:n, 0:n] / (n - 1)
        return (40 + 60 * np.exp(-((x - 0.3) ** 2 + (y - 0.6) ** 2) / 0.05)).astype(np.float32)

    def test_every_form_of_file_gives_the_same_land(self):
        h = self.hill()
        out = {}
        for name, write in (
            ("tif", lambda f: tifffile.imwrite(f, h)),
            ("tif16", lambda f: tifffile.imwrite(f, np.uint16(h * 500))),
            ("tif8", lambda f: tifffile.imwrite(f, np.uint8(h))),
        ):
            file = io.BytesIO()
            write(file)
            out[name] = file.getvalue()
        out["png16"], out["png8"] = (
            cv2.imencode(".png", v)[1].tobytes() for v in (np.uint16(h * 500), np.uint8(h))
        )
        out["jpg"] = cv2.imencode(
            ".jpg", np.dstack([np.uint8(h)] * 3), [cv2.IMWRITE_JPEG_QUALITY, 98]
        )[1].tobytes()
        out["webp"] = cv2.imencode(
            ".webp", np.dstack([np.uint8(h)] * 3), [cv2.IMWRITE_WEBP_QUALITY, 100]
        )[1].tobytes()
        out["asc"] = (
            "ncols 65\nnrows 65\nxllcorner 0\nyllcorner 0\ncellsize 12.5\nNODATA_value -9999\n"
            + "\n".join(" ".join(f"{v:.3f}" for v in r) for r in h)
        ).encode()
        scale = lambda v: (v - v.min()) / np.ptp(v)
        for name, data in out.items():
            got = read_elevation(data, f"x.{name}")
            np.testing.assert_allclose(
                scale(got.values.astype(float)),
                scale(h),
                atol=0.06 if "8" in name or name in ("jpg", "webp") else 1e-4,
                err_msg=name,
            )
        self.assertEqual(read_elevation(out["asc"]).spacing_m, 12.5)
        for kind, order in (
            ("uint16", "little"),
            ("uint16", "big"),
            ("float32", "little"),
            ("float32", "big"),
        ):
            data = (
                (h * (500 if kind == "uint16" else 1))
                .astype(np.dtype(kind).newbyteorder("<" if order == "little" else ">"))
                .tobytes()
            )
            guess = guess_raw(data)
            if kind == "float32":
                self.assertEqual(guess, {"columns": 65, "rows": 65, "type": kind, "order": order})
            else:
                self.assertEqual((guess["type"], guess["order"]), (kind, order))
            got = read_elevation(
                data, "x.raw", {"columns": 65, "rows": 65, "type": kind, "order": order}
            ).values
            np.testing.assert_allclose(scale(got.astype(float)), scale(h), atol=1e-4)
        self.assertEqual(guess_raw(b"\0" * 1234)["columns"], 0)

    def test_geotiff_of_another_library_tells_its_spacing_and_its_gaps_are_filled(self):
        h = self.hill()
        h[20:26, 30:38] = -9999
        for crs, words in (("EPSG:32633", None), ("EPSG:4326", "degrees")):
            file = rasterio.MemoryFile()
            with file.open(
                driver="GTiff",
                width=65,
                height=65,
                count=1,
                dtype="float32",
                crs=crs,
                nodata=-9999,
                transform=from_origin(500000, 5e6, 10, 10)
                if words is None
                else from_origin(10, 50, 1e-4, 1e-4),
            ) as out:
                out.write(h, 1)
            data = file.read()
            if words:
                with self.assertRaises(SceneError) as e:
                    read_elevation(data, "x.tif")
                self.assertIn(words, e.exception.message)
                continue
            got = read_elevation(data, "x.tif")
            self.assertEqual((got.spacing_m, got.filled), (10.0, 48))
            whole = self.hill()
            self.assertLess(np.abs(got.values - whole)[20:26, 30:38].max(), 6)
            np.testing.assert_array_equal(got.values[h > -9999], whole[h > -9999])

    def test_bad_files_are_told(self):
        head = "ncols 4\nnrows 3\ncellsize 5\n"
        for data, raw, words in (
            (f"{head}1 2 3 4 5 6 7".encode(), None, "holds 7"),
            (b"ncols 4\ncellsize 5\n1 2", None, "without nrows"),
            (f"{head}1 2 x 4".encode(), None, "not a number"),
            (
                b"\0" * 40,
                {"columns": 5, "rows": 5, "type": "uint16", "order": "little"},
                "40 bytes",
            ),
            (
                b"\0" * 40,
                {"columns": 5, "rows": 4, "type": "int9", "order": "little"},
                "uint16 or float32",
            ),
            (f"{head}NODATA_value 7\n".encode() + b"7 " * 12, None, "no heights at all"),
        ):
            with self.assertRaises(SceneError) as e:
                read_elevation(data, "x", raw)
            self.assertIn(words, e.exception.message)
            self.assertTrue(e.exception.advice)

    def test_eight_bit_steps_are_smoothed_and_still_round_to_what_was_given(self):
        h = self.hill(257) * 0.4 + np.linspace(0, 60, 257, dtype=np.float32)
        given = np.uint8(np.rint(h))
        smooth = destep(given)
        self.assertLessEqual(float(np.abs(smooth - given).max()), 0.5001)
        self.assertLess(np.abs(smooth - h).mean(), 0.6 * np.abs(given - h).mean())
        flat = (
            float((np.diff(given.astype(int), axis=1) == 0).mean()),
            float((np.abs(np.diff(smooth, axis=1)) < 1e-3).mean()),
        )
        self.assertLess(flat[1], 0.5 * flat[0])
        np.testing.assert_allclose(
            fill_gaps(np.full((9, 9), 4.0, np.float32), np.eye(9) > 0), 4, atol=1e-4
        )

    def test_area_turn_fade_and_invert(self):
        ramp = np.tile(np.linspace(0, 1000, 81, dtype=np.float32), (81, 1))
        put = lambda **more: built(
            [
                entry(
                    "heightmap",
                    area="own",
                    east_m=200,
                    north_m=150,
                    width_m=120,
                    depth_m=100,
                    lowest_m=0,
                    highest_m=60,
                    combine="replace",
                    **more,
                )
            ],
            257,
            Given(ramp=ramp),
        )
        b = put()
        at = lambda b, e, n: float(values_at(b.heights, b.grid, [e], [n])[0])
        self.assertAlmostEqual(at(b, 200, 150), 30, delta=0.3)
        self.assertAlmostEqual(at(b, 255, 150), 57.5, delta=0.5)
        self.assertEqual(at(b, 270, 150), 0)
        self.assertAlmostEqual(
            at(put(turn=90), 200, 105), 52.5, delta=0.6
        )  # east comes to lie south
        self.assertAlmostEqual(at(put(invert=True), 255, 150), 2.5, delta=0.5)
        self.assertLess(at(put(fade_m=30), 255, 150), 10)
        for name in ("twin-peaks", "broken-crater", "long-escarpment"):
            ready = built(
                [{**entry("heightmap"), "raster": "", "ready": name, "highest_m": 80}], 257
            ).heights
            self.assertAlmostEqual(float(np.ptp(ready)), 80, delta=2)
        with self.assertRaises(SceneError) as e:
            built([{**entry("heightmap"), "raster": "", "ready": "nothing"}]).heights
        self.assertIn("twin-peaks", e.exception.advice)

    def test_another_scenes_land_comes_in_its_own_metres(self):
        h = self.hill()
        b = built(
            [
                {
                    "id": "b",
                    "name": "b",
                    "kind": "borrowed",
                    "raster": "h",
                    "area": "own",
                    "width_m": 300,
                    "depth_m": 300,
                    "east_m": 200,
                    "north_m": 150,
                    "times": 2,
                    "lift_m": 5,
                    "combine": "replace",
                }
            ],
            257,
            Given(h=h),
        )
        self.assertAlmostEqual(float(b.heights.max()), 2 * float(h.max()) + 5, delta=1)


class Contours(unittest.TestCase):
    def ring(self, height, radius, n=60):
        a = np.linspace(0, 2 * np.pi, n + 1)
        return {
            "height_m": height,
            "points": [
                [200 + radius * float(np.cos(t)), 150 + radius * float(np.sin(t))] for t in a
            ],
        }

    def test_lines_are_met_with_no_terraces_and_the_top_is_not_flat(self):
        lines = [self.ring(10 * k, 130 - 25 * k) for k in range(5)]
        b = built([entry("contours", lines=lines)], 257)
        for k, line in enumerate(lines):
            e, n = np.array(line["points"]).T
            np.testing.assert_allclose(values_at(b.heights, b.grid, e, n), 10 * k, atol=0.8)
        self.assertGreater(
            float(b.heights.max()), 41.5
        )  # above the last line the land goes on rising
        across = b.heights[b.grid.ny // 2, 100:160]
        self.assertLess(float((np.abs(np.diff(across)) < 0.02).mean()), 0.1)
        coarse = built([entry("contours", lines=lines)], 65)
        self.assertLess(np.abs(coarse.heights - b.heights[::4, ::4]).max(), 0.5)

    def test_bad_lines_are_told(self):
        cross = [
            {"height_m": 0, "points": [[0, 0], [400, 300]]},
            {"height_m": 10, "points": [[0, 300], [400, 0]]},
        ]
        far = [{"height_m": 0, "points": [[9000, 9000], [9500, 9900]]}]
        for lines, words in ((cross, "cross"), (far, "touch nothing"), ([], "no contours")):
            with self.assertRaises(SceneError) as e:
                built([entry("contours", lines=lines)]).heights
            self.assertIn(words, e.exception.message)

    def test_geojson_and_svg(self):
        plot = Plot(width_m=400, depth_m=300)
        line = {
            "type": "Feature",
            "properties": {"Elevation": 12.5},
            "geometry": {"type": "LineString", "coordinates": [[10, 20], [100, 90], [300, 250]]},
        }
        deep = {
            "type": "Feature",
            "properties": {},
            "geometry": {"type": "MultiLineString", "coordinates": [[[0, 0, 7], [50, 50, 7]]]},
        }
        got = read_contours(
            json.dumps({"type": "FeatureCollection", "features": [line, deep]}).encode(), "x", plot
        )
        self.assertEqual([(l["height_m"], len(l["points"])) for l in got], [(12.5, 3), (7.0, 2)])
        self.assertEqual(got[0]["points"][0], [10, 20])
        shifted = json.loads(json.dumps(line))
        shifted["geometry"]["coordinates"] = [
            [e + 500000, n + 4e6] for e, n in shifted["geometry"]["coordinates"]
        ]
        e, n = np.array(read_contours(json.dumps(shifted).encode(), "x", plot)[0]["points"]).T
        self.assertTrue((e >= 0).all() and (e <= 400).all() and (n >= 0).all() and (n <= 300).all())
        svg = (
            b'<svg xmlns="http://www.w3.org/2000/svg" width="200" height="100"><path id="h40" '
            b'd="M0 100 L200 0"/><path data-height="55" d="M10 10 C 50 50 100 50 150 10"/></svg>'
        )
        got = read_contours(svg, "x.svg", plot)
        self.assertEqual([l["height_m"] for l in got], [40, 55])
        np.testing.assert_allclose(
            [got[0]["points"][0], got[0]["points"][-1]], [[0, 0], [400, 300]], atol=1e-6
        )
        degrees = json.loads(json.dumps(line))
        degrees["geometry"]["coordinates"] = [[10.1, 50.2], [10.2, 50.3]]
        for data, words in (
            (json.dumps({**line, "properties": {}}), "without a height"),
            (json.dumps(degrees), "degrees"),
            ('{"type": "FeatureCollection", "features": []}', "no lines"),
            ("{", "not GeoJSON"),
        ):
            with self.assertRaises(SceneError) as e:
                read_contours(data.encode(), "x", plot)
            self.assertIn(words, e.exception.message)


class Beyond(unittest.TestCase):
    def test_each_edge_joins_without_a_step_on_both_rings(self):
        own = [
            {
                "id": "f",
                "name": "f",
                "kind": "noise",
                "form": "ridged",
                "feature_m": 900,
                "height_m": 300,
            }
        ]
        for beyond in (
            {"edge": "run on"},
            {"edge": "rise", "rise_m": 40, "join_m": 200},
            {"edge": "fade", "level_m": -5, "join_m": 200},
            {"edge": "run on", "land": own, "turn": 40, "east_m": 3000, "size": 150, "lift_m": 20},
        ):
            b = built([NOISE], 129, beyond=beyond)
            for ring in (0, 1):
                far, grid = far_land(b, ring)
                self.assertTrue(np.isfinite(far).all())
                if ring == 0:
                    e = np.linspace(0, 400, 60)
                    inside = heights_at(b.heights, b.grid, e, np.zeros(60))
                    self.assertLess(
                        np.abs(heights_at(far, grid, e, np.full(60, -0.5)) - inside).mean(),
                        1.2,
                        beyond,
                    )
                else:
                    near, inner = far_land(b, 0)
                    e = np.linspace(inner.east_m, inner.east_m + inner.width_m, 40)
                    self.assertLess(
                        np.abs(
                            heights_at(far, grid, e, np.full(40, inner.north_m))
                            - heights_at(near, inner, e, np.full(40, inner.north_m))
                        ).mean(),
                        30,
                        beyond,
                    )
            if beyond["edge"] == "fade":
                self.assertAlmostEqual(float(far[0, 0]), -5, delta=0.01)
        flat, raised = (
            far_land(built([NOISE], 129, beyond={"edge": e, "rise_m": 80, "join_m": 200}), 0)
            for e in ("run on", "rise")
        )
        at = lambda pair: float(heights_at(pair[0], pair[1], [-200.0], [150.0])[0])
        self.assertAlmostEqual(at(raised) - at(flat), 80, delta=3)

    def test_older_documents_are_read(self):
        scene = read_scene({"name": "t", "plot": {"width_m": 100, "runs_on": False}})
        self.assertEqual(scene.beyond.edge, "end")


if __name__ == "__main__":
    unittest.main()
