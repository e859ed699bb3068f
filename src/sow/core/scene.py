"""The scene document: plain values, one model per kind of entry."""

import json
from typing import TYPE_CHECKING, Annotated, Any, Literal, Union

from pydantic import Field, TypeAdapter, ValidationError, field_validator, model_validator

from . import land as _land
from .air import things as _things
from .air.base import airs
from .air.light import Light
from .cabinet import SHIPPED, known
from .cabinet.looks import LOOKS
from .cabinet.outside import watch
from .document.entry import Entry, Strict, load_folder
from .document.extra import load_data, load_extra
from .document.fields import percent, place_m, setting, shown
from .document.references import circle
from .document.text import Name
from .errors import SceneError
from .land.base import landforms, processes
from .land.beyond import FarEdge as _Beyond
from .marks.mask import Mask
from .marks.shapes import Area, Line
from .motion import moves as _moves
from .motion.base import moves
from .picture.grade import steps as _steps
from .picture.grade.base import steps
from .planting.sowing import Sowing
from .plot import Plot
from .shared import VARIANTS
from .shots.shot import Shot
from .surface.material import MOST, Material
from .water.standing import Water

load_folder(_land)
load_folder(_things)
load_folder(_steps)
load_folder(_moves)
load_extra(conditions=False)
load_data()
watch(SHIPPED)
_LAND = {**landforms.models, **processes.models}
if TYPE_CHECKING:
    LandEntry = Any
    AirEntry = Any
    GradeEntry = Any
    MoveEntry = Any
else:
    AirEntry = airs.union()
    GradeEntry = steps.union()
    MoveEntry = moves.union()
    LandEntry = Annotated[
        Union[tuple(_LAND.values())],  # noqa: UP007  (a union of a computed tuple)
        Field(discriminator="kind"),
    ]


LISTS = (
    "land",
    "water",
    "ground",
    "planting",
    "pieces",
    "air",
    "shots",
    "grade",
    "moves",
    "marks",
)


class Beyond(_Beyond):
    land: list[LandEntry] = Field(default_factory=list, max_length=16)
    ground: list[Material] = Field(default_factory=list, max_length=MOST)


def side(label: str, help_: str) -> Any:
    """One of the three sizes of a piece, in % of its own."""
    return setting(
        100,
        label,
        "%",
        lo=1,
        hi=100_000,
        slider=(10, 2000),
        scale="log",
        help=help_,
        fold="Three sizes",
    )


class Piece(Entry):
    """One thing placed by hand; it stands on the ground always."""

    group: str = Field("", max_length=40, title="Group")
    kind: str = Field(title="Kind", json_schema_extra={"sow": {"drawer": "kind"}})
    east_m: float = place_m("East", 0, slider=(0, "width"))
    north_m: float = place_m("North", 0, slider=(0, "depth"))
    turn: float = setting(0, "Turn", "°", lo=0, hi=360)
    size: float = percent("Size", 100, lo=1, hi=5000, slider=(10, 400), scale="log")
    wide: float = side("Wide", "Across, beside its own size: a block of 1 m at 250 is 2.5 m wide.")
    deep: float = side("Deep", "From front to back, beside its own size.")
    tall: float = side("Tall", "Upright, beside its own size.")
    bend: float = setting(
        0,
        "Bend",
        "°",
        lo=-350,
        hi=350,
        slider=(-180, 180),
        help="Along an arc, to the left of its length: a wall round a court.",
        fold="Three sizes",
    )
    sink_cm: float = setting(0, "Sink", "cm", lo=-10000, hi=10000, slider=(0, 200))
    lean: float = setting(0, "Lean", "°", lo=0, hi=90)
    bearing: float = setting(0, "Leans to", "°", lo=0, hi=360, help="Clockwise from north.")
    variant: int = setting(0, "Variant", "", lo=0, hi=VARIANTS - 1, slider=(0, 3), step=1)
    stands: Literal["ground", "water", "piece"] = Field(
        "ground",
        title="Stands on",
        json_schema_extra={
            "sow": {
                "labels": {"ground": "the ground", "water": "the water", "piece": "what lies below"}
            }
        },
    )
    wake_ms: float = setting(
        0,
        "Speed through water",
        "m/s",
        lo=0,
        hi=30,
        slider=(0, 12),
        only={"stands": ["water"]},
        help="It leaves a wake; 0 lies still.",
    )
    look: Literal["season", *LOOKS] = Field(  # type: ignore[valid-type]
        "season", title="Look", json_schema_extra={"sow": {"labels": {"season": "of the season"}}}
    )
    mirrored: bool = Field(False, title="Mirrored")
    tint: str = Field(
        "#ffffff",
        pattern=r"^#[0-9a-fA-F]{6}$",
        title="Tint",
        json_schema_extra=shown(colour=True),
    )
    bright: float = percent("Lightness", 100, lo=5, hi=1000, slider=(40, 250), scale="log")
    blend_cm: float = setting(
        0,
        "Blends into the land",
        "cm",
        lo=0,
        hi=1000,
        slider=(0, 200),
        help="How high above the ground it takes the ground's colour; for banks and boulders "
        "whose rim must not show.",
    )

    @field_validator("kind")
    @classmethod
    def _in_cabinet(cls, name):
        return known("kind", name)


class Budget(Strict):
    """What a scene may cost; nothing is refused for it, a meter tells."""

    plants: int = setting(
        1_000_000,
        "Plants and stones",
        "",
        lo=0,
        hi=20_000_000,
        slider=(1000, 20_000_000),
        scale="log",
        step=1,
    )
    megabytes: int = setting(
        500, "Memory for them", "MB", lo=1, hi=32_000, slider=(10, 4000), scale="log", step=1
    )


RENAMED = {"bend": "curvature", "gathers": "contributing-area"}  # conditions of older documents


def _with_new_names(value):
    """A document whose where-lists name conditions as they are called now."""
    if isinstance(value, list):
        return [_with_new_names(v) for v in value]
    if not isinstance(value, dict):
        return value
    out = {k: _with_new_names(v) for k, v in value.items()}
    where = out.get("where")
    if isinstance(where, list):
        for condition in where:
            kind = condition.get("kind") if isinstance(condition, dict) else None
            if isinstance(kind, str) and kind in RENAMED:
                condition["kind"] = RENAMED[kind]
    return out


Mark = Annotated[Mask | Line | Area, Field(discriminator="kind")]


class Scene(Strict):
    format: Literal["sow-scene-1"] = "sow-scene-1"
    name: Name = Field("Untitled", min_length=1, max_length=80)
    plot: Plot = Field(default_factory=Plot)
    land: list[LandEntry] = Field(default_factory=list, max_length=64)
    beyond: Beyond = Field(default_factory=Beyond)
    water: list[Water] = Field(default_factory=list, max_length=40)
    ground: list[Material] = Field(default_factory=list, max_length=MOST)
    season: Literal["spring", "summer", "autumn", "winter", "snow"] = Field(
        "summer", title="Season"
    )
    budget: Budget = Field(default_factory=Budget)
    planting: list[Sowing] = Field(default_factory=list, max_length=64)
    pieces: list[Piece] = Field(default_factory=list, max_length=2000)
    light: Light = Field(default_factory=Light)
    air: list[AirEntry] = Field(default_factory=list, max_length=64)
    shots: list[Shot] = Field(default_factory=list, max_length=64)
    grade: list[GradeEntry] = Field(default_factory=list, max_length=64)
    moves: list[MoveEntry] = Field(default_factory=list, max_length=64)
    marks: list[Mark] = Field(default_factory=list, max_length=200)

    @model_validator(mode="before")
    @classmethod
    def _older(cls, document):
        """Documents of the first weeks told with the plot whether the land runs on, and called two
        conditions by other names.
        """
        document = _with_new_names(document)
        plot = document.get("plot") if isinstance(document, dict) else None
        if isinstance(plot, dict) and "runs_on" in plot:
            plot = dict(plot)
            edge = "run on" if plot.pop("runs_on") else "end"
            document = {"beyond": {"edge": edge}, **document, "plot": plot}
        marks = document.get("marks") if isinstance(document, dict) else None
        if isinstance(marks, list):
            kinds = [{"kind": "mask", **m} if isinstance(m, dict) else m for m in marks]
            document = {**document, "marks": kinds}
        return document

    @model_validator(mode="after")
    def _distinct(self):
        seen = set()
        for entry in self.entries():
            if entry.id in seen:
                raise ValueError(f"the id '{entry.id}' is used twice; every entry needs its own")
            seen.add(entry.id)
        found = circle(self)
        if found and found[0] == found[-1]:
            raise ValueError(
                "the conditions run in a circle: "
                f"{' looks at '.join(f'“{n}”' for n in found)}; take one of them out"
            )
        if found:
            raise ValueError(
                f"“{found[0]}” looks at “{found[1]}”, which lies after it; an entry sees "
                f"only those before it, so move “{found[1]}” up or choose another"
            )
        return self

    def entries(self) -> list[Entry]:
        """Every entry of every list."""
        return [
            *self.land,
            *self.beyond.land,
            *self.beyond.ground,
            *self.water,
            *self.ground,
            *self.planting,
            *self.pieces,
            *self.air,
            *self.shots,
            *self.grade,
            *self.moves,
            *self.marks,
        ]


def own_names(scene: Scene) -> set[str]:
    """Kinds that were brought in and that a scene uses, by name ("own-" and its raster)."""
    return {
        k
        for k in [*(p.kind for s in scene.planting for p in s.mix), *(p.kind for p in scene.pieces)]
        if k.startswith("own-")
    }


def checked_steps(values: list[dict]) -> list[Any]:
    """Steps of grading from plain values. Raises SceneError."""
    try:
        return TypeAdapter(list[GradeEntry]).validate_python(values)
    except ValidationError as e:
        first = e.errors()[0]
        place = ".".join(map(str, ("grade", *first["loc"])))
        raise SceneError(f"{first['msg']}.", place, "Give another value.") from None


def read_scene(document: dict | str | bytes) -> Scene:
    """A checked scene from JSON.

    Raises SceneError with the path of the first field that is wrong.
    """
    if not isinstance(document, dict):
        try:
            document = json.loads(document)
        except (json.JSONDecodeError, UnicodeDecodeError, RecursionError) as e:
            raise SceneError(
                f"This is not JSON: {e}.", "", "Give the scene.json that Sow wrote."
            ) from None
    try:
        return Scene.model_validate(document)
    except ValidationError as e:
        raise SceneError(*_plain(e.errors()[0], document)) from None


def _plain(error: Any, document: Any) -> tuple[str, str, str]:
    """The first error in plain words: what, where, what to do. The union's tag is left out of the
    path.
    """
    path, here = [], document
    for part in error["loc"]:
        if isinstance(here, dict) and part not in here and here.get("kind") == part:
            continue
        path.append(str(part))
        try:
            here = here[part]
        except (KeyError, IndexError, TypeError):
            here = None
    context, kind = error.get("ctx", {}), error["type"]
    place = ".".join(path)
    if kind == "union_tag_invalid":
        return (
            f"There is no kind '{context['tag']}' here.",
            f"{place}.kind",
            f"Kinds: {context['expected_tags']}.",
        )
    if kind == "union_tag_not_found":
        return "The entry names no kind.", f"{place}.kind", "Add a field 'kind'."
    if kind == "extra_forbidden":
        return (
            f"'{path[-1]}' is not known here.",
            place,
            "Take it out, or see ./sow schema for the names.",
        )
    if kind == "too_short":
        what = {"mix": ("The mix holds no kind.", "Add a kind to it, or remove the sowing.")}.get(
            path[-1],
            (
                f"'{path[-1]}' holds too few: {context['actual_length']} of at least "
                f"{context['min_length']}.",
                "Add what is missing.",
            ),
        )
        return what[0], place, what[1]
    if kind in ("greater_than_equal", "less_than_equal"):
        limit = context.get("ge", context.get("le"))
        word = "at least" if kind.startswith("greater") else "at most"
        return (
            f"{error['input']} is not possible; it must be {word} {limit:g}.",
            place,
            "Give a value within the limits.",
        )
    text = error["msg"].removeprefix("Value error, ")
    return (
        text[0].upper() + text[1:] + ("" if text.endswith(".") else "."),
        place,
        "See ./sow schema for what is allowed.",
    )


def schema() -> dict:
    """JSON Schema of a scene (2020-12)."""
    return Scene.model_json_schema()
