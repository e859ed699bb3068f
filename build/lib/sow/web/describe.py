"""Prints what the page's sources are generated from: `python -m sow.web.describe [numbers]`.

Without a word the OpenAPI description, from which the page's types follow; with `numbers` those of
`core/shared.py` as TypeScript.
"""

import json
import sys

from ..core import shared


def numbers() -> str:
    """The shared numbers as a TypeScript module."""
    lines = ["/** Written by `python -m sow.web.describe numbers` from core/shared.py. */"]
    for name, value in vars(shared).items():
        if name.isupper():
            lines.append(f"export const {name} = {json.dumps(value)};")
    return "\n".join(lines)


if __name__ == "__main__":
    if sys.argv[1:] == ["numbers"]:
        print(numbers())
    else:
        from .api import openapi  # noqa: PLC0415  (it takes seconds, which numbers need not)

        print(json.dumps(openapi(), indent=1))
