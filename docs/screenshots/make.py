"""Makes the pictures of the README from the demo: PYTHONPATH=src .venv/bin/python docs/screenshots/make.py [NAME ...]

It starts a server of its own on a folder of its own, as the tests do.
"""
import base64
import json
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
    page.js("const s = sow.get(); sow.view.pose = {east: 470, north: 300, up: 60, bearing: 5, tilt: -16, focal: 26}; sow.view.changed(true); sow.set({pose: sow.view.pose})")
    page.js("sow.set({open: 'land', chosen: null})")
    page.settled(200)
    page.shot(Path("/tmp/before-hand.png"))
    page.click("[aria-label='Add landform or process']")
    page.until(lambda: page.all("[data-add=hand]"), 30)
    page.click("[data-add=hand]")
    page.until(lambda: page.all("[data-brushes]"), 60)
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
    yield "by-hand"
    page.keys(Keys.ESCAPE)
    page.js("sow.set({open: null, chosen: null})")
    page.js("document.querySelector('[data-pad]').focus()")
    page.keys("m")
    yield "map"
    page.keys("m")
    page.chord(Keys.CONTROL, Keys.ALT, "n")
    yield "new-scene"
    page.keys(Keys.ESCAPE)


def lands():
    """A sheet of stills, one of each ready-made land from its own shot."""
    page, stills = None, []
    for line in ask("GET", "/api/lands")[1]:
        _, state = ask("POST", "/api/scenes", {"document": ask("GET", f"/api/lands/{line['name']}")[1]})
        if page is None:
            page = Page(server().address, "quick", f"/?scene={state['id']}")
        else:
            page.go(f"/?quality=quick&scene={state['id']}")
        page.settled(300)
        data = page.driver.execute_async_script("""const done = arguments[arguments.length - 1], v = sow.view;
            v.still(v.poseOf(sow.get().doc.shots[0]), 420, 262, 2, () => {}, () => false).then((b) => { const r = new FileReader(); r.onload = () => done(r.result); r.readAsDataURL(b); })""")
        still = cv2.imdecode(np.frombuffer(base64.b64decode(data.split(",")[1]), np.uint8), 1)
        cv2.putText(still, line["label"], (8, 254), cv2.FONT_HERSHEY_SIMPLEX, 0.5, (255, 255, 255), 1, cv2.LINE_AA)
        stills.append(still)
    page.close()
    cv2.imwrite(str(HERE / "lands.png"), np.vstack([np.hstack(stills[i:i + 3]) for i in range(0, len(stills) - len(stills) % 3, 3)]))


def main(wanted):
    if wanted == ["lands"]:
        return lands()
    document = json.loads(Path("samples/brackenhope.json").read_text())
    _, state = ask("POST", "/api/scenes", {"document": document})
    page = Page(server().address, "soft", f"/?scene={state['id']}")
    try:
        page.settled(400)
        for name in scenes(page):
            if not wanted or name in wanted:
                page.settled(300)
                page.shot(HERE / f"{name}.png")
        if not wanted or "still" in wanted:
            page.js("""const s = sow.get(), v = sow.view; window.made = null;
                v.still(v.poseOf(s.doc.shots[0]), 1600, 900, 12, () => {}, () => false).then((b) => { const r = new FileReader(); r.onload = () => { window.made = r.result; }; r.readAsDataURL(b); })""")
            page.until(lambda: page.js("return !!window.made"), 900)
            (HERE / "still.png").write_bytes(base64.b64decode(page.js("return window.made").split(",")[1]))
        for line in page.errors():
            print(line)
    finally:
        page.close()
    if not wanted:
        lands()


if __name__ == "__main__":
    main(sys.argv[1:])
