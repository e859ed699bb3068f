"""Water: one of the ready kinds of clearness and colour."""

from ..errors import SceneError
from ..water.clear import READY
from .base import Asked, Done, Hand, work


class ReadyWater(Asked):
    """A water by its id, and the name of a ready kind."""

    water: str
    name: str


@work("ready water", ReadyWater)
def ready_water(hand: Hand, asked: ReadyWater) -> Done:
    """A water takes the clearness and colours of a ready kind; its name stays."""
    if asked.name not in READY:
        names = ", ".join(READY)
        raise SceneError(f"There is no ready water '{asked.name}'.", "name", f"Ready: {names}.")
    entries, index = hand.find(asked.water)
    if entries is not hand.document["water"]:
        raise SceneError("This entry is no water.", "water", "Choose a water.")
    entries[index].update(READY[asked.name].values())
    return Done(hand.document, READY[asked.name].label, asked.water, "")
