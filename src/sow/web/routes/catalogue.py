"""Routes: what the server is and what it knows."""

import os
from functools import cache
from typing import get_args

from ...core.air.base import airs
from ...core.air.ready import lights
from ...core.cabinet.family import Family, families
from ...core.cabinet.looks import LOOKS
from ...core.document.extra import troubles
from ...core.formats.exporter import exporters
from ...core.land.base import landforms, processes
from ...core.motion.base import moves
from ...core.picture.grade.base import steps
from ...core.picture.grade.ready import READY
from ...core.scene import Scene
from ...core.scene import schema as scene_schema
from ...core.survey.sheets import sheets
from ...core.water.clear import READY as READY_WATERS
from ...core.water.standing import waters
from ...core.where.base import conditions, stage_of
from ...core.works.shores import READY as READY_SHORES
from ...store import scenes
from ..api import openapi, route
from ..live import listening
from ..shapes.catalogue import (
    Catalogue,
    ConditionKind,
    EntryFacts,
    ExporterFacts,
    FamilyFacts,
    HandleFields,
    LeftOut,
    NamedItem,
    SheetKind,
)


@route("GET", "/api/health")
def health():
    """Whether page, store and core are there, which server this is (the number of its process), and
    how many live channels are open.
    """
    scenes.database.execute_sql("SELECT 1")
    return {"ok": True, "pid": os.getppid(), "channels": listening()}


@route("GET", "/api/openapi.json")
def openapi_description():
    """This description."""
    return openapi()


@route("GET", "/api/catalogue", answer=Catalogue)
def catalogue():
    """What the server knows: the schema of a scene, from which panels are made, and every register
    that a menu or a panel shows.
    """
    left_out = [LeftOut(file=x.file, message=x.message) for x in troubles]
    return registers().model_copy(update={"left_out": left_out})


@cache
def registers() -> Catalogue:
    """What does not change while the server runs."""
    return Catalogue(
        scene=scene_schema(),
        conditions=[
            ConditionKind(kind=k, label=conditions.facts[k].label, stage=stage_of[k])
            for k in conditions.models
        ],
        sheets=[SheetKind(**_facts_of(x)) for x in sheets.values()],
        entries=_entry_facts(),
        families=[_family_facts(f) for f in families.values()],
        lights=[NamedItem(name=x.name, label=x.label) for x in lights.values()],
        grades=[NamedItem(name=name, label=label) for name, (label, _) in READY.items()],
        shores=[NamedItem(name=name, label=label) for name, (label, _) in READY_SHORES.items()],
        waters=[NamedItem(name=name, label=x.label) for name, x in READY_WATERS.items()],
        looks=list(LOOKS),
        seasons=list(get_args(Scene.model_fields["season"].annotation)),
        exporters=[
            ExporterFacts(
                name=x.name,
                title=x.title,
                help=x.help,
                options=x.options.model_json_schema(),
                pictured=x.preview is not None,
                ticks=list(x.ticks),
            )
            for x in exporters.values()
        ],
        left_out=[],
    )


def _family_facts(family: Family) -> FamilyFacts:
    return FamilyFacts(**{k: getattr(family, k) for k in FamilyFacts.model_fields})


def _facts_of(record) -> dict:
    """The plain fields of a record."""
    return {k: v for k, v in vars(record).items() if isinstance(v, str | bool)}


def _entry_facts() -> dict[str, EntryFacts]:
    """Subtitle and handles of each kind of entry."""
    return {
        kind: EntryFacts(
            subtitle=facts.subtitle,
            handles=HandleFields(**vars(facts.handles)) if facts.handles else None,
        )
        for register in (landforms, processes, waters, airs, steps, moves)
        for kind, facts in register.facts.items()
    }
