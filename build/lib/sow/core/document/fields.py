"""Settings of an entry: pydantic fields that also carry what a panel needs to show them.

`setting` is the whole of a numeric field; the small helpers below it say only what differs.
"""

from collections.abc import Mapping, Sequence
from typing import Any

from pydantic import Field

from ..errors import SceneError

SCALES = ("linear", "log")
SEED_MOST = 2**31 - 1
Only = Mapping[str, Sequence[str]]


def shown(
    only: Only | None = None, fold: str = "", given: str = "", **facts: Any
) -> dict[str, Any]:
    """What a panel needs besides label and help, for a field's `json_schema_extra`.

    `only` names values of another field for which this one counts; `fold` gathers it with others
    under a heading that opens; `given` names a field without which this one means nothing. Raises
    SceneError when `only` names its values as one text.
    """
    if only is not None:
        for name, values in only.items():
            if isinstance(values, str):
                raise SceneError(
                    f"'only' names the values of '{name}' as a text.", name, "Give a list of them."
                )
        facts["only"] = {name: list(values) for name, values in only.items()}
    if fold:
        facts["fold"] = fold
    if given:
        facts["given"] = given
    return {"sow": facts}


def setting(
    default: float,
    label: str,
    unit: str = "",
    *,
    lo: float | None = None,
    hi: float | None = None,
    slider: tuple[float | str, float | str] | None = None,
    scale: str = "linear",
    step: float | None = None,
    help: str = "",
    only: Only | None = None,
    fold: str = "",
    given: str = "",
) -> Any:
    """A numeric setting.

    `lo`/`hi` are hard limits; `slider` is the range that a panel offers (default: the limits; a
    text is a measure of the plot, such as "width"); `scale` is "linear" or "log"; `unit` is shown
    beside every number; `only`, `fold` and `given` as in `shown`. Raises SceneError on another
    scale.
    """
    if scale not in SCALES:
        raise SceneError(f"There is no scale '{scale}'.", label, f"Scales: {', '.join(SCALES)}.")
    facts: dict[str, Any] = {"unit": unit, "scale": scale}
    facts["slider"] = list(slider) if slider else [lo, hi]
    extra = shown(only, fold, given, **facts)
    if step is not None:
        extra["sow"]["step"] = step
    return Field(
        default, title=label, description=help or None, json_schema_extra=extra, ge=lo, le=hi
    )


def for_shot() -> Any:
    """The shot that an entry is for, by its id; empty for every shot."""
    facts = shown(entry="shots", none="every shot")
    return Field("", max_length=64, title="For", json_schema_extra=facts)


def length_m(label: str, default: float, **more: Any) -> Any:
    """A length in m, not negative, on a log scale; `more` as in `setting`."""
    return setting(default, label, "m", **{"lo": 0.05, "hi": 20000, "scale": "log", **more})


def place_m(label: str, default: float = 0, **more: Any) -> Any:
    """A place or a shift east or north in m."""
    return setting(default, label, "m", **{"lo": -200000, "hi": 200000, **more})


def percent(label: str, default: float, **more: Any) -> Any:
    """A share in per cent, 0 to 100 unless told otherwise."""
    return setting(default, label, "%", **{"lo": 0, "hi": 100, **more})


def bearing(label: str, default: float, **more: Any) -> Any:
    """Degrees clockwise from north, 0 to 360."""
    return setting(default, label, "°", **{"lo": 0, "hi": 360, **more})


def seed(default: int = 1, label: str = "Seed", **more: Any) -> Any:
    """A seed; the panel offers the first thousand."""
    return setting(
        default, label, "", **{"lo": 0, "hi": SEED_MOST, "slider": (0, 999), "step": 1, **more}
    )


def colour(default: str, label: str, **more: Any) -> Any:
    """An sRGB colour, "#rrggbb"; `more` as in `shown`."""
    return Field(
        default,
        pattern=r"^#[0-9a-fA-F]{6}$",
        title=label,
        json_schema_extra=shown(colour=True, **more),
    )


def file_setting(label: str, help: str = "") -> Any:
    """A raster kept beside the scene, named by its relative path or its content hash."""
    return Field("", title=label, description=help or None, json_schema_extra=shown(file="raster"))
