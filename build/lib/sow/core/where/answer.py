"""The answers of a list of conditions, joined from the first to the last."""

from typing import Any

import numpy as np

from ..errors import SceneError
from .base import STAGES, Absent, conditions, measures_of, stage_of
from .site import Site


def joined(total: np.ndarray | None, answer: np.ndarray, how: str) -> np.ndarray:
    """The list so far with one more answer: the product of both, either (1 - (1 - a)(1 - b)), or
    the list less the answer.
    """
    if how == "except":
        answer = 1 - answer
    if total is None:
        return answer
    return 1 - (1 - total) * (1 - answer) if how == "any" else total * answer


def settled(item: Any, before: list, site: Site, path: str = "") -> Any:
    """A band with its target of cover found: the value below (or above) which the given share of
    the ground lies that `before` leaves.
    """
    if getattr(item, "take", "band") == "band":
        return item
    place = f"{path}.{len(before)}"
    whole = site.whole() if site.whole else site

    def find() -> float:
        held = holding(before, whole, path)
        measure = measured(item, whole, place)
        if measure is None:
            raise SceneError(
                f"The condition '{item.kind}' can't take a share of the ground: it is registered "
                "without the measure that it goes by.",
                f"{place}.take",
                "Give it a band, or register it with measures=.",
            )
        field = measure.astype(np.float64).ravel()
        order = np.argsort(field, kind="stable")
        weight = np.ones(field.size) if held is None else held.ravel()[order].astype(np.float64)
        at = np.cumsum(weight)
        if at[-1] <= 0:
            return float(field[order[0]])
        part = item.share / 100 if item.take == "lowest" else 1 - item.share / 100
        return float(field[order[min(np.searchsorted(at, part * at[-1]), field.size - 1)]])

    value = find()
    return item.model_copy(
        update={"take": "band", "low": -1e9, "high": value}
        if item.take == "lowest"
        else {"take": "band", "low": value, "high": 1e9}
    )


def measured(item: Any, site: Site, path: str) -> np.ndarray | None:
    """The measure that a condition goes by, in its unit, float32 (ny, nx); None where it has
    none.
    """
    measure = measures_of.get(item.kind)
    return None if measure is None else measure(item, site, path)


def answered(where: list, index: int, site: Site, path: str) -> np.ndarray:
    """One condition's own answer, 0..1, with its invert and strength.

    Raises Absent when what it refers to is gone.
    """
    item, place = where[index], f"{path}.{index}"
    if STAGES.index(stage_of[item.kind]) > STAGES.index(site.stage):
        raise SceneError(
            f"The condition '{item.kind}' needs the {stage_of[item.kind]}, which is made later.",
            place,
            "Use it in the ground or the planting.",
        )
    found = site.carried(place)
    if found is not None:
        return found
    answer = conditions.functions[item.kind](settled(item, where[:index], site, path), site, place)
    if item.invert:
        answer = 1 - answer
    return answer if item.strength == 100 else 1 - np.float32(item.strength / 100) * (1 - answer)


def holding(where: list, site: Site, path: str = "") -> np.ndarray | None:
    """All conditions together, from the first to the last, float32 0..1, or None when there are
    none. Absent ones ask nothing.
    """
    total = None
    for index, item in enumerate(where):
        if not item.on:
            continue
        try:
            answer = answered(where, index, site, path)
        except Absent:
            continue
        total = joined(total, answer, item.join)
    return None if total is None else total.astype(np.float32, copy=False)
