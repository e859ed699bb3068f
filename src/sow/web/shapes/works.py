"""Works of the core upon a scene, what can be offered, and the plan of a proof sheet."""

from pydantic import Field

from ...core.scene import Scene
from .shape import ApiModel, DocumentOrder


class WorkOrder(DocumentOrder):
    """What a work is asked with, on a document that may not be kept yet."""

    values: dict = Field(default_factory=dict)


class WorkAnswer(ApiModel):
    """The document that a work made; an empty label means that nothing was changed."""

    document: Scene
    label: str
    chosen: str | None
    told: str
    several: list[str]


class OfferLine(ApiModel):
    """One line of a menu: its heading, and whether a picture of it is drawn."""

    key: str
    label: str
    note: str
    group: str
    pictured: bool


class ProofPlanOrder(DocumentOrder):
    """The chosen entry, and the setting to vary: about `middle`, over `spread` of its slider."""

    entry: str | None = None
    setting: int | None = None
    middle: float | None = None
    spread: float = 1
    turn: int = 0


class ProofChoice(ApiModel):
    """A setting that may be varied: where it stands, its label and unit."""

    path: list[str | int]
    label: str
    unit: str
    seed: bool


class ProofPlan(ApiModel):
    """The settings of an entry that may be varied, and twelve values of the chosen one."""

    owner: str
    entry: str
    sowing: bool
    choices: list[ProofChoice]
    setting: int
    now: float
    values: list[float]
