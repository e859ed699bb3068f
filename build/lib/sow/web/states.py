"""A scene's state as the page gets it."""

import contextlib
from dataclasses import asdict

from ..core.errors import SceneError
from ..core.scene import read_scene
from .shapes.scenes import Aside, SceneState


def as_state(state, aside: list[Aside] | None = None) -> SceneState:
    """The state as the page knows it; a document that an older Sow kept is given what has come
    since.
    """
    # one that cannot be read is shown as it is; its first edit tells what is wrong
    with contextlib.suppress(SceneError):
        state.document = read_scene(state.document).model_dump(mode="json")
    return SceneState.model_validate({**asdict(state), "aside": aside or []})
