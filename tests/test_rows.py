"""Rows of text by the million are those that Python writes one by one."""

import json
import tempfile
import unittest
from pathlib import Path

import numpy as np

from sow.core.formats.plantfiles import write_geojson, write_json
from sow.core.formats.plants import write_csv
from sow.core.formats.rows import Name, Number, text_rows
from sow.core.planting.plants import Plants
from sow.core.planting.sowing import Sowing

TIER = "fast"

TIES = [0.0, -0.0, 0.0625, -0.0625, 0.125, 2.5, 999.9995, -0.0004, 1e6, 1e12]


def plants(count: int, kinds: int) -> Plants:
    rng = np.random.default_rng(4)
    whole = lambda top: rng.integers(0, top, count).astype(np.uint8)
    some = lambda top: rng.uniform(0, top, count).astype(np.float32)
    place = lambda: rng.uniform(-50, 1600, count)
    return Plants(
        east=place(),
        north=place(),
        up=place(),
        turn=some(360),
        lean=some(20),
        bearing=some(360),
        size=some(2),
        tint=some(1),
        rank=some(1),
        kind=whole(kinds),
        variant=whole(4),
    )


class Rows(unittest.TestCase):
    def test_numbers_are_written_as_python_writes_them(self):
        rng = np.random.default_rng(1)
        wide = np.concatenate([rng.normal(0, 3000, 40_000), rng.uniform(-0.01, 0.01, 5000), TIES])
        for values in (wide, np.float32(wide)):
            for decimals in (0, 2, 3, 4):
                rows = b"".join(text_rows(["<", ">\n"], [Number(values, decimals)]))
                wanted = "".join(f"<{v:.{decimals}f}>\n" for v in values.tolist())
                self.assertEqual(rows.decode(), wanted)

    def test_names_stand_where_their_column_is(self):
        columns = [Name(np.array([2, 0, 1]), ["ä", "", "long name"]), Number(np.arange(3), 0)]
        rows = b"".join(text_rows(["(", " ", ")"], columns)).decode()
        self.assertEqual(rows, "(long name 0)(ä 1)( 2)")

    def test_what_cannot_be_written_is_refused(self):
        for bad in (np.nan, np.inf, 1e19):
            with self.assertRaises(ValueError):
                list(text_rows(["", "\n"], [Number(np.array([1.0, bad]), 3)]))
        with self.assertRaises(ValueError):
            list(text_rows([""], [Number(np.array([1.0]), 3)]))

    def test_the_three_forms_tell_the_same_plants(self):
        sowing = Sowing(id="s", name='A "B", c', mix=[{"kind": "birch"}, {"kind": "heather"}])
        own = plants(1000, 2)
        piece = {
            "kind": "boulder",
            "variant": 1,
            "east_m": 3.0,
            "north_m": 4.5,
            "up_m": 1.25,
            "turn": 10.0,
            "lean": 0.0,
            "bearing": 0.0,
            "size": 150.0,
        }
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder)
            write_csv(path / "a.csv", [(sowing, own)], [piece])
            write_json(path / "a.json", [(sowing, own)], [piece])
            write_geojson(path / "a.geojson", [(sowing, own)], [piece])
            lines = (path / "a.csv").read_text().splitlines()
            listed = json.loads((path / "a.json").read_text())
            points = json.loads((path / "a.geojson").read_text())["features"]
        self.assertEqual([len(lines) - 1, len(listed["plants"]), len(points)], [1001] * 3)
        self.assertTrue(lines[1].startswith('"A ""B"", c",'))
        self.assertTrue(lines[-1].startswith('"by hand",boulder,1,3.000,4.500,1.250,'))
        for k in (0, 500, 1000):
            row = dict(zip(listed["columns"], listed["plants"][k]))
            told = points[k]["properties"]
            self.assertEqual((row["sowing"], row["kind"]), (told["sowing"], told["kind"]))
            self.assertEqual(
                [row["east"], row["north"], row["up"]], points[k]["geometry"]["coordinates"]
            )
            self.assertEqual(float(lines[k + 1].rsplit(",", 1)[1]), row["size"])


if __name__ == "__main__":
    unittest.main()
