"""Makes the pictures of the README from the demo: PYTHONPATH=src .venv/bin/python
docs/screenshots/make.py [NAME ...]

It starts a server of its own on a folder of its own, as the tests do.
"""

import base64
import json
import os
import sys
import time
from pathlib import Path

import cv2
import numpy as np
from selenium.webdriver.common.actions.action_builder import ActionBuilder
from selenium.webdriver.support.ui import Select

sys.path.insert(0, str(Path(__file__).resolve().parents[2]))
from tests.page import Keys, Page  # noqa: E402
from tests.served import ask, server  # noqa: E402

from sow.core.air.ready import in_full  # noqa: E402
from sow.core.air.ready import lights as ready_lights  # noqa: E402

HERE = Path(__file__).parent
LOOK = (
    "const s = sow.get(); sow.view.pose = sow.view.poseOf(s.doc.shots[%d]); "
    "sow.view.changed(true); sow.set({pose: sow.view.pose})"
)


def choose(page, section, entry=None):
    page.unfold(section)
    if entry:
        page.click(f"[data-entry={entry}] button")


def scenes(page):
    choose(page, "land", "swell")
    yield "land"
    choose(page, "land", "swell")
    page.js("document.querySelector('[data-pad]').focus()")
    page.keys("t")
    page.until(lambda: page.js("return sow.get().transect && sow.get().transect.answer"), 60)
    yield "transect"
    page.click_text("fold", "[data-transect]")
    Select(page.one("[aria-label='Survey sheet']")).select_by_value("contributing-area")
    page.until(lambda: page.js("return !!sow.get().sheet.values"), 60)
    page.js(
        "sow.view.pose = {east: 800, north: -120, up: 420, bearing: 0, tilt: -22, focal: "
        "26}; sow.view.changed(true); sow.set({pose: sow.view.pose})"
    )
    yield "survey"
    Select(page.one("[aria-label='Survey sheet']")).select_by_value("")
    choose(page, "land", "wear")
    page.click("[data-action=proof]")
    Select(page.one("[aria-label='Setting to vary']")).select_by_visible_text("Strength")
    page.until(lambda: page.one("[data-proofs]").get_attribute("data-proofs") == "12", 200)
    yield "proof-sheet"
    page.keys(Keys.ESCAPE)
    page.js(LOOK % 0)
    choose(page, "water", "tarn")
    yield "water"
    page.js(LOOK % 2)
    choose(page, "ground", "g-scree")
    yield "ground"
    page.js(LOOK % 1)
    choose(page, "planting", "heather")
    yield "planting"
    page.js("document.querySelector('[data-pad]').focus()")
    page.keys("k")
    page.until(lambda: page.one("[data-cabinet]"), 20)
    for name in page.js("return sow.get().cabinet.kinds.map((k) => k.name)"):
        ask("GET", f"/api/cabinet/kinds/{name}.png")  # grown beforehand, so that no card is empty
    page.click("[data-kind=birch]")
    page.until(lambda: "·" in page.text("[data-triangles]"), 60)
    page.js("document.querySelector('[data-kind=birch]').scrollIntoView({block: 'center'})")
    page.until(
        lambda: (
            page.all("[data-kind-sheet] [data-turning]")
            and page.js(
                "return [...document.querySelectorAll('[data-found] "
                "img')].slice(-30).every((i) => i.complete)"
            )
        ),
        60,
    )
    yield "cabinet"
    page.keys(Keys.ESCAPE)
    page.js(LOOK % 0)
    choose(page, "light")
    Select(page.one("[aria-label='Ready light']")).select_by_value("clear-morning")
    page.until(lambda: page.all("[data-made-from]"), 60)
    time.sleep(2)  # the land's skyline on the dial
    yield "light"
    page.js(LOOK % 1)
    page.js("sow.set({insetShot: 's-tors', chosen: 's-stones'})")
    choose(page, "shots")
    yield "shots"
    page.js("sow.set({insetShot: null, chosen: null})")
    choose(page, "handover")
    page.until(lambda: page.all("[data-forecast]"), 60)
    yield "hand-over"
    page.js("sow.set({open: null, chosen: null})")
    page.js("document.querySelector('[data-pad]').focus()")
    page.keys("m")
    yield "map"


def by_hand(document):
    """A stroke of a brush on the demo."""
    document = {
        **document,
        "land": [*document["land"], {"id": "hand", "name": "By hand", "kind": "hand"}],
    }
    _, state = ask("POST", "/api/scenes", {"document": document})
    page = Page(server().address, "quick", f"/?scene={state['id']}")
    page.settled(300)
    page.js(
        "sow.view.pose = {east: 470, north: 300, up: 60, bearing: 5, tilt: -16, focal: "
        "26}; sow.view.changed(true); sow.set({pose: sow.view.pose})"
    )
    choose(page, "land", "hand")
    page.settled(200)
    page.click("[data-brush=raise]")
    page.js("sow.set({brush: {...sow.get().brush, size_m: 26, strength_m: 9}})")
    pad = page.one("[data-pad]").rect
    at = lambda x, y: (int(pad["x"] + pad["width"] * x), int(pad["y"] + pad["height"] * y))
    draw = ActionBuilder(page.driver)
    draw.pointer_action.move_to_location(*at(0.4, 0.5)).pointer_down()
    for k in range(1, 12):
        draw.pointer_action.move_to_location(*at(0.4 + 0.035 * k, 0.5 - 0.006 * k))
    draw.pointer_action.pointer_up()
    draw.perform()
    page.until(lambda: page.js("return sow.get().doc.land.some((l) => l.count)"), 60)
    page.settled(300)
    page.shot(HERE / "by-hand.png")
    page.close()


STROKES = {
    "raise": {"strength_m": 16},
    "lower": {"strength_m": 16},
    "smooth": {"size_m": 22, "firm": 98},
    "level": {"firm": 99, "size_m": 16, "soft": 30},
    "roughen": {"strength_m": 5, "grain_m": 5},
    "pull": {"strength_m": 4, "size_m": 30},
    "grade": {"firm": 98, "size_m": 11, "soft": 30},
    "basin": {"strength_m": 5, "size_m": 26, "rim": 25},
    "cut": {"firm": 99, "size_m": 16, "soft": 25, "level": "typed", "level_m": -4},
    "fill": {"firm": 99, "size_m": 16, "soft": 25, "level": "typed", "level_m": 5},
    "rub": {"firm": 99, "size_m": 20},
}
ALONG = [[40, 88], [62, 108], [88, 92], [112, 112], [140, 96], [168, 118]]


def tools():
    """A sheet of every tool for the hand at work on one piece of ground."""
    noise = [
        {"id": "n", "name": "Noise", "kind": "noise", "height_m": 10, "feature_m": 70, "octaves": 7}
    ]
    ground = [
        {"id": "g", "name": "Turf", "ground": "turf"},
        {
            "id": "r",
            "name": "Rock",
            "ground": "granite",
            "where": [{"kind": "slope", "low": 30, "high": 90, "soft": 5}],
        },
    ]
    base = {
        "name": "Tools",
        "plot": {"width_m": 200, "depth_m": 200, "posts": 513},
        "land": [*noise, {"id": "hand", "name": "By hand", "kind": "hand"}],
        "ground": ground,
        "light": {"sun_bearing": 262, "sun_height": 20, "haze_m": 9000},
    }
    page, tiles = Page(server().address, "quick"), []
    pose = (
        "sow.view.pose = {east: 104, north: 6, up: 46, bearing: 0, tilt: -25, focal: 26}; "
        "sow.view.changed(true); sow.set({pose: sow.view.pose})"
    )

    def take(label, document, work=lambda: None):
        state = ask("POST", "/api/scenes", {"document": document})[1]
        if "id" not in state:
            raise SystemExit(f"{label}: {state}")
        page.go(f"/?scene={state['id']}&quality=quick")
        page.settled(200)
        page.js(pose)
        work()
        page.settled(200)
        page.shot(Path("/tmp/tile.png"))
        tile = cv2.resize(
            cv2.imread("/tmp/tile.png")[90:700, 45:955], (400, 268), interpolation=cv2.INTER_AREA
        )
        cv2.rectangle(tile, (0, 246), (400, 268), (228, 239, 244), -1)
        cv2.putText(
            tile, label, (6, 262), cv2.FONT_HERSHEY_SIMPLEX, 0.45, (43, 48, 35), 1, cv2.LINE_AA
        )
        tiles.append(
            cv2.copyMakeBorder(tile, 4, 4, 4, 4, cv2.BORDER_CONSTANT, value=(228, 239, 244))
        )

    def draw(tool, values):
        def work():
            choose(page, "land", "hand")
            page.click(f"[data-brush={tool}]")
            page.js(
                "sow.set({brush: {...sow.get().brush, size_m: 12, soft: 60, ...arguments[0]}})",
                values,
            )
            before = page.state()["revision"]
            canvas = page.one("[data-pad]").rect
            place = lambda x, y: (
                canvas["x"] + canvas["width"] * x,
                canvas["y"] + canvas["height"] * y,
            )
            ends = {
                "grade": [(0.36, 0.86), (0.5, 0.62), (0.62, 0.36)],
                "basin": [(0.5, 0.55)],
                "pull": [(0.5, 0.55), (0.5, 0.4), (0.5, 0.3)],
            }.get(tool, [(0.3 + 0.036 * k, 0.56 + 0.05 * np.sin(k * 0.9)) for k in range(12)])
            page.mouse(*[place(*p) for p in ends])
            page.kept(before)

        return work

    for tool, values in STROKES.items():
        document = (
            {
                **base,
                "land": [
                    noise[0],
                    {
                        **base["land"][1],
                        "strokes": [
                            {
                                "tool": "raise",
                                "size_m": 14,
                                "strength_m": 8,
                                "points": [[a, b, 0.8] for a, b in ALONG],
                            }
                        ],
                    },
                ],
            }
            if tool in ("rub", "smooth")
            else base
        )
        take(tool, document, draw(tool, values))
    line = [{"id": "m", "name": "Line", "kind": "line", "points": [[a, b] for a, b in ALONG]}]
    for label, more, rest in [
        (
            "path, with gravel laid along it",
            {"kind": "path", "width_m": 7, "bank_m": 8},
            {
                "ground": [
                    *ground,
                    {
                        "id": "gr",
                        "name": "Gravel",
                        "ground": "gravel",
                        "size_m": 2,
                        "edge": 40,
                        "where": [{"kind": "near-line", "mark": "m", "within_m": 3.2, "soft": 0.8}],
                    },
                ]
            },
        ),
        (
            "stream",
            {"kind": "stream", "width_m": 6, "depth_m": 2, "bank_m": 10},
            {
                "water": [
                    {
                        "id": "w",
                        "name": "Stream",
                        "reach": "stream",
                        "mark": "m",
                        "width_m": 9,
                        "deep_m": 0.8,
                    }
                ]
            },
        ),
        ("ridge line", {"kind": "rib", "height_m": 12}, {}),
        (
            "shore line",
            {"kind": "shore-line", "level_m": 0},
            {"water": [{"id": "w", "name": "Lake", "level_m": 0}]},
        ),
    ]:
        take(
            label,
            {
                **base,
                "marks": line,
                "land": [noise[0], {"id": "x", "name": label, "mark": "m", **more}],
                **rest,
            },
        )

    def paint():
        choose(page, "marks")
        before = page.state()["revision"]
        page.click("[data-new-mask]")
        page.kept(before)
        page.js(
            "sow.set({brush: {...sow.get().brush, size_m: 20, soft: 40, firm: 90}, tool: 'brush'})"
        )
        before = page.state()["revision"]
        canvas = page.one("[data-pad]").rect
        page.mouse(
            *[
                (
                    canvas["x"] + canvas["width"] * (0.3 + 0.036 * k),
                    canvas["y"] + canvas["height"] * (0.56 + 0.05 * np.sin(k * 0.9)),
                )
                for k in range(12)
            ]
        )
        page.kept(before)
        page.until(lambda: page.js("return sow.get().mask && sow.get().mask.share > 0.001"), 30)

    take("a mask, hatched where it lies", base, paint)
    page.close()
    cv2.imwrite(
        str(HERE / "tools.png"), np.vstack([np.hstack(tiles[i : i + 4]) for i in range(0, 16, 4)])
    )


SETS = [
    ("moor", "moor"),
    ("sandy-shore", ""),
    ("snow-peaks", "alpine-ridge"),
    ("dry-valley", ""),
    ("river-bars", ""),
]


def ground_sets():
    """Five ready sets of materials on five lands: at eye height, from 30 m, from the air."""
    from sow.core.build import Build
    from sow.core.cabinet import lands as ready
    from sow.core.cache import Cache
    from sow.core.scene import read_scene

    names = [line.name for line in ready.listed()]
    page = Page(server().address, "soft")
    rows = []
    page.driver.set_window_size(820, 640)
    for k, (preset, land) in enumerate(SETS):
        land = land or names[(3 * k + 1) % len(names)]
        document = {
            **read_scene(ready.text(land)).model_dump(mode="json"),
            "name": preset,
            "planting": [],
            "ground": [],
        }
        state = ask("POST", "/api/scenes", {"document": document})[1]
        document["ground"] = ask(
            "POST", f"/api/scenes/{state['id']}/ground-presets/{preset}", {"document": document}
        )[1]["materials"]
        scene = read_scene(document)
        b = Build(scene, scene.plot.view_grid(), Cache())
        h = b.heights
        slope = b.slope()
        shares = b.ground()
        size = scene.plot.longer_m
        x, y = np.meshgrid(b.grid.xs(), b.grid.ys())
        dry = (
            np.isnan(b.water()[0])
            & (slope > 4)
            & (slope < 18)
            & (np.abs(x - scene.plot.width_m / 2) < 0.3 * scene.plot.width_m)
            & (np.abs(y - scene.plot.depth_m / 2) < 0.3 * scene.plot.depth_m)
        )
        dry &= (h > np.quantile(h, 0.5)) | (preset != "snow-peaks")
        near = sum(
            cv2.blur(np.minimum(s, 0.2), (25, 25)) for s in shares
        )  # where several materials meet
        r, c = np.unravel_index(np.where(dry, near, -1).argmax(), h.shape)
        top = np.where((np.hypot(x - x[r, c], y - y[r, c]) < 0.35 * size), h, -1e9).argmax()
        bearing = float(
            np.degrees(np.arctan2(x.ravel()[top] - x[r, c], y.ravel()[top] - y[r, c])) % 360
        )
        document["light"] = {
            **document["light"],
            "sun_bearing": (bearing + 125) % 360,
            "sun_height": 32,
        }
        state = ask("POST", "/api/scenes", {"document": document})[1]
        page.go(f"/?scene={state['id']}&quality=soft")
        page.settled(300)
        tiles = []
        for up, tilt, back in ((1.7, -9, 0), (30, -22, 0), (0.34 * size, -33, 0.75)):
            east, north = float(x[r, c]), float(y[r, c])
            if back:
                east = scene.plot.width_m / 2 - back * size * np.sin(np.deg2rad(bearing))
                north = scene.plot.depth_m / 2 - back * size * np.cos(np.deg2rad(bearing))
            page.js(
                "sow.view.pose = arguments[0]; sow.view.changed(true); sow.set({pose: "
                "sow.view.pose, clean: true})",
                {
                    "east": float(east),
                    "north": float(north),
                    "up": float(h[r, c]) + up,
                    "bearing": bearing,
                    "tilt": tilt,
                    "focal": 24,
                },
            )
            page.settled(300)
            page.shot(Path("/tmp/tile.png"))
            tile = cv2.resize(
                cv2.imread("/tmp/tile.png")[58:-62, 72:-36],
                (480, 280),
                interpolation=cv2.INTER_AREA,
            )
            tiles.append(
                cv2.copyMakeBorder(tile, 3, 3, 3, 3, cv2.BORDER_CONSTANT, value=(228, 239, 244))
            )
        row = np.hstack(tiles)
        cv2.putText(
            row,
            f"{preset} on {land}",
            (12, 24),
            cv2.FONT_HERSHEY_SIMPLEX,
            0.55,
            (43, 48, 35),
            1,
            cv2.LINE_AA,
        )
        rows.append(row)
        cv2.imwrite(str(HERE / "ground-sets.png"), np.vstack(rows))
    page.close()


def history():
    """The steps of a scene with their pictures, the page on top of which they lie."""
    document = json.loads(Path("samples/brackenhope.json").read_text())
    for sowing in document["planting"]:
        sowing["on"] = False
    _, state = ask("POST", "/api/scenes", {"document": document})
    for label, change in [
        (
            "Tarn: level raised",
            lambda d: d["water"][0].update(level_m=d["water"][0]["level_m"] + 1),
        ),
        (
            "Moor swell: height",
            lambda d: next(e for e in d["land"] if e["id"] == "swell").update(height_m=70),
        ),
        ("Sun lower", lambda d: d["light"].update(sun_height=12)),
    ]:
        change(document)
        state = ask(
            "POST",
            f"/api/scenes/{state['id']}/edits",
            {"document": document, "label": label, "base": state["revision"]},
        )[1]
    page = Page(server().address, "quick", f"/?scene={state['id']}")
    page.settled(300)
    page.js("document.querySelector('[data-pad]').focus()")
    page.keys("h")
    page.until(lambda: len(page.all("[data-step]")) >= 4, 60)
    page.until(
        lambda: page.js(
            "return [...document.querySelectorAll('[data-step] img')].every((i) => i.complete)"
        ),
        60,
    )
    page.shot(HERE / "history.png")
    page.close()


def lands():
    """A sheet of the ready-made lands, as the core draws them from above."""
    from sow.core.build import Build
    from sow.core.cabinet import lands as ready
    from sow.core.cache import Cache
    from sow.core.scene import read_scene
    from sow.core.shots.sketch import from_above

    tiles = []
    for line in ready.listed():
        scene = read_scene(ready.text(line.name))
        b = Build(scene, scene.plot.grid(513), Cache())
        tile = from_above(b.heights, b.grid.spacing, b.water()[0], size=330)[..., ::-1].copy()
        cv2.rectangle(tile, (0, 308), (330, 330), (228, 239, 244), -1)
        cv2.putText(
            tile,
            f"{line.label}, {line.width_m / 1000:g} km, relief {line.relief_m:g} m",
            (6, 323),
            cv2.FONT_HERSHEY_SIMPLEX,
            0.42,
            (43, 48, 35),
            1,
            cv2.LINE_AA,
        )
        tiles.append(
            cv2.copyMakeBorder(tile, 4, 4, 4, 4, cv2.BORDER_CONSTANT, value=(228, 239, 244))
        )
    cv2.imwrite(
        str(HERE / "lands.png"),
        np.vstack([np.hstack(tiles[i : i + 4]) for i in range(0, len(tiles) - len(tiles) % 4, 4)]),
    )


def lights():
    """The demo's first shot in twelve ready lights, as the view draws it."""
    document = json.loads(Path("samples/brackenhope.json").read_text())
    _, state = ask("POST", "/api/scenes", {"document": document})
    page = Page(server().address, "soft", f"/?scene={state['id']}")
    page.settled(400)
    page.js(LOOK % 0)
    page.settled(200)
    tiles = []
    for name, light in ready_lights.items():
        document["light"] |= in_full(light)
        page.js(
            "const d = structuredClone(sow.get().doc); d.light = {...d.light, ...arguments[0]}; "
            "sow.set({doc: d}); sow.view.setLight(d)",
            in_full(light),
        )
        time.sleep(0.5)
        page.settled(200)
        raw = base64.b64decode(page.js("return sow.view.photograph()").split(",")[1])
        tile = cv2.imdecode(np.frombuffer(raw, np.uint8), 1)
        tile = cv2.resize(tile, (480, 390), interpolation=cv2.INTER_AREA)[:300]
        cv2.rectangle(tile, (0, 278), (480, 300), (228, 239, 244), -1)
        at = cv2.FONT_HERSHEY_SIMPLEX
        cv2.putText(tile, light.label, (6, 294), at, 0.45, (43, 48, 35), 1, cv2.LINE_AA)
        tiles.append(
            cv2.copyMakeBorder(tile, 3, 3, 3, 3, cv2.BORDER_CONSTANT, value=(228, 239, 244))
        )
        print(name)
    page.close()
    sheet = np.vstack([np.hstack(tiles[i : i + 3]) for i in range(0, 12, 3)])
    cv2.imwrite(str(HERE / "lights.png"), sheet)


def still():
    """The demo's first shot, in the light of a clear afternoon."""
    document = json.loads(Path("samples/brackenhope.json").read_text())
    document["light"] |= {
        "sun_bearing": 238,
        "sun_height": 27,
        "clouds": 34,
        "cloud_seed": 3,
        "haze_m": 30000,
        "exposure": 0.15,
    }
    _, state = ask("POST", "/api/scenes", {"document": document})
    page = Page(server().address, "soft", f"/?scene={state['id']}")
    page.settled(400)
    page.js(
        """const s = sow.get(), v = sow.view; window.made = null;
            // asked for until it is there: it takes longer than a driver waits
        v.still(v.poseOf(s.doc.shots[0]), 1600, 900, Number({}), () => {{}},
        () => false).then((b) => {{ const r = new FileReader(); r.onload = () => {{
        window.made = r.result; }}; r.readAsDataURL(b); }})""".format(
            os.environ.get("FRAMES", "12")
        )
    )
    page.until(lambda: page.js("return !!window.made"), 900)
    (HERE / "still.png").write_bytes(base64.b64decode(page.js("return window.made").split(",")[1]))
    page.close()


def main(wanted):
    alone = {
        "lands": lands,
        "ground-sets": ground_sets,
        "tools": tools,
        "history": history,
        "still": still,
        "lights": lights,
    }
    if len(wanted) == 1 and wanted[0] in alone:
        return alone[wanted[0]]()
    if wanted == ["by-hand"]:
        return by_hand(json.loads(Path("samples/brackenhope.json").read_text()))
    document = json.loads(Path("samples/brackenhope.json").read_text())
    _, state = ask("POST", "/api/scenes", {"document": document})
    page = Page(server().address, os.environ.get("QUALITY", "soft"), f"/?scene={state['id']}")
    try:
        page.settled(400)
        for name in scenes(page):
            if not wanted or name in wanted:
                page.settled(300)
                page.shot(HERE / f"{name}.png")
        for line in page.errors():
            print(line)
    finally:
        page.close()
    if not wanted:
        by_hand(document)
        for make in alone.values():
            make()


if __name__ == "__main__":
    main(sys.argv[1:])
