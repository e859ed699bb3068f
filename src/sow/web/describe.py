"""Prints the OpenAPI description, from which the page's types are made."""

import json

from . import routes  # noqa: F401  (registers them)
from .api import openapi

print(json.dumps(openapi(), indent=1))
