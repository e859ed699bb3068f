"""The base of what travels as JSON, and the error."""

from dataclasses import MISSING, fields
from typing import Any, get_type_hints

from pydantic import BaseModel, ConfigDict, create_model


class ApiModel(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


def shape_of(record: type, name: str) -> type[ApiModel]:
    """A shape with the fields of one of the core's records (a dataclass), so that they are told
    once; `name` is how the page knows it.
    """
    known = get_type_hints(record)
    given: dict[str, Any] = {
        f.name: (known[f.name], ... if f.default is MISSING else f.default) for f in fields(record)
    }
    return create_model(name, __base__=ApiModel, __doc__=record.__doc__, **given)


class Problem(ApiModel):
    """An error (RFC 9457).

    `path` is the field of the document that is wrong, `advice` what to do.
    """

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    path: str = ""
    advice: str = ""


class DocumentOrder(ApiModel):
    document: dict | None = None
