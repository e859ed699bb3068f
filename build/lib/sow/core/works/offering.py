"""What each list of a scene offers to add, and to a list of conditions."""

from collections.abc import Callable

from ..air.base import airs
from ..build import Build
from ..cabinet import grounds, kinds
from ..cabinet.family import families
from ..cabinet.kind import Ground, Kind
from ..document.offers import Context, Offer, Values
from ..errors import SceneError
from ..hashing import name_seed
from ..land.base import landforms, processes
from ..motion.base import moves
from ..picture.grade.base import steps
from ..scene import Scene
from ..water.standing import waters
from ..where.base import STAGES, conditions, first_of, stage_of

LISTS = ("land", "far", "water", "ground", "far ground", "planting", "air", "grade", "moves")
BEYOND = {"far": "land", "far ground": "ground"}  # lists of the far land, by what they hold
GROUPS = (
    "Noise",
    "Broad forms",
    "From elsewhere",
    "By hand",
    "Wear and weather",
    "Along a line",
    "Rework the whole",
)


def context_of(
    scene: Scene, name: str, build: Callable[[], Build] | None = None, index: int | None = None
) -> Context:
    """What first values may go by in a list of a scene; `index` is the entry that asks, if one
    does. Without a build the land counts as level at 0 m.
    """
    lowest, highest = (0.0, 0.0)
    if build is not None:
        heights = build().heights
        lowest, highest = float(heights.min()), float(heights.max())
    far = name in BEYOND
    entries = getattr(scene.beyond if far else scene, BEYOND.get(name, name), [])
    land = scene.beyond.land if far and scene.beyond.land else scene.land
    landform_ids = [e.id for e in land if hasattr(e, "combine")]
    own = entries[index].id if index is not None and index < len(entries) else ""
    before = {
        "ground": _earlier(entries, index)
        if name in ("ground", "far ground")
        else _earlier(scene.ground, 1),
        "planting": _earlier(scene.planting, index if name == "planting" else 1),
        "landform": landform_ids[0] if landform_ids else "",
        "own landform": own if own in landform_ids else "",
    }
    return Context(
        scene.plot.width_m,
        scene.plot.depth_m,
        scene.plot.posts,
        lowest,
        highest,
        seed=name_seed(scene.name, name, len(entries)) % 900 + 1,
        far=far,
        marks=scene.marks,
        stage=BEYOND.get(name, name),
        first_in_list=not entries,
        wet=bool(scene.water),
        before=before,
    )


def _earlier(entries: list, index: int | None) -> str:
    """The entry before the one that asks."""
    if not entries:
        return ""
    return entries[max(0, (index if index is not None else len(entries)) - 1)].id


def offers(name: str) -> list[Offer]:
    """What a list offers, group by group. Raises SceneError when there is no such list."""
    if name not in LISTS:
        raise SceneError(f"There is no list '{name}'.", "list", f"Lists: {', '.join(LISTS)}.")
    if BEYOND.get(name, name) == "ground":
        return [_ground_offer(g) for g in grounds.values() if g.family == g.name]
    if name == "planting":
        return [_sowing_offer(k) for k in kinds.values() if families[k.family].sown]
    own = {"water": waters.offers, "air": airs.offers, "grade": steps.offers, "moves": moves.offers}
    found = own.get(name) or [*landforms.offers, *processes.offers]
    found = [o for o in found if name in o.lists]
    place = {group: i for i, group in enumerate(GROUPS)}
    return sorted(found, key=lambda o: place.get(o.group, len(place)))


def find_offer(
    scene: Scene, name: str, key: str, build: Callable[[], Build] | None = None
) -> tuple[Offer, Context]:
    """An offer by its key, and what its first values go by. Raises SceneError."""
    found = next((o for o in offers(name) if o.key == key), None)
    if found is None:
        raise SceneError(f"Nothing called '{key}' is offered here.", "key", "Choose another.")
    return found, context_of(scene, name, build)


def _ground_offer(ground: Ground) -> Offer:
    def first(c: Context) -> Values:
        stands = {"stands": 20} if ground.grown else {}
        return {"ground": ground.name, **stands, "where": [] if c.first_in_list else [_lies(c)]}

    def _lies(c: Context) -> Values:
        """Where a material of this sort is looked for first."""
        if ground.lies == "steep":
            return {"kind": "slope", "low": 28, "high": 90, "soft": 8}
        if ground.lies == "flat":
            return {"kind": "slope", "low": 0, "high": 22, "soft": 8}
        if ground.lies == "shore" and c.wet:
            high = 2 if ground.name == "cobbles" else 0.6
            return {"kind": "shore", "low": -20, "high": high, "soft": 0.6}
        if ground.lies == "wet":
            return {"kind": "wetness", "low": 8, "high": 40, "soft": 1.5}
        return {"kind": "patches", "size_m": c.nice(c.reach * 0.06), "share": 45, "seed": c.seed}

    return Offer(ground.name, ground.label, first=first, lists=("ground", "far ground"))


def _sowing_offer(kind: Kind) -> Offer:
    family = families[kind.family]
    return Offer(
        kind.name,
        kind.label,
        first=lambda c: family.sowing(kind.name, kind.label, kind.height_m, kind.reach_m, c),
        group=family.label,
        lists=("planting",),
    )


READY_RULES: dict[str, tuple[str, list[Values]]] = {
    "shore-wet": (
        "shore: wet band",
        [{"kind": "shore", "low": -0.3, "high": 0.35, "soft": 0.3, "within_m": 25}],
    ),
    "shore-foam": (
        "shore: foam line",
        [
            {"kind": "shore", "low": -0.06, "high": 0.08, "soft": 0.08, "within_m": 12},
            {"kind": "patches", "size_m": 6, "share": 60, "soft": 30},
        ],
    ),
    "shore-flat": (
        "shore: flat sand",
        [
            {"kind": "shore", "low": -2, "high": 1.2, "soft": 0.8, "within_m": 60},
            {"kind": "slope", "low": 0, "high": 9, "soft": 4},
        ],
    ),
}


def rule_offers(stage: str) -> list[tuple[str, str, str]]:
    """Key, label and note of each rule that a where-list of a stage may take. Raises SceneError."""
    if stage not in STAGES:
        raise SceneError(f"There is no stage '{stage}'.", "stage", f"Stages: {', '.join(STAGES)}.")
    kinds_here = [k for k, s in stage_of.items() if STAGES.index(s) <= STAGES.index(stage)]
    ready = (
        [] if stage == "land" else [(k, label, "ready") for k, (label, _) in READY_RULES.items()]
    )
    return [(k, conditions.facts[k].label, "") for k in kinds_here] + ready


def rules(key: str, context: Context) -> list[Values]:
    """The conditions that a rule's offer makes. Raises SceneError."""
    if key in READY_RULES:
        return [dict(rule) for rule in READY_RULES[key][1]]
    if key not in first_of:
        raise SceneError(f"There is no rule '{key}'.", "key", "Choose another.")
    return [{"kind": key, **first_of[key](context)}]
