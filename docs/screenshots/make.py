"""Makes the pictures of the README from the demo: PYTHONPATH=src .venv/bin/python
docs/screenshots/make.py [NAME ...]

It starts a server of its own on a folder of its own, as the tests do.
"""

import json
import os
import sys
import tempfile
import time
from pathlib import Path

import cv2
import numpy as np
from selenium.webdriver.support.ui import Select

sys.path.insert(0, str(Path(__file__).resolve().parents[2]))
from tests.page import Keys, Page  # noqa: E402
from tests.served import ask, server  # noqa: E402

from sow.commands import main as sow_command  # noqa: E402

HERE = Path(__file__).parent
FULL = HERE.parents[1] / ".tmp" / "screenshots"  # small.py makes this folder's of them
FULL.mkdir(parents=True, exist_ok=True)
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
    vary = page.until(lambda: page.one("[aria-label='Setting to vary']"), 60)
    Select(vary).select_by_visible_text("Strength")
    page.until(lambda: page.one("[data-proofs]").get_attribute("data-proofs") == "12", 200)
    yield "proof-sheet"
    page.keys(Keys.ESCAPE)
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
    page.js("document.querySelector('[data-pad]').focus()")
    page.chord(Keys.SHIFT, "t")
    page.until(lambda: page.one("[data-time]").get_attribute("data-moments") != "0", 60)
    yield "shots"
    page.click_text("fold", "[data-time]")
    page.js("sow.set({insetShot: null, chosen: null})")
    choose(page, "handover")
    page.until(lambda: page.all("[data-forecast]"), 60)
    yield "hand-over"
    page.js("sow.set({open: null, chosen: null})")
    page.js("document.querySelector('[data-pad]').focus()")
    page.keys("m")
    yield "map"


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
    page.shot(FULL / "history.png")
    page.close()


PLACES = {
    "quernholt": ("into-the-dell", "the-burnt-corner", "against-the-light"),
    "onnar-wadi": ("up-the-bed", "under-the-wall", "from-the-rim"),
    "skarrowmere": ("across-the-ice", "reeds-in-the-ice", "over-the-lake"),
    "harrow-sands": ("on-the-sand", "along-the-surf", "the-boat"),
}
BELOW = 4 * 540  # where the rows of stills end, and what was taken at other times begins


def places():
    """Three shots of each of the other places, as `./sow still` takes them."""
    with tempfile.TemporaryDirectory() as folder:
        for name in PLACES:
            asked = ["--all", "--size", "960x540", "--quality", "look"]
            sow_command(["still", f"samples/{name}.json", f"{folder}/{name}", *asked])
        lay_places(Path(folder))


def lay_places(folder: Path):
    """A row for each place, from a folder of their stills; what lies below them on the sheet stays
    as it is.
    """
    rows = [
        np.hstack([cv2.imread(str(folder / name / f"{shot}.png")) for shot in shots])
        for name, shots in PLACES.items()
    ]
    below = cv2.imread(str(FULL / "places.png"))[BELOW:]
    cv2.imwrite(str(FULL / "places.png"), np.vstack([*rows, below]))


def seasons():
    """The old wood in four seasons, into the first row below the stills of the places."""
    with tempfile.TemporaryDirectory() as folder:
        lay_seasons(seasons_of("quernholt", Path(folder)))


def lay_seasons(files: list[Path]):
    """Four pictures, side by side, into that row."""
    row = np.hstack([cv2.imread(str(file)) for file in files])
    sheet = cv2.imread(str(FULL / "places.png"))
    sheet[BELOW : BELOW + len(row)] = row
    cv2.imwrite(str(FULL / "places.png"), sheet)


def seasons_of(name: str, folder: Path) -> list[Path]:
    """A sample's last shot in spring, summer, autumn and winter."""
    out = []
    for season in ("spring", "summer", "autumn", "winter"):
        document = json.loads(Path(f"samples/{name}.json").read_text())
        document["season"] = season
        document["shots"] = document["shots"][-1:]
        kept = folder / f"{season}.json"
        kept.write_text(json.dumps(document))
        own = folder / season
        sow_command(
            ["still", str(kept), str(own), "--all", "--size", "720x405", "--quality", "look"]
        )
        out += sorted(own.glob("*.png"))
    return out


def water():
    """The sea of another sample, with its settings."""
    document = json.loads(Path("samples/harrow-sands.json").read_text())
    _, state = ask("POST", "/api/scenes", {"document": document})
    page = Page(server().address, os.environ.get("QUALITY", "soft"), f"/?scene={state['id']}")
    page.settled(400)
    page.js(LOOK % 1)
    choose(page, "water", "sea")
    page.settled(300)
    page.shot(FULL / "water.png")
    page.close()


def still():
    """The demo's three shots, as `./sow still` takes them."""
    with tempfile.TemporaryDirectory() as folder:
        asked = ["--all", "--size", "1280x720", "--quality", "good"]
        sow_command(["still", "samples/brackenhope.json", folder, *asked])
        for shot, name in (
            ("over-the-pool", "still"),
            ("standing-stones", "still-stones"),
            ("under-the-tors", "still-tors"),
        ):
            cv2.imwrite(str(FULL / f"{name}.png"), cv2.imread(f"{folder}/{shot}.png"))


def main(wanted):
    alone = {
        "places": places,
        "seasons": seasons,
        "history": history,
        "still": still,
        "water": water,
    }
    if len(wanted) == 1 and wanted[0] in alone:
        return alone[wanted[0]]()
    document = json.loads(Path("samples/brackenhope.json").read_text())
    _, state = ask("POST", "/api/scenes", {"document": document})
    page = Page(server().address, os.environ.get("QUALITY", "soft"), f"/?scene={state['id']}")
    try:
        page.settled(400)
        for name in scenes(page):
            if not wanted or name in wanted:
                page.settled(300)
                page.shot(FULL / f"{name}.png")
        for line in page.errors():
            print(line)
    finally:
        page.close()
    if not wanted:
        for make in alone.values():
            make()


if __name__ == "__main__":
    main(sys.argv[1:])
