"""Makes the pictures of the README from the demo: PYTHONPATH=src .venv/bin/python docs/screenshots/make.py [NAME ...]

It starts a server of its own on a folder of its own, as the tests do.
"""
import base64
import json
import os
import sys
from pathlib import Path

import cv2
import numpy as np
from selenium.webdriver.common.actions.action_builder import ActionBuilder
from selenium.webdriver.support.ui import Select

sys.path.insert(0, str(Path(__file__).resolve().parents[2]))
from tests.page import Keys, Page  # noqa: E402
from tests.served import ask, server  # noqa: E402

HERE = Path(__file__).parent
LOOK = "const s = sow.get(); sow.view.pose = sow.view.poseOf(s.doc.shots[%d]); sow.view.changed(true); sow.set({pose: sow.view.pose})"


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
    Select(page.one("[aria-label='Survey sheet']")).select_by_value("gathers")
    page.until(lambda: page.js("return !!sow.get().sheet.values"), 60)
    page.js("sow.view.pose = {east: 800, north: -120, up: 420, bearing: 0, tilt: -22, focal: 26}; sow.view.changed(true); sow.set({pose: sow.view.pose})")
    yield "survey"
    Select(page.one("[aria-label='Survey sheet']")).select_by_value("")
    choose(page, "land", "wear")
    page.click("[data-action=proof]")
    Select(page.one("[aria-label='Setting to vary']")).select_by_visible_text("Strength")
    page.until(lambda: page.one("[data-proofs]").get_attribute("data-proofs") == "12", 200)
    yield "proof-sheet"
    page.keys(Keys.ESCAPE)
    page.click("[data-action=reality]")
    page.until(lambda: page.all("[data-reality] > div"), 60)
    yield "reality-check"
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
    page.js(LOOK % 0)
    choose(page, "light")
    page.click_text("Low evening", "[data-section=light]")
    yield "light"
    page.js(LOOK % 1)
    page.js("sow.set({insetShot: 's-tors', chosen: 's-stones'})")
    choose(page, "shots")
    yield "shots"
    page.js("sow.set({insetShot: null, chosen: null})")
    choose(page, "handover")
    yield "hand-over"
    mask = Path(page.home.name) / "glacier_hollow.png"
    y, x = np.mgrid[0:256, 0:256] / 255
    cv2.imwrite(str(mask), np.uint8(255 * np.clip(2 - 9 * np.hypot(x - 0.4, y - 0.55) + 0.5 * np.sin(19 * x) * np.sin(13 * y), 0, 1)))
    choose(page, "marks")
    page.drop(mask)
    page.until(lambda: page.js("return sow.get().doc.marks.length"), 30)
    yield "marks"
    page.js("sow.set({open: null, chosen: null})")
    page.js("document.querySelector('[data-pad]').focus()")
    page.keys("m")
    yield "map"
    page.keys("m")
    page.chord(Keys.CONTROL, Keys.ALT, "n")
    yield "new-scene"
    page.keys(Keys.ESCAPE)


def by_hand(document):
    """A stroke of a brush on the demo."""
    document = {**document, "land": [*document["land"], {"id": "hand", "name": "By hand", "kind": "hand"}]}
    _, state = ask("POST", "/api/scenes", {"document": document})
    page = Page(server().address, "quick", f"/?scene={state['id']}")
    page.settled(300)
    page.js("sow.view.pose = {east: 470, north: 300, up: 60, bearing: 5, tilt: -16, focal: 26}; sow.view.changed(true); sow.set({pose: sow.view.pose})")
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


def lands():
    """A sheet of the ready-made lands, as the core draws them from above."""
    from sow.core.build import Build
    from sow.core.cabinet import lands as ready
    from sow.core.cache import Cache
    from sow.core.shots.sketch import from_above
    tiles = []
    for line in ready.listed():
        scene = ready.document(line.name)
        b = Build(scene, scene.plot.grid(513), Cache())
        tile = from_above(b.heights, b.grid.spacing, b.water()[0], size=330)[..., ::-1].copy()
        cv2.rectangle(tile, (0, 308), (330, 330), (228, 239, 244), -1)
        cv2.putText(tile, f"{line.label}, {line.width_m / 1000:g} km, relief {line.relief_m:g} m", (6, 323), cv2.FONT_HERSHEY_SIMPLEX, 0.42, (43, 48, 35), 1, cv2.LINE_AA)
        tiles.append(cv2.copyMakeBorder(tile, 4, 4, 4, 4, cv2.BORDER_CONSTANT, value=(228, 239, 244)))
    cv2.imwrite(str(HERE / "lands.png"), np.vstack([np.hstack(tiles[i:i + 4]) for i in range(0, len(tiles) - len(tiles) % 4, 4)]))


def main(wanted):
    if wanted == ["lands"]:
        return lands()
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
        if not wanted or "still" in wanted:
            page.js("""const s = sow.get(), v = sow.view; window.made = null;
                v.still(v.poseOf(s.doc.shots[0]), 1600, 900, Number(%s), () => {}, () => false).then((b) => { const r = new FileReader(); r.onload = () => { window.made = r.result; }; r.readAsDataURL(b); })""" % os.environ.get("FRAMES", "12"))
            page.until(lambda: page.js("return !!window.made"), 900)
            (HERE / "still.png").write_bytes(base64.b64decode(page.js("return window.made").split(",")[1]))
        for line in page.errors():
            print(line)
    finally:
        page.close()
    if not wanted:
        lands()
        by_hand(document)


if __name__ == "__main__":
    main(sys.argv[1:])
