"""Everything that a scene can be made of, as the core offers it."""

from pydantic import Field

from .shape import Shape


class Named(Shape):
    name: str
    label: str


class ConditionKind(Shape):
    kind: str
    label: str
    stage: str


class SheetKind(Shape):
    """A measure of the survey; `log` draws it on a scale of ratios."""

    kind: str
    label: str
    unit: str
    help: str
    log: bool
    stage: str


class HandleFields(Shape):
    """The fields that grips on the map change."""

    across: str
    along: str
    round: bool


class EntryFacts(Shape):
    """What is shown of a kind of entry: a template under its name, its grips on the map."""

    subtitle: str
    handles: HandleFields | None


class FamilyFacts(Shape):
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


class ExporterFacts(Shape):
    """An exporter, with the JSON Schema of its options."""

    name: str
    title: str
    help: str
    options: dict
    pictured: bool = Field(False, description="Whether a scene has a picture of what it writes.")
    ticks: list[str] = Field([], description="Its options of which a scene has a picture.")


class LeftOut(Shape):
    """A file of SOW_EXTRA that could not be had, and why."""

    file: str
    message: str


class Catalogue(Shape):
    scene: dict
    conditions: list[ConditionKind]
    sheets: list[SheetKind]
    entries: dict[str, EntryFacts]
    families: list[FamilyFacts]
    lights: list[Named]
    grades: list[Named]
    waters: list[Named]
    shores: list[Named]
    looks: list[str]
    seasons: list[str]
    exporters: list[ExporterFacts]
    left_out: list[LeftOut]
