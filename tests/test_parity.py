"""Functions of the page's shaders beside the core's: the same numbers from the same inputs.

Each function of the shaders stands in `TWINS`, where it is run on 1,000 hashed inputs into a float
target and held against the core's to 1e-4, or in `MEANT`, with the reason why it is not the same.
"""

import os
import re
import subprocess
import tempfile
import unittest
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from types import SimpleNamespace

import numpy as np
from selenium import webdriver

from sow.core.air.harmonics import arriving
from sow.core.air.haze import Haze
from sow.core.picture.dressed import tint_factor
from sow.core.surface.tiling import _hash
from sow.core.water.clear import passed
from sow.core.water.spectrum import Sea
from sow.core.water.surf import in_loop, run_up, sets, uneven
from sow.core.water.swash import film_at
from sow.core.water.wake import Wake, wakes_at
from tests.page import FLAGS

TIER = "page"
WEB = Path(__file__).parents[1] / "web"
INPUTS = 1000
WITHIN = 1e-4
BY_SINES = 5e-4  # a shader's sine need not be better than 2^-11 (Vulkan, "Precision")

# what is the same by a picture, not by a formula, is held by the tests of views beside stills
MEANT = {
    "looks into a picture that the core made, which has its own tests": (
        "aside skyAt skySmooth hazeTone sunDisc cloudShade ambientAt post groundAt plotUv lit "
        "sunAt fieldAt bed"
    ),
    "takes the noise from a picture with levels, as a shader must; the core reads it at one": (
        "drifted strewn iceAt lace drifting dryAt"
    ),
    "lays the ground by pages of pixels; the core does it at every pixel": "layGround",
    "is coarser on purpose: a still follows the light instead": (
        "shafted mistDepth lampsBut lampsAt lightOn turnedTo aroundAt finished fresnel behindAt "
        "seenBelow mirroredAlong inMirror mirrored glitter window gatheredOn above under litUnder "
        "ownUnder gathered inWater edge"
    ),
    "says how a leaf's picture is cut at a pixel's size, which a still has no need of": "cut",
    "noise of a film that changes with every frame and is nowhere compared": "chance grain",
    "puts together what others here reckon": ("hazed running standing slopes shade main"),
    "reads a tile of waves that the core packed; the tiles have their own tests": (
        "resolved onTile turned surfAt calmed"
    ),
}


@dataclass
class Twin:
    """`calls` is what of `x` (four numbers) the shader is asked for; `core` the same of x (n, 4).
    `steps` is how many inputs may lie so near a step that the two stand on either side of it.
    """

    calls: str
    functions: str
    low: tuple[float, ...]
    high: tuple[float, ...]
    core: Callable[[np.ndarray], np.ndarray]
    values: dict = field(default_factory=dict)
    stubs: str = ""
    whole: bool = False
    steps: int = 0
    within: float = WITHIN


SEA = Sea(0.8, 14.0)
LOOP = SimpleNamespace(loop_s=42.0, period_s=6.0)
WAKE = Wake(3.0, -2.0, 40.0, 6.0, 1.8, 2.4)
HAZE = Haze(2e-4, 300.0, 12.0, 20.0, np.array([5e-6, 1e-5, 3e-5]))
EYE = np.array([10.0, -4.0, 30.0])
NUMBERS = np.random.default_rng(2).normal(0.5, 0.3, (9, 3))
THROUGH, CLEAR_M = np.array([0.2, 0.4, 0.35]), 3.0
SECONDS = 21.3
TURN = np.deg2rad(WAKE.toward)


def through_haze(x):
    at = x[:, :3]
    return HAZE.passes(EYE[2], at[:, 2], np.linalg.norm(at - EYE, axis=1))


def unit(x):
    return x[:, :3] / np.linalg.norm(x[:, :3], axis=1)[:, None]


WAKES = {
    "uWakes": 1,
    "uWakeAt": [WAKE.east, WAKE.north, np.sin(TURN), np.cos(TURN)],
    "uWakeSet": [WAKE.long_m, WAKE.broad_m, WAKE.speed_ms, WAKE.high_m],
}
SWASH = {
    "uSwash": [2 * np.pi / SEA.period_s, SEA.long_m, run_up(SEA, 1.0), 2.0],
    "uSwashBack": 0,
    "uTime": SECONDS,
}
TWINS = [
    Twin("high(x.x)", "high", (-50,), (50,), lambda x: sets(x[:, 0]), within=BY_SINES),
    Twin(
        "uneven(x.xy, x.z)",
        "uneven",
        (0, 0, 4),
        (300, 300, 40),
        lambda x: uneven(*x.T[:3]),
        within=BY_SINES,
    ),
    Twin(
        "sets(x.x, 7.0)",
        "sets",
        (-40,),
        (40,),
        lambda x: in_loop(x[:, 0], LOOP),
        whole=True,
    ),
    Twin(
        "filmAt(x.xyz)",
        "filmAt uneven high sets",
        (0, 0, 1.8),
        (120, 120, 3),
        lambda x: film_at(x[:, 0], x[:, 1], x[:, 2] - 2.0, SEA, SECONDS),
        SWASH,
        steps=12,
        within=BY_SINES,
    ),
    Twin(
        "wakesAt(x.xy)",
        "wakesAt wakeHeight wakeFoam",
        (-22, -26),
        (6, 2),
        lambda x: np.stack(wakes_at([WAKE], x[:, 0], x[:, 1]), -1),
        WAKES,
        steps=12,
    ),
    Twin(
        "float(hashOf(int(x.x), int(x.y)) & 0xFFFFFFu)",
        "hashOf",
        (-500, -500),
        (500, 500),
        lambda x: np.array([int(_hash(int(a), int(b))) & 0xFFFFFF for a, b, *_ in x]),
        whole=True,
    ),
    Twin(
        "skyLight(normalize(x.xyz))",
        "skyLight",
        (-1, -1, -1),
        (1, 1, 1),
        lambda x: arriving(NUMBERS, unit(x)),
        {"uNumbers": NUMBERS.ravel().tolist()},
    ),
    Twin(
        "passesTo(x.xyz)",
        "airTo",
        (-900, -900, -20),
        (900, 900, 500),
        through_haze,
        {
            "uEye": EYE.tolist(),
            "uHaze": [HAZE.k, HAZE.top_m, HAZE.base_m, HAZE.from_m],
            "uAirTakes": HAZE.air.tolist(),
        },
        "vec3 hazeTone(vec3 d) { return d; }",
    ),
    Twin("tinted(x.x)", "tinted", (0,), (1,), lambda x: tint_factor(x[:, 0])),
    Twin(
        "passed(x.x, x.y)",
        "passed",
        (0, 0.02),
        (8, 1),
        lambda x: passed(THROUGH, CLEAR_M, x[:, 0], x[:, 1]),
        {"uTakes": (-np.log(THROUGH) / CLEAR_M).tolist()},
    ),
]
AFTER = {"airTo": "vec3 passesTo(vec3 p) { vec3 a; vec3 b; airTo(p, a, b); return a; }"}
HEAD = re.compile(r"^ *(?:float|vec[234]|bool|void|uint|int) (\w+)\(([^;{]*)\) *\{", re.M)


def functions_of(texts: list[str]) -> dict[str, str]:
    """Every function of shaders by its name, from its head to its last brace."""
    found = {}
    for text in texts:
        for head in HEAD.finditer(text):
            depth, end = 0, head.end() - 1
            while True:
                depth += {"{": 1, "}": -1}.get(text[end], 0)
                end += 1
                if not depth:
                    break
            found[head.group(1)] = text[head.start() : end]
    return found


def uniforms_of(texts: list[str], code: str) -> str:
    """The declarations of the uniforms that some code reads."""
    lines = {}
    for kind, names in re.findall(r"^uniform (\w+) ([^;]+);", "\n".join(texts), re.M):
        for name in names.split(","):
            plain = name.split("[")[0].strip()
            if re.search(rf"\b{plain}\b", code):
                lines[plain] = f"uniform {kind} {name.strip()};"
    return "\n".join(lines.values())


class Parity(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        folder = tempfile.TemporaryDirectory(prefix="sow-shaders-")
        cls.addClassCleanup(folder.cleanup)
        home = Path(folder.name)
        subprocess.run(
            ["node_modules/.bin/vite", "build", "-c", "tests/shaders/vite.config.ts"],
            cwd=WEB,
            env={**os.environ, "OUT": str(home)},
            check=True,
            capture_output=True,
        )
        (home / "page.html").write_text(
            '<!doctype html><meta charset="utf-8"><script src="shaders.js"></script>'
        )
        options = webdriver.ChromeOptions()
        options.binary_location = "/usr/bin/chromium"
        for flag in [*FLAGS, f"--user-data-dir={home / 'profile'}"]:
            options.add_argument(flag)
        cls.driver = webdriver.Chrome(options, webdriver.ChromeService("/usr/bin/chromedriver"))
        cls.addClassCleanup(cls.driver.quit)
        cls.driver.get(f"file://{home / 'page.html'}")
        cls.texts = cls.driver.execute_script("return shaders.texts")
        cls.functions = functions_of(cls.texts)

    def inputs(self, twin: Twin) -> np.ndarray:
        rng = np.random.default_rng(len(twin.calls))
        x = np.zeros((INPUTS, 4))
        x[:, : len(twin.low)] = rng.uniform(twin.low, twin.high, (INPUTS, len(twin.low)))
        x = np.rint(x) if twin.whole else x
        return x.astype(np.float32).astype(float)

    def asked(self, twin: Twin, x: np.ndarray) -> np.ndarray:
        """What the shader gives for inputs (n, 4)."""
        names = twin.functions.split()
        code = "\n".join(self.functions[name] for name in reversed(names))
        code += "\n".join(AFTER.get(name, "") for name in names)
        call = twin.calls.replace("x.", "x_.")
        source = "\n".join(
            [
                "#version 300 es",
                "precision highp float; precision highp int; precision highp sampler2D;",
                "uniform sampler2D uInputs; out vec4 outColour;",
                uniforms_of(self.texts, code),
                twin.stubs,
                code,
                "vec4 four(float a) { return vec4(a); }",
                "vec4 four(vec3 a) { return vec4(a, 0.0); }",
                "vec4 four(vec4 a) { return a; }",
                "void main() { vec4 x_ = texelFetch(uInputs, ivec2(gl_FragCoord.xy), 0);",
                f"  outColour = four({call}); }}",
            ]
        )
        asked = "return shaders.run(arguments[0], arguments[1], arguments[2])"
        values = {name: np.asarray(v).tolist() for name, v in twin.values.items()}
        found = self.driver.execute_script(asked, source, x.ravel().tolist(), values)
        return np.array(found).reshape(INPUTS, 4)

    def test_each_twin_gives_what_the_core_gives(self):
        for twin in TWINS:
            with self.subTest(twin.calls):
                x = self.inputs(twin)
                core = np.asarray(twin.core(x), float).reshape(INPUTS, -1)
                off = np.abs(self.asked(twin, x)[:, : core.shape[1]] - core)
                most = twin.within * np.maximum(np.abs(core), 1).max(0)
                beyond = int((off > most).any(1).sum())
                self.assertLessEqual(beyond, twin.steps, off.max(0))

    def test_each_function_is_a_twin_or_differs_for_a_reason(self):
        twins = {name for twin in TWINS for name in twin.functions.split()}
        meant = {name for names in MEANT.values() for name in names.split()}
        self.assertEqual(set(self.functions) - twins - meant, set(), "neither twin nor told")
        self.assertEqual(twins & meant, set())
        self.assertEqual(meant - set(self.functions), set(), "told and not there")


if __name__ == "__main__":
    unittest.main()
