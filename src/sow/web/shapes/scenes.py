"""A scene with its state, and the plot of a new one."""

from pydantic import Field

from ...core.plot import Plot
from ...core.scene import Scene
from .shape import ApiModel


class NewScene(ApiModel):
    document: Scene


class PlotOrder(ApiModel):
    """A plot whose cost is asked for."""

    width_m: float
    depth_m: float
    posts: int


class PlotCost(ApiModel):
    """What a plot costs in full, before anything stands on it."""

    spacing_m: float
    triangles: int
    megabytes: float
    seconds: float
    walk_minutes: float


class NewPlotOrder(ApiModel):
    """A new scene's name and plot, and whether it begins with rolling ground."""

    name: str
    plot: Plot
    rolling: bool


class Aside(ApiModel):
    """A stroke that was kept but could not be applied; it is tried again at each opening."""

    session: str
    entry: str
    tool: str
    points: int
    why: str


class SceneState(ApiModel):
    id: int
    name: str
    revision: int
    document: Scene
    label: str
    kept: str
    undo: str | None
    redo: str | None
    steps: int
    aside: list[Aside] = Field(default_factory=list, description="Told when a scene is opened.")


class SceneLine(ApiModel):
    id: int
    name: str
    kept: str
    sample: str | None


class Edit(ApiModel):
    base: int = Field(description="The revision that the edit was made on; it must be the head.")
    label: str = Field(min_length=1, max_length=120)
    document: dict
    accept_plants: bool = Field(
        False, description="Go on although the scene will hold more than five million plants."
    )


class WindowOrder(ApiModel):
    """The square of a large land that is wanted in full."""

    east_m: float
    north_m: float
    side_m: float = Field(gt=0)
    spacing_m: float = Field(gt=0)


class BroughtIn(ApiModel):
    """A scene that came in from a file, and in words what was taken of it and what was not."""

    scene: SceneState
    taken: list[str]
    left: list[str]
