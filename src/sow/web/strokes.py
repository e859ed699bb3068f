"""Strokes of brushes as they come: each chunk is kept, then answered with the rectangle of heights
that it changed.
"""

import threading
from typing import Any

import numpy as np

from ..core.build import COMPUTING, Build
from ..core.build.site import site_on
from ..core.errors import SceneError
from ..core.hand.bake import bake
from ..core.hand.stroke import (
    MOST_POINTS,
    Stroke,
    box,
    carried,
    change,
    first_level,
    grade_places,
    lay_stamps,
    stamps,
)
from ..core.land.base import Below
from ..core.land.hand import ByHand, gathered
from ..core.marks.mask import SWIFT, Mask, combined, paint, painted, stored
from ..core.sample import heights_at
from ..core.scene import Scene, read_scene
from ..core.where import holding
from ..store import rasters, scenes
from ..store import strokes as kept
from .shapes.marks import MaskOrder, StrokeChunk
from .shapes.scenes import Aside
from .working import draw_up

_live: dict[tuple[int, str], "Live | LiveMask"] = {}


_guard = threading.Lock()


ONE = (
    "basin",
    "pull",
    "grade",
)  # worked out from the whole stroke each time; the others stamp by stamp


class Live:
    """One stroke under way, on the view grid: what it gathered, and the heights before it."""

    def __init__(self, document: Scene, entry: str, brush: dict):
        self.build: Build = draw_up(document)
        self.index = next(
            (i for i, e in enumerate(document.land) if e.id == entry and e.kind == "hand"), None
        )
        if self.index is None:
            raise SceneError(
                "There is no landform by hand to work on.",
                "entry",
                "Choose one in the key, or add one.",
            )
        self.entry: ByHand = document.land[self.index]
        self.brush = brush
        self.points: list = []
        self.lock = threading.Lock()
        self.before = self.build.heights
        under = self.build.land_step(self.index)
        below = Below(
            under.heights,
            self.build.grid,
            document.plot,
            self.build.rasters.load,
            picture=lambda m: self.build.marks.picture(m, "picture"),
            ask=lambda where, path: holding(
                where,
                site_on(
                    self.build,
                    under.heights,
                    self.build.grid,
                    "land",
                    maps=under.maps,
                    before=entry,
                ),
                path,
            ),
        )
        self.made = gathered(self.entry, below)
        self.ground = under.heights + self.made
        self.field = np.zeros(self.build.grid.shape, np.float32)
        self.shape = (
            self.build.marks.picture(brush["picture"], "picture") if brush.get("picture") else None
        )
        self.now = self.before.copy()

    def add(self, points: list) -> tuple[tuple[int, int, int, int], np.ndarray] | None:
        """The rectangle that the new points change, and its heights; None when they miss the
        plot.
        """
        grid = self.build.grid
        plot = self.build.scene.plot
        first = len(self.points)
        self.points += points
        stroke = Stroke(**self.brush, points=self.points)
        at = lambda e, n: float(heights_at(self.ground, grid, [e], [n])[0])
        ends = (
            (at(*self.points[0][:2]), at(*self.points[-1][:2]))
            if stroke.tool == "grade"
            else (0.0, 0.0)
        )
        if stroke.tool in ONE:
            places = (
                grade_places(stroke)
                if stroke.tool == "grade" and len(self.points) > 1
                else stamps(stroke)[:1].copy()
            )
            if stroke.tool == "pull":
                places[:, 2] = sum(p[2] for p in self.points)
            old = self.field
            self.field = np.zeros_like(old)
            lay_stamps(stroke, self.field, grid, places, self.shape)
            touched = (self.field != 0) | (old != 0)
            rows = np.nonzero(touched.any(1))[0]
            cols = np.nonzero(touched.any(0))[0]
            found = (
                (int(rows[0]), int(rows[-1]) + 1, int(cols[0]), int(cols[-1]) + 1)
                if len(rows)
                else None
            )
        else:
            places = stamps(stroke, first)
            found = box(grid, places, stroke.size_m)
            if found:
                part = grid.window(found[0], found[2], found[1] - found[0], found[3] - found[2])
                lay_stamps(
                    stroke,
                    self.field[found[0] : found[1], found[2] : found[3]],
                    part,
                    places,
                    self.shape,
                )
        if found is None:
            return None
        r0, r1, c0, c1 = found
        pad = int(stroke.size_m / grid.spacing) + 2 if stroke.tool == "smooth" else 0
        R0 = max(r0 - pad, 0)
        R1 = min(r1 + pad, grid.ny)
        C0 = max(c0 - pad, 0)
        C1 = min(c1 + pad, grid.nx)
        part = grid.window(R0, C0, R1 - R0, C1 - C0)
        here = np.s_[R0:R1, C0:C1]
        delta = change(
            stroke,
            self.field[here],
            self.ground[here],
            part,
            first_level(stroke, at),
            plot,
            ends,
            self.made[here],
        )
        self.now[r0:r1, c0:c1] = (self.before[here] + delta * np.float32(self.entry.times))[
            r0 - R0 : r1 - R0, c0 - C0 : c1 - C0
        ]
        return found, self.now[r0:r1, c0:c1]


class LiveMask:
    """A stroke under way on a mask, on the view grid; what it gives are values 0..1."""

    def __init__(self, document: Scene, entry: str, brush: dict):
        self.build: Build = draw_up(document)
        self.brush = brush
        self.points: list[list[float]] = []
        self.lock = threading.Lock()
        self.before = self.build.marks.mask_on(entry, self.build.grid)
        self.field = np.zeros(self.build.grid.shape, np.float32)
        self.shape = (
            self.build.marks.picture(brush["picture"], "picture") if brush.get("picture") else None
        )
        self.now = self.before.copy()

    def add(self, points: list) -> tuple[tuple[int, int, int, int], np.ndarray] | None:
        """New points of the stroke; gives the rectangle that they changed, and its values."""
        grid, first = self.build.grid, len(self.points)
        self.points += points
        stroke = Stroke(**self.brush, points=self.points)
        places = stamps(stroke, first)
        found = box(grid, places, stroke.size_m)
        if found is None:
            return None
        r0, r1, c0, c1 = found
        here = np.s_[r0:r1, c0:c1]
        part = grid.window(r0, c0, r1 - r0, c1 - c0)
        places[:, 2] *= SWIFT
        lay_stamps(stroke, self.field[here], part, places, self.shape)
        self.now[here] = paint(stroke, self.field[here], self.before[here], part)
        return found, self.now[here]


def _begin(document: Scene, entry: str, brush: dict):
    return (LiveMask if any(m.id == entry and m.kind == "mask" for m in document.marks) else Live)(
        document, entry, brush
    )


def _resume(
    scene: int, session: str, document: Scene, entry: str, brush: dict
) -> "Live | LiveMask":
    """The live stroke, made again from its kept chunks when the server was started anew."""
    with _guard:
        live = _live.get((scene, session))
    if live is None:
        with COMPUTING:
            live = _begin(document, entry, brush)
            for stroke in kept.under_way(scene, session).values():
                live.add(stroke.points)
        with _guard:
            _live[scene, session] = live
            while len(_live) > 12:
                _live.pop(next(iter(_live)))
    return live


def take(scene: int, session: str, chunk: StrokeChunk) -> bytes:
    """Keeps a chunk, then gives r0, c0, rows, columns (uint32) and the heights (float32) that it
    changed.
    """
    state = scenes.state(scene)
    if state.revision != chunk.base:
        raise scenes.Stale(state.revision)
    brush = chunk.brush.model_dump(mode="json")
    live = _resume(scene, session, read_scene(state.document), chunk.entry, brush)
    with live.lock:
        if len(live.points) + len(chunk.points) > MOST_POINTS:
            raise SceneError(
                f"This stroke has more than {MOST_POINTS:,} points.",
                "points",
                "Let go and begin another.",
            )
        own = (chunk.seq, chunk.base, chunk.entry, brush, chunk.points)
        if not kept.keep_chunk(scene, session, *own):
            return np.zeros(4, "<u4").tobytes()  # it came already
        with COMPUTING:
            changed = live.add(chunk.points)
    if changed is None:
        return np.zeros(4, "<u4").tobytes()
    (r0, r1, c0, c1), heights = changed
    return (
        np.array([r0, c0, r1 - r0, c1 - c0], "<u4").tobytes()
        + np.ascontiguousarray(heights, "<f4").tobytes()
    )


def with_stroke(document: Scene, entry: str, stroke: dict) -> dict:
    """The document with one more stroke: on a mask it goes into its raster; on a landform by hand
    what was loose there does.
    """
    at = next((i for i, m in enumerate(document.marks) if m.id == entry), None)
    mask_ = document.marks[at] if at is not None else None
    if isinstance(mask_, Mask):
        out = document.model_dump(mode="json")
        build = draw_up(document)
        own = document.plot.grid(mask_.posts)
        made = Stroke.model_validate(stroke)
        with COMPUTING:
            values = painted(
                made,
                build.marks.mask_on(entry, own),
                own,
                build.marks.picture(made.picture, "picture") if made.picture else None,
            )
        out["marks"][at]["raster"] = rasters.keep(stored(values), f"painted: {mask_.name}").hash
        return out
    index = next(i for i, e in enumerate(document.land) if e.id == entry)
    hand: ByHand = document.land[index]
    out = document.model_dump(mode="json")
    if hand.strokes:
        with COMPUTING:
            baked = bake(draw_up(document), index)
        out["land"][index]["raster"] = rasters.keep(baked, f"by hand: {hand.name}").hash
    out["land"][index]["strokes"] = [Stroke.model_validate(stroke).model_dump(mode="json")]
    out["land"][index]["count"] = hand.count + 1
    return out


def filled(document: Scene, order: MaskOrder):
    """A whole mask made anew: full, empty, by a where-rule, or from itself and another. Gives its
    kept raster.
    """
    build = draw_up(document)
    target = next((m for m in document.marks if m.id == order.mark and m.kind == "mask"), None)
    if target is None:
        raise SceneError("There is no such mask.", "mark", "Choose one of the marks.")
    own = document.plot.grid(target.posts)
    with COMPUTING:
        if order.how == "full" or order.how == "empty":
            values = np.full((2, 2), 1.0 if order.how == "full" else 0.0, np.float32)
        elif order.how == "where":
            held = holding(
                target.where, build.site(), f"marks.{document.marks.index(target)}.where"
            )
            values = (
                np.ones((2, 2), np.float32)
                if held is None
                else np.clip(carried(held, build.grid, own), 0, 1)
            )
        else:
            values = combined(
                build.marks.mask_on(order.mark, own),
                build.marks.mask_answer(order.other, own),
                order.how,
            )
    return rasters.keep(stored(values), f"{order.how}: {target.name}")


def end(scene: int, session: str, label: str = "") -> scenes.StoredScene:
    """The stroke becomes one revision.

    Raises SceneError when it cannot be applied to the scene as it is now; Missing when there is no
    such stroke.
    """
    found = kept.under_way(scene, session).get(session)
    if found is None:
        raise scenes.Missing("such stroke under way")
    state = scenes.state(scene)
    document = read_scene(state.document)
    target = _target(document, found.entry)
    stroke = {
        **found.brush,
        "points": found.points[:MOST_POINTS],
        "seed": state.revision % 2**31,
    }
    changed = read_scene(with_stroke(document, found.entry, stroke)).model_dump(mode="json")
    label = label or f"{target.name}: {found.brush['tool']}"
    done = kept.end(scene, session, changed, label, state.revision)
    with _guard:
        _live.pop((scene, session), None)
    return done


def _target(document: Scene, entry: str) -> Any:
    """The landform by hand, or the mask, that a stroke is for. Raises SceneError."""
    for e in [*document.land, *document.marks]:
        if e.id == entry and e.kind in ("hand", "mask"):
            return e
    raise SceneError(
        "What it was drawn on is gone from the scene, or is no landform by hand any more.",
        "entry",
        "Bring that landform back (undo, or an older version), then open the scene again.",
    )


def recover(scene: int) -> list[Aside]:
    """Strokes cut off by a crash become revisions, one each; those under way in this process stay.

    One that cannot be applied never keeps the scene from opening: it is set aside, tried again each
    time that the scene is opened, and told. Gives those.
    """
    for session, found in kept.under_way(scene).items():
        with _guard:
            if (scene, session) in _live and found.aside is None:
                continue
        tool = found.brush.get("tool", "brush") if isinstance(found.brush, dict) else "brush"
        try:
            end(scene, session, f"Stroke kept after a break ({tool})")
        except scenes.Stale:
            continue  # another tab is at it
        except Exception as e:  # whatever is wrong with it, the scene opens
            kept.set_aside(scene, session, _why(e))
    return [
        Aside(
            session=session,
            entry=found.entry,
            tool=str(found.brush.get("tool", "brush"))
            if isinstance(found.brush, dict)
            else "brush",
            points=len(found.points),
            why=found.aside,
        )
        for session, found in kept.under_way(scene).items()
        if found.aside is not None
    ]


def _why(error: Exception) -> str:
    if isinstance(error, SceneError):
        return f"{error.message} {error.advice}".strip()
    return f"Its points or its brush are not as they should be ({type(error).__name__})."
