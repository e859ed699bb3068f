"""Files that other libraries wrote are read at their true values, however plain, nested or odd, so
that what keeps the hostile ones out keeps none of these out.
"""

import csv
import io
import json
import os
import tempfile
import unittest
from pathlib import Path

import numpy as np
import pygltflib
import rasterio
import trimesh
from rasterio.transform import from_origin
from shapely.geometry import GeometryCollection, LineString, MultiPolygon, Point, Polygon, mapping

from sow.core.formats.elevation import read_elevation
from sow.core.formats.lines import read_contours
from sow.core.formats.positions import read_positions
from sow.core.plot import Plot

TIER = "fast"

PLOT = Plot(width_m=400, depth_m=300, posts=257)


class Grids(unittest.TestCase):
    def written(self, driver: str, ending: str, values: np.ndarray, **more) -> bytes:
        with tempfile.TemporaryDirectory() as folder:
            path = os.path.join(folder, f"a{ending}")
            profile = {
                "driver": driver,
                "height": values.shape[0],
                "width": values.shape[1],
                "count": 1,
                "dtype": values.dtype,
                "transform": from_origin(5000, 9000, 2.5, 2.5),
            }
            with rasterio.open(path, "w", **profile, **more) as file:
                file.write(values, 1)
            return Path(path).read_bytes()

    def test_grids_and_tiffs_of_every_layout_give_the_same_heights(self):
        rng = np.random.default_rng(6)
        values = rng.normal(300, 40, (48, 64)).astype(np.float32)
        for driver, ending, more in (
            ("AAIGrid", ".asc", {}),
            ("GTiff", ".tif", {}),
            ("GTiff", ".tif", {"tiled": True, "blockxsize": 16, "blockysize": 32}),
            ("GTiff", ".tif", {"compress": "deflate", "predictor": 3}),
            ("GTiff", ".tif", {"compress": "lzw", "interleave": "band"}),
            ("GTiff", ".tif", {"compress": "zstd"}),
            ("GTiff", ".tif", {"bigtiff": "YES"}),
        ):
            with self.subTest(driver, **more):
                found = read_elevation(self.written(driver, ending, values, **more), f"a{ending}")
                np.testing.assert_allclose(found.values, values, atol=6e-4)
                self.assertEqual((found.spacing_m, found.filled), (2.5, 0))

    def test_gaps_are_filled_and_counted_whatever_stands_for_them(self):
        y, x = np.mgrid[0:40, 0:50].astype(np.float32)
        plane = 100 + 2 * x + y
        for gap in (-9999.0, 0.0, 1e20):
            values = plane.copy()
            values[10:14, 20:26] = gap
            data = self.written("GTiff", ".tif", values, nodata=gap)
            found = read_elevation(data, "a.tif")
            self.assertEqual(found.filled, 24, gap)
            np.testing.assert_allclose(found.values, plane, atol=3.5)


class Lines(unittest.TestCase):
    def test_every_geometry_of_geojson_gives_its_lines(self):
        line = LineString([(10, 10), (60, 40), (90, 20)])
        ring = Polygon([(100, 100), (200, 100), (150, 180)], [[(140, 110), (160, 110), (150, 130)]])
        parts = MultiPolygon([ring, Polygon([(300, 50), (340, 50), (320, 90)])])
        several = GeometryCollection([line, Point(3, 3), ring])
        for geometry, count in ((line, 1), (ring, 2), (parts, 3), (several, 3)):
            feature = {
                "type": "Feature",
                "properties": {"ELEV": "120.5"},
                "geometry": mapping(geometry),
            }
            for document in ({"type": "FeatureCollection", "features": [feature]}, feature):
                found = read_contours(json.dumps(document).encode(), "a.geojson", PLOT)
                self.assertEqual(len(found), count)
                self.assertEqual({f["height_m"] for f in found}, {120.5})
        self.assertEqual(found[0]["points"], [[10, 10], [60, 40], [90, 20]])
        bare = read_contours(json.dumps(mapping(line)).encode(), "a.json", PLOT, heights=False)
        self.assertEqual(bare[0]["height_m"], 0)

    def test_heights_may_be_the_third_coordinate(self):
        line = LineString([(10, 10, 7), (60, 40, 7)])
        found = read_contours(json.dumps(mapping(line)).encode(), "a.json", PLOT)
        self.assertEqual(found, [{"height_m": 7.0, "points": [[10, 10], [60, 40]]}])

    def test_an_svg_of_groups_uses_and_shapes_is_stretched_over_the_plot(self):
        drawn = """<svg xmlns="http://www.w3.org/2000/svg"
            xmlns:xlink="http://www.w3.org/1999/xlink" width="200" height="150">
            <defs><path id="h10" d="M0 0 L 50 0"/></defs>
            <g transform="translate(20 30)"><g><use xlink:href="#h10"/></g></g>
            <rect id="h20" x="100" y="50" width="40" height="20"/>
            <circle id="h30" cx="150" cy="100" r="10"/></svg>"""
        found = read_contours(drawn.encode(), "a.svg", PLOT)
        self.assertEqual(sorted({f["height_m"] for f in found}), [10, 20, 30])
        moved = [f for f in found if f["height_m"] == 10 and f["points"][0][0] > 1]
        self.assertEqual(moved[0]["points"][0], [40, 240])  # 20 and 30 of 200 and 150, from above
        ring = np.array(next(f["points"] for f in found if f["height_m"] == 30))
        middle = (ring.min(0) + ring.max(0)) / 2
        np.testing.assert_allclose(middle, [300, 100], atol=1)


class Places(unittest.TestCase):
    ROWS = [
        ("Oak, old", 10.5, 20.25, 90, 1.5),
        ('"Birch"', 30, 40, 0, 1),
        ("Ash", 50, 60, 359, 0.5),
    ]

    def test_tables_of_every_dialect_say_the_same(self):
        for delimiter in (",", ";", "\t"):
            for heads in (
                ("name", "east", "north", "turn", "size"),
                ("Species", "X", "Y", "yaw", "scale"),
            ):
                for ending in ("\n", "\r\n"):
                    out = io.StringIO()
                    writer = csv.writer(out, delimiter=delimiter, lineterminator=ending)
                    writer.writerow(heads)
                    comma = delimiter != ","  # as half of Europe writes its numbers
                    for row in self.ROWS:
                        told = [str(v).replace(".", ",") if comma else v for v in row[1:]]
                        writer.writerow([row[0], *told])
                    data = ("\ufeff" + out.getvalue()).encode()
                    found = read_positions(data, "a.csv", PLOT)
                    self.assertEqual(found.names, sorted(r[0] for r in self.ROWS))
                    by_name = {found.names[int(r[0])]: r[1:].tolist() for r in found.table}
                    for name, *values in self.ROWS:
                        np.testing.assert_allclose(by_name[name], values, atol=1e-3)

    def test_points_of_geojson(self):
        features = [
            {
                "type": "Feature",
                "properties": {"species": n, "rotation": t},
                "geometry": mapping(Point(e, p)),
            }
            for n, e, p, t, _ in self.ROWS
        ]
        found = read_positions(json.dumps({"features": features}).encode(), "a.geojson", PLOT)
        self.assertEqual(len(found.table), 3)
        self.assertEqual(sorted(found.table[:, 3].tolist()), [0, 90, 359])
        self.assertTrue((found.table[:, 4] == -1).all())  # it tells no size

    def test_nested_nodes_stand_where_another_library_puts_them(self):
        rng = np.random.default_rng(7)
        nodes = [pygltflib.Node(name="root", children=[1, 2], translation=[100, 5, -80])]
        for k in range(2):
            quaternion = rng.normal(size=4)
            quaternion /= np.linalg.norm(quaternion)
            nodes.append(
                pygltflib.Node(
                    name=f"group{k}",
                    children=[3 + k],
                    rotation=quaternion.tolist(),
                    translation=rng.uniform(-20, 20, 3).tolist(),
                    scale=[1.5, 1.5, 1.5],
                )
            )
        for k in range(2):
            turned = trimesh.transformations.random_rotation_matrix(rng.random(3))
            turned[:3, 3] = rng.uniform(-9, 9, 3)
            nodes.append(pygltflib.Node(name=f"Oak.{k:03}", matrix=turned.T.ravel().tolist()))
        document = pygltflib.GLTF2(
            nodes=nodes, scenes=[pygltflib.Scene(nodes=[0])], scene=0, asset=pygltflib.Asset()
        )
        data = b"".join(document.save_to_bytes())
        found = read_positions(data, "a.glb", PLOT)
        self.assertEqual((found.names, found.counts()), (["Oak"], [2]))
        for k, row in enumerate(sorted(found.table.tolist(), key=lambda r: r[1])):
            whole = [
                self.matrix(nodes[0]) @ self.matrix(nodes[1 + j]) @ self.matrix(nodes[3 + j])
                for j in range(2)
            ]
            places = sorted([w[0, 3], -w[2, 3]] for w in whole)
            np.testing.assert_allclose(row[1:3], places[k], atol=1e-2)
            self.assertAlmostEqual(row[4], 1.5, places=3)

    def matrix(self, node) -> np.ndarray:
        """A node's own matrix by another library."""
        if node.matrix:
            return np.array(node.matrix).reshape(4, 4).T
        x, y, z, w = node.rotation or (0, 0, 0, 1)
        return (
            trimesh.transformations.translation_matrix(node.translation or (0, 0, 0))
            @ trimesh.transformations.quaternion_matrix((w, x, y, z))
            @ np.diag([*(node.scale or (1, 1, 1)), 1])
        )
