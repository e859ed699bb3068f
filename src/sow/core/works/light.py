"""Ready lights."""

from ..air.ready import in_full, lights
from ..errors import SceneError
from .base import Asked, Done, Hand, work


class ReadyLight(Asked):
    name: str


@work("ready light", ReadyLight)
def ready_light(hand: Hand, asked: ReadyLight) -> Done:
    """Sun, sky and haze of a ready light; the wind and the plot's place stay."""
    if asked.name not in lights:
        raise SceneError(
            f"There is no light '{asked.name}'.", "name", f"There are: {', '.join(lights)}."
        )
    light = lights[asked.name]
    hand.document["light"].update(in_full(light))
    return Done(hand.document, f"Light: {light.label.lower()}")
