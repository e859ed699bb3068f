"""Prints the numbers of `core/shared.py` as TypeScript: `python -m sow.web.numbers`."""

import json

from ..core import shared

lines = ["/** Written by `python -m sow.web.numbers` from core/shared.py. */"]
for name, value in vars(shared).items():
    if name.isupper():
        lines.append(f"export const {name} = {json.dumps(value)};")
print("\n".join(lines))
