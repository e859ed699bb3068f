"""Ready lights."""

from ..air.light_of import panorama_of
from ..air.panorama import laid
from ..air.ready import in_full, lights
from ..errors import SceneError
from .base import Asked, Done, Hand, work


class PanoramaSun(Asked):
    pass


@work("sun of the panorama", PanoramaSun)
def panorama_sun(hand: Hand, asked: PanoramaSun) -> Done:
    """The sun moved to the brightest spot of the panorama that is the sky."""
    light = hand.scene.light
    picture = panorama_of(light, lambda name: hand.build().marks.raster(name, "light.panorama"))
    if picture is None:
        raise SceneError("The sky is no panorama.", "light.panorama", "Choose one first.")
    found = laid(light, picture, 256)
    hand.document["light"] |= {
        "sun_by": "bearing",
        "sun_bearing": round(found.bearing_deg, 1),
        "sun_height": round(found.height_deg, 1),
    }
    bright = found.sunlight.max() > 0
    told = "" if bright else "No spot is bright enough to be a sun; its brightest place was taken."
    return Done(hand.document, "Sun: the panorama's brightest spot", told=told)


class PutReadyLight(Asked):
    name: str


@work("ready light", PutReadyLight)
def ready_light(hand: Hand, asked: PutReadyLight) -> Done:
    """Sun, sky and haze of a ready light; the wind and the plot's place stay."""
    if asked.name not in lights:
        raise SceneError(
            f"There is no light '{asked.name}'.", "name", f"There are: {', '.join(lights)}."
        )
    light = lights[asked.name]
    hand.document["light"].update(in_full(light))
    return Done(hand.document, f"Light: {light.label.lower()}")
