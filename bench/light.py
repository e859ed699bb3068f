"""The light: the air's tables, the sky's picture at each fineness, clouds, a dragged sun."""

import time

import numpy as np

from bench.told import copied, median, pair, row, wanted
from bench.view import demo_page


def light():
    """Tables of the air, the sky at draft, rest and full size, each kind of cloud; what a dragged
    sun takes in the core and until it is seen.
    """
    from sow.core.air import light_of
    from sow.core.air.atmosphere import tables_of
    from sow.core.air.clouds import seen
    from sow.core.air.gases import Gases
    from sow.core.air.light import Light
    from sow.core.air.sky import clear_sky
    from sow.core.air.sun import direction
    from sow.core.cache import Cache

    ground = np.array([0.12, 0.11, 0.07])
    yield row("tables of a kind of air", median(lambda: tables_of(Gases()), 3))
    tables = tables_of(Gases())
    sun = direction(200, 30)
    for name, rows in (("draft", 128), ("rest", 512), ("full", 2048)):
        sky = clear_sky(tables, sun, rows).reshape(-1, 3)
        other = np.empty_like(sky)
        ours, copy = pair(lambda: clear_sky(tables, sun, rows), lambda: copied(sky, other), 3)
        yield row(f"clear sky at {name}, {2 * rows} across", ours, "one copy of it", copy, "of it")
    clouds = light_of.clouds_of(Light(clouds=45, layer=45, veil=45, bank=45))
    for cloud in clouds:
        name = ("heaps", "a layer", "a veil", "a bank")[cloud.kind]
        draft, rest = pair(lambda: seen(cloud, sun, 64, 0.5), lambda: seen(cloud, sun, 256), 3)
        yield row(f"{name} of cloud at draft", draft, "at rest", rest)
    turn = [0.0]

    def dragged():
        turn[0] += 0.7
        light = Light(sun_bearing=200 + turn[0], clouds=40)
        light_of.daylight(light, ground, 0, 1600, Cache(), light_of.DRAFT_ROWS)

    yield wanted("a dragged sun, the core's part", median(dragged), 0.06)
    yield wanted("a dragged sun until it is seen", _seen(), 0.3)


DRAG = """const done = arguments[arguments.length - 1]; const shows = sow.view.shows;
  const began = performance.now(); let lit = false;
  const before = sow.view.onLight; sow.view.onLight = (l) => { before(l); lit = sow.view.shows; };
  sow.drag((d) => { d.light.sun_bearing = (d.light.sun_bearing + 1.5) % 360; });
  const look = () => lit !== false && sow.view.shows > lit
    ? (sow.view.onLight = before, done((performance.now() - began) / 1000))
    : setTimeout(look, 4); look();"""


def _seen() -> float:
    """Seconds from a change of the sun on the demo's land to the next picture in that light."""
    page, _ = demo_page()
    times = []
    for _ in range(7):
        page.settled()
        time.sleep(0.3)
        times.append(page.driver.execute_async_script(DRAG))
    page.close()
    return float(np.median(times))
