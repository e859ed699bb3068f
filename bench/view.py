"""The view on this machine's renderer, to the last pixel drawn: the demo, a million plants."""

import json
import statistics
import time
from pathlib import Path

from bench.told import counted, wanted

WATCH = """
window.holds = []; let last = performance.now();
setInterval(() => { const now = performance.now(); holds.push(now - last - 10); last = now; }, 10);
"""

UNTIL = """
const done = arguments[arguments.length - 1];
const until = (truth) => new Promise((go) => {
  const ask = () => { if (truth()) go(); else setTimeout(ask, 3); }; ask(); });
const timed = async (work, truth) => { const a = performance.now(); work(); await until(truth);
  return performance.now() - a; };
const settled = () => sow.view.settled;
const run = async () => { %s };
run().then(done, (e) => done(String(e)));
"""

TURN = """const out = [];
for (let k = 0; k < 3; k++) { out.push(await timed(() => {
  sow.view.pose = {...sow.view.pose, bearing: sow.view.pose.bearing + 8}; sow.view.changed();
}, settled)); } return out;"""

LIGHT = """const out = [];
for (let k = 0; k < 3; k++) { out.push(await timed(() => {
  const d = structuredClone(sow.get().doc); d.light.sun_height += 2; sow.set({doc: d});
  sow.view.setLight(d); }, settled)); } return out;"""

WALK = """const out = [];
for (let k = 0; k < 16; k++) { const shown = sow.view.shows;
  out.push(await timed(() => { const p = sow.view.pose;
    sow.view.pose = {...p, bearing: p.bearing + 1.5, north: p.north + 0.4}; sow.view.changed();
  }, () => sow.view.shows > shown)); }
await until(settled); return out.slice(4);"""

DRAG = """const out = [];
for (let k = 0; k < 5; k++) { const before = sow.get().manifest;
  out.push(await timed(() => sow.drag((d) => { d.land[2].height_m += 0.5; }), () =>
    sow.get().manifest !== before && sow.view.products === sow.get().products));
  const shown = sow.view.shows; out[k] += await timed(() => {}, () => sow.view.shows > shown);
} return out;"""

BRUSH = """const out = [], f = sow.get().products.field, n = 40;
for (let k = 0; k < 6; k++) { const h = new Float32Array(n * n), shown = sow.view.shows;
  for (let r = 0; r < n; r++) for (let c = 0; c < n; c++)
    h[r * n + c] = f.values[(200 + r) * f.nx + 200 + c] + 0.1;
  out.push(await timed(() => sow.view.patch(200, 200, n, n, h), () => sow.view.shows > shown)); }
await until(settled); return out.slice(1);"""

TAKEN = """const h = new Float32Array(m * n).fill(9), out = [];
for (let k = 0; k < 7; k++) { const a = performance.now(); sow.view.patch(r, c, m, n, h);
  out.push(performance.now() - a); }
return out;"""

SHOWN = """const h = new Float32Array(m * n).fill(9), out = [];
for (let k = 0; k < 7; k++) { const shown = sow.view.shows;
  out.push(await timed(() => sow.view.patch(r, c, m, n, h), () => sow.view.shows > shown)); }
await until(settled); return out.slice(1);"""

WHOLE = """const out = [];
for (let k = 0; k < 3; k++) out.push(await timed(() => sow.view.layAnew(), settled));
return out;"""

COUNTS = """const i = sow.view.renderer.info;
return [sow.view.plantsDrawn, sow.view.trianglesDrawn, i.memory.textures, i.memory.geometries];"""

# what a turned quick frame gives to the renderer: draw calls, bytes sent
GIVEN = """const out = [], c = card.count;
for (let k = 0; k < 8; k++) { const shown = sow.view.shows, calls = c.calls, sent = c.sent;
  const p = sow.view.pose;
  sow.view.pose = {...p, bearing: p.bearing + 1.5, north: p.north + 0.4}; sow.view.changed();
  await until(() => sow.view.shows > shown); out.push(c.calls - calls, c.sent - sent); }
await until(settled); return out;"""


def asked(page, script: str) -> list[float]:
    """Seconds of each repetition of a script in the page."""
    found = page.driver.execute_async_script(UNTIL % script)
    if not isinstance(found, list):
        raise RuntimeError(found)
    return [v / 1000 for v in found]


def demo_page(quality: str = "soft"):
    """A browser on the demo, at rest."""
    from tests.page import Page
    from tests.served import ask, server

    document = json.loads(Path("samples/brackenhope.json").read_text())
    state = ask("POST", "/api/scenes", {"document": document})[1]
    ask("POST", f"/api/scenes/{state['id']}/builds", {"client": "bench"})
    page = Page(server().address, quality, f"/?scene={state['id']}")
    page.settled(240)  # the products are in the cache from now on
    return page, state


def view():
    """Opening, turning, walking, light, a slider, a brush; sixteen materials beside three."""
    page, state = demo_page()
    page.driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": WATCH})
    began = time.perf_counter()
    page.go(f"/?quality=soft&scene={state['id']}")
    page.until(lambda: page.js("return !!window.sow && sow.view.pictured"), 120)
    yield wanted("opening to the first picture", time.perf_counter() - began, 3)
    page.settled(240)
    yield wanted("opening to rest", time.perf_counter() - began, 15)
    yield wanted("longest hold of the page's thread", max(page.js("return holds")) / 1000, 0.25)
    plants, triangles, textures, geometries = page.js(COUNTS)
    yield counted(
        f"{plants} plants, {triangles} triangles, {textures} textures, {geometries} meshes"
    )
    for name, script, most in (
        ("a frame while turning and walking", WALK, 0.2),
        ("a turn of 8 degrees to rest", TURN, 4),
        ("the light changed, to rest", LIGHT, 4),
        ("a brush's change to its picture", BRUSH, 0.25),
        ("a dragged slider of a landform to its picture", DRAG, 0.5),
    ):
        yield wanted(name, statistics.median(asked(page, script)), most)
    page.close()
    yield from _given(state)
    took = _turned_by_materials(state["document"])
    yield {
        "name": "a turn to rest with 16 materials",
        "seconds": round(took[16], 3),
        "against": "with 3",
        "ratio": round(took[16] / took[3], 2),
        "unit": "times as long",
    }


def _given(state: dict):
    """Counts of what the page gives to the renderer, in a page of its own that counts them."""
    from tests.page import Page
    from tests.served import server

    page = Page(server().address, "soft")
    counter = Path(__file__).with_name("card.js").read_text()
    page.driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": counter})
    page.go(f"/?quality=soft&scene={state['id']}")
    page.settled(240)
    held = page.js("return card.held()")
    given = page.driver.execute_async_script(UNTIL % GIVEN)
    calls = statistics.median(given[::2])
    sent = statistics.median(given[1::2])
    page.close()
    yield counted(f"{held / 1e6:.0f} MB on the card")
    yield counted(f"a frame while turning: {calls:.0f} draw calls, {sent / 1e6:.2f} MB sent")


def _turned_by_materials(document: dict) -> dict[int, float]:
    """Seconds of a turn with 3 and with 16 materials, by turns in two browsers: the machine's pace
    changes.
    """
    from tests.page import Page
    from tests.served import ask, server

    from sow.core.cabinet import grounds

    names = [g.name for g in grounds.values() if g.family == g.name]
    pages = {}
    for count in (3, 16):
        ground = [
            {
                "id": f"m{i}",
                "name": name,
                "ground": name,
                "where": [{"kind": "patches", "size_m": 60, "share": 40, "seed": i}] if i else [],
            }
            for i, name in enumerate(names[:count])
        ]
        plain = {**document, "ground": ground, "planting": [], "pieces": []}
        made = ask("POST", "/api/scenes", {"document": plain})[1]
        pages[count] = Page(server().address, "soft", f"/?scene={made['id']}")
        pages[count].settled(240)
    took: dict[int, list[float]] = {count: [] for count in pages}
    for _ in range(3):
        for count, page in pages.items():
            took[count] += asked(page, TURN)
    for page in pages.values():
        page.close()
    return {count: statistics.median(seconds) for count, seconds in took.items()}
