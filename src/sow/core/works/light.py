"""Ready lights."""

from ..air.ready import lights
from ..errors import SceneError
from .base import Asked, Done, Hand, work


class ReadyLight(Asked):
    name: str


@work("ready light", ReadyLight)
def ready_light(hand: Hand, asked: ReadyLight) -> Done:
    """Sun, sky and haze of a ready light; what it does not name stays."""
    if asked.name not in lights:
        raise SceneError(
            f"There is no light '{asked.name}'.", "name", f"There are: {', '.join(lights)}."
        )
    light = lights[asked.name]
    hand.document["light"].update(light.values)
    return Done(hand.document, f"Light: {light.label.lower()}")
