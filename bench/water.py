"""Water: the moving surface, the shore's phase, foam; a frame with water beside one without."""

import json
from pathlib import Path

import numpy as np

from bench.told import copied, pair, row
from bench.view import asked

SIDE = 512
TURNS = """const out = [];
for (let k = 0; k < 3; k++) { out.push(await timed(() => {
  sow.view.pose = {...sow.view.pose, bearing: sow.view.pose.bearing + (k % 2 ? -1 : 1) * 0.01};
  sow.view.changed(true); }, settled)); } return out.slice(1);"""
ROUNDS = 3  # of pictures without and with the water, in turn


def water():
    """The surface at the view's size, the time to the shore, foam, each against a copy of as many
    numbers; a full picture of the demo's pool, of a sea and of a burn with its water and without.
    """
    from sow.core.build import Build
    from sow.core.build.waters import moving_in, sea_in
    from sow.core.cache import Cache
    from sow.core.scene import read_scene
    from sow.core.water.field import waves_at
    from sow.core.water.foam import lace
    from sow.core.water.runin import shore_time

    scene = read_scene(json.loads(Path("samples/harrow-sands.json").read_text()))
    build = Build(scene, scene.plot.grid(SIDE), Cache(1 << 30))
    sea, moves = sea_in(build, 0), moving_in(build, 0, 1.0)
    side = np.linspace(0, scene.plot.width_m, SIDE)
    x, y = (v.ravel() for v in np.meshgrid(side, side))
    fine = np.full(len(x), 1.0)
    one = np.zeros((SIDE, SIDE, 7), np.float32)
    other = np.zeros_like(one)
    deep = moves.shore.deep
    foam = moves.at(x, y, fine).foam
    step = build.grid.spacing
    works = {
        "waves on their tiles at a time": lambda: waves_at(sea, 2.0),
        f"the surface at {SIDE} x {SIDE} places": lambda: moves.at(x, y, fine),
        f"time to the shore over {SIDE} x {SIDE}": lambda: shore_time(deep, sea, step),
        "foam as lace": lambda: lace(x, y, np.maximum(foam, 0.3), fine),
    }
    for name, work in works.items():
        ours, copy = pair(work, lambda: copied(one, other), 3)
        yield row(name, ours, "a copy of seven numbers a place", copy, "of it")
    for sample in ("brackenhope", "harrow-sands", "alder-clough"):
        yield from _frames(sample)


def _frames(sample: str):
    """The least of the turns of each sort: what else the machine does only adds to them."""
    from tests.page import Page
    from tests.served import ask, server

    document = json.loads(Path(f"samples/{sample}.json").read_text())
    state = ask("POST", "/api/scenes", {"document": document})[1]
    page = Page(server().address, "soft", f"/?scene={state['id']}")
    page.settled(240)
    page.js(
        "const s = sow.get(); sow.view.pose = sow.view.poseOf(s.doc.shots[0]);"
        "sow.set({pose: sow.view.pose}); sow.view.changed(true)"
    )
    page.settled(240)
    took = {}
    for hidden in (False, True) * ROUNDS:
        ids = [w["id"] for w in document["water"]] if hidden else []
        page.js(
            f"const s = sow.get(); sow.view.setScene(s.doc, s.products, new Set({json.dumps(ids)}))"
        )
        page.settled(240)
        took.setdefault(hidden, []).extend(asked(page, TURNS))
    page.close()
    dry, wet = min(took[True]), min(took[False])
    yield {
        "name": f"a full picture of {sample} with its water",
        "seconds": round(wet, 3),
        "against": f"without it, {dry:.3f} s",
        "ratio": round(wet / dry, 2),
        "unit": "times as long",
    }
