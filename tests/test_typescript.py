"""What is pure in the page, tested without a browser (`web/tests`, by vitest); what page and core
both reckon is held against the core's own values.
"""

import json
import os
import subprocess
import tempfile
import unittest
from pathlib import Path

import numpy as np

from sow.core.cabinet.dressed import Dressed
from sow.core.plot import Grid
from sow.core.sample import heights_at

TIER = "fast"
WEB = Path(__file__).parents[1] / "web"
FINE, COARSE = 33, 9
SIDE_M = 200.0


def twins() -> dict:
    """Values of the core for what the page reckons too."""
    rng = np.random.default_rng(11)
    heights = rng.normal(0, 20, (FINE, FINE)).astype(np.float32)
    grid = Grid(FINE, FINE, SIDE_M / (FINE - 1))
    places = rng.uniform(0, SIDE_M, (1000, 2))
    step = SIDE_M / (COARSE - 1)
    posts = [(c * step, SIDE_M - r * step) for r in range(COARSE) for c in range(COARSE)]
    names = [
        Dressed("birch"),
        Dressed("birch", "autumn"),
        Dressed("own-3+wide", "summer", "#ffddaa", 120.0),
        Dressed("boulder", tint="#102030"),
        Dressed("boulder", bright=80.0),
    ]
    at = lambda xy: heights_at(heights, grid, np.array(xy)[:, 0], np.array(xy)[:, 1]).tolist()
    field = {"nx": FINE, "ny": FINE, "spacing": grid.spacing, "east": 0, "north": 0}
    return {
        "field": {**field, "values": heights.ravel().tolist()},
        "places": places.tolist(),
        "heights": at(places),
        "coarse": {"nx": COARSE, "ny": COARSE, "spacing": step, "values": at(posts)},
        "dressed": [[str(d), d.kind, d.look, d.tint, d.bright] for d in names],
    }


class TypeScript(unittest.TestCase):
    def test_what_is_pure_in_the_page(self):
        with tempfile.TemporaryDirectory(prefix="sow-twins-") as folder:
            told, answer = Path(folder) / "twins.json", Path(folder) / "answer.json"
            told.write_text(json.dumps(twins()))
            words = ["node_modules/.bin/vitest", "run", "--root", ".", "--dir", "tests"]
            ran = subprocess.run(
                [*words, "--reporter=json", f"--outputFile={answer}"],
                cwd=WEB,
                env={**os.environ, "TWINS": str(told), "CI": "1"},
                capture_output=True,
                text=True,
                timeout=300,
            )
            self.assertTrue(answer.exists(), ran.stdout + ran.stderr)
            found = json.loads(answer.read_text())
        self.assertGreater(found["numTotalTests"], 10)
        for file in found["testResults"]:
            self.assertTrue(file["assertionResults"], file.get("message"))
            for each in file["assertionResults"]:
                with self.subTest(each["fullName"]):
                    self.assertEqual(each["status"], "passed", each["failureMessages"])


if __name__ == "__main__":
    unittest.main()
