"""Strokes of brushes as they come: each chunk is kept, then answered with the rectangle of heights
that it changed.
"""

import threading
from typing import Any

import numpy as np

from ..core.build import COMPUTING
from ..core.errors import SceneError
from ..core.hand.stroke import MOST_POINTS
from ..core.scene import Scene, read_scene
from ..core.sculpt.done import filled, with_stroke
from ..core.sculpt.live import LiveMask, LiveStroke, begun
from ..store import rasters, scenes
from ..store import strokes as kept
from .shapes.marks import MaskOrder, StrokeChunk
from .shapes.scenes import Aside
from .working import draw_up

MOST_LIVE = 12

_live: dict[tuple[int, str], LiveStroke | LiveMask] = {}
_guard = threading.Lock()


def _keep(values: np.ndarray, name: str) -> str:
    return rasters.keep(values, name).hash


def _resume(
    scene: int, session: str, document: Scene, entry: str, brush: dict
) -> LiveStroke | LiveMask:
    """The live stroke, made again from its kept chunks when the server was started anew."""
    with _guard:
        live = _live.get((scene, session))
    if live is None:
        with COMPUTING:
            live = begun(draw_up(document), entry, brush)
            for stroke in kept.under_way(scene, session).values():
                live.add(stroke.points)
        with _guard:
            _live[scene, session] = live
            while len(_live) > MOST_LIVE:
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


def filled_mask(document: Scene, order: MaskOrder):
    """A whole mask made anew; gives its kept raster."""
    with COMPUTING:
        values, name = filled(draw_up(document), order.mark, order.how, order.other)
    return rasters.keep(values, name)


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
    with COMPUTING:
        made = with_stroke(draw_up(document), found.entry, stroke, _keep)
    changed = read_scene(made).model_dump(mode="json")
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
