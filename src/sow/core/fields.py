"""Settings of an entry: a pydantic field that also carries what a panel needs to show it."""

from pydantic import Field


def setting(
    default,
    label,
    unit="",
    *,
    lo=None,
    hi=None,
    slider=None,
    scale="linear",
    step=None,
    help="",
    **extra,
):
    """A numeric or plain setting.

    `lo`/`hi` are hard limits; `slider` is the range that a panel offers (default: the limits);
    `scale` is "linear" or "log"; `unit` is shown beside every number; `only` names values of
    another field for which it counts; `fold` gathers it with others under a heading that opens.
    """
    shown = {"unit": unit, "scale": scale, "slider": list(slider) if slider else [lo, hi], **extra}
    if step is not None:
        shown["step"] = step
    limits = {k: v for k, v in (("ge", lo), ("le", hi)) if v is not None}
    return Field(
        default, title=label, description=help or None, json_schema_extra={"sow": shown}, **limits
    )


def file_setting(label, help=""):
    """A raster kept beside the scene, named by its relative path or its content hash."""
    return Field(
        "", title=label, description=help or None, json_schema_extra={"sow": {"file": "raster"}}
    )
