"""Print every variable of the environment that Sow reads, with its meaning and value."""

import argparse

from ..core.settings import INNER, PREFIX, Settings, settings

SECRET = ("password", "key", "password_hash", "database")


def run(args: argparse.Namespace) -> None:
    """A line for each, those that start sets for the server last."""
    now = settings()
    for name, field in sorted(Settings.model_fields.items(), key=lambda f: f[0] in INNER):
        value = getattr(now, name)
        told = "(set)" if value and name in SECRET else value
        owner = " Set by start." if name in INNER else ""
        shown = "" if told in ("", None) else f" = {told}"
        print(f"{PREFIX}{name.upper()}{shown}\n    {field.description}{owner}")
