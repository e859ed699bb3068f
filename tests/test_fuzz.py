"""Requests made up from the API's own description, right ones and spoiled ones: whatever comes, the
answer is in words. Seeded, so that a failure comes again; `./sow test fuzz` goes on for longer.
"""

import json
import os
import random
import time
import unittest
import urllib.error
from collections import Counter
from urllib.parse import quote

from tests.served import ask, server

TIER = "whole"

SECONDS = float(os.environ.get("SOW_FUZZ_SECONDS", 12))
LEAST = 300  # requests, however slow the machine is
SEED = int(os.environ.get("SOW_FUZZ_SEED", 12))
TOLD = {503, 507}  # what the description names: no store, no room
DOCUMENT = {
    "name": "f",
    "plot": {"width_m": 300, "depth_m": 300, "posts": 129},
    "land": [
        {"id": "n", "name": "n", "kind": "noise", "height_m": 20},
        {"id": "h", "name": "h", "kind": "hand", "posts": 129},
    ],
    "ground": [{"id": "g", "name": "g", "ground": "turf", "where": [{"kind": "slope"}]}],
    "planting": [{"id": "p", "name": "p", "mix": [{"kind": "birch"}], "density": 0.2}],
    "marks": [{"id": "l", "name": "l", "kind": "line", "points": [[10, 10], [90, 80]]}],
    "beyond": {"edge": "end"},
}
ODD_PARTS = [
    "0",
    "-1",
    "1",
    "999999999",
    "9" * 30,
    "abc",
    "²",
    "%00",
    "..%2f",
    "a%0d%0ab",
    "é" * 90,
]
ODD_VALUES = [
    None,
    True,
    0,
    -1,
    2**31,
    2**63,
    -(2**70),
    1e308,
    0.1,
    "",
    " ",
    "a" * 5000,
    "\u0000",
    "\ud800",
    "\u202egnp.exe",
    "²",
    "<script>",
    "../../etc/passwd",
    "NaN",
    [],
    {},
    [[]],
    [None],
    {"": None},
    {"$ref": "#"},
]
COSTLY = ("posts", "number", "count", "wide_px", "width", "height", "density", "octaves", "frames")


class Maker:
    """Values by a JSON Schema."""

    def __init__(self, description: dict, rng: random.Random):
        self.shapes = description["components"]["schemas"]
        self.rng = rng

    def value(self, schema: dict, depth: int = 0):
        """A value that the schema allows, as far as it says."""
        rng = self.rng
        if "$ref" in schema:
            return self.value(self.shapes[schema["$ref"].rsplit("/", 1)[1]], depth + 1)
        for word in ("anyOf", "oneOf", "allOf"):
            if word in schema:
                return self.value(rng.choice(schema[word]), depth + 1)
        if "const" in schema:
            return schema["const"]
        if "enum" in schema:
            return rng.choice(schema["enum"])
        kind = schema.get("type")
        if kind == "object":
            return self.mapping(schema, depth)
        if kind == "array":
            most = min(schema.get("maxItems", 3), 3)
            least = min(schema.get("minItems", 0), 4)
            number = rng.randint(least, max(least, 0 if depth > 6 else most))
            return [self.value(schema.get("items", {}), depth + 1) for _ in range(number)]
        if kind in ("integer", "number"):
            low = schema.get("minimum", schema.get("exclusiveMinimum", -100))
            high = schema.get("maximum", schema.get("exclusiveMaximum", low + 200))
            found = rng.uniform(low, min(high, low + 500))
            return int(found) if kind == "integer" else round(found, 3)
        if kind == "boolean":
            return rng.random() < 0.5
        if kind == "string":
            return "abcdefgh"[: rng.randint(schema.get("minLength", 0), 8)]
        return None if kind == "null" else {}

    def mapping(self, schema: dict, depth: int) -> dict:
        """An object with its required fields and some of the others."""
        needed = set(schema.get("required", ()))
        return {
            name: self.value(field, depth + 1)
            for name, field in schema.get("properties", {}).items()
            if name in needed or (depth < 6 and self.rng.random() < 0.3)
        }

    def spoiled(self, value):
        """A value of which one part, somewhere in it, is something else."""
        rng = self.rng
        whole = json.loads(json.dumps(value))
        at, key = [whole], 0
        while isinstance(at[key], (dict, list)) and at[key] and rng.random() < 0.85:
            at = at[key]
            key = rng.choice(list(at) if isinstance(at, dict) else range(len(at)))
        odd = rng.choice(ODD_VALUES)
        if isinstance(odd, (int, float)) and key in COSTLY:
            odd = -1
        if isinstance(at, dict) and rng.random() < 0.2:
            at[str(odd)[:40]] = odd
        else:
            at[key] = odd
        return whole


class EveryRoute(unittest.TestCase):
    def test_answers_in_words_whatever_comes(self):
        rng = random.Random(SEED)
        description = ask("GET", "/api/openapi.json")[1]
        maker = Maker(description, rng)
        scene = ask("POST", "/api/scenes", {"document": DOCUMENT})[1]["id"]
        routes = [
            (method.upper(), path, entry)
            for path, methods in description["paths"].items()
            for method, entry in methods.items()
        ]
        self.assertGreater(len(routes), 60)
        seen: Counter = Counter()
        wrong = []
        end = time.monotonic() + SECONDS
        over = lambda: time.monotonic() > end and sum(seen.values()) >= LEAST
        while not over():
            rng.shuffle(routes)
            for method, path, entry in routes:
                if over():
                    break
                status, told = self.once(maker, method, path, entry, scene)
                seen[status] += 1
                if status >= 500 and status not in TOLD:
                    wrong.append(told)
        ask("DELETE", f"/api/scenes/{scene}/stills")  # none goes on beside the tests that follow
        self.assertEqual(wrong, [], f"{len(wrong)} of {sum(seen.values())}; seed {SEED}")
        self.assertGreater(seen[422], 50, seen)
        self.assertGreater(seen[200], 50, seen)
        self.assertEqual(ask("GET", f"/api/scenes/{scene}")[0] in (200, 404), True)

    def once(self, maker: Maker, method: str, path: str, entry: dict, scene: int):
        """One request; gives its status and what it was."""
        rng = maker.rng
        for parameter in entry.get("parameters", []):
            name = parameter["name"]
            plain = str(scene) if name == "scene" else rng.choice(["birch", "turf", "1", "a" * 64])
            part = quote(plain) if rng.random() < 0.8 else rng.choice(ODD_PARTS)
            path = path.replace("{" + name + "}", quote(part, safe="%"))
        if method == "DELETE" and path == f"/api/scenes/{scene}":
            path = "/api/scenes/999999"
        if rng.random() < 0.2:
            names = ("look", "tolerance", "columns", "rows", "before", "mend", "type")
            path += f"?{rng.choice(names)}={quote(str(rng.choice(ODD_VALUES)), errors='ignore')}"
        body, headers = None, {}
        content = entry.get("requestBody", {}).get("content", {}).get("application/json")
        if content:
            given = maker.value(content["schema"])
            if isinstance(given, dict) and ("document" in given or rng.random() < 0.5):
                given["document"] = maker.spoiled(DOCUMENT) if rng.random() < 0.6 else DOCUMENT
            if rng.random() < 0.5:
                given = maker.spoiled(given)
            body = json.dumps(given).encode()
            headers = {"Content-Type": "application/json"}
            if rng.random() < 0.05:
                body = body[: rng.randint(0, len(body))]
        elif method == "POST":
            body = rng.randbytes(rng.randint(0, 60))
        told = f"{method} {path} {body[:2000] if body else ''!r}"
        try:
            status, answer = ask(method, path, body, headers, timeout=60)
        except (TimeoutError, urllib.error.URLError, ValueError) as e:
            return (599, f"{told}: {e!r}") if "imed out" in str(e) else (0, told)
        if status >= 500 and status not in TOLD:
            log = (server().folder / "server.log").read_bytes()[-1200:].decode(errors="replace")
            told += f"\n{log}"
        if 400 <= status < 500 and method != "HEAD":
            self.assertIsInstance(answer, dict, told)
            self.assertTrue(answer["detail"], told)
        return status, told
