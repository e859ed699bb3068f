"""Makes the pictures of the README from the demo: PYTHONPATH=src .venv/bin/python docs/screenshots/make.py [NAME ...]

It starts a server of its own on a folder of its own, as the tests do.
"""
import base64
import json
import sys
from pathlib import Path

import cv2
import numpy as np

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


def main(wanted):
    document = json.loads(Path("samples/brackenhope.json").read_text())
    _, state = ask("POST", "/api/scenes", {"document": document})
    page = Page(server().address, "soft", f"/?scene={state['id']}")
    try:
        page.settled(400)
        for name in scenes(page):
            page.settled(300)
            if not wanted or name in wanted:
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


if __name__ == "__main__":
    main(sys.argv[1:])
