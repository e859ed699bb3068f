"""The proof sheet: which settings of an entry may be varied, and the twelve values to try."""

import math
from dataclasses import dataclass
from typing import Any

from ..errors import SceneError
from ..scene import Scene

SHEET = 12
NOT_VARIED = ("share", "number")
Place = tuple[str | int, ...]  # where a value stands in the document


@dataclass(frozen=True)
class ProofSetting:
    """A numeric setting that may be varied: where it stands, its range on the panel, its unit."""

    path: Place
    label: str
    unit: str
    seed: bool
    low: float
    high: float
    log: bool
    step: float | None


@dataclass(frozen=True)
class Varied:
    """An entry whose settings may be varied; those that change most stand first."""

    owner: str
    entry: str
    sowing: bool
    settings: list[ProofSetting]


def varied(scene: Scene, entry_id: str | None) -> Varied | None:
    """The settings of an entry of the land or a sowing that may be varied; of the last landform
    when no entry is named. None when there is nothing to vary.
    """
    places: list[tuple[Place, Any]] = [
        *((("land", i), e) for i, e in enumerate(scene.land)),
        *((("beyond", "land", i), e) for i, e in enumerate(scene.beyond.land)),
        *((("planting", i), e) for i, e in enumerate(scene.planting)),
    ]
    found: tuple[Place, Any] | None = next(((p, e) for p, e in places if e.id == entry_id), None)
    if found is None and scene.land:
        found = ("land", len(scene.land) - 1), scene.land[-1]
    if found is None:
        return None
    path, entry = found
    sowing = path[0] == "planting"
    settings = _settings(entry, path)
    if sowing:
        settings += _settings(entry.stance, (*path, "stance"), "Stance: ")
    return Varied(entry.name, entry.id, sowing, sorted(settings, key=_least_change))


def _settings(entry: Any, path: Place, word: str = "") -> list[ProofSetting]:
    out = []
    for name, field in type(entry).model_fields.items():
        facts = (field.json_schema_extra or {}).get("sow", {})
        slider = facts.get("slider")
        number = field.annotation in (int, float)
        if not number or name in NOT_VARIED or facts.get("fold") or not slider:
            continue
        if not all(isinstance(end, int | float) for end in slider):
            continue
        only = facts.get("only", {})
        if any(getattr(entry, other) not in values for other, values in only.items()):
            continue
        step = facts.get("step", 1 if field.annotation is int else None)
        log = facts.get("scale") == "log"
        out.append(
            ProofSetting(
                (*path, name),
                f"{word}{field.title}",
                facts.get("unit", ""),
                name == "seed",
                slider[0],
                slider[1],
                log,
                step,
            )
        )
    return out


def _least_change(setting: ProofSetting) -> int:
    """Sizes and heights change a picture most, then densities, then shares; seeds of a broad form
    hardly at all, so they come after the sizes.
    """
    name = str(setting.path[-1])
    if name in ("feature_m", "height_m", "density"):
        return 0
    if setting.seed:
        return 1
    return 2 if setting.unit in ("m", "°") else 3


def values(
    setting: ProofSetting, now: float, middle: float | None, spread: float, turn: int
) -> list[float]:
    """Twelve values to try: seeds from the one there is now (another dozen for each `turn`), or a
    ladder about `middle` over `spread` (0..1) of the panel's range, within it.

    Raises SceneError when the spread is no share.
    """
    if not 0 < spread <= 1:
        raise SceneError("The spread is a share of the range.", "spread", "Give 0 to 1.")
    if setting.seed:
        others = [
            (now + 37 * turn + i * 83 + ((i * i * 7 + turn * 11) % 53)) % 997 + 1
            for i in range(1, SHEET)
        ]
        return [now, *others]
    to = (lambda v: math.log(max(v, 1e-6))) if setting.log else (lambda v: v)
    back = math.exp if setting.log else (lambda v: v)
    low, high = to(setting.low), to(setting.high)
    centre = min(high, max(low, to(now if middle is None else middle)))
    half = (high - low) / 2 * spread
    start = max(low, min(centre - half, high - 2 * half))
    end = min(high, start + 2 * half)
    tried = [back(start + (end - start) * i / (SHEET - 1)) for i in range(SHEET)]
    rounded = [
        round(round(v / setting.step) * setting.step, 4) if setting.step else float(f"{v:.3g}")
        for v in tried
    ]
    return list(dict.fromkeys(rounded))
