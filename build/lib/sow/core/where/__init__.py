"""Conditions that answer 0..1 at each place. Land, ground and planting all ask the same ones.

One file per condition. A condition says from which stage on it may be used ("land", "water"), so no
circle arises.
"""

import sys
from typing import TYPE_CHECKING, Annotated, Any

from pydantic import Field

from ..document.entry import load_folder
from ..document.extra import load_extra
from .answer import answered, holding, joined, measured, settled
from .base import STAGES, Absent, Band, Condition, by_sheet, condition, conditions, ramp, stage_of
from .site import Site

load_folder(sys.modules[__name__])
load_extra(conditions=True)
if TYPE_CHECKING:
    Conditions = list[Any]
else:
    Conditions = Annotated[list[conditions.union()], Field(max_length=16)]

__all__ = [
    "STAGES",
    "Absent",
    "Band",
    "Condition",
    "Conditions",
    "Site",
    "answered",
    "by_sheet",
    "condition",
    "conditions",
    "joined",
    "holding",
    "measured",
    "ramp",
    "settled",
    "stage_of",
]
