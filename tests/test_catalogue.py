"""What the server offers holds together: every offer makes an entry that builds, every field that a
panel shows has its words, its limits and a first value within them.
"""

import io
import json
import re
import unittest

import numpy as np
from PIL import Image

from sow.core.air.ready import lights
from sow.core.build import Build
from sow.core.cache import Cache
from sow.core.land.base import landforms, processes
from sow.core.scene import read_scene, schema
from sow.core.water.standing import waters
from sow.core.where.base import conditions
from sow.core.works import do
from sow.core.works.offering import BEYOND, LISTS, find_offer, offers
from sow.web.offer_pictures import BARE, offer_picture, pictured

TIER = "whole"

GROUND = {
    "name": "t",
    "plot": {"width_m": 1000, "depth_m": 800, "posts": 257},
    "land": [{"id": "n", "name": "Swell", "kind": "noise", "height_m": 60, "feature_m": 300}],
    "ground": [{"id": "g", "name": "turf", "ground": "turf"}],
    "marks": [
        {"id": "l", "name": "way", "kind": "line", "points": [[100, 100], [500, 420], [900, 700]]},
        {
            "id": "a",
            "name": "field",
            "kind": "area",
            "points": [[200, 200], [500, 220], [360, 500]],
        },
    ],
}


def numbers(shape: dict, found: dict, path: str = ""):
    """Every numeric field of a schema with its facts."""
    for name, field in shape.get("properties", {}).items():
        if field.get("type") in ("number", "integer"):
            found[f"{path}.{name}"] = field
    return found


class Offers(unittest.TestCase):
    def entries(self, document: dict, name: str) -> list[dict]:
        """The entries of a list of a document."""
        if name in BEYOND:
            return document.get("beyond", {}).get(BEYOND[name], [])
        return document.get(name, [])

    def test_every_offer_makes_an_entry_that_builds(self):
        for name in LISTS:
            for offer in offers(name):
                with self.subTest(name, offer=offer.key):
                    scene = read_scene(GROUND)
                    given = {"list": name, "key": offer.key}
                    done = do("add an entry", scene, given, Cache(1 << 27))
                    made = read_scene(done.document)
                    self.assertEqual(made.name, "t")
                    before, after = (self.entries(d, name) for d in (GROUND, done.document))
                    self.assertEqual(len(after), len(before) + 1)
                    self.assertEqual(done.label, f"{offer.label} added")
                    if offer.key in BARE:
                        continue  # empty until something is brought in
                    build = Build(made, made.plot.draft_grid(), Cache(1 << 28))
                    self.assertTrue(np.isfinite(build.heights).all())
                    if name == "planting":
                        self.assertGreater(sum(build.forecasts()), 0)
                    if name == "ground":
                        self.assertAlmostEqual(float(build.ground().sum(0).mean()), 1, places=3)

    def test_offers_of_a_list_have_names_of_their_own_and_a_group(self):
        for name in LISTS:
            found = offers(name)
            self.assertTrue(found, name)
            self.assertEqual(len({o.key for o in found}), len(found))
            self.assertEqual(len({o.label for o in found}), len(found))
            if name in ("land", "far"):
                self.assertTrue(all(o.group for o in found), name)

    def test_first_values_follow_the_size_of_the_plot(self):
        small = {**GROUND, "plot": {"width_m": 60, "depth_m": 60, "posts": 129}, "marks": []}
        large = {**GROUND, "plot": {"width_m": 20000, "depth_m": 20000, "posts": 129}, "marks": []}
        for key, field in (
            ("noise-smooth", "feature_m"),
            ("dunes", "feature_m"),
            ("cells", "feature_m"),
        ):
            sizes = []
            for document in (small, large):
                offer, context = find_offer(read_scene(document), "land", key)
                sizes.append(offer.first(context)[field])
            self.assertGreater(sizes[1] / sizes[0], 50, key)

    def test_pictures_of_offers_are_pictures_and_tell_them_apart(self):
        seen = {}
        for name in ("land", "water"):
            for offer in offers(name):
                if not pictured(name, offer.key):
                    continue
                data = offer_picture(name, offer.key)
                picture = np.asarray(Image.open(io.BytesIO(data)).convert("L"), float)
                self.assertEqual(picture.shape[1], 96)
                self.assertGreater(float(picture.std()), 1.5, (name, offer.key))
                seen[name, offer.key] = data
        self.assertGreater(len(set(seen.values())) / len(seen), 0.9)


class Fields(unittest.TestCase):
    def test_every_number_has_a_title_limits_and_a_first_value_within_them(self):
        shapes = schema()["$defs"]
        found: dict = {}
        for name, shape in shapes.items():
            numbers(shape, found, name)
        self.assertGreater(len(found), 300)
        for path, field in found.items():
            with self.subTest(path):
                self.assertTrue(field.get("title"))
                low = field.get("minimum", field.get("exclusiveMinimum"))
                high = field.get("maximum", field.get("exclusiveMaximum"))
                first = field.get("default")
                facts = field.get("sow")
                if not facts or "slider" not in facts:
                    continue
                self.assertIsNotNone(low)
                self.assertIsNotNone(high)
                if first is not None:
                    self.assertTrue(low <= first <= high, (low, first, high))
                ends = [v for v in facts["slider"] if isinstance(v, (int, float))]
                for end in ends:
                    self.assertTrue(low <= end <= high, (low, end, high))
                if facts["scale"] == "log" and ends:
                    self.assertGreaterEqual(min(ends), 0)

    def test_subtitles_and_handles_name_fields_that_are_there(self):
        for register in (landforms, processes, waters):
            for kind, facts in register.facts.items():
                fields = register.models[kind].model_fields
                for name in re.findall(r"\{(\w+)", facts.subtitle):
                    self.assertIn(name, {*fields, "count"}, kind)
                if facts.handles:
                    self.assertIn(facts.handles.across, fields)
                    self.assertIn(facts.handles.along, fields)

    def test_fields_that_depend_name_fields_and_values_that_are_there(self):
        for name, shape in schema()["$defs"].items():
            fields = shape.get("properties", {})
            for field, facts in fields.items():
                for other, values in (facts.get("sow", {}).get("only") or {}).items():
                    with self.subTest(name, field=field):
                        self.assertIn(other, fields)
                        self.assertIsInstance(values, list)
                        known = fields[other].get("enum")
                        if known:
                            self.assertLessEqual(set(values), set(known))

    def test_every_condition_has_a_label_and_its_first_values_are_its_own(self):
        for kind, model in conditions.models.items():
            self.assertTrue(conditions.facts[kind].label, kind)
            self.assertEqual(model.model_fields["kind"].default, kind)
            made = model()
            self.assertEqual(type(made).model_validate(made.model_dump()), made)

    def test_every_ready_light_is_a_light(self):
        scene = read_scene({"name": "t"}).model_dump(mode="json")
        seen = set()
        for name in lights:
            done = do("ready light", read_scene(scene), {"name": name}, Cache(1 << 24))
            light = read_scene(done.document).light
            seen.add(json.dumps(light.model_dump(mode="json")))
            self.assertTrue(-5 <= light.sun_height <= 90)
        self.assertEqual(len(seen), len(lights))
