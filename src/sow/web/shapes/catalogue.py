"""Everything that a scene can be made of, as the core offers it."""

from pydantic import Field

from .shape import ApiModel


class NamedItem(ApiModel):
    name: str
    label: str


class ConditionKind(ApiModel):
    kind: str
    label: str
    stage: str


class SheetKind(ApiModel):
    """A measure of the survey; `log` draws it on a scale of ratios."""

    kind: str
    label: str
    unit: str
    help: str
    log: bool
    stage: str


class HandleFields(ApiModel):
    """The fields that grips on the map change."""

    across: str
    along: str
    round: bool


class EntryFacts(ApiModel):
    """What is shown of a kind of entry: a template under its name, its grips on the map."""

    subtitle: str
    handles: HandleFields | None


class FamilyFacts(ApiModel):
    """A family of kinds, as the cabinet and the view know it."""

    name: str
    label: str
    symbol: str
    leafy: bool
    foot_tone: bool
    loose: bool
    told_apart: bool
    joins: bool
    sown: bool
    patched: bool


class ExporterFacts(ApiModel):
    """An exporter, with the JSON Schema of its options."""

    name: str
    title: str
    help: str
    options: dict
    pictured: bool = Field(False, description="Whether a scene has a picture of what it writes.")
    ticks: list[str] = Field([], description="Its options of which a scene has a picture.")


class LeftOut(ApiModel):
    """A file of SOW_EXTRA that could not be had, and why."""

    file: str
    message: str


class Catalogue(ApiModel):
    scene: dict
    conditions: list[ConditionKind]
    sheets: list[SheetKind]
    entries: dict[str, EntryFacts]
    families: list[FamilyFacts]
    lights: list[NamedItem]
    grades: list[NamedItem]
    waters: list[NamedItem]
    shores: list[NamedItem]
    looks: list[str]
    seasons: list[str]
    exporters: list[ExporterFacts]
    left_out: list[LeftOut]
