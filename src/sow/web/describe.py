"""Prints the OpenAPI description, from which the page's types are made."""

import json

from . import app  # noqa: F401  (registers the routes)
from .api import openapi

print(json.dumps(openapi(), indent=1))
